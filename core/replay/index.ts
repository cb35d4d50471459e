// Replay: from what a recorder stored to everything that follows from it, and what to store so that it does. Takes a
// netlist, a region of it and a record; knows nothing of boards, recorders and files.
export { replayDesign } from './design.ts';
export { type Region, regionOf, type Wishes } from './region.ts';
export { placeWithin, type Proposal, proposalsFor, proposalWithin } from './proposals.ts';
export { readsAtTrigger, replayPlan } from './plan.ts';
export { prepareReplay, type Replay, replay } from './replay.ts';
export { isReadBehindTheEnd } from './readings.ts';
export type { Disagreement } from './agreement.ts';
export { type Cause, type Explanation, whyIs } from './why.ts';
export { type HardwareOnly, sideBySide } from './side-by-side.ts';
export { tableOf } from './table.ts';
export { type Testbench, type TestbenchFill, testbenchOf } from './testbench.ts';
export { type Meaning, meaningsOf } from './meaning.ts';
export { meaningText, READ_BEHIND_THE_END, reasonText, trustText, unknownText } from './sayings.ts';
