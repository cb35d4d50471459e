// What a design's netlist tells that its text does not: crossings between clocks, clocks made by logic, signals nobody
// reads or that optimisation removed, and what drives each. Gives messages; knows nothing of parts and pins.
export { checkNetlist } from './check.ts';
export { type Driver, driversOf, FREE_PREFIX, netNamesOf } from './drivers.ts';

export { type Removal, removalsOf } from './removed.ts';
export { explain } from './explain.ts';
