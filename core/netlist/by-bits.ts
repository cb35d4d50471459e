import { item } from '../lists.ts';
import { NetBuilder } from './builder.ts';
import { roundsIn } from './components.ts';
import type { BinaryOp, Netlist, NetNode, NodeId } from './types.ts';

/** A product or a shift of wider words stays one: its bits would be too many. */
const WIDEST_PRODUCT = 32;
const WIDEST_WORD = 4096;

/**
 * The same netlist in which every word that decides itself is written bit by bit, so that only what bits really feed
 * one another is a loop: in `q = {q[2:0], 1'b0} ^ a` none does. Words keep their numbers. What needs all bits of its
 * arguments for each of its own (a comparison, a quotient) stays as it is.
 */
export function byBits(source: Netlist): Netlist {
  const netlist: Netlist = { ...source, nodes: [...source.nodes], origins: [...source.origins] };
  const build = new NetBuilder(netlist);
  const written = new Map<NodeId, readonly NodeId[]>();
  for (const round of roundsIn(source))
    for (const id of round) {
      build.origin = source.origins[id];
      const bits = bitsOf(build, item(source.nodes, id));
      if (bits) written.set(id, bits);
    }
  // Only when all are written: what is sliced meanwhile is the word as it was.
  for (const [id, args] of written) {
    const { width } = item(source.nodes, id);
    netlist.nodes[id] = { op: 'concat', width, args };
  }
  return netlist;
}

/** The bits of a word from the bits of its arguments, lowest first; null where it is left as it is. */
function bitsOf(build: NetBuilder, node: NetNode): readonly NodeId[] | null {
  const { width } = node;
  if (width === 1 || width > WIDEST_WORD) return null;
  const bit = (id: NodeId, i: number) => build.slice(id, i, 1);
  const each = (make: (i: number) => NodeId) => Array.from({ length: width }, (_, i) => make(i));
  switch (node.op) {
    case 'not':
      return each((i) => build.not(bit(node.args[0], i)));
    case 'and':
    case 'or':
    case 'xor': {
      const [a, b] = node.args;
      const { op } = node;
      return each((i) => build[op](bit(a, i), bit(b, i)));
    }
    case 'mux': {
      const [condition, then, otherwise] = node.args;
      return each((i) => build.mux(condition, bit(then, i), bit(otherwise, i)));
    }
    case 'sext': {
      const [a] = node.args;
      const last = build.width(a) - 1;
      return each((i) => bit(a, Math.min(i, last)));
    }
    case 'add':
    case 'sub':
      return sumBits(
        build,
        each((i) => bit(node.args[0], i)),
        each((i) => (node.op === 'sub' ? build.not(bit(node.args[1], i)) : bit(node.args[1], i))),
        build.constant(node.op === 'sub' ? 1n : 0n, 1),
      );
    case 'mul':
      return width > WIDEST_PRODUCT ? null : productBits(build, node.args, width);
    case 'shl':
    case 'shr':
    case 'sra':
      return shiftedBits(build, node.op, node.args, width);
    default:
      return null;
  }
}

/** A sum bit by bit; bit i needs the bits up to i alone. */
function sumBits(build: NetBuilder, a: readonly NodeId[], b: readonly NodeId[], carryIn: NodeId): NodeId[] {
  let carry = carryIn;
  return a.map((x, i) => {
    const y = item(b, i);
    const half = build.xor(x, y);
    const sum = build.xor(half, carry);
    carry = build.or(build.and(x, y), build.and(half, carry));
    return sum;
  });
}

/** A product as the sum of the first word at each bit of the second. */
function productBits(build: NetBuilder, [a, b]: readonly [NodeId, NodeId], width: number): NodeId[] {
  const zero = build.constant(0n, 1);
  let total = Array.from({ length: width }, () => zero);
  for (let shift = 0; shift < width; shift++) {
    const digit = build.slice(b, shift, 1);
    const row = Array.from({ length: width }, (_, i) =>
      i < shift ? zero : build.and(digit, build.slice(a, i - shift, 1)),
    );
    total = sumBits(build, total, row, zero);
  }
  return total;
}

/** A shift as one choice for each bit of its amount. */
function shiftedBits(
  build: NetBuilder,
  op: BinaryOp & ('shl' | 'shr' | 'sra'),
  [value, by]: readonly [NodeId, NodeId],
  width: number,
): NodeId[] {
  const zero = build.constant(0n, 1);
  const fill = op === 'sra' ? build.slice(value, width - 1, 1) : zero;
  let bits = Array.from({ length: width }, (_, i) => build.slice(value, i, 1));
  for (let k = 0; k < build.width(by); k++) {
    const digit = build.slice(by, k, 1);
    const far = k >= 31 ? width : Math.min(width, 2 ** k);
    const from = bits;
    bits = from.map((bit, i) => build.mux(digit, from[op === 'shl' ? i - far : i + far] ?? fill, bit));
  }
  return bits;
}
