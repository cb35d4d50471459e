// Registers that depend on themselves: which of them a value from outside can still be loaded into.
import { intAt, item } from '../lists.ts';
import { type BitGraph, CONSTANT, type Vertex } from './bit-graph.ts';

/**
 * How a register comes to a value that does not depend on what it held: by time alone, because what is in it moved on
 * (`flows`), because a value is loaded under a condition, by an asynchronous reset, or not at all.
 */
export type Way = 'flows' | 'loaded' | 'reset' | 'never';

/** Some of the vertices of a graph. What is `closed` is in it, and what that follows from does not count. */
export interface Cone {
  readonly graph: BitGraph;
  readonly vertices: readonly Vertex[];
  /** 1 for each vertex that is in it. */
  readonly has: Uint8Array;
  readonly closed: Uint8Array;
}

/** Everything that `targets` follow from, up to vertices at which `stop` says so, those with it. */
export function coneOf(graph: BitGraph, targets: readonly Vertex[], stop: (vertex: Vertex) => boolean): Cone {
  const has = new Uint8Array(graph.size);
  const closed = new Uint8Array(graph.size);
  const vertices: Vertex[] = [];
  const open: Vertex[] = [];
  const enter = (v: Vertex) => {
    if (has[v] === 1) return;
    has[v] = 1;
    vertices.push(v);
    if (stop(v)) closed[v] = 1;
    else open.push(v);
  };
  for (const v of targets) enter(v);
  for (let v = open.pop(); v !== undefined; v = open.pop()) graph.feeds(v, enter);
  return { graph, vertices, has, closed };
}

/** Without some of its vertices; what is left of it on circles. Taking away can only open circles, never make new ones. */
export function onCircles(cone: Cone, without: (vertex: Vertex) => boolean): Cone {
  const has = new Uint8Array(cone.graph.size);
  const left = cone.vertices.filter((v) => !without(v));
  for (const v of left) has[v] = 1;
  const circles = circlesOf({ ...cone, vertices: left, has });
  const vertices = left.filter((v) => intAt(circles, v) >= 0);
  const isLeft = new Uint8Array(cone.graph.size);
  for (const v of vertices) isLeft[v] = 1;
  return { ...cone, vertices, has: isLeft };
}

/**
 * For each vertex on a circle the number of its circle, -1 for all others; vertices that reach each other share one.
 *
 * @source Tarjan, Depth-first search and linear graph algorithms, 1972 (strongly connected components)
 */
export function circlesOf({ graph, vertices, has, closed }: Cone): Int32Array {
  const circles = new Int32Array(graph.size).fill(-1);
  const order = new Int32Array(graph.size).fill(-1);
  const low = new Int32Array(graph.size);
  const onStack = new Uint8Array(graph.size);
  const next = new Int32Array(graph.size);
  const stack: Vertex[] = [];
  let count = 0;
  let circle = 0;
  for (const root of vertices) {
    if (intAt(order, root) >= 0) continue;
    const way: Vertex[] = [root];
    while (way.length > 0) {
      const v = item(way, way.length - 1);
      if (intAt(order, v) < 0) {
        order[v] = low[v] = count++;
        stack.push(v);
        onStack[v] = 1;
        next[v] = graph.firstFeed(v);
      }
      const place = intAt(next, v);
      if (closed[v] === 0 && place < graph.firstFeed(v + 1)) {
        next[v] = place + 1;
        const w = graph.feedAt(place);
        if (has[w] === 0) continue;
        if (intAt(order, w) < 0) way.push(w);
        else if (onStack[w] === 1) low[v] = Math.min(intAt(low, v), intAt(order, w));
        continue;
      }
      way.pop();
      const above = way.at(-1);
      if (above !== undefined) low[above] = Math.min(intAt(low, above), intAt(low, v));
      if (intAt(low, v) !== intAt(order, v)) continue;
      let isCircle = item(stack, stack.length - 1) !== v;
      if (!isCircle && closed[v] === 0)
        for (let i = graph.firstFeed(v); i < graph.firstFeed(v + 1); i++) if (graph.feedAt(i) === v) isCircle = true;
      for (let w = stack.pop() ?? v; ; w = stack.pop() ?? v) {
        onStack[w] = 0;
        if (isCircle) circles[w] = circle;
        if (w === v) break;
      }
      circle++;
    }
  }
  return circles;
}

/** Ranks of ways, the surest first. */
const RANK: Readonly<Record<Way, number>> = { flows: 3, loaded: 2, reset: 1, never: 0 };
const WAYS: readonly Way[] = ['never', 'reset', 'loaded', 'flows'];

/** How each register bit and each memory bit on a circle comes to a value from outside that circle. */
export function waysOnCircles({ graph, vertices }: Cone, circles: Int32Array): Map<Vertex, Way> {
  const ways = new Map<Vertex, Way>();
  const byCircle = new Map<number, Loads>();
  for (const v of vertices) {
    const circle = intAt(circles, v);
    if (circle < 0) continue;
    const register = graph.registerOf(v);
    const memory = graph.memoryOf(v);
    if (!register && memory === null) continue;
    const word = graph.wordOf(v);
    const loads = byCircle.get(circle) ?? new Loads(graph, (one) => circles[one] === circle);
    byCircle.set(circle, loads);
    const isReset = register?.reset != null && loads.isOutside(register.reset);
    const rank = Math.max(
      register && word ? loads.rank(graph.bit(register.d, word.bit)) : memoryRank(graph, memory ?? 0, loads),
      isReset ? RANK.reset : RANK.never,
    );
    ways.set(v, item(WAYS, rank));
  }
  return ways;
}

/** A memory's words take a value where address and enable of a write come from outside the circle. */
function memoryRank({ netlist }: BitGraph, memory: number, loads: Loads): number {
  const { writes } = item(netlist.memories, memory);
  return Math.max(
    RANK.never,
    ...writes.map(({ enable, address }) =>
      loads.isOutside(enable) && loads.isOutside(address) ? RANK.loaded : RANK.never,
    ),
  );
}

/** Whether a next value can be had without what is on a circle. */
class Loads {
  readonly #graph: BitGraph;
  readonly #isOn: (vertex: Vertex) => boolean;
  readonly #known = new Map<Vertex, number>();

  constructor(graph: BitGraph, isOn: (vertex: Vertex) => boolean) {
    this.#graph = graph;
    this.#isOn = isOn;
  }

  isOutside(node: number): boolean {
    return this.#graph.bitsOf(node).every((one) => one === CONSTANT || !this.#isOn(one));
  }

  /** `loaded` where some choice of what comes from outside decides the bit; `never` where none is seen to. */
  rank(vertex: Vertex): number {
    if (vertex === CONSTANT || !this.#isOn(vertex)) return RANK.loaded;
    const known = this.#known.get(vertex);
    if (known !== undefined) return known;
    this.#known.set(vertex, RANK.never);
    const rank = this.#ranked(vertex);
    this.#known.set(vertex, rank);
    return rank;
  }

  #ranked(vertex: Vertex): number {
    const graph = this.#graph;
    const word = graph.wordOf(vertex);
    const node = word && graph.netlist.nodes[word.node];
    if (!word || !node || node.op === 'reg') return RANK.never;
    if (node.op === 'mux' && word.bit < node.width) {
      const [condition, then, otherwise] = node.args;
      const sides = [graph.bit(then, word.bit), graph.bit(otherwise, word.bit)].map((one) => this.rank(one));
      return this.isOutside(condition) ? Math.max(...sides) : RANK.never;
    }
    if ((node.op === 'and' || node.op === 'or') && word.bit < node.width)
      return Math.max(...node.args.map((arg) => this.rank(graph.bit(arg, word.bit))));
    let least: number = RANK.loaded;
    graph.feeds(vertex, (from) => {
      least = Math.min(least, this.rank(from));
    });
    return least;
  }
}
