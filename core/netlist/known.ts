import { item } from '../lists.ts';
import type { Netlist, NetNode, NodeId } from './types.ts';

/** What is known of a word: its least and greatest value, unsigned, and how many bits from the top are alike, at least 1. */
export interface Known {
  readonly width: number;
  readonly min: bigint;
  readonly max: bigint;
  readonly alike: number;
}

/** Numbers below it are counted in halves of 32 bits. */
const TWO_WORDS = 1n << 53n;

function bitsOf(value: bigint): number {
  if (value >= TWO_WORDS) return value.toString(2).length;
  const plain = Number(value);
  const high = Math.floor(plain / 2 ** 32);
  return high > 0 ? 64 - Math.clz32(high) : 32 - Math.clz32(plain);
}

/** Math.min and Math.max know no big numbers. */
export function larger(x: bigint, y: bigint): bigint {
  if (x < y) return y;
  return x;
}
export function smaller(x: bigint, y: bigint): bigint {
  if (y < x) return y;
  return x;
}

const TOPS: bigint[] = Array.from({ length: 129 }, (_, width) => (1n << BigInt(width)) - 1n);
const top = (width: number): bigint => TOPS[width] ?? (1n << BigInt(width)) - 1n;

/** Bits that a word needs without its zeros at the top. */
export const unsignedBits = ({ max }: Known): number => bitsOf(max);

/** Bits that a word needs with one copy of its sign. */
export const signedBits = ({ width, alike }: Known): number => width - alike + 1;

export const anything = (width: number): Known => ({ width, min: 0n, max: top(width), alike: 1 });

/** A range of a word; bits at the top that are alike follow from it where it says so. */
export function between(width: number, min: bigint, max: bigint, alike = 1): Known {
  const zeros = width - bitsOf(max);
  const ones = width - bitsOf(top(width) - min);
  return { width, min, max, alike: Math.max(1, Math.min(width, Math.max(alike, zeros, ones))) };
}

/** All that either of two says. */
export const hull = (x: Known, y: Known): Known =>
  between(
    x.width,
    smaller(x.min, y.min),
    larger(x.max, y.max),
    // A sign of ones and one of zeros are both signs.
    Math.min(x.alike, y.alike),
  );

/** What is known of a node from what is known of its arguments. A word that another one begins says nothing yet. */
export function knownOf(node: NetNode, of: (id: NodeId) => Known): Known {
  const { width } = node;
  const full = top(width);
  const arg = (i: number): Known => of(item<NodeId>(node.args, i));
  switch (node.op) {
    case 'const':
      return between(width, node.value, node.value);
    case 'not': {
      const { min, max, alike } = arg(0);
      return between(width, full - max, full - min, alike);
    }
    case 'and': {
      const [x, y] = [arg(0), arg(1)];
      return between(width, 0n, smaller(x.max, y.max), Math.min(x.alike, y.alike));
    }
    case 'or': {
      const [x, y] = [arg(0), arg(1)];
      const bits = Math.max(unsignedBits(x), unsignedBits(y));
      return between(width, larger(x.min, y.min), top(bits), Math.min(x.alike, y.alike));
    }
    case 'xor': {
      const [x, y] = [arg(0), arg(1)];
      return between(width, 0n, top(Math.max(unsignedBits(x), unsignedBits(y))), Math.min(x.alike, y.alike));
    }
    case 'eq':
    case 'ltu':
    case 'lts':
      return compared(node.op, arg(0), arg(1));
    case 'add':
    case 'sub':
    case 'mul':
      return arithmetic(node.op, arg(0), arg(1));
    case 'divu': {
      const [x, y] = [arg(0), arg(1)];
      return between(width, 0n, y.min > 0n ? x.max / y.min : full);
    }
    case 'modu': {
      const [x, y] = [arg(0), arg(1)];
      return between(width, 0n, y.min > 0n && y.max <= x.max ? y.max - 1n : x.max);
    }
    case 'shr': {
      const [x, { min }] = [arg(0), arg(1)];
      return between(width, 0n, x.max >> smaller(min, BigInt(width)));
    }
    case 'shl': {
      const [x, n] = [arg(0), arg(1)];
      return n.max < BigInt(width) && x.max << n.max <= full
        ? between(width, x.min << n.min, x.max << n.max)
        : anything(width);
    }
    case 'sra': {
      const { max, alike } = arg(0);
      return max <= full >> 1n ? between(width, 0n, max, alike) : { ...anything(width), alike };
    }
    case 'mux': {
      const { min, max } = arg(0);
      return min > 0n ? arg(1) : max === 0n ? arg(2) : hull(arg(1), arg(2));
    }
    case 'sext':
      return extended(width, arg(0));
    case 'slice':
      return cut(width, node.lo, arg(0));
    case 'concat':
      return joined(width, node.args.map(of));
    default:
      return anything(width);
  }
}

function compared(op: 'eq' | 'ltu' | 'lts', x: Known, y: Known): Known {
  const always = between(1, 1n, 1n);
  const never = between(1, 0n, 0n);
  const half = top(x.width) >> 1n;
  if (op === 'eq') {
    if (x.max < y.min || y.max < x.min) return never;
    return x.min === x.max && y.min === y.max ? always : anything(1);
  }
  // Where neither is negative, or both are, the order is the unsigned one.
  const isPlain = op === 'ltu' || (x.max <= half && y.max <= half) || (x.min > half && y.min > half);
  if (isPlain) return x.max < y.min ? always : x.min >= y.max ? never : anything(1);
  if (x.min > half && y.max <= half) return always;
  return x.max <= half && y.min > half ? never : anything(1);
}

function arithmetic(op: 'add' | 'sub' | 'mul', x: Known, y: Known): Known {
  const { width } = x;
  const full = top(width);
  const oneMore = Math.max(1, Math.min(x.alike, y.alike) - 1);
  if (op === 'add')
    return x.max + y.max <= full
      ? between(width, x.min + y.min, x.max + y.max, oneMore)
      : { ...anything(width), alike: oneMore };
  if (op === 'sub')
    return x.min >= y.max
      ? between(width, x.min - y.max, x.max - y.min, oneMore)
      : { ...anything(width), alike: oneMore };
  if (x.max * y.max <= full) return between(width, x.min * y.min, x.max * y.max);
  return { ...anything(width), alike: Math.max(1, width - signedBits(x) - signedBits(y) + 1) };
}

function extended(width: number, of: Known): Known {
  const alike = of.alike + width - of.width;
  const half = top(of.width) >> 1n;
  const added = top(width) - top(of.width);
  if (of.max <= half) return between(width, of.min, of.max, alike);
  return of.min > half ? between(width, of.min + added, of.max + added, alike) : { ...anything(width), alike };
}

function cut(width: number, lo: number, of: Known): Known {
  const alike = Math.max(1, of.alike - (of.width - lo - width));
  const max = of.max >> BigInt(lo);
  return max <= top(width)
    ? between(width, of.min >> BigInt(lo), max, alike)
    : { ...anything(width), alike: Math.min(width, alike) };
}

function joined(width: number, parts: readonly Known[]): Known {
  let [min, max, at] = [0n, 0n, 0n];
  for (const part of parts) {
    min |= part.min << at;
    max |= part.max << at;
    at += BigInt(part.width);
  }
  return between(width, min, max, parts.at(-1)?.alike ?? 1);
}

/** What is known of every node, given what is known of registers. */
export function allKnown(source: Netlist, registers: ReadonlyMap<NodeId, Known>): Known[] {
  const known: Known[] = [];
  for (const [id, node] of source.nodes.entries())
    known[id] = registers.get(id) ?? knownOf(node, (arg) => item(known, arg));
  return known;
}
