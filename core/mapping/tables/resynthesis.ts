import { item, numberAt, wordAt } from '../../lists.ts';
import { TableGraph } from './graph.ts';
import { LEVEL, type TableNet } from './net.ts';
import {
  conflicts,
  determine,
  separateBoth,
  separates,
  tableOf,
  twoTables,
  type Wanted,
  wantedOf,
} from './separate.ts';
import { type KnownBits, type Window, windowAround } from './window.ts';
import { agree, inputValues, oppose, tableValues, type Values, wordsFor } from './words.ts';

/** Times that all tables are looked at, as long as something is found. */
const SWEEPS = { small: 6, large: 2 } as const;
const SMALL = 400;
/** Nodes that are tried in pairs. */
const MOST_PAIRED = 16;
/** Nodes of a piece that has the time for what is found seldom. */
const MOST_NODES = 1000;
/** Inputs of logic that is tried as two tables. */
const MOST_INPUTS = 7;
/** Leaves of logic of which another node may stand for some. */
const MOST_LEAVES = 8;

/**
 * Makes tables fewer without making the longest way longer. In a window around each table, where all values of the
 * window's inputs are known: the table is given other nodes that are there anyway in place of those that are there for
 * it alone, or what three tables and more compute is computed by two.
 *
 * @source resubstitution with don't-cares, as in the literature on logic optimization of mapped networks (common
 * practice)
 */
export function resynthesise(net: TableNet, facts: readonly KnownBits[]): void {
  const graph = new TableGraph(net);
  const factsOf = new Map<number, KnownBits[]>();
  for (const fact of facts)
    for (const node of fact.nodes) if (node >= 0) factsOf.set(node, [...(factsOf.get(node) ?? []), fact]);
  let order = graph.refresh();
  const sweeps = order.length < SMALL ? SWEEPS.small : SWEEPS.large;
  for (let sweep = 0; sweep < sweeps; sweep++) {
    let found = 0;
    for (const node of order) if (graph.isTable(node) && graph.uses(node) > 0 && improve(graph, node, factsOf)) found++;
    if (found === 0) return;
    order = graph.refresh();
    order.reverse();
    if (sweep % 2 === 1) order.reverse();
  }
}

function improve(graph: TableGraph, node: number, factsOf: ReadonlyMap<number, readonly KnownBits[]>): boolean {
  const cone = graph.cone(node);
  const window = windowAround(graph, node, factsOf);
  return (
    same(graph, node, window) ||
    (cone.length > 1 && others(graph, node, window)) ||
    fewer(graph, node, window) ||
    (cone.length > 2 && twoInPlace(graph, node, cone, window))
  );
}

/** Something that is there already, or a constant, in place of the table. */
function same(graph: TableGraph, node: number, { values, care, beside, words }: Window): boolean {
  const own = valuesOf(values, node);
  const zero = new Uint32Array(words);
  if (agree(own, zero, care) || oppose(own, zero, care)) {
    graph.replace(node, agree(own, zero, care) ? 0 : 1);
    return true;
  }
  for (const other of beside) {
    if (numberAt(graph.arrival, other) > numberAt(graph.required, node)) continue;
    const is = agree(own, valuesOf(values, other), care);
    if (!is && !oppose(own, valuesOf(values, other), care)) continue;
    graph.replace(node, other * 2 + (is ? 0 : 1));
    return true;
  }
  return false;
}

/** Without one of its inputs. */
function fewer(graph: TableGraph, node: number, window: Window): boolean {
  const inputs = graph.inputs(node);
  const wanted = wantedOf(valuesOf(window.values, node), window.care);
  for (const input of inputs) {
    const rest = inputs.filter((other) => other !== input);
    if (!determine(wanted, valuesOfAll(window, rest))) continue;
    put(graph, node, window, rest);
    return true;
  }
  return false;
}

/** Other nodes in place of inputs that are there for it alone. */
function others(graph: TableGraph, node: number, window: Window): boolean {
  const inputs = graph.inputs(node);
  const wanted = wantedOf(valuesOf(window.values, node), window.care);
  const latest = numberAt(graph.required, node) - LEVEL.table;
  const alone = inputs.filter((input) => graph.isTable(input) && graph.uses(input) === 1);
  const gone: readonly (readonly number[])[] = [
    ...(alone.length > 1 ? alone.flatMap((x, i) => alone.slice(i + 1).map((y) => [x, y])) : []),
    ...alone.map((one) => [one]),
  ];
  for (const without of gone) {
    const rest = inputs.filter((input) => !without.includes(input));
    const parts = conflicts(wanted, valuesOfAll(window, rest));
    if (parts.length === 0) {
      put(graph, node, window, rest);
      return true;
    }
    const free = window.beside.filter((other) => !inputs.includes(other) && numberAt(graph.arrival, other) <= latest);
    for (const one of free)
      if (separates(parts, valuesOf(window.values, one)) && graph.saved(node, [...rest, one]) > 0) {
        put(graph, node, window, [...rest, one]);
        return true;
      }
    if (rest.length > 2) continue;
    const some = free.slice(0, MOST_PAIRED);
    for (const [i, x] of some.entries())
      for (const y of some.slice(i + 1))
        if (
          separateBoth(parts, valuesOf(window.values, x), valuesOf(window.values, y)) &&
          graph.saved(node, [...rest, x, y]) > 0
        ) {
          put(graph, node, window, [...rest, x, y]);
          return true;
        }
  }
  return false;
}

function put(graph: TableGraph, node: number, window: Window, inputs: readonly number[]): void {
  const { on } = wantedOf(valuesOf(window.values, node), window.care);
  graph.change(node, inputs, tableOf(on, valuesOfAll(window, inputs)));
}

/** What three tables or more compute, in two. */
function twoInPlace(graph: TableGraph, node: number, cone: readonly number[], window: Window): boolean {
  for (const part of parts(graph, node, cone)) {
    const leaves = leavesOf(graph, part);
    if (leaves.length > MOST_LEAVES || leaves.length <= 4) continue;
    const values = coneValues(graph, leaves);
    const own = wantedOf(values.of(node), new Uint32Array(wordsFor(leaves.length)).fill(0xffffffff));
    if (leaves.length <= MOST_INPUTS && inTwo(graph, node, own, leaves)) return true;
    if (
      graph.net.kind.length < MOST_NODES &&
      throughOther(graph, node, part, { leaves, values: values.of, own, window })
    )
      return true;
  }
  return false;
}

/** Puts two tables in the place of one and those before it. */
function inTwo(graph: TableGraph, node: number, wanted: Wanted, inputs: readonly number[]): boolean {
  const latest = numberAt(graph.required, node);
  const named = (places: readonly number[]) => places.map((place) => numberAt(inputs, place));
  const accepts = (inner: readonly number[], outer: readonly number[]) =>
    Math.max(graph.above(named(inner)), ...named(outer).map((at) => numberAt(graph.arrival, at))) + LEVEL.table <=
    latest;
  const found = twoTables(wanted, inputs.length, accepts);
  if (!found) return false;
  const inner = graph.add(named(found.inner), found.innerTruth, numberAt(graph.net.madeFor, node));
  graph.change(node, [inner, ...named(found.outer)], found.outerTruth);
  return true;
}

interface Cone {
  readonly leaves: readonly number[];
  readonly values: (node: number) => Values;
  readonly own: Wanted;
  readonly window: Window;
}

/** The same with another node of the same leaves in the place of some of them. */
function throughOther(
  graph: TableGraph,
  node: number,
  part: readonly number[],
  { leaves, values, own, window }: Cone,
): boolean {
  for (const other of window.beside) {
    if (!graph.isTable(other) || part.includes(other)) continue;
    if (!graph.inputs(other).every((input) => leaves.includes(input))) continue;
    let kept = [...leaves];
    const all = () => [...kept, other].map(values);
    for (const leaf of graph.inputs(other)) {
      const before = kept;
      kept = kept.filter((one) => one !== leaf);
      if (!determine(own, all())) kept = before;
    }
    if (kept.length + 1 >= leaves.length || kept.length + 1 > MOST_INPUTS || kept.length < 4) continue;
    const inputs = [...kept, other];
    if (inTwo(graph, node, over(own, inputs.map(values), inputs.length), inputs)) return true;
  }
  return false;
}

/** A function over other inputs, which tell its values apart. */
function over({ on, off }: Wanted, inputs: readonly Values[], count: number): Wanted {
  const made = { on: new Uint32Array(wordsFor(count)), off: new Uint32Array(wordsFor(count)) };
  for (let at = 0; at < on.length * 32; at++) {
    const bit = (of: Values) => (wordAt(of, at >> 5) >>> (at & 31)) & 1;
    const place = inputs.reduce((sum, of, k) => sum | (bit(of) << k), 0);
    for (const side of ['on', 'off'] as const)
      if (bit(side === 'on' ? on : off)) made[side][place >> 5] = wordAt(made[side], place >> 5) | (1 << (place & 31));
  }
  return made;
}

/** A table with two or three of those that are there for it alone, hanging together. */
function parts(graph: TableGraph, node: number, cone: readonly number[]): number[][] {
  const within = new Set(cone);
  const below = (part: readonly number[]) => [
    ...new Set(part.flatMap((at) => graph.inputs(at)).filter((at) => within.has(at) && !part.includes(at))),
  ];
  const three = below([node]).flatMap((x) => below([node, x]).map((y) => [node, x, y]));
  const four = three.flatMap((part) => below(part).map((z) => [...part, z]));
  const known = new Set<string>();
  return [...four, ...three].filter((part) => {
    const key = [...part].sort((x, y) => x - y).join(',');
    if (known.has(key)) return false;
    known.add(key);
    // What is left of the cone needs none of them.
    return part.every(
      (at) => at === node || (item(graph.users, at).every((user) => part.includes(user)) && graph.rootUses[at] === 0),
    );
  });
}

const leavesOf = (graph: TableGraph, part: readonly number[]): number[] => [
  ...new Set(part.flatMap((at) => graph.inputs(at)).filter((at) => !part.includes(at))),
];

/** Values of a cone's nodes, and of what else is made of the same leaves. */
function coneValues(graph: TableGraph, leaves: readonly number[]): { of: (node: number) => Values } {
  const words = wordsFor(leaves.length);
  const known = new Map<number, Values>(leaves.map((leaf, i) => [leaf, inputValues(i, leaves.length)]));
  const of = (at: number): Values => {
    const have = known.get(at);
    if (have) return have;
    const made = tableValues(numberAt(graph.net.truth, at), graph.inputs(at).map(of), words);
    known.set(at, made);
    return made;
  };
  return { of };
}

function valuesOf(values: ReadonlyMap<number, Values>, node: number): Values {
  const found = values.get(node);
  if (!found) throw new RangeError(`node ${node} is not in the window`);
  return found;
}

const valuesOfAll = ({ values }: Window, nodes: readonly number[]): Values[] =>
  nodes.map((node) => valuesOf(values, node));
