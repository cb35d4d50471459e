// Boundary-scan description files (BSDL): what a device's test port and boundary register are like. Reads and checks
// text; scans nothing.
export { readBsdl } from './read.ts';
export type { BsdlEntity } from './model.ts';
