import { floatAt, wordAt } from '../lists.ts';
import { amountOf, type Trace } from './trace.ts';

/** Where to look for the change that holds at a tick: how many changes come before each equal part of the record. */
export interface Steps {
  readonly ticks: number;
  readonly before: Uint32Array;
}

const MOST_PARTS = 1 << 16;
/** Fewer changes than this are searched as fast without. */
const FEW = 512;

/** Null for a trace that moves little. */
export function stepsOf({ at }: Trace, length: number): Steps | null {
  if (at.length < FEW) return null;
  const parts = Math.min(MOST_PARTS, Math.max(1, Math.ceil(length)));
  const ticks = length / parts;
  const before = new Uint32Array(parts + 1);
  let index = 0;
  for (let part = 0; part <= parts; part++) {
    const start = part * ticks;
    while (index < at.length && floatAt(at, index) < start) index++;
    before[part] = index;
  }
  return { ticks, before };
}

/** Index of the value that holds at a tick, as `indexAt`; -1 before the first. */
export function lastAt({ at }: Trace, steps: Steps | null, tick: number): number {
  let low = 0;
  let high = at.length;
  if (steps) {
    const part = Math.min(steps.before.length - 2, Math.max(0, Math.floor(tick / steps.ticks)));
    low = wordAt(steps.before, part);
    high = Math.min(at.length, wordAt(steps.before, part + 1));
  }
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (floatAt(at, middle) <= tick) low = middle + 1;
    else high = middle;
  }
  // The first change of the next part may lie at its very beginning.
  while (low < at.length && floatAt(at, low) <= tick) low++;
  return low - 1;
}

/**
 * Values as numbers, with the least and the most of every `BLOCK` of them, so that a peak shows however far away it is
 * looked at.
 */
export interface Ranges {
  readonly amount: Float64Array;
  readonly least: Float64Array;
  readonly most: Float64Array;
}

const BLOCK = 64;

/** NaN stands for what is not known. */
export function rangesOf(trace: Trace, signed: boolean): Ranges {
  const amount = Float64Array.from(trace.at, (_, i) => amountOf(trace, i, signed) ?? Number.NaN);
  const blocks = Math.ceil(amount.length / BLOCK);
  const [least, most] = [
    new Float64Array(blocks).fill(Number.POSITIVE_INFINITY),
    new Float64Array(blocks).fill(Number.NEGATIVE_INFINITY),
  ];
  for (let i = 0; i < amount.length; i++) {
    const value = floatAt(amount, i);
    const block = Math.floor(i / BLOCK);
    if (value < floatAt(least, block)) least[block] = value;
    if (value > floatAt(most, block)) most[block] = value;
  }
  return { amount, least, most };
}

/** Least and most of the values `from` to `to`, both counted in; an empty range when none of them is known. */
export function rangeIn(
  { amount, least, most }: Ranges,
  from: number,
  to: number,
): { readonly least: number; readonly most: number } {
  let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
  for (let i = from; i <= to; ) {
    if (i % BLOCK === 0 && i + BLOCK - 1 <= to) {
      const block = i / BLOCK;
      low = Math.min(low, floatAt(least, block));
      high = Math.max(high, floatAt(most, block));
      i += BLOCK;
    } else {
      const value = floatAt(amount, i);
      if (value < low) low = value;
      if (value > high) high = value;
      i++;
    }
  }
  return { least: low, most: high };
}
