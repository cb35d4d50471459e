// Test vectors without hardware: a table of inputs and expected outputs run through a four-state simulation of the
// sources. Knows nothing of parts, pins or boards.
export { runVectors, type VectorOptions, type VectorRun } from './run.ts';
export { traceVcd } from './trace.ts';
