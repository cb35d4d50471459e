// The device's half of the Corvane family: what a part makes of the bits it is sent, written from docs/silicon.md
// alone. Shares tables of opcodes, lengths and pads with the host's half, and no code.
export { ConfigStream } from './config-stream.ts';
export { Corvane } from './device.ts';
export { type Ears, Fabric } from './fabric.ts';
export { designIn } from './frames.ts';
export type { Followed } from './edge-log.ts';
