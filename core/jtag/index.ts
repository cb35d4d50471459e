// JTAG as IEEE 1149.1 defines it: TAP states, a scan queue, chain discovery. Reaches hardware only through `Cable`;
// does not know what any device does with its private instructions.
export type { Cable, CableOp, CableState } from './cable.ts';
export { type TapState, nextState } from './tap.ts';
export { runInPieces } from './run-in-pieces.ts';
export { ScanQueue, type ScanCounts } from './queue.ts';
export { discoverChain, type FoundDevice } from './discover.ts';
export type { ChainMemory, KnownDevice, PlaceAnswer } from './known.ts';
export { ChainLink } from './link.ts';
export { describeIdcode, describeManufacturer, idcodeFields } from './idcode.ts';
export { type BypassTest, testBypass } from './integrity.ts';
export { climbChain, RUNG_QUESTIONS, type Rung, type RungName } from './ladder.ts';
