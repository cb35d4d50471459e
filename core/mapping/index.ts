// From the word-level netlist to four-input tables, carry chains and block RAMs: what a design takes and how fast it
// can run. Knows parts only by the delays it is given.
export { delaysOf, type SpeedGrade } from './delays.ts';
export { map, type Mapped } from './map.ts';
export { BLOCK_RAM_BITS, type MemoryUse } from './memories.ts';
export { PieceMemory } from './pieces.ts';
export { countResources, type InstanceUse, type Resources, type Usage } from './resources.ts';
export { type ClockTiming, type Crossing, time, type TimingPath, type TimingReport } from './timing.ts';
export type { Step } from './arrivals.ts';
