// Test vectors without hardware: a table of inputs and expected outputs run through a four-state simulation of the sources. Knows nothing
// of parts, pins or boards.
export { parseVectors, type Vectors, type VectorCell } from './table.ts';
export { runVectors, type VectorFailure, type VectorOptions, type VectorRun } from './run.ts';
export { type Trace, type TracedSignal, traceVcd } from './trace.ts';
