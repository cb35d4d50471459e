import { floatAt, item, wordAt } from '../lists.ts';
import type { Trace } from './trace.ts';

/** A stretch of the axis in which nothing is known to have been stored, or that is shown shorter than it was. */
export interface Gap {
  readonly from: number;
  readonly to: number;
  /** Ticks that really passed, which may be more than `to - from` shows; null where that is not known. */
  readonly ticks: number | null;
  /**
   * Absent where a qualifier chose the samples; `segments` between two segments, where nothing is known of any signal;
   * `still` where nothing moved for so long that the ticks between cannot be counted one by one.
   */
  readonly why?: 'segments' | 'still';
}

/** A place of the axis from which on ticks are counted from `real`, exactly. */
export interface Anchor {
  readonly tick: number;
  readonly real: bigint;
}

/** Time of a recording, counted in ticks from 0 to `length`. */
export interface Axis {
  readonly title: string;
  readonly tickSeconds: number;
  readonly length: number;
  /** Where conditions came true, ascending; time is counted from the first, from 0 without one. */
  readonly triggers: readonly number[];
  /** Ascending, apart from each other. */
  readonly gaps: readonly Gap[];
  /** Ticks of the stored samples, where not every tick was one. */
  readonly stored: Float64Array | null;
  /** Whether ticks are samples of a clock, so that one tick is the least that can be seen. */
  readonly sampled: boolean;
  /** Ticks are steps of a run that has no time of its own; `tickSeconds` then says nothing. */
  readonly inSteps?: true;
  /** Ascending by tick; absent where every tick is its own number. */
  readonly anchors?: readonly Anchor[];
}

/** Signals over one axis of time: one capture, several, or a file. */
export interface Recording extends Axis {
  readonly traces: readonly Trace[];
}

export const zeroOf = ({ triggers }: Axis): number => triggers[0] ?? 0;

/** How much longer an axis really is than it shows, summed over its gaps. */
interface Lengthening {
  /** Ticks hidden in all gaps before each one; one more than there are gaps. */
  readonly before: Float64Array;
  /** Gaps of unknown length before each one. */
  readonly unknown: Uint32Array;
}

const lengthenings = new WeakMap<readonly Gap[], Lengthening>();

function lengtheningOf(gaps: readonly Gap[]): Lengthening {
  const known = lengthenings.get(gaps);
  if (known) return known;
  const before = new Float64Array(gaps.length + 1);
  const unknown = new Uint32Array(gaps.length + 1);
  for (const [i, { from, to, ticks }] of gaps.entries()) {
    before[i + 1] = floatAt(before, i) + (ticks === null ? 0 : ticks - (to - from));
    unknown[i + 1] = wordAt(unknown, i) + (ticks === null ? 1 : 0);
  }
  const made = { before, unknown };
  lengthenings.set(gaps, made);
  return made;
}

/** How many gaps begin before a place. */
function gapsBefore(gaps: readonly Gap[], tick: number): number {
  let [low, high] = [0, gaps.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (item(gaps, middle).from < tick) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Ticks hidden in gaps before a place; within a gap in proportion. */
function hiddenBefore(gaps: readonly Gap[], tick: number): number {
  const count = gapsBefore(gaps, tick);
  const { before } = lengtheningOf(gaps);
  const last = gaps[count - 1];
  if (!last || tick >= last.to) return floatAt(before, count);
  const share = (tick - last.from) / (last.to - last.from);
  return floatAt(before, count - 1) + (floatAt(before, count) - floatAt(before, count - 1)) * share;
}

/** Real ticks since the beginning of the axis; a gap of unknown length counts as long as it is shown. */
export const realTicks = ({ gaps }: Pick<Axis, 'gaps'>, tick: number): number =>
  gaps.length === 0 ? tick : tick + hiddenBefore(gaps, tick);

/** Ticks that really passed between two places of the axis; null where a gap of unknown length lies between. */
export function ticksBetween(axis: Pick<Axis, 'gaps' | 'anchors'>, from: number, to: number): number | null {
  const { gaps, anchors = [] } = axis;
  if (gaps.length === 0) return to - from;
  if (from > to) {
    const back = ticksBetween(axis, to, from);
    return back === null ? null : -back;
  }
  const { unknown } = lengtheningOf(gaps);
  // A gap that ends where the stretch begins is no part of it.
  const first = gapsBefore(gaps, from) - (isInside(gaps, from) ? 1 : 0);
  if (unknown[gapsBefore(gaps, to)] !== unknown[first]) return null;
  // Numbers of this size are not told apart as floating point; their difference is.
  const isExact = anchors.length > 0 && [from, to].every((place) => Number.isInteger(place) && !isInside(gaps, place));
  if (isExact) return Number(realTick(axis, to) - realTick(axis, from));
  return to - from + (hiddenBefore(gaps, to) - hiddenBefore(gaps, from));
}

/** A place that is drawn in the middle of a gap. */
function isInside(gaps: readonly Gap[], place: number): boolean {
  const before = gapsBefore(gaps, place);
  return before > 0 && item(gaps, before - 1).to > place;
}

/** The place so many real ticks after another; a gap of unknown length counts as long as it is shown. */
export function advance({ gaps }: Pick<Axis, 'gaps'>, from: number, ticks: number): number {
  if (gaps.length === 0) return from + ticks;
  const { before } = lengtheningOf(gaps);
  const start = hiddenBefore(gaps, from);
  // The first gap that begins at or after the place sought.
  let [low, high] = [0, gaps.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (item(gaps, middle).from - from + (floatAt(before, middle) - start) < ticks) low = middle + 1;
    else high = middle;
  }
  const last = gaps[low - 1];
  const rest = ticks - (floatAt(before, low) - start);
  if (!last || from + rest >= last.to) return from + rest;
  const real = last.ticks ?? last.to - last.from;
  const into = ticks - (last.from - from + (floatAt(before, low - 1) - start));
  return last.from + (into / real) * (last.to - last.from);
}

/** The number of a tick as its source counts it, exactly. */
export function realTick({ anchors = [] }: Pick<Axis, 'anchors'>, tick: number): bigint {
  const whole = Math.round(tick);
  let [low, high] = [0, anchors.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (item(anchors, middle).tick <= whole) low = middle + 1;
    else high = middle;
  }
  const anchor = anchors[low - 1];
  return anchor ? anchor.real + BigInt(whole - anchor.tick) : BigInt(whole);
}

/** The place on the axis of a tick as its source counts it; between two places the earlier one. */
export function placeOfReal({ anchors = [] }: Pick<Axis, 'anchors'>, real: bigint): number {
  const at = anchors.findLastIndex((one) => one.real <= real);
  const place = at < 0 ? Number(real) : item(anchors, at).tick + Number(real - item(anchors, at).real);
  const next = anchors[at + 1];
  return next && place >= next.tick ? next.tick - 1 : place;
}

/** Seconds from the first trigger; null where that is not known. */
export function secondsAt(recording: Axis, tick: number): number | null {
  const ticks = ticksBetween(recording, zeroOf(recording), tick);
  return ticks === null ? null : ticks * recording.tickSeconds;
}

/** The stored sample nearest to a place on the axis. */
export function nearestStored({ stored, length, sampled }: Axis, tick: number): number {
  const inside = Math.min(length - (sampled ? 1 : 0), Math.max(0, Math.round(tick)));
  if (!stored) return inside;
  let low = 0;
  let high = stored.length - 1;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (floatAt(stored, middle) < tick) low = middle + 1;
    else high = middle;
  }
  const [after, before] = [floatAt(stored, low), floatAt(stored, Math.max(0, low - 1))];
  return tick - before < after - tick ? before : after;
}

/** The next stored sample, or the one before, by `by` steps. */
export function stepStored(recording: Axis, tick: number, by: number): number {
  const { stored } = recording;
  if (!stored) return nearestStored(recording, tick + by);
  const index = stored.indexOf(nearestStored(recording, tick));
  return floatAt(stored, Math.min(stored.length - 1, Math.max(0, index + by)));
}

const UNITS: readonly (readonly [string, number])[] = [
  ['s', 1],
  ['ms', 1e-3],
  ['µs', 1e-6],
  ['ns', 1e-9],
  ['ps', 1e-12],
];

/**
 * A time with the unit that suits its size, to three places, or to as many as a step of so many seconds needs to show.
 */
export function secondsText(seconds: number, step?: number): string {
  const size = Math.abs(seconds);
  const [unit, scale] = UNITS.find(([, one]) => size >= one * 0.9999995) ?? (['ns', 1e-9] as const);
  const places =
    step === undefined
      ? unit === 'ps'
        ? 0
        : 3
      : Math.min(MOST_PLACES, Math.max(unit === 'ps' ? 0 : 3, Math.ceil(-Math.log10(step / scale) - 1e-9)));
  return `${trimmed((seconds / scale).toFixed(places))} ${unit}`;
}

const MOST_PLACES = 15;
const trimmed = (text: string): string => (text.includes('.') ? text.replace(/\.?0+$/, '') : text);

/** Powers of ten of the units a time is written in. */
const POWERS: readonly (readonly [string, number])[] = [
  ['s', 0],
  ['ms', -3],
  ['µs', -6],
  ['ns', -9],
  ['ps', -12],
  ['fs', -15],
];

/**
 * Time of a place from the first trigger, or from the beginning without one; null where that is not known. Exact where
 * ticks are counted beyond what a number holds, else so fine that a step of so many seconds shows.
 */
export function timeAt(axis: Axis, tick: number, step?: number): string | null {
  if (axis.inSteps) return `step ${Math.round(tick)}`;
  if (!axis.anchors) {
    const seconds = secondsAt(axis, tick);
    return seconds === null ? null : secondsText(seconds, step);
  }
  const ticks = realTick(axis, tick) - realTick(axis, zeroOf(axis));
  if (ticks === 0n) return '0 s';
  const power = Math.round(Math.log10(axis.tickSeconds));
  const digits = String(ticks < 0n ? -ticks : ticks);
  const [unit, at] =
    POWERS.find(([, one]) => digits.length - 1 + power >= one) ?? (POWERS.at(-1) as readonly [string, number]);
  const places = at - power;
  const padded = places > 0 ? digits.padStart(places + 1, '0') : digits + '0'.repeat(-places);
  return (
    `${ticks < 0n ? '-' : ''}` +
    `${places > 0 ? trimmed(`${padded.slice(0, -places)}.${padded.slice(-places)}`) : padded} ` +
    `${unit}`
  );
}
