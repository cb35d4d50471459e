// Single-bit logic of two-input gates and carry chains, functions of four inputs, and what makes the gates fewer and
// the way through them shorter. Knows nothing of tables.
export {
  type Chain,
  type ChainBit,
  FALSE,
  inputsOf,
  inverted,
  isChain,
  isGate,
  isInverted,
  KIND,
  type Literal,
  Network,
  nodeOf,
  TRUE,
} from './network.ts';
export { balanced } from './balance.ts';
export { build, gatesFor } from './best.ts';
export { unchained } from './unchain.ts';
export { classOf } from './npn.ts';
export { Rebuilt } from './rebuilt.ts';
export { ALL_ONES, COLUMNS, dependsOn, swapped } from './truth.ts';
