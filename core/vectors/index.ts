// Test vectors without hardware: a table of inputs and expected outputs run through a four-state simulation of the
// sources, or on anything that can be held between rows. Knows nothing of parts, pins or boards.
export { type HardwareOptions, type HardwareRow, type HardwareRun, type RowTarget, runOnHardware } from './hardware.ts';
export { aloneAs } from './instance.ts';
export { differencesOf } from './differences.ts';
export { chooseClock } from './clock.ts';
export type { VectorOptions } from './options.ts';
export { runVectors, type VectorRun } from './run.ts';
export { parseVectors, type PortSize, type Vectors } from './table.ts';
export { traceVcd } from './trace.ts';
