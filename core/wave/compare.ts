import { fail, ok, problem, type Result } from '../result.ts';
import { type Recording, zeroOf } from './recording.ts';
import { indexAt, sameValue, type Trace } from './trace.ts';

/** One signal that differs from its namesake, in ticks of the first recording. */
export interface Difference {
  readonly name: string;
  readonly from: number;
  readonly to: number;
}

export interface Comparison {
  /** Tick of the first recording at which the second one begins; may be negative. */
  readonly offset: number;
  /** Ascending by place. */
  readonly differences: readonly Difference[];
  /** Signals that only one of both has, or that are of another width. */
  readonly apart: readonly string[];
  /** Ticks that both cover. */
  readonly shared: number;
  readonly cut: boolean;
}

export type Alignment = 'trigger' | 'best' | { readonly offset: number };

const MOST_DIFFERENCES = 10_000;
const CANDIDATES = 24;
const MOST_VOTING_CHANGES = 400;

/** Lays one recording over another. */
export function compareRecordings(first: Recording, second: Recording, alignment: Alignment): Result<Comparison> {
  if (Math.abs(second.tickSeconds / first.tickSeconds - 1) > 1e-3) return fail(problem('compare-clock', 'The two records were sampled with different clocks.', 'Compare records of one sampling clock.'));
  const pairs = first.traces.flatMap((trace) => {
    const other = second.traces.find(({ name, width }) => name === trace.name && width === trace.width);
    return other ? [{ a: trace, b: other }] : [];
  });
  if (pairs.length === 0) return fail(problem('compare-nothing', 'The two records have no signal in common.', 'Choose a record of the same design.'));
  const offset = alignment === 'trigger' ? zeroOf(first) - zeroOf(second) : alignment === 'best' ? bestOffset(first, second, pairs) : alignment.offset;
  const differences: Difference[] = [];
  const from = Math.max(0, offset);
  const to = Math.min(first.length, second.length + offset);
  let cut = false;
  for (const { a, b } of pairs)
    eachDifference(a, b, offset, from, to, (start, end) => {
      if (differences.length < MOST_DIFFERENCES) differences.push({ name: a.name, from: start, to: end });
      else cut = true;
    });
  const names = new Set(pairs.map(({ a }) => a.name));
  const apart = [...first.traces, ...second.traces].map(({ name }) => name).filter((name, i, all) => !names.has(name) && all.indexOf(name) === i);
  return ok({ offset, differences: differences.sort((a, b) => a.from - b.from), apart, shared: Math.max(0, to - from), cut });
}

type Pair = { readonly a: Trace; readonly b: Trace };

/** Calls back with every stretch in which two traces differ, the second moved by `offset`. */
function eachDifference(a: Trace, b: Trace, offset: number, from: number, to: number, give: (from: number, to: number) => void): void {
  let [i, j] = [indexAt(a, from), indexAt(b, from - offset)];
  let since: number | null = null;
  for (let tick = from; tick < to; ) {
    const same = i >= 0 && j >= 0 ? sameValue(a, i, b, j) : i < 0 && j < 0;
    if (!same) since ??= tick;
    else if (since !== null) {
      give(since, tick);
      since = null;
    }
    const next = Math.min(to, a.at[i + 1] ?? to, (b.at[j + 1] ?? Number.POSITIVE_INFINITY) + offset);
    while (i + 1 < a.at.length && (a.at[i + 1] as number) <= next) i++;
    while (j + 1 < b.at.length && (b.at[j + 1] as number) + offset <= next) j++;
    tick = next;
  }
  if (since !== null) give(since, to);
}

/**
 * The offset at which most agrees. Every change of a signal that has a like in the other record votes for the offset that would lay both upon each
 * other; the offsets with most votes are then tried.
 */
function bestOffset(first: Recording, second: Recording, pairs: readonly Pair[]): number {
  const votes = new Map<number, number>([[zeroOf(first) - zeroOf(second), 1]]);
  for (const { a, b } of pairs) {
    const [mine, theirs] = [thinned(a), thinned(b)];
    const share = 1 / Math.max(1, Math.sqrt(mine.length * theirs.length));
    for (const i of mine)
      for (const j of theirs) {
        if (!sameValue(a, i, b, j) || !sameValue(a, i - 1, b, j - 1)) continue;
        const offset = (a.at[i] as number) - (b.at[j] as number);
        votes.set(offset, (votes.get(offset) ?? 0) + share);
      }
  }
  const tried = [...votes].sort(([, x], [, y]) => y - x).slice(0, CANDIDATES);
  let best = { offset: 0, score: Number.NEGATIVE_INFINITY };
  for (const [offset] of tried) {
    const [from, to] = [Math.max(0, offset), Math.min(first.length, second.length + offset)];
    let wrong = 0;
    for (const { a, b } of pairs)
      eachDifference(a, b, offset, from, to, (start, end) => {
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
