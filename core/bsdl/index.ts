// Boundary-scan description files (BSDL): what a device's test port and boundary register are like. Reads and checks
// text; scans nothing.
export { readBsdl, type BsdlReading } from './read.ts';
export type { BoundaryCell, BsdlEntity, BsdlProblem, CellFunction, PortBit } from './model.ts';
