// A proposal as a plan that a build inserts.
import type { ProbePlan } from '../probes/index.ts';
import type { Proposal } from './proposals.ts';

/** Bits that are read once without being asked for: each takes a register and somewhat more than a LUT. */
const READ_AT_ONCE = 512;

/** Whether registers are to be read at the trigger where nothing else is said: when that makes more known. */
export const readsAtTrigger = ({ readableBits, unknown, unknownIfRead }: Proposal): boolean =>
  readableBits > 0 && readableBits <= READ_AT_ONCE && unknownIfRead.length < unknown.length;

/** A recorder that stores what a proposal asks for; `reads`: and reads registers once, at its trigger. */
export const replayPlan = (
  clock: string,
  { stored, readable }: Proposal,
  { depth, reads }: { readonly depth: number; readonly reads: boolean },
): ProbePlan => ({
  recorders: [
    {
      ...{ name: 'replay', clock, depth, signals: stored.map(({ name }) => name) },
      ...(reads && readable.length > 0 ? { atTrigger: readable.map(({ name }) => name) } : {}),
    },
  ],
  panels: [],
});
