// The fewest vertices that all ways from sources to targets go through.
import { intAt } from '../lists.ts';

/** A graph whose vertices can be taken away, at a price. */
interface CutGraph {
  readonly size: number;
  /** Edges as pairs, from and to. */
  readonly edges: readonly (readonly [from: number, to: number])[];
  /** What each vertex costs; infinite for one that has to stay. */
  readonly costs: ArrayLike<number>;
  readonly sources: readonly number[];
  readonly targets: readonly number[];
}

const INFINITE = 2 ** 30;

/**
 * Vertices of least cost without which no way leads from a source to a target, sources and targets among them; of
 * several such sets the one nearest to the targets. Null where there is a way of vertices that have to stay.
 *
 * A vertex becomes two, with an edge of its cost between; the least cut is where the greatest flow fills the edges.
 *
 * @source Ford and Fulkerson, Maximal flow through a network, 1956 (flow and cut are equal); Dinic, 1970 (by levels)
 */
export function leastCut({ size, edges, costs, sources, targets }: CutGraph): number[] | null {
  const net = new Network(2 * size + 2, 2 * (size + edges.length + sources.length + targets.length));
  const [source, sink] = [2 * size, 2 * size + 1];
  for (let v = 0; v < size; v++) net.add(2 * v, 2 * v + 1, Math.min(INFINITE, costs[v] ?? INFINITE));
  for (const [from, to] of edges) net.add(2 * from + 1, 2 * to, INFINITE);
  for (const v of sources) net.add(source, 2 * v, INFINITE);
  for (const v of targets) net.add(2 * v + 1, sink, INFINITE);
  if (net.fill(source, sink) >= INFINITE) return null;
  const near = net.reaching(sink);
  return Array.from({ length: size }, (_, v) => v).filter((v) => near[2 * v + 1] === 1 && near[2 * v] === 0);
}

/** Edges with what still goes through them; each has its way back beside it. */
class Network {
  readonly #first: Int32Array;
  readonly #next: Int32Array;
  readonly #to: Int32Array;
  readonly #room: Int32Array;
  readonly #level: Int32Array;
  readonly #current: Int32Array;
  #edges = 0;

  constructor(vertices: number, most: number) {
    this.#first = new Int32Array(vertices).fill(-1);
    this.#level = new Int32Array(vertices);
    this.#current = new Int32Array(vertices);
    this.#next = new Int32Array(most);
    this.#to = new Int32Array(most);
    this.#room = new Int32Array(most);
  }

  add(from: number, to: number, room: number): void {
    for (const [a, b, r] of [
      [from, to, room],
      [to, from, 0],
    ] as const) {
      this.#to[this.#edges] = b;
      this.#room[this.#edges] = r;
      this.#next[this.#edges] = intAt(this.#first, a);
      this.#first[a] = this.#edges++;
    }
  }

  /** Sends as much as goes; ends early where it is without end. */
  fill(source: number, sink: number): number {
    let flow = 0;
    while (flow < INFINITE && this.#levels(source, sink)) {
      this.#current.set(this.#first);
      for (let sent = this.#send(source, sink); sent > 0; sent = this.#send(source, sink)) {
        flow += sent;
        if (flow >= INFINITE) break;
      }
    }
    return flow;
  }

  #levels(source: number, sink: number): boolean {
    this.#level.fill(-1);
    this.#level[source] = 0;
    const open = [source];
    for (let i = 0; i < open.length; i++) {
      const v = open[i] ?? 0;
      for (let e = intAt(this.#first, v); e >= 0; e = intAt(this.#next, e)) {
        const to = intAt(this.#to, e);
        if (intAt(this.#room, e) <= 0 || intAt(this.#level, to) >= 0) continue;
        this.#level[to] = intAt(this.#level, v) + 1;
        open.push(to);
      }
    }
    return intAt(this.#level, sink) >= 0;
  }

  /** One way from source to sink along falling levels; by a list of its own, for ways may be as long as the graph. */
  #send(source: number, sink: number): number {
    const way: number[] = [];
    let v = source;
    while (v !== sink) {
      let e = intAt(this.#current, v);
      while (e >= 0) {
        const to = intAt(this.#to, e);
        if (intAt(this.#room, e) > 0 && intAt(this.#level, to) === intAt(this.#level, v) + 1) break;
        e = intAt(this.#next, e);
      }
      this.#current[v] = e;
      if (e >= 0) {
        way.push(e);
        v = intAt(this.#to, e);
        continue;
      }
      const back = way.pop();
      if (back === undefined) return 0;
      v = intAt(this.#to, back ^ 1);
      this.#current[v] = intAt(this.#next, back);
    }
    let sent = INFINITE;
    for (const e of way) sent = Math.min(sent, intAt(this.#room, e));
    for (const e of way) {
      this.#room[e] = intAt(this.#room, e) - sent;
      // What is without end stays so.
      this.#room[e ^ 1] = Math.min(INFINITE, intAt(this.#room, e ^ 1) + sent);
    }
    return sent;
  }

  /** Vertices from which something can still flow to the sink. */
  reaching(sink: number): Uint8Array {
    const seen = new Uint8Array(this.#first.length);
    seen[sink] = 1;
    const open = [sink];
    for (let v = open.pop(); v !== undefined; v = open.pop())
      for (let e = intAt(this.#first, v); e >= 0; e = intAt(this.#next, e)) {
        const from = intAt(this.#to, e);
        // The edge that leads here is the other one of the pair.
        if (seen[from] === 1 || intAt(this.#room, e ^ 1) <= 0) continue;
        seen[from] = 1;
        open.push(from);
      }
    return seen;
  }
}
