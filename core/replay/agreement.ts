// Traces that were computed, looked at afterwards: where they are not what was recorded, and what of them is known.
import { floatAt } from '../lists.ts';
import { canBeSame, indexAt, type Trace } from '../wave/index.ts';
import type { PartlyKnown } from './exact.ts';
import { momentAt, type Moments } from './moments.ts';

/** Where what was recorded is not what the design makes of the rest. `sample` counts moments of the record from 0. */
export interface Disagreement {
  readonly signal: string;
  readonly sample: number;
  readonly tick: number;
  /** Highest bit first; x where it is not known. */
  readonly recorded: string;
  readonly computed: string;
  /** In how many samples, this one with them. */
  readonly samples: number;
}

/** The first moment at which a signal cannot be what was recorded of it, and how many there are; null for none. */
export function disagreementOf(computed: Trace, recorded: Trace, { ticks, count }: Moments): Disagreement | null {
  let first: Omit<Disagreement, 'samples'> | null = null;
  let samples = 0;
  if (count === 0) return null;
  let c = indexAt(computed, floatAt(ticks, 0));
  let r = indexAt(recorded, floatAt(ticks, 0));
  for (let moment = 0; moment < count; ) {
    const next = Math.min(
      computed.at[c + 1] ?? Number.POSITIVE_INFINITY,
      recorded.at[r + 1] ?? Number.POSITIVE_INFINITY,
    );
    const until = momentAt(ticks, next, moment);
    if (r >= 0 && c >= 0 && until > moment && !canBeSame(computed, c, recorded, r)) {
      samples += until - moment;
      first ??= {
        ...{ signal: recorded.name, sample: moment, tick: floatAt(ticks, moment) },
        recorded: digitsOf(partlyKnown(recorded, r), recorded.width),
        computed: digitsOf(partlyKnown(computed, c), recorded.width),
      };
    }
    moment = until;
    if (computed.at[c + 1] === next) c++;
    if (recorded.at[r + 1] === next) r++;
  }
  return first && { ...first, samples };
}

/** Moments in which some bit of a trace is not known. */
export function openMoments({ at, unknown, words }: Trace, { ticks }: Moments): number {
  if (unknown === null) return 0;
  let [open, moment] = [0, 0];
  for (let index = 0; index < at.length; index++) {
    let isOpen = false;
    for (let k = 0; k < words; k++) if (unknown[index * words + k] !== 0) isOpen = true;
    if (!isOpen) continue;
    const from = momentAt(ticks, floatAt(at, index), moment);
    moment = momentAt(ticks, at[index + 1] ?? Number.POSITIVE_INFINITY, from);
    open += moment - from;
  }
  return open;
}

/** Bits that are known at some time, by words. */
export function everKnown({ at, unknown, words }: Trace): Uint32Array {
  const ever = new Uint32Array(words);
  if (at.length === 0) return ever;
  if (unknown === null) return ever.fill(0xffffffff);
  for (let i = 0; i < at.length * words; i++) {
    ever[i % words] = (ever[i % words] ?? 0) | ~(unknown[i] ?? 0);
    // Most are known from some moment on: the rest says nothing new.
    if (i % words === words - 1 && ever.every((word) => word === 0xffffffff)) break;
  }
  return ever;
}

export function partlyKnown({ bits, unknown, words }: Trace, index: number): PartlyKnown {
  let [value, open] = [0n, 0n];
  for (let k = words - 1; k >= 0; k--) {
    const o = unknown?.[index * words + k] ?? 0;
    value = (value << 32n) | BigInt(((bits[index * words + k] ?? 0) & ~o) >>> 0);
    open = (open << 32n) | BigInt(o >>> 0);
  }
  return { value, unknown: open };
}

export function digitsOf({ value, unknown }: PartlyKnown, width: number): string {
  let text = '';
  for (let bit = BigInt(width - 1); bit >= 0n; bit--) text += (unknown >> bit) & 1n ? 'x' : String((value >> bit) & 1n);
  return text;
}
