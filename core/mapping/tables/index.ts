// Tables of four inputs and carry chains: covering gates with them, and making them fewer.
export { cover, rewritten } from './cover.ts';
export type { KnownBits } from './window.ts';
export { resynthesise } from './resynthesis.ts';
export {
  arrivalsOf,
  type Cell,
  chainInputs,
  LEVEL,
  NODE,
  SHORT_WAY,
  type TableChain,
  TableNet,
} from './net.ts';
