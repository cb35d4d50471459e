// From the word-level netlist to four-input tables, carry chains and block RAMs: what a design takes and how fast it
// can run. Knows parts only by the delays it is given.
export { ALL_ONES, classOf, COLUMNS } from './gates/index.ts';
export type { RewrittenStates } from './encodings.ts';
export { map } from './map.ts';
export type { MemoryUse } from './memories.ts';
export { PieceMemory } from './pieces.ts';
export { mostSaved, type Saving } from './savings.ts';
export { countResources, type InstanceUse, type LineUse, type Resources } from './resources.ts';
export {
  type ClockTiming,
  type PortTiming,
  type RuleUse,
  time,
  type TimingPath,
  type TimingReport,
} from './timing/index.ts';
