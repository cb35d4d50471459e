import { floatAt, item } from '../lists.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import type { Stretch } from './find.ts';
import { keepsIn } from './known.ts';
import { advance, realTicks, type Recording, zeroOf } from './recording.ts';
import { sampledBy } from './sampled.ts';
import { canBeSame, indexAt, sameValue, type Trace } from './trace.ts';

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
  /** Signals that only one of both has, or that are of another width; of the one that lies inside, where one does. */
  readonly apart: readonly string[];
  /** The instance of one record that the other one is a record of, such as the design in a testbench; '' for the same. */
  readonly scope: string;
  /** What `offset` and `shared` count where it is edges of a clock. */
  readonly by: Measure;
  /** Real ticks that both cover. */
  readonly shared: number;
  readonly cut: boolean;
}

/** Trigger on trigger, where most agrees, or the trigger of the second on a place of the first. */
export type Alignment = 'trigger' | 'best' | { readonly onTick: number };

/** What is counted: seconds, or edges of the clock that a capture was taken with. */
export type Measure = 'time' | 'clock';

const MOST_DIFFERENCES = 10_000;
const CANDIDATES = 24;
/** A tick of one record, in ticks of the other, may be rounded by this much. */
const WHOLE_TICK = 0.99;
const MOST_VOTING_CHANGES = 400;

/**
 * Lays one recording over another, in real time: gaps count as long as they were. Records of different clocks, such as
 * a capture and a dump, are compared too; what differs for less than a tick of the coarser one is when each of them saw
 * it. Where one of them stored nothing they do not differ.
 *
 * By clock, the one of both that is no capture is looked at as the recorder of the other one would have: at each edge
 * of its clock. A testbench whose clock is quicker than the board's is then compared cycle by cycle; and what a simulation
 * does not know is no difference, whatever the hardware had there.
 */
export function compareRecordings(
  first: Recording,
  second: Recording,
  alignment: Alignment,
  by: Measure = 'time',
): Result<Comparison> {
  if (by === 'time' || first.sampled === second.sampled) return compared(first, second, alignment, true);
  const [dump, capture] = first.sampled ? [second, first] : [first, second];
  const scopes = scopesOf(dump.traces, capture.traces);
  const domain = capture.traces.find((trace) => trace.domain !== '')?.domain ?? '';
  const clock = under(scopes.a, below(scopes.b, domain) ?? domain);
  const names = new Set(capture.traces.flatMap(({ name }) => below(scopes.b, name) ?? []));
  const made = sampledBy(dump, clock, capture.tickSeconds, ({ name }) => names.has(below(scopes.a, name) ?? ''));
  if (!made) return fail(problem('compare-clock', { clock }));
  if (first.sampled) return compared(first, made.recording, alignment, false);
  const { edges } = made;
  const sampleOf = (tick: number) =>
    Math.max(
      0,
      edges.findLastIndex((edge) => edge <= tick),
    );
  const placed = typeof alignment === 'object' ? { onTick: sampleOf(alignment.onTick) } : alignment;
  const answer = compared(made.recording, second, placed, false);
  if (!answer.ok) return answer;
  // In ticks of the dump: from the edge at which it differs to the one at which it does no more.
  const place = (sample: number) => edges[sample] ?? first.length;
  const differences = answer.value.differences.map(({ name, from, to }) => ({
    name,
    from: place(from),
    to: place(to),
  }));
  return ok({ ...answer.value, differences });
}

function compared(first: Recording, second: Recording, alignment: Alignment, strict: boolean): Result<Comparison> {
  const scale = second.tickSeconds / first.tickSeconds;
  const isOneClock = Math.abs(scale - 1) <= 1e-3;
  const grain = isOneClock ? 1 : Math.max(1, scale);
  const [a, b] = [laidOut(first, 1), laidOut(second, isOneClock ? 1 : scale)];
  const scopes = scopesOf(first.traces, second.traces);
  const pairs = pairsOf(a, b, scopes, strict ? sameValue : canBeSame);
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
  return ok({
    offset,
    differences: differences.sort((x, y) => x.from - y.from),
    apart: apartIn(first, second, scopes, pairs),
    scope: scopes.inner === 'b' ? scopes.a : scopes.inner === 'a' ? scopes.b : '',
    by: strict ? 'time' : 'clock',
    shared: Math.max(0, to - from),
    cut,
  });
}

/**
 * What stands before the names of each record that both have in common: `tb.dut` and `top`, where the one is a dump
 * of a testbench and the other a capture of the design it tests; '' and '' for two records of one kind.
 */
interface Scopes {
  readonly a: string;
  readonly b: string;
  /** The record of less: all of it should be found in the other one. */
  readonly inner: 'a' | 'b' | 'both';
}

type Names = readonly Pick<Trace, 'name'>[];

const under = (scope: string, name: string): string => (scope === '' ? name : `${scope}.${name}`);

/** A name as it is below a scope; null for one that stands elsewhere. */
const below = (scope: string, name: string): string | null =>
  scope === '' ? name : name.startsWith(`${scope}.`) ? name.slice(scope.length + 1) : null;

/** The scopes below which most names are the same; the very same names where as many are. */
function scopesOf(a: Names, b: Names): Scopes {
  const mine = new Set(a.map(({ name }) => name));
  let best: Scopes & { readonly count: number } = {
    a: '',
    b: '',
    inner: 'both',
    count: b.filter(({ name }) => mine.has(name)).length,
  };
  const take = (scopes: Scopes, count: number) => {
    if (count > best.count) best = { ...scopes, count };
  };
  for (const root of ['', rootOf(b)]) {
    const found = commonScope(a, b, root);
    take({ a: found.scope, b: root, inner: 'b' }, found.count);
  }
  for (const root of ['', rootOf(a)]) {
    const found = commonScope(b, a, root);
    take({ a: root, b: found.scope, inner: 'a' }, found.count);
  }
  return best;
}

/** The first part of all names, as the top module is of those in a design; '' where they have none. */
function rootOf(names: Names): string {
  const [first = ''] = names[0]?.name.split('.', 1) ?? [];
  return names.every(({ name }) => name.startsWith(`${first}.`)) ? first : '';
}

/** The scope of `outer` below which most names stand that `inner` has below `root`; the shortest of several. */
function commonScope(outer: Names, inner: Names, root: string): { readonly scope: string; readonly count: number } {
  const names = new Set(inner.flatMap(({ name }) => below(root, name) ?? []));
  const counts = new Map<string, number>();
  for (const { name } of outer)
    for (let dot = name.indexOf('.'); dot >= 0; dot = name.indexOf('.', dot + 1))
      if (names.has(name.slice(dot + 1))) {
        const scope = name.slice(0, dot);
        counts.set(scope, (counts.get(scope) ?? 0) + 1);
      }
  let best = { scope: '', count: 0 };
  for (const [scope, count] of counts)
    if (count > best.count || (count === best.count && scope.length < best.scope.length)) best = { scope, count };
  return best;
}

function pairsOf(a: LaidOut, b: LaidOut, scopes: Scopes, same: typeof sameValue): Pair[] {
  const others = new Map(
    b.traces.flatMap((one) => {
      const name = below(scopes.b, one.trace.name);
      return name === null ? [] : [[name, one] as const];
    }),
  );
  return a.traces.flatMap((mine): Pair[] => {
    const name = below(scopes.a, mine.trace.name);
    const other = name === null ? undefined : others.get(name);
    return other && other.trace.width === mine.trace.width && other.trace.real === mine.trace.real
      ? [{ a: mine.trace, b: other.trace, hidden: { a: mine.hidden, b: other.hidden }, same }]
      : [];
  });
}

function apartIn(first: Recording, second: Recording, { inner }: Scopes, pairs: readonly Pair[]): string[] {
  const found = new Set(pairs.flatMap((pair) => [pair.a, pair.b]).map(({ name }) => name));
  // All that a testbench has beside the design is not worth telling.
  const asked = [...(inner === 'b' ? [] : first.traces), ...(inner === 'a' ? [] : second.traces)];
  const names = [...new Set(asked.map(({ name }) => name))];
  return names.filter((name) => !found.has(name));
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
  readonly same: typeof sameValue;
}

/** Calls back with every stretch in which two traces differ, the second moved by `offset`. */
function eachDifference(
  { a, b, hidden, same: agree }: Pair,
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
    const same = isHidden || (i >= 0 && j >= 0 ? agree(a, i, b, j) : agree === canBeSame || (i < 0 && j < 0));
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
  let best = { offset: 0, score: Number.NEGATIVE_INFINITY, wrong: 0 };
  const attempt = (offset: number) => {
    const [from, to] = [Math.max(0, offset), Math.min(first.length, second.length + offset)];
    let wrong = 0;
    for (const pair of pairs)
      eachDifference(pair, offset, from, to, (start, end) => {
        wrong += end - start;
      });
    // Little that is shared is no good match, however well it agrees.
    const score = (to - from) * pairs.length - 2 * wrong;
    if (score > best.score) best = { offset, score, wrong };
  };
  for (const [offset] of tried) attempt(offset);
  // In a record in which little changes nothing votes; it then lies between two changes of the other one.
  if (best.wrong > 0)
    for (const { a } of pairs)
      for (const i of thinned(a)) {
        attempt(floatAt(a.at, i));
        attempt(floatAt(a.at, i) - second.length);
        if (best.wrong === 0) return best.offset;
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
