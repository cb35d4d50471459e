import type { Trace } from './trace.ts';

/** A stretch of the axis in which nothing was stored. */
export interface Gap {
  readonly from: number;
  readonly to: number;
  /** Ticks that really passed, which may be more than `to - from` shows; null where that is not known. */
  readonly ticks: number | null;
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
}

/** Signals over one axis of time: one capture, several, or a file. */
export interface Recording extends Axis {
  readonly traces: readonly Trace[];
}

export const zeroOf = ({ triggers }: Axis): number => triggers[0] ?? 0;

/** Ticks that really passed between two places of the axis; null where a gap of unknown length lies between. */
export function ticksBetween({ gaps }: Pick<Axis, 'gaps'>, from: number, to: number): number | null {
  if (from > to) {
    const back = ticksBetween({ gaps }, to, from);
    return back === null ? null : -back;
  }
  let ticks = to - from;
  for (const gap of gaps) {
    const shown = Math.min(to, gap.to) - Math.max(from, gap.from);
    if (shown <= 0) continue;
    if (gap.ticks === null) return null;
    ticks += (gap.ticks - (gap.to - gap.from)) * (shown / (gap.to - gap.from));
  }
  return ticks;
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
    if ((stored[middle] as number) < tick) low = middle + 1;
    else high = middle;
  }
  const [after, before] = [stored[low] as number, stored[Math.max(0, low - 1)] as number];
  return tick - before < after - tick ? before : after;
}

/** The next stored sample, or the one before, by `by` steps. */
export function stepStored(recording: Axis, tick: number, by: number): number {
  const { stored } = recording;
  if (!stored) return nearestStored(recording, tick + by);
  const index = stored.indexOf(nearestStored(recording, tick));
  return stored[Math.min(stored.length - 1, Math.max(0, index + by))] as number;
}

const UNITS: readonly (readonly [string, number])[] = [['s', 1], ['ms', 1e-3], ['µs', 1e-6], ['ns', 1e-9], ['ps', 1e-12]];

/** A time with the unit that suits its size. */
export function secondsText(seconds: number): string {
  const size = Math.abs(seconds);
  const [unit, scale] = UNITS.find(([, one]) => size >= one * 0.9999995) ?? (['ns', 1e-9] as const);
  const text = (seconds / scale).toFixed(unit === 'ps' ? 0 : 3);
  return `${text.includes('.') ? text.replace(/\.?0+$/, '') : text} ${unit}`;
}
