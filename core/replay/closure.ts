// Everything that follows from what is known, forwards.
import { intAt } from '../lists.ts';
import { type BitGraph, CONSTANT, type Vertex } from './bit-graph.ts';
import type { NamedSignal } from './design.ts';
import type { KnownClock, Region } from './region.ts';

/** What follows from each vertex at once, as lists in one array. */
interface Readers {
  readonly first: Int32Array;
  readonly list: Int32Array;
}

const made = new WeakMap<BitGraph, Readers>();

function readersOf(graph: BitGraph): Readers {
  const known = made.get(graph);
  if (known) return known;
  const first = new Int32Array(graph.size + 1);
  for (let v = 0; v < graph.size; v++)
    graph.feeds(v, (from) => {
      first[from + 1] = intAt(first, from + 1) + 1;
    });
  for (let v = 0; v < graph.size; v++) first[v + 1] = intAt(first, v + 1) + intAt(first, v);
  const list = new Int32Array(intAt(first, graph.size));
  const at = first.slice();
  for (let v = 0; v < graph.size; v++)
    graph.feeds(v, (from) => {
      const place = intAt(at, from);
      list[place] = v;
      at[from] = place + 1;
    });
  const readers = { first, list };
  made.set(graph, readers);
  return readers;
}

/**
 * 1 for each vertex that some way leads to from a place that nothing tells: what stands at the edge of the design and
 * is not recorded, registers of other clocks, and what `isLost` names.
 */
export function lostIn(
  region: Region,
  known: ReadonlySet<Vertex>,
  clocks?: readonly KnownClock[],
  isLost: (vertex: Vertex) => boolean = () => false,
): Uint8Array {
  const { graph } = region;
  const { first, list } = readersOf(graph);
  const lost = new Uint8Array(graph.size);
  const open: Vertex[] = [];
  const lose = (v: Vertex) => {
    if (lost[v] === 1 || known.has(v)) return;
    lost[v] = 1;
    open.push(v);
  };
  for (let v = 0; v < graph.size; v++) if (region.reasonOf(v, clocks) !== null || isLost(v)) lose(v);
  for (let v = open.pop(); v !== undefined; v = open.pop())
    for (let i = intAt(first, v); i < intAt(first, v + 1); i++) lose(intAt(list, i));
  return lost;
}

/** Signals of which every bit is computed from what is known, constants apart. */
export const followingFrom = (region: Region, lost: Uint8Array): NamedSignal[] =>
  region.design.signals.filter(({ node }) => {
    const bits = region.graph.bitsOf(node).filter((vertex) => vertex !== CONSTANT);
    return bits.length > 0 && bits.every((vertex) => lost[vertex] === 0);
  });
