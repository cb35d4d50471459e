// The rate of a clock inside the fabric, told from nothing but a counter of it that can be read through TCK and wraps.

import { item } from '../lists.ts';
/** Bits of the counter that a recorder's sampling clock runs. docs/silicon.md, section 6 */
export const TICK_BITS = 20;

/**
 * How the counter is reached. All that is queued goes out in one go, so that nothing but what is queued lies between
 * two reads.
 */
interface TickReader {
  /** The counter's value, delivered by a later flush. */
  readonly read: () => Promise<number>;
  /** TCK cycles without data. */
  readonly clock: (count: number) => void;
  /** TCK cycles queued so far. */
  readonly cycles: () => number;
  readonly flush: () => Promise<void>;
}

/**
 * What was found of a clock; `known` false where the reads do not agree with any one rate, as when TCK itself is
 * uneven.
 */
export type ClockRate = { readonly known: true; readonly hertz: number } | { readonly known: false };

/** What a clock's rate was measured to be, with what that is good for. */
export interface RateEffort {
  /** Edges to be counted, which makes the result good to about two in so many. */
  readonly edges: number;
  /** No longer than this, in seconds of TCK. */
  readonly seconds: number;
}

const SPAN = 2 ** TICK_BITS;
/** Edges by which two readings of a running counter may be off, each way. */
const BLUR = 3;
/** Share by which an even TCK may wander within one batch. */
const WANDER = 1e-4;

const wrapped = (count: number): number => ((count % SPAN) + SPAN) % SPAN;

/** The count nearest to what is expected that leaves the same remainder. */
const unwrapped = (remainder: number, expected: number): number =>
  remainder + SPAN * Math.round((expected - remainder) / SPAN);

/**
 * Measures by reads that lie apart by turns one TCK less and one more: what the longer ones count more is the clock's
 * edges in one TCK, which never wraps (up to 400 MHz against 1 kHz it is less than half the counter). With it the wraps
 * within a read are known, and with those, the wraps within a long last stretch. Stretches of one length have to count
 * the same, and each step has to agree with the one before.
 */
export async function measureRate(reader: TickReader, tckHz: number, effort: RateEffort): Promise<ClockRate> {
  const short = shortReads(reader);
  await reader.flush();
  const coarse = await coarseRate(short);
  if (!coarse) return { known: false };
  const long = stretchFor(coarse.perTck, tckHz, effort);
  if (long <= short.one) return { known: true, hertz: coarse.perTck * tckHz };
  const far = longReads(reader, long - short.one);
  await reader.flush();
  return fineRate(coarse, await far, tckHz);
}

/**
 * The same of a clock whose rate is known to be about `expectedHz`, in one go: how long the last stretch has to be need
 * not be found out first. What it reads is checked as strictly.
 */
export async function checkRate(
  reader: TickReader,
  tckHz: number,
  expectedHz: number,
  effort: RateEffort,
): Promise<ClockRate> {
  const short = shortReads(reader);
  const long = stretchFor(expectedHz / tckHz, tckHz, effort);
  const far = long > short.one ? longReads(reader, long - short.one) : null;
  await reader.flush();
  const coarse = await coarseRate(short);
  if (!coarse) return { known: false };
  return far ? fineRate(coarse, await far, tckHz) : { known: true, hertz: coarse.perTck * tckHz };
}

/** Edges of the clock in one TCK, told coarsely; `one` is how many TCK a read takes. */
interface CoarseRate {
  readonly perTck: number;
  readonly one: number;
}

interface ShortReads {
  readonly reads: readonly Promise<number>[];
  readonly one: number;
}

interface LongReads {
  readonly apart: number;
  readonly before: number;
  readonly after: number;
}

/** Five reads, by turns one TCK less and one more apart. */
function shortReads(reader: TickReader): ShortReads {
  const start = reader.cycles();
  const reads = [reader.read()];
  const one = reader.cycles() - start;
  for (const more of [0, 1, 0, 1]) {
    if (more > 0) reader.clock(more);
    reads.push(reader.read());
  }
  return { reads, one };
}

async function coarseRate({ reads, one }: ShortReads): Promise<CoarseRate | null> {
  const counts = await Promise.all(reads);
  const [short = 0, longer = 0, shortAgain = 0, longerAgain = 0] = counts
    .slice(1)
    .map((count, i) => wrapped(count - item(counts, i)));
  const inOne = wrapped(longer - short);
  // A little less than nothing is a slow clock that was read a little early.
  const coarse = inOne > SPAN - SPAN / 8 ? 0 : inOne;
  const blur = 2 * BLUR + coarse * one * WANDER;
  if (apartBy(shortAgain, short) > blur || apartBy(longerAgain, longer) > blur) return null;
  const perTck = Math.max(0, unwrapped(short, coarse * one)) / one;
  return Math.abs(perTck - coarse) > blur ? null : { perTck, one };
}

/** TCK cycles in which a clock makes the edges that are wanted, or as many as there is time for. */
const stretchFor = (perTck: number, tckHz: number, { edges, seconds }: RateEffort): number =>
  Math.floor(Math.min(perTck > 0 ? edges / perTck : Number.POSITIVE_INFINITY, seconds * tckHz));

async function longReads(reader: TickReader, pause: number): Promise<LongReads> {
  const before = reader.read();
  const from = reader.cycles();
  reader.clock(pause);
  const after = reader.read();
  const apart = reader.cycles() - from;
  return { apart, before: await before, after: await after };
}

function fineRate({ perTck, one }: CoarseRate, { apart, before, after }: LongReads, tckHz: number): ClockRate {
  const expected = perTck * apart;
  const counted = unwrapped(wrapped(after - before), expected);
  if (counted < -BLUR || Math.abs(counted - expected) > BLUR + (BLUR / one) * apart + expected * WANDER)
    return { known: false };
  return { known: true, hertz: (Math.max(0, counted) / apart) * tckHz };
}

/** How far two counts are from each other, whichever way round. */
const apartBy = (a: number, b: number): number => Math.min(wrapped(a - b), wrapped(b - a));
