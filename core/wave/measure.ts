import { item } from '../lists.ts';
import { knownTrace } from './known.ts';
import { type Recording, ticksBetween } from './recording.ts';
import { digitAt, indexAt, numberOf, realOf, type Trace } from './trace.ts';

/** Least, mean and most of a set of numbers, its standard deviation, and how many there were. */
interface Spread {
  readonly count: number;
  readonly least: number;
  readonly mean: number;
  readonly most: number;
  readonly deviation: number;
}

/**
 * What a single bit did between two places. Times in seconds; only whole pulses and periods count, none that reaches
 * over time in which the signal was not known.
 */
export interface BitMeasures {
  readonly kind: 'bit';
  readonly rises: number;
  readonly falls: number;
  readonly high: Spread | null;
  readonly low: Spread | null;
  /** From one rise to the next. */
  readonly period: Spread | null;
  /** Most less least period. */
  readonly jitter: number | null;
  /** Share of the known time in which it was 1. */
  readonly duty: number | null;
  readonly highs: readonly number[];
  readonly lows: readonly number[];
  readonly periods: readonly number[];
}

/** A value of a word, exactly: a number with or without sign, or of a real signal. */
type Amount = bigint | number;

/** What a word did. The mean is over time, not over values. */
export interface WordMeasures {
  readonly kind: 'word';
  readonly changes: number;
  readonly least: Amount | null;
  /** Decimal; exact, or rounded in its last place. */
  readonly mean: string | null;
  readonly most: Amount | null;
  /** Seconds in which a bit was unknown, gaps of unknown length not counted. */
  readonly unknown: number;
  /** Value and the seconds it was there, by value; at most `MOST_VALUES` of them. */
  readonly values: readonly (readonly [value: Amount, seconds: number])[];
}

const MOST_VALUES = 4096;

/**
 * Measures what is known of a signal between two places, in real time: gaps count as long as they were, however they
 * are shown.
 */
export function measure(recording: Recording, trace: Trace, from: number, to: number): BitMeasures | WordMeasures {
  const [start, end] = [Math.max(0, Math.min(from, to)), Math.min(recording.length, Math.max(from, to))];
  const known = knownTrace(recording, trace);
  return trace.width === 1
    ? measureBit(recording, known, start, end)
    : { ...measureWord(recording, known, start, end), changes: changesIn(trace, start, end) };
}

function measureBit(recording: Recording, trace: Trace, start: number, end: number): BitMeasures {
  const { tickSeconds } = recording;
  const [highs, lows, periods]: [number[], number[], number[]] = [[], [], []];
  let [rises, falls, highTicks, knownTicks] = [0, 0, 0, 0];
  let lastEdge: number | null = null;
  let lastRise: number | null = null;
  const since = (tick: number, at: number) => (ticksBetween(recording, tick, at) ?? 0) * tickSeconds;
  for (let i = Math.max(0, indexAt(trace, start)); i < trace.at.length; i++) {
    const at = item(trace.at, i);
    if (at >= end) break;
    const until = Math.min(end, trace.at[i + 1] ?? end);
    const digit = digitAt(trace, i, 0);
    const isKnown = digit === '0' || digit === '1';
    if (isKnown) {
      const span = ticksBetween(recording, Math.max(start, at), until) ?? 0;
      knownTicks += span;
      if (digit === '1') highTicks += span;
    }
    // What the first value began with lies before the place where measuring begins.
    if (at < start || i === 0) continue;
    const before = digitAt(trace, i - 1, 0);
    if (digit === '1' && before === '0') {
      rises++;
      if (lastEdge !== null) lows.push(since(lastEdge, at));
      if (lastRise !== null) periods.push(since(lastRise, at));
      lastRise = lastEdge = at;
    } else if (digit === '0' && before === '1') {
      falls++;
      if (lastEdge !== null) highs.push(since(lastEdge, at));
      lastEdge = at;
    } else lastRise = lastEdge = null;
  }
  const period = spread(periods);
  return {
    kind: 'bit',
    rises,
    falls,
    high: spread(highs),
    low: spread(lows),
    period,
    jitter: period && period.count > 1 ? period.most - period.least : null,
    duty: knownTicks > 0 ? highTicks / knownTicks : null,
    highs,
    lows,
    periods,
  };
}

/** A change over a gap was seen too, only not when it came. */
const changesIn = (trace: Trace, start: number, end: number): number =>
  Math.max(0, indexBefore(trace, end) - indexAt(trace, start));

/** Index of the last value that begins before a tick. */
function indexBefore(trace: Trace, tick: number): number {
  const index = indexAt(trace, tick);
  return index >= 0 && trace.at[index] === tick ? index - 1 : index;
}

function measureWord(recording: Recording, trace: Trace, start: number, end: number): Omit<WordMeasures, 'changes'> {
  const seconds = new Map<Amount, number>();
  const mean = trace.real ? new RealMean() : new ExactMean();
  let [least, most, unknown]: [Amount | null, Amount | null, number] = [null, null, 0];
  for (let i = Math.max(0, indexAt(trace, start)); i < trace.at.length; i++) {
    const at = item(trace.at, i);
    if (at >= end) break;
    const amount = exactAmount(trace, i);
    const span = ticksBetween(recording, Math.max(start, at), Math.min(end, trace.at[i + 1] ?? end)) ?? 0;
    if (amount === null) {
      unknown += span;
      continue;
    }
    if (least === null || amount < least) least = amount;
    if (most === null || amount > most) most = amount;
    mean.add(amount, span);
    if (seconds.has(amount) || seconds.size < MOST_VALUES)
      seconds.set(amount, (seconds.get(amount) ?? 0) + span * recording.tickSeconds);
  }
  return {
    kind: 'word',
    least,
    mean: mean.text() ?? (least === null ? null : String(least)),
    most,
    unknown: unknown * recording.tickSeconds,
    values: [...seconds].sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0)),
  };
}

function exactAmount(trace: Trace, index: number): Amount | null {
  if (trace.real) return realOf(trace, index);
  const value = numberOf(trace, index);
  return value === null || !trace.signed ? value : BigInt.asIntN(trace.width, value);
}

/** Places after the point a mean is given with. */
const MEAN_PLACES = 3;

/** Mean over time of whole numbers, without any rounding before its last place. */
class ExactMean {
  #sum = 0n;
  #ticks = 0n;

  add(amount: Amount, ticks: number): void {
    const whole = BigInt(Math.round(ticks));
    this.#sum += BigInt(amount) * whole;
    this.#ticks += whole;
  }

  text(): string | null {
    if (this.#ticks === 0n) return null;
    const scaled = (this.#sum < 0n ? -this.#sum : this.#sum) * 10n ** BigInt(MEAN_PLACES);
    const rounded = (2n * scaled + this.#ticks) / (2n * this.#ticks);
    const digits = String(rounded).padStart(MEAN_PLACES + 1, '0');
    const fraction = digits.slice(-MEAN_PLACES).replace(/0+$/, '');
    return (
      `${this.#sum < 0n && rounded > 0n ? '-' : ''}${digits.slice(0, -MEAN_PLACES)}` +
      `${fraction === '' ? '' : `.${fraction}`}`
    );
  }
}

/** The same of real numbers, as exact as they are. */
class RealMean {
  #sum = 0;
  #ticks = 0;

  add(amount: Amount, ticks: number): void {
    this.#sum += Number(amount) * ticks;
    this.#ticks += ticks;
  }

  text(): string | null {
    return this.#ticks > 0 ? String(+(this.#sum / this.#ticks).toPrecision(12)) : null;
  }
}

function spread(values: readonly number[]): Spread | null {
  if (values.length === 0) return null;
  let [least, most, sum] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY, 0];
  for (const value of values) {
    least = Math.min(least, value);
    most = Math.max(most, value);
    sum += value;
  }
  const mean = sum / values.length;
  const squares = values.reduce((total, value) => total + (value - mean) ** 2, 0);
  return { count: values.length, least, mean, most, deviation: Math.sqrt(squares / values.length) };
}

/** `bins` equal classes from the least value to the most; one class when all are equal. */
export function histogram(
  values: readonly number[],
  bins: number,
): { readonly from: number; readonly to: number; readonly count: number }[] {
  const range = spread(values);
  if (!range) return [];
  if (range.most - range.least <= Math.abs(range.most) * 1e-9)
    return [{ from: range.least, to: range.most, count: values.length }];
  const width = (range.most - range.least) / bins;
  const classes = Array.from({ length: bins }, (_, i) => ({
    from: range.least + i * width,
    to: range.least + (i + 1) * width,
    count: 0,
  }));
  for (const value of values)
    (classes[Math.min(bins - 1, Math.floor((value - range.least) / width))] as { count: number }).count++;
  return classes;
}
