// The stand-ins: a simulated cable, chain, fabric, flash and board. Answers only what pins would answer.
export { Bench } from './bench.ts';
export { BenchCable, benchHands } from './cable.ts';
export {
  FEED_BYTES,
  MARROW,
  MARROW_INSTRUCTION,
  MARROW_STATE,
  marrowBsdl,
  sealed,
} from './marrow/index.ts';
export { Pins } from './pins.ts';
export { benchTarget } from './target.ts';
export { readBenchFile } from './bench-file.ts';
export { readKept, writeKept } from './kept-state.ts';
