// When something is looked at in a record, and which clocks had an edge since the time before.
import { floatAt } from '../lists.ts';
import { indexAt, type Recording, type Trace } from '../wave/index.ts';
import type { KnownClock } from './region.ts';

/** Edges that come at once, as places among the clocks and which edge of each. */
interface Edge {
  readonly clock: number;
  readonly edge: 'posedge' | 'negedge';
}

/** The moments of a record in their order. */
export interface Moments {
  readonly count: number;
  /** Place of each on the record's axis, ascending. */
  readonly ticks: Float64Array;
  /** For each the edges since the one before, as a place in `edges`; -1 for none. */
  readonly edgesBefore: Int16Array;
  readonly edges: readonly (readonly Edge[])[];
  /** Moments before which nobody knows what happened: the first one, and those behind gaps. */
  readonly breaks: readonly number[];
}

/**
 * A record of samples of one clock, each taken just before a rising edge: between two of them lies one edge. `lets`:
 * where a stepper holds the clock, whether it let through the edge behind each sample.
 */
export function momentsOfSamples(
  { length, stored }: Pick<Recording, 'length' | 'stored'>,
  lets: Trace | null = null,
): Moments {
  const ticks = stored ?? Float64Array.from({ length }, (_, i) => i);
  const breaks: number[] = [];
  for (let i = 0; i < ticks.length; i++) if (i === 0 || floatAt(ticks, i) !== floatAt(ticks, i - 1) + 1) breaks.push(i);
  const edgesBefore = new Int16Array(ticks.length);
  for (const i of breaks) edgesBefore[i] = -1;
  if (lets) leaveHeld(edgesBefore, ticks, lets);
  return { count: ticks.length, ticks, edgesBefore, edges: [[{ clock: 0, edge: 'posedge' }]], breaks };
}

/** No edge is behind samples at which it was not let through. */
function leaveHeld(edgesBefore: Int16Array, ticks: Float64Array, lets: Trace): void {
  let index = -1;
  for (let i = 1; i < ticks.length; i++) {
    index = following(lets, index, floatAt(ticks, i - 1));
    if (index >= 0 && levelOf(lets, index) === 0) edgesBefore[i] = -1;
  }
}

/** Time stamps that are each a sample of one clock, however far apart they are. */
export function momentsOfStamps(ticks: Float64Array, lets: Trace | null = null): Moments {
  const edgesBefore = new Int16Array(ticks.length);
  if (ticks.length > 0) edgesBefore[0] = -1;
  if (lets) leaveHeld(edgesBefore, ticks, lets);
  return {
    ...{ count: ticks.length, ticks, edgesBefore },
    edges: [[{ clock: 0, edge: 'posedge' }]],
    breaks: ticks.length > 0 ? [0] : [],
  };
}

/**
 * A record that holds its clocks: something happens wherever something changes. At an edge registers take what stood
 * before it; what changes at the same time as the edge comes after it.
 */
export function momentsOfClocks(clocks: readonly Trace[], others: readonly Trace[]): Moments {
  const times = new Set<number>();
  for (const { at } of [...clocks, ...others]) for (const tick of at) times.add(tick);
  const ticks = Float64Array.from(times).sort();
  const edgesBefore = new Int16Array(ticks.length).fill(-1);
  const edges: Edge[][] = [];
  const placeOf = new Map<string, number>();
  const at = clocks.map(() => 0);
  for (let i = 0; i < ticks.length; i++) {
    const now: Edge[] = [];
    for (const [clock, trace] of clocks.entries()) {
      let k = at[clock] ?? 0;
      while (k < trace.at.length && floatAt(trace.at, k) < floatAt(ticks, i)) k++;
      at[clock] = k;
      if (k === 0 || trace.at[k] !== ticks[i]) continue;
      const [before, after] = [levelOf(trace, k - 1), levelOf(trace, k)];
      if (before === 0 && after === 1) now.push({ clock, edge: 'posedge' });
      else if (before === 1 && after === 0) now.push({ clock, edge: 'negedge' });
    }
    if (now.length === 0) continue;
    const key = now.map(({ clock, edge }) => `${clock} ${edge}`).join();
    const known = placeOf.get(key) ?? edges.push(now) - 1;
    placeOf.set(key, known);
    edgesBefore[i] = known;
  }
  return { count: ticks.length, ticks, edgesBefore, edges, breaks: ticks.length > 0 ? [0] : [] };
}

/** 0, 1, or null for a level that is not known. */
const levelOf = ({ bits, unknown, words }: Trace, index: number): 0 | 1 | null => {
  if (((unknown?.[index * words] ?? 0) & 1) === 1) return null;
  return ((bits[index * words] ?? 0) & 1) === 1 ? 1 : 0;
};

/** Whether a clock's record has an edge of the kind that registers wait for. */
export function hasEdges(trace: Trace, { falls }: KnownClock): boolean {
  for (let i = 1; i < trace.at.length; i++) {
    const [before, after] = [levelOf(trace, i - 1), levelOf(trace, i)];
    if ((before === 0 && after === 1) || (falls && before === 1 && after === 0)) return true;
  }
  return false;
}

/** The first moment from one on that is not before a place of the axis; `ticks.length` where there is none. */
export function momentAt(ticks: Float64Array, tick: number, from: number): number {
  let [low, step] = [from, 1];
  while (low + step < ticks.length && floatAt(ticks, low + step) < tick) {
    low += step;
    step *= 2;
  }
  let high = Math.min(ticks.length, low + step);
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (floatAt(ticks, middle) < tick) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Index of the value of a trace at a moment, found from the one of the moment before; -1 before the first. */
export function following(trace: Trace, index: number, tick: number): number {
  let i = index;
  while (i + 1 < trace.at.length && floatAt(trace.at, i + 1) <= tick) i++;
  return i < 0 || floatAt(trace.at, i) <= tick ? i : indexAt(trace, tick);
}
