// Netlists made executable: two-state for hardware, any number of clocks, and four-state for simulation. Knows nothing
// of parts, pins or time; whoever steps the clocks keeps it.
export { type Backend, Simulator } from './simulator.ts';
export { FourStateSimulator } from './four-state.ts';
export { known, type Logic } from './logic.ts';
