// The firmware of a microcontroller, built for this computer and run as a process: its wire is a pseudo-terminal or its
// standard input and output, its pins are whoever answers for them. docs/wire.md, section 6
export { compiledFirmware, startFirmware } from './process.ts';
