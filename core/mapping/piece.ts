import { item, numberAt } from '../lists.ts';
import { balanced, type Literal, unchained, type Network, nodeOf } from './gates/index.ts';
import {
  arrivalsOf,
  type Cell,
  type KnownBits,
  cover,
  LEVEL,
  NODE,
  resynthesise,
  rewritten,
  SHORT_WAY,
  type TableNet,
} from './tables/index.ts';

/** A table or a chain of a mapped piece, after all that it depends on. */
type Part =
  | { readonly kind: 'table'; readonly inputs: readonly number[]; readonly truth: number; readonly madeFor: number }
  | {
      readonly kind: 'chain';
      readonly cells: readonly Cell[];
      readonly carryIn: Literal;
      readonly sums: readonly boolean[];
      readonly out: boolean;
      readonly source: number;
    };

/**
 * One piece of logic as tables and chains. Numbers: 0 is the constant, then the piece's leaves by their own numbers,
 * and from `first` on what the parts give, one number for a table, one for each output of a chain. `roots` are beside those
 * that were asked for.
 */
export interface MappedPiece {
  readonly parts: readonly Part[];
  readonly first: number;
  readonly roots: readonly Literal[];
  readonly depth: number;
}

/** Maps one piece of logic, in several ways where it is small; the best of them is taken. */
export function mapPiece(network: Network, roots: readonly Literal[], facts: readonly KnownBits[]): MappedPiece {
  const least = new Set(roots.map(nodeOf)).size;
  let best: MappedPiece | null = null;
  for (const { gates, inputs } of waysTo(network, roots)) {
    const net = cover(gates.network, gates.roots, inputs);
    resynthesise(net, inNet(net, facts));
    const one = packed(net, network.kind.length);
    if (best === null || compare(one, best) < 0) best = one;
    // A table for each root is the least there can be.
    if (tablesOf(best) <= least && best.depth <= SHORT_WAY / LEVEL.table) break;
  }
  if (best === null) throw new RangeError('nothing was tried');
  return best;
}

/** The same facts by the numbers that leaves have in a net; gates made anew have given them others. */
function inNet({ kind, madeFor }: TableNet, facts: readonly KnownBits[]): KnownBits[] {
  const place = new Map<number, number>();
  for (const [node, is] of kind.entries()) if (node > 0 && is === NODE.leaf) place.set(numberAt(madeFor, node), node);
  return facts.map(({ nodes, values }) => ({ nodes: nodes.map((node) => place.get(node) ?? -1), values }));
}

/** First whether it takes too long, then tables, then the longest way. */
function compare(x: MappedPiece, y: MappedPiece): number {
  const late = ({ depth }: MappedPiece) => Math.max(depth, SHORT_WAY / LEVEL.table);
  return late(x) - late(y) || tablesOf(x) - tablesOf(y) || x.depth - y.depth;
}

interface Gates {
  readonly network: Network;
  readonly roots: readonly Literal[];
}

interface Way {
  readonly gates: Gates;
  /** Most inputs of a table at first: what is covered by smaller ones is put together better at times. */
  readonly inputs: number;
}

/** Gates of pieces that are mapped in all ways, in several, and in more than one. */
const EFFORT = { all: 60, several: 160, some: 500 } as const;
/** Bits of a chain that is tried as gates too. */
const SHORT_CHAIN = 8;

/** Ways to map a piece, one made when it is asked for: as it is, rewritten once and twice, its short chains as gates. */
function* waysTo(network: Network, roots: readonly Literal[]): Generator<Way> {
  const size = network.kind.length;
  const plain = { network, roots };
  yield { gates: plain, inputs: 4 };
  if (size > EFFORT.some) return;
  const once = rewrittenAnd(plain);
  yield { gates: once, inputs: 4 };
  if (size > EFFORT.several) return;
  yield { gates: plain, inputs: 3 };
  const open = unchained(network, roots, SHORT_CHAIN);
  if (open !== null) {
    yield { gates: open, inputs: 4 };
    yield { gates: rewrittenAnd(open), inputs: 4 };
  }
  if (size > EFFORT.all) return;
  yield { gates: once, inputs: 3 };
  yield { gates: rewrittenAnd(once), inputs: 4 };
  if (open !== null) yield { gates: open, inputs: 3 };
}

function rewrittenAnd({ network, roots }: Gates): Gates {
  const fewer = rewritten(network, roots);
  return balanced(fewer.network, fewer.roots);
}

export const tablesOf = ({ parts }: MappedPiece): number =>
  parts.reduce((sum, part) => sum + (part.kind === 'table' ? 1 : part.cells.length), 0);

function packed(net: TableNet, first: number): MappedPiece {
  const order = net.ordered();
  const arrival = arrivalsOf(net, order);
  const number = new Map<number, number>();
  let next = first;
  const parts: Part[] = [];
  // What was not made here is a leaf, by the number it was given at first.
  const moved = (node: number): number => number.get(node) ?? Math.max(0, numberAt(net.madeFor, node));
  const literal = (from: Literal): Literal => moved(nodeOf(from)) * 2 + (from & 1);
  for (const node of order) {
    if (number.has(node)) continue;
    if (net.kind[node] === NODE.table) {
      parts.push({
        kind: 'table',
        inputs: item(net.inputs, node).map(moved),
        truth: numberAt(net.truth, node),
        madeFor: numberAt(net.madeFor, node),
      });
      number.set(node, next++);
      continue;
    }
    const { cells, carryIn, sums, out, source } = item(net.chains, numberAt(net.chainOf, node));
    parts.push({
      kind: 'chain',
      cells: cells.map((cell) => ({ ...cell, inputs: cell.inputs.map(moved) })),
      carryIn: literal(carryIn),
      sums: sums.map((sum) => sum >= 0),
      out: out >= 0,
      source,
    });
    for (const sum of [...sums, out]) if (sum >= 0) number.set(sum, next++);
  }
  const latest = net.roots.reduce((most, root) => Math.max(most, item(arrival, nodeOf(root))), 0);
  return { parts, first, roots: net.roots.map(literal), depth: Math.ceil(latest / LEVEL.table) };
}
