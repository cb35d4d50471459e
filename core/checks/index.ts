// What a design's netlist tells that its text does not: crossings between clocks, clocks made by logic, signals nobody reads or that
// optimisation removed. Gives messages; knows nothing of parts and pins.
export { checkNetlist } from './check.ts';
export { explain, type Explanation } from './explain.ts';
