// The Corvane family, the host's half: part data, the configuration stream, and how a part is configured over JTAG.
// docs/silicon.md is the data sheet all of this follows. Its opcodes and status bits are for whoever plays the part.
export { corvane } from './family.ts';
export { INSTRUCTION, IR_CAPTURE, IR_LENGTH, PART_TABLE } from './parts.ts';
export { STATUS } from './status.ts';
