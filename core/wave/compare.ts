import { floatAt, item } from '../lists.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import type { Stretch } from './find.ts';
import { keepsIn } from './known.ts';
import { advance, realTicks, type Recording, zeroOf } from './recording.ts';
import { indexAt, sameValue, type Trace } from './trace.ts';

/** One signal that differs from its namesake, in ticks of the first recording. */
export interface Difference {
  readonly name: string;
  readonly from: number;
  readonly to: number;
}

export interface Comparison {
  /** Real ticks of the first recording at which the second one begins; may be negative. */
  readonly offset: number;
  /** Ascending by place. */
  readonly differences: readonly Difference[];
  /** Signals that only one of both has, or that are of another width. */
  readonly apart: readonly string[];
  /** Real ticks that both cover. */
  readonly shared: number;
  readonly cut: boolean;
}

/** Trigger on trigger, where most agrees, or the trigger of the second on a place of the first. */
export type Alignment = 'trigger' | 'best' | { readonly onTick: number };

const MOST_DIFFERENCES = 10_000;
const CANDIDATES = 24;
/** A tick of one record, in ticks of the other, may be rounded by this much. */
const WHOLE_TICK = 0.99;
const MOST_VOTING_CHANGES = 400;

/**
 * Lays one recording over another, in real time: gaps count as long as they were. Records of different clocks, such as
 * a capture and a dump, are compared too; what differs for less than a tick of the coarser one is when each of them saw
 * it. Where one of them stored nothing they do not differ.
 */
export function compareRecordings(first: Recording, second: Recording, alignment: Alignment): Result<Comparison> {
  const scale = second.tickSeconds / first.tickSeconds;
  const isOneClock = Math.abs(scale - 1) <= 1e-3;
  const grain = isOneClock ? 1 : Math.max(1, scale);
  const [a, b] = [laidOut(first, 1), laidOut(second, isOneClock ? 1 : scale)];
  const pairs = a.traces.flatMap((mine): Pair[] => {
    const other = b.traces.find(
      ({ trace }) =>
        trace.name === mine.trace.name && trace.width === mine.trace.width && trace.real === mine.trace.real,
    );
    return other ? [{ a: mine.trace, b: other.trace, hidden: { a: mine.hidden, b: other.hidden } }] : [];
  });
  if (pairs.length === 0) return fail(problem('compare-nothing'));
  const offset =
    alignment === 'trigger'
      ? a.zero - b.zero
      : alignment === 'best'
        ? bestOffset(a, b, pairs, grain)
        : realTicks(first, alignment.onTick) - b.zero;
  const differences: Difference[] = [];
  const from = Math.max(0, offset);
  const to = Math.min(a.length, b.length + offset);
  const place = (tick: number) => advance(first, 0, tick);
  let cut = false;
  for (const pair of pairs)
    eachDifference(pair, offset, from, to, (start, end) => {
      if (!isOneClock && end - start < grain * WHOLE_TICK) return;
      if (differences.length < MOST_DIFFERENCES)
        differences.push({ name: pair.a.name, from: place(start), to: place(end) });
      else cut = true;
    });
  const names = new Set(pairs.map((pair) => pair.a.name));
  const apart = [...first.traces, ...second.traces]
    .map(({ name }) => name)
    .filter((name, i, all) => !names.has(name) && all.indexOf(name) === i);
  return ok({
    offset,
    differences: differences.sort((x, y) => x.from - y.from),
    apart,
    shared: Math.max(0, to - from),
    cut,
  });
}

/** A recording with the gaps as long as they were, in ticks of another length. */
interface LaidOut {
  readonly length: number;
  readonly zero: number;
  readonly traces: readonly { readonly trace: Trace; readonly hidden: readonly Stretch[] }[];
}

function laidOut(recording: Recording, scale: number): LaidOut {
  const real = (tick: number) =>
    scale === 1 ? realTicks(recording, tick) : Math.round(realTicks(recording, tick) * scale);
  return {
    length: real(recording.length),
    zero: real(zeroOf(recording)),
    traces: recording.traces.map((trace) => ({
      trace: recording.gaps.length === 0 && scale === 1 ? trace : { ...trace, at: trace.at.map(real) },
      hidden: recording.gaps
        .filter((gap) => !keepsIn(gap, trace))
        .map((gap) => ({ from: real(gap.from), to: real(gap.to) })),
    })),
  };
}

interface Pair {
  readonly a: Trace;
  readonly b: Trace;
  /** Where each of them was not stored. */
  readonly hidden: { readonly a: readonly Stretch[]; readonly b: readonly Stretch[] };
}

/** Calls back with every stretch in which two traces differ, the second moved by `offset`. */
function eachDifference(
  { a, b, hidden }: Pair,
  offset: number,
  from: number,
  to: number,
  give: (from: number, to: number) => void,
): void {
  const walkA = new HiddenWalk(hidden.a, 0);
  const walkB = new HiddenWalk(hidden.b, offset);
  let [i, j] = [indexAt(a, from), indexAt(b, from - offset)];
  let since: number | null = null;
  for (let tick = from; tick < to; ) {
    const isHidden = walkA.isHidden(tick) || walkB.isHidden(tick);
    const same = isHidden || (i >= 0 && j >= 0 ? sameValue(a, i, b, j) : i < 0 && j < 0);
    if (!same) since ??= tick;
    else if (since !== null) {
      give(since, tick);
      since = null;
    }
    const next = Math.min(
      to,
      a.at[i + 1] ?? to,
      (b.at[j + 1] ?? Number.POSITIVE_INFINITY) + offset,
      walkA.next(),
      walkB.next(),
    );
    while (i + 1 < a.at.length && floatAt(a.at, i + 1) <= next) i++;
    while (j + 1 < b.at.length && floatAt(b.at, j + 1) + offset <= next) j++;
    tick = next;
  }
  if (since !== null) give(since, to);
}

/** Follows hidden stretches while time goes on. */
class HiddenWalk {
  readonly #stretches: readonly Stretch[];
  readonly #offset: number;
  #index = 0;
  #next = Number.POSITIVE_INFINITY;

  constructor(stretches: readonly Stretch[], offset: number) {
    this.#stretches = stretches;
    this.#offset = offset;
  }

  isHidden(tick: number): boolean {
    const at = tick - this.#offset;
    while (this.#index < this.#stretches.length && item(this.#stretches, this.#index).to <= at) this.#index++;
    const stretch = this.#stretches[this.#index];
    const isIn = stretch !== undefined && stretch.from <= at;
    this.#next = stretch === undefined ? Number.POSITIVE_INFINITY : (isIn ? stretch.to : stretch.from) + this.#offset;
    return isIn;
  }

  /** Where that changes next, after the place last asked for. */
  next(): number {
    return this.#next;
  }
}

/**
 * The offset at which most agrees. Every change of a signal that has a like in the other record votes for the offset
 * that would lay both upon each other; the offsets with most votes are then tried.
 */
function bestOffset(first: LaidOut, second: LaidOut, pairs: readonly Pair[], grain: number): number {
  const votes = new Map<number, number>([[first.zero - second.zero, 1]]);
  for (const { a, b } of pairs) {
    const [mine, theirs] = [thinned(a), thinned(b)];
    const share = 1 / Math.max(1, Math.sqrt(mine.length * theirs.length));
    for (const i of mine)
      for (const j of theirs) {
        if (!sameValue(a, i, b, j) || !sameValue(a, i - 1, b, j - 1)) continue;
        const apart = floatAt(a.at, i) - floatAt(b.at, j);
        const offset = grain === 1 ? apart : Math.round(Math.round(apart / grain) * grain);
        votes.set(offset, (votes.get(offset) ?? 0) + share);
      }
  }
  const tried = [...votes].sort(([, x], [, y]) => y - x).slice(0, CANDIDATES);
  let best = { offset: 0, score: Number.NEGATIVE_INFINITY };
  for (const [offset] of tried) {
    const [from, to] = [Math.max(0, offset), Math.min(first.length, second.length + offset)];
    let wrong = 0;
    for (const pair of pairs)
      eachDifference(pair, offset, from, to, (start, end) => {
        wrong += end - start;
      });
    // Little that is shared is no good match, however well it agrees.
    const score = (to - from) * pairs.length - 2 * wrong;
    if (score > best.score) best = { offset, score };
  }
  return best.offset;
}

/** Changes of a trace, evenly thinned where there are many. */
function thinned({ at }: Trace): number[] {
  const step = Math.max(1, Math.ceil((at.length - 1) / MOST_VOTING_CHANGES));
  const chosen: number[] = [];
  for (let i = 1; i < at.length; i += step) chosen.push(i);
  return chosen;
}
