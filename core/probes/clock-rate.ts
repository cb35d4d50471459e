// The rate of a clock inside the fabric, told from nothing but a counter of it that can be read through TCK and wraps.
import { numberAt } from '../lists.ts';
import { TICKS } from './shift-count.ts';

/**
 * How the counter is reached: it is asked for, and what it then stood at can be read once the clock has made a few
 * edges. All that is queued goes out in one go, so that nothing but what is queued lies between two reads.
 */
interface TickReader {
  /**
   * Asks for the counter, waits so many TCK cycles, and reads; delivered by a later flush. Null where the clock had
   * not answered by then.
   */
  readonly read: (pause: number) => Promise<number | null>;
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

/** The counter runs through so many values. docs/silicon.md, section 6 */
const SPAN = 2 ** TICKS.bits - 1;
/** TCK cycles in which a clock answers that is not far slower than TCK. */
const SHORT_PAUSE = 16;
/** Edges in which a clock answers, with some to spare. */
const ANSWER_EDGES = 8;
/** The slowest clock that is waited for when nothing is known of it, in hertz. */
const SLOW_HZ = 32_000;
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
 * the same, and each step has to agree with the one before. A clock that does not answer in any of this is looked at
 * over the whole time that there is.
 */
export async function measureRate(reader: TickReader, tckHz: number, effort: RateEffort): Promise<ClockRate> {
  const start = reader.cycles();
  for (const pause of [SHORT_PAUSE, answerTime(SLOW_HZ, tckHz)]) {
    const short = shortReads(reader, pause);
    await reader.flush();
    const counts = await Promise.all(short.reads);
    if (!counts.every((count) => count !== null)) continue;
    const coarse = coarseRate(counts, short.one);
    if (!coarse) return { known: false };
    // Short reads take next to no time; those with long pauses take some of what there is.
    const spent = pause > SHORT_PAUSE ? reader.cycles() - start : 0;
    const left = { ...effort, seconds: effort.seconds - spent / tckHz };
    const long = stretchFor(coarse.perTck, tckHz, left);
    if (long <= short.one) return { known: true, hertz: coarse.perTck * tckHz };
    // Now it is known how long an answer may take.
    const enough = coarse.perTck > 0 ? answerTime(coarse.perTck * tckHz, tckHz) : pause;
    const far = longReads(reader, Math.max(pause, enough), long - short.one);
    await reader.flush();
    const { apart, before, after } = await far;
    // It answered just in time before: it is given more.
    if (before === null || after === null) continue;
    return fineRate(coarse, { apart, before, after }, tckHz);
  }
  return verySlowRate(reader, tckHz, Math.floor(effort.seconds * tckHz) - (reader.cycles() - start));
}

/**
 * The same of a clock whose rate is known to be about `expectedHz`, in one go: how long the last stretch has to be need
 * not be found out first. What it reads is checked as strictly; a clock that is far slower is measured after all.
 */
export async function checkRate(
  reader: TickReader,
  tckHz: number,
  expectedHz: number,
  effort: RateEffort,
): Promise<ClockRate> {
  const pause = answerTime(expectedHz, tckHz);
  const short = shortReads(reader, pause);
  const long = stretchFor(expectedHz / tckHz, tckHz, effort);
  const far = long > short.one ? longReads(reader, pause, long - short.one) : null;
  await reader.flush();
  const counts = await Promise.all(short.reads);
  // Far slower than it is known to be: how fast it is has to be found out.
  if (!counts.every((count) => count !== null)) return measureRate(reader, tckHz, effort);
  const coarse = coarseRate(counts, short.one);
  if (!coarse) return { known: false };
  if (!far) return { known: true, hertz: coarse.perTck * tckHz };
  const { apart, before, after } = await far;
  // It has answered before.
  if (before === null || after === null) return { known: false };
  return fineRate(coarse, { apart, before, after }, tckHz);
}

/** TCK cycles in which a clock of such a rate answers. */
const answerTime = (hertz: number, tckHz: number): number =>
  Math.max(SHORT_PAUSE, hertz > 0 ? Math.ceil((ANSWER_EDGES / hertz) * tckHz) : 0);

/** Edges of the clock in one TCK, told coarsely; `one` is how many TCK a read takes. */
interface CoarseRate {
  readonly perTck: number;
  readonly one: number;
}

interface ShortReads {
  readonly reads: readonly Promise<number | null>[];
  readonly one: number;
}

interface LongReads {
  readonly apart: number;
  readonly before: number | null;
  readonly after: number | null;
}

/** Five reads, by turns one TCK less and one more apart. */
function shortReads(reader: TickReader, pause: number): ShortReads {
  const start = reader.cycles();
  const reads = [reader.read(pause)];
  const one = reader.cycles() - start;
  for (const more of [0, 1, 0, 1]) {
    if (more > 0) reader.clock(more);
    reads.push(reader.read(pause));
  }
  return { reads, one };
}

function coarseRate(counts: readonly number[], one: number): CoarseRate | null {
  const [short = 0, longer = 0, shortAgain = 0, longerAgain = 0] = counts
    .slice(1)
    .map((count, i) => wrapped(count - numberAt(counts, i)));
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

async function longReads(reader: TickReader, pause: number, rest: number): Promise<LongReads> {
  const from = reader.cycles();
  const before = reader.read(pause);
  reader.clock(rest);
  const apart = reader.cycles() - from;
  const after = reader.read(pause);
  return { apart, before: await before, after: await after };
}

/** Two readings of the counter, and how many TCK lay between. */
interface Counted {
  readonly apart: number;
  readonly before: number;
  readonly after: number;
}

function fineRate({ perTck, one }: CoarseRate, { apart, before, after }: Counted, tckHz: number): ClockRate {
  const expected = perTck * apart;
  const counted = unwrapped(wrapped(after - before), expected);
  if (counted < -BLUR || Math.abs(counted - expected) > BLUR + (BLUR / one) * apart + expected * WANDER)
    return { known: false };
  return { known: true, hertz: (Math.max(0, counted) / apart) * tckHz };
}

/** Of a clock that is too slow for the others, so that nothing wraps: 0 where it does not answer at all. */
async function verySlowRate(reader: TickReader, tckHz: number, most: number): Promise<ClockRate> {
  const pause = Math.max(SHORT_PAUSE, Math.floor(most / 2));
  const far = longReads(reader, pause, 0);
  await reader.flush();
  const { apart, before, after } = await far;
  if (before === null || after === null) return { known: true, hertz: 0 };
  return { known: true, hertz: (wrapped(after - before) / apart) * tckHz };
}

/** How far two counts are from each other, whichever way round. */
const apartBy = (a: number, b: number): number => Math.min(wrapped(a - b), wrapped(b - a));
