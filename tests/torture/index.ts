// Ends processes, cuts and garbles the connection and takes the supply away in the middle of long work, again and
// again, and counts what was answered as done and is not there afterwards.
export { type Fallen, type Round, Torture } from './torture.ts';
export { DISRUPTIONS } from './disruptions.ts';
export { Rig, until, wait } from './rig.ts';
export { Wire } from './wire.ts';
export { OPERATIONS } from './operations.ts';
