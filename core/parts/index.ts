// The parts of a board around its FPGA: lamps, buttons, what talks. Which wires each has, whether they can be where
// they are said to be, and what a board description says of them. Knows nothing of how parts behave.
export { benchText, partsOfBench } from './bench-text.ts';
export { checkParts, type PartIssue } from './check.ts';
export { describedBoard, partsFromNets } from './describe.ts';
export { type BoardParts, boardParts } from './shape.ts';
export { KINDS, type KindId, newRow, partsOf, type PartRow, rowsOf, wiresOf } from './rows.ts';
