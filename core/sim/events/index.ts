// Runs the elaborated design with time and four-state values, testbenches and all (IEEE 1364-2005, clauses 9, 11 and
// 17). Knows nothing of netlists and parts; it reads what its host gives it and prints to it, and touches no file.
export type { Report } from './runtime.ts';
export { Stepped } from './stepped.ts';
export { simulate, type Simulated, simulateWatched, untilText } from './simulate.ts';
