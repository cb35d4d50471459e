// The device's half of the Corvane family: what a part makes of the bits it is sent, written from docs/silicon.md
// alone. Shares tables of opcodes, lengths and pads with the host's half, and no code.
export { Corvane } from './device.ts';
export type { Fabric } from './fabric.ts';
export type { Followed } from './edge-log.ts';
