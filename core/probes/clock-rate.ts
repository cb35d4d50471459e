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
  const start = reader.cycles();
  const reads = [reader.read()];
  const one = reader.cycles() - start;
  for (const more of [0, 1, 0, 1]) {
    if (more > 0) reader.clock(more);
    reads.push(reader.read());
  }
  await reader.flush();
  const counts = await Promise.all(reads);
  const [short = 0, longer = 0, shortAgain = 0, longerAgain = 0] = counts
    .slice(1)
    .map((count, i) => wrapped(count - item(counts, i)));
  const inOne = wrapped(longer - short);
  // A little less than nothing is a slow clock that was read a little early.
  const coarse = inOne > SPAN - SPAN / 8 ? 0 : inOne;
  const blur = 2 * BLUR + coarse * one * WANDER;
  if (apartBy(shortAgain, short) > blur || apartBy(longerAgain, longer) > blur) return { known: false };
  const perTck = Math.max(0, unwrapped(short, coarse * one)) / one;
  if (Math.abs(perTck - coarse) > blur) return { known: false };
  const long = Math.floor(
    Math.min(perTck > 0 ? effort.edges / perTck : Number.POSITIVE_INFINITY, effort.seconds * tckHz),
  );
  if (long <= one) return { known: true, hertz: perTck * tckHz };
  const before = reader.read();
  const from = reader.cycles();
  reader.clock(long - one);
  const after = reader.read();
  const apart = reader.cycles() - from;
  await reader.flush();
  const expected = perTck * apart;
  const counted = unwrapped(wrapped((await after) - (await before)), expected);
  if (counted < -BLUR || Math.abs(counted - expected) > BLUR + (BLUR / one) * apart + expected * WANDER)
    return { known: false };
  return { known: true, hertz: (Math.max(0, counted) / apart) * tckHz };
}

/** How far two counts are from each other, whichever way round. */
const apartBy = (a: number, b: number): number => Math.min(wrapped(a - b), wrapped(b - a));
