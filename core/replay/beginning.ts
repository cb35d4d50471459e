// How long a signal stays unknown at the beginning of a record, told from the design alone.
import { intAt, item } from '../lists.ts';
import { CONSTANT, type Vertex } from './bit-graph.ts';
import { circlesOf, type Cone, type Way, waysOnCircles } from './feedback.ts';
import type { Region } from './region.ts';

/** What keeps a signal unknown. */
type Why = Exclude<Way, 'flows'> | 'written';

/**
 * A signal that is not known from the first sample on. `samples` counts those at the start of the record in which it is
 * not; null where that depends on what happens: on `by`, a register or a memory, and on what `why` says must happen to
 * it.
 */
export interface Unknown {
  readonly signal: string;
  readonly samples: number | null;
  readonly why: Why | null;
  readonly by: string | null;
}

interface Late {
  readonly samples: number;
  readonly why: Why | null;
  readonly by: Vertex | null;
}

const AT_ONCE: Late = { samples: 0, why: null, by: null };
/** What is worse is told of a signal that several things keep unknown. */
const WORSE: readonly (Why | null)[] = [null, 'loaded', 'written', 'reset', 'never'];

/** Of every signal of the region that is not known at once, how long and why; `known` are the bits in the record. */
export function beginningOf(region: Region, cone: Cone, known: ReadonlySet<Vertex>): Unknown[] {
  const { graph } = region;
  const circles = circlesOf(cone);
  const ways = waysOnCircles(cone, circles);
  const late = new Map<Vertex, Late>();
  // Those on a circle wait for what is worst on it.
  const ofCircle = new Map<number, Late>();
  for (const [v, way] of ways) {
    const circle = intAt(circles, v);
    const why: Why = graph.memoryOf(v) !== null && way === 'loaded' ? 'written' : way === 'flows' ? 'loaded' : way;
    ofCircle.set(circle, later(ofCircle.get(circle) ?? AT_ONCE, { samples: 0, why, by: v }));
  }
  const order = inOrder(cone);
  // Twice, for what comes into a circle behind the place where it was entered.
  for (const v of [...order, ...order]) {
    if (known.has(v)) continue;
    const circle = intAt(circles, v);
    let worst = circle < 0 ? AT_ONCE : (ofCircle.get(circle) ?? AT_ONCE);
    graph.feeds(v, (from, delay) => {
      const own = late.get(from) ?? AT_ONCE;
      worst = later(worst, { ...own, samples: own.samples + delay });
    });
    if (graph.memoryOf(v) !== null) worst = later(worst, { samples: 0, why: 'written', by: v });
    late.set(v, worst);
  }
  return region.signals.flatMap(({ name, node }): Unknown[] => {
    let worst = AT_ONCE;
    for (const vertex of graph.bitsOf(node)) if (vertex !== CONSTANT) worst = later(worst, late.get(vertex) ?? AT_ONCE);
    if (worst.why === null && worst.samples === 0) return [];
    const { samples, why, by } = worst;
    return [
      { signal: name, samples: why === null ? samples : null, why, by: by === null ? null : wordName(region, by) },
    ];
  });
}

const later = (a: Late, b: Late): Late => {
  const [x, y] = [WORSE.indexOf(a.why), WORSE.indexOf(b.why)];
  if (x !== y) return x > y ? a : b;
  // Of two that wait for the same kind of thing the nearer one is told.
  if (a.why !== null) return a;
  return a.samples >= b.samples ? a : b;
};

/** What feeds something before what it feeds; circles are entered anywhere. */
function inOrder({ graph, vertices, closed }: Cone): Vertex[] {
  const order: Vertex[] = [];
  const seen = new Uint8Array(graph.size);
  const next = new Int32Array(graph.size);
  for (const root of vertices) {
    if (seen[root] === 1) continue;
    const way: Vertex[] = [root];
    while (way.length > 0) {
      const v = item(way, way.length - 1);
      if (seen[v] === 0) {
        seen[v] = 1;
        next[v] = graph.firstFeed(v);
      }
      const place = intAt(next, v);
      if (closed[v] === 1 || place >= graph.firstFeed(v + 1)) {
        order.push(v);
        way.pop();
        continue;
      }
      next[v] = place + 1;
      const from = graph.feedAt(place);
      if (seen[from] === 0) way.push(from);
    }
  }
  return order;
}

/** The whole register or memory that a bit is of. */
function wordName(region: Region, vertex: Vertex): string {
  const [first] = region.namesOf(vertex);
  return first ? first.signal.name : region.nameOf(vertex);
}
