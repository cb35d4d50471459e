import type { Recording } from './recording.ts';
import { amountOf, digitAt, hasUnknown, indexAt, type Trace } from './trace.ts';

/** Least, mean and most of a set of numbers, its standard deviation, and how many there were. */
export interface Spread {
  readonly count: number;
  readonly least: number;
  readonly mean: number;
  readonly most: number;
  readonly deviation: number;
}

/** What a single bit did between two places. Times in seconds; only whole pulses and periods count, none that reaches over a gap. */
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

/** What a word did. The mean is over time, not over values. */
export interface WordMeasures {
  readonly kind: 'word';
  readonly changes: number;
  readonly least: number | null;
  readonly mean: number | null;
  readonly most: number | null;
  /** Seconds in which a bit was unknown. */
  readonly unknown: number;
  /** Value and the seconds it was there, by value; at most `MOST_VALUES` of them. */
  readonly values: readonly (readonly [value: number, seconds: number])[];
}

const MOST_VALUES = 4096;

export function measure(recording: Recording, trace: Trace, from: number, to: number): BitMeasures | WordMeasures {
  const [start, end] = [Math.max(0, Math.min(from, to)), Math.min(recording.length, Math.max(from, to))];
  return trace.width === 1 ? measureBit(recording, trace, start, end) : measureWord(recording, trace, start, end);
}

function measureBit(recording: Recording, trace: Trace, start: number, end: number): BitMeasures {
  const { tickSeconds } = recording;
  const [highs, lows, periods]: [number[], number[], number[]] = [[], [], []];
  let [rises, falls, highTicks, knownTicks] = [0, 0, 0, 0];
  let lastEdge: number | null = null;
  let lastRise: number | null = null;
  for (let i = Math.max(0, indexAt(trace, start)); i < trace.at.length; i++) {
    const at = trace.at[i] as number;
    if (at >= end) break;
    const until = Math.min(end, trace.at[i + 1] ?? end);
    const digit = digitAt(trace, i, 0);
    const shown = until - Math.max(start, at);
    if (digit === '0' || digit === '1') knownTicks += shown;
    if (digit === '1') highTicks += shown;
    // What the first value began with lies before the place where measuring begins.
    if (at < start || i === 0) continue;
    const before = i > 0 ? digitAt(trace, i - 1, 0) : 'x';
    const clean = (since: number | null): since is number => since !== null && !crossesGap(recording, since, at);
    if (digit === '1' && before === '0') {
      rises++;
      if (clean(lastEdge)) lows.push((at - lastEdge) * tickSeconds);
      if (clean(lastRise)) periods.push((at - lastRise) * tickSeconds);
      lastRise = at;
    } else if (digit === '0' && before === '1') {
      falls++;
      if (clean(lastEdge)) highs.push((at - lastEdge) * tickSeconds);
    } else lastRise = null;
    lastEdge = digit === '0' || digit === '1' ? at : null;
  }
  const period = spread(periods);
  return { kind: 'bit', rises, falls, high: spread(highs), low: spread(lows), period, jitter: period && period.count > 1 ? period.most - period.least : null, duty: knownTicks > 0 ? highTicks / knownTicks : null, highs, lows, periods };
}

const crossesGap = ({ gaps }: Recording, from: number, to: number): boolean => gaps.some((gap) => gap.from < to && gap.to > from);

function measureWord(recording: Recording, trace: Trace, start: number, end: number): WordMeasures {
  const seconds = new Map<number, number>();
  let [changes, least, most, sum, known, unknown]: [number, number | null, number | null, number, number, number] = [0, null, null, 0, 0, 0];
  for (let i = Math.max(0, indexAt(trace, start)); i < trace.at.length; i++) {
    const at = trace.at[i] as number;
    if (at >= end) break;
    if (at > start) changes++;
    const span = Math.min(end, trace.at[i + 1] ?? end) - Math.max(start, at);
    const amount = hasUnknown(trace, i) ? null : amountOf(trace, i);
    if (amount === null) {
      unknown += span;
      continue;
    }
    least = least === null ? amount : Math.min(least, amount);
    most = most === null ? amount : Math.max(most, amount);
    sum += amount * span;
    known += span;
    if (seconds.has(amount) || seconds.size < MOST_VALUES) seconds.set(amount, (seconds.get(amount) ?? 0) + span * recording.tickSeconds);
  }
  return { kind: 'word', changes, least, mean: known > 0 ? sum / known : least, most, unknown: unknown * recording.tickSeconds, values: [...seconds].sort(([a], [b]) => a - b) };
}

export function spread(values: readonly number[]): Spread | null {
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
export function histogram(values: readonly number[], bins: number): { readonly from: number; readonly to: number; readonly count: number }[] {
  const range = spread(values);
  if (!range) return [];
  if (range.most - range.least <= Math.abs(range.most) * 1e-9) return [{ from: range.least, to: range.most, count: values.length }];
  const width = (range.most - range.least) / bins;
  const classes = Array.from({ length: bins }, (_, i) => ({ from: range.least + i * width, to: range.least + (i + 1) * width, count: 0 }));
  for (const value of values) (classes[Math.min(bins - 1, Math.floor((value - range.least) / width))] as { count: number }).count++;
  return classes;
}
