// The stand-ins: a simulated cable, chain, fabric, flash and board. Answers only what pins would answer.
export { Bench } from './bench.ts';
export { BenchCable } from './cable.ts';
export { readBenchFile } from './bench-file.ts';
export { readKept, writeKept } from './kept-state.ts';
