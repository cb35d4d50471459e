// Netlists made executable: what the hardware does, two-state, any number of clocks. Knows nothing of parts, pins or
// time; whoever steps the clocks keeps it.
export { type Backend, MOST_TRAINS, Simulator } from './simulator.ts';
export type { WrittenRun } from './written-run.ts';
