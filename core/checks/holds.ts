import { item } from '../lists.ts';
import {
  evaluateConstant,
  lowBitOf,
  type Netlist,
  type NetNode,
  type NodeId,
  type Register,
} from '../netlist/index.ts';

/**
 * A value of one signal that by itself keeps another one still: an enable that is 0, a reset that is 1. `name` is the
 * signal, `value` decimal; `at` is the value it holds the other one at, decimal, or null where that keeps whatever it
 * had.
 */
export interface Hold {
  readonly name: string;
  readonly value: string;
  readonly at: string | null;
}

/** Signals of more bits than this are not tried value by value. */
const MOST_TRIED_BITS = 3;
/** Nodes that are followed for one try; a longer way is not told. */
const MOST_NODES = 300;

/**
 * One bit of a word while a source is held: known, or the same bit of the register that is asked about, or neither.
 * `cleared` where something else, such as a synchronous reset before an enable, may set it to a constant instead.
 */
type Bit = 0 | 1 | typeof OPEN | { readonly own: number; readonly cleared?: true };
const OPEN = 'open';

/**
 * Values of `sources` (registers and inputs) that by themselves hold a node: what it is computed from, or for a
 * register what it takes next.
 */
export function holdsOf(
  netlist: Netlist,
  target: NodeId,
  register: Register | null,
  sources: readonly NodeId[],
  nameOf: (node: NodeId) => string,
): Hold[] {
  return sources.flatMap((source) => {
    const { width } = item(netlist.nodes, source);
    if (width > MOST_TRIED_BITS) return [];
    return Array.from({ length: 2 ** width }, (_, value) => value).flatMap((value): Hold[] => {
      const hold = (at: string | null) => [{ name: nameOf(source), value: String(value), at }];
      if (
        register &&
        register.reset !== null &&
        register.load === null &&
        wordOf(bitsWith(netlist, register.reset, register.node, source, value)) === 1n
      )
        return hold(String(register.resetValue));
      const next = bitsWith(netlist, register ? register.d : target, register?.node ?? null, source, value);
      if (next === null) return [];
      if (next.every((bit, i) => typeof bit === 'object' && bit.own === i)) return hold(null);
      const word = wordOf(next);
      return word === null ? [] : hold(String(word));
    });
  });
}

function wordOf(bits: readonly Bit[] | null): bigint | null {
  if (bits === null) return null;
  let word = 0n;
  for (const [i, bit] of bits.entries()) {
    if (bit !== 0 && bit !== 1) return null;
    word |= BigInt(bit) << BigInt(i);
  }
  return word;
}

const digitsOf = (word: bigint, width: number): Bit[] =>
  Array.from({ length: width }, (_, i) => (((word >> BigInt(i)) & 1n) === 1n ? 1 : 0));

/** A node's bits while one source has a value and nothing else is known; null when the way is too long. */
function bitsWith(
  netlist: Netlist,
  target: NodeId,
  own: NodeId | null,
  source: NodeId,
  value: number,
): readonly Bit[] | null {
  const known = new Map<NodeId, readonly Bit[]>();
  const bitsOf = (id: NodeId): readonly Bit[] => {
    const found = known.get(id);
    if (found) return found;
    if (known.size > MOST_NODES) throw TOO_LONG;
    const node = item(netlist.nodes, id);
    // Set first, so that a way that leads back to itself ends.
    known.set(id, Array<Bit>(node.width).fill(OPEN));
    const bits =
      id === source
        ? digitsOf(BigInt(value), node.width)
        : id === own
          ? Array.from({ length: node.width }, (_, i): Bit => ({ own: i }))
          : computed(node, bitsOf);
    known.set(id, bits);
    return bits;
  };
  try {
    return bitsOf(target);
  } catch (error) {
    if (error === TOO_LONG) return null;
    throw error;
  }
}

const TOO_LONG = Symbol('too long');

const sameBit = (a: Bit, b: Bit): boolean =>
  a === b || (typeof a === 'object' && typeof b === 'object' && a.own === b.own);

/** What is known of a bit that is one or the other. */
function either(a: Bit, b: Bit): Bit {
  if (a === OPEN || b === OPEN) return OPEN;
  if (typeof a === 'object' && typeof b === 'object') return a.own !== b.own ? OPEN : a.cleared ? a : b;
  if (typeof a === 'object') return { own: a.own, cleared: true };
  if (typeof b === 'object') return { own: b.own, cleared: true };
  return a === b ? a : OPEN;
}

function computed(node: NetNode, bitsOf: (id: NodeId) => readonly Bit[]): readonly Bit[] {
  const { op, width } = node;
  const open = () => Array<Bit>(width).fill(OPEN);
  switch (node.op) {
    case 'const':
      return digitsOf(node.value, width);
    case 'input':
    case 'reg':
    case 'memread':
      return open();
    case 'slice':
      return bitsOf(node.args[0]).slice(node.lo, node.lo + width);
    case 'concat':
      return node.args.flatMap((arg) => [...bitsOf(arg)]);
    case 'mux': {
      const [choice, ...sides] = node.args;
      const [condition = OPEN] = bitsOf(choice);
      const [then, otherwise] = [bitsOf(sides[0]), bitsOf(sides[1])];
      if (condition === 1 || condition === 0) return condition === 1 ? then : otherwise;
      return then.map((bit, i) => either(bit, item(otherwise, i)));
    }
    case 'and':
    case 'or': {
      const rules = op === 'and' ? 0 : 1;
      return node.args
        .map(bitsOf)
        .reduce((a, b) =>
          a.map(
            (bit, i): Bit =>
              bit === rules || b[i] === rules
                ? rules
                : bit === 1 - rules
                  ? item(b, i)
                  : b[i] === 1 - rules || sameBit(bit, item(b, i))
                    ? bit
                    : OPEN,
          ),
        );
    }
    case 'wire': {
      const [driver] = node.args;
      return driver === undefined ? open() : bitsOf(driver);
    }
    default: {
      const words = node.args.map(bitsOf);
      // Nothing added to a word leaves it as it is.
      if (op === 'add' || op === 'sub' || op === 'xor') {
        const [a = [], b = []] = words;
        if (b.every((bit) => bit === 0)) return a;
        if (op !== 'sub' && a.every((bit) => bit === 0)) return b;
      }
      if (
        op === 'eq' &&
        (words[0] ?? []).some(
          (bit, i) => typeof bit === 'number' && typeof words[1]?.[i] === 'number' && bit !== words[1]?.[i],
        )
      )
        return [0];
      const values = words.map(wordOf);
      if (values.some((one) => one === null)) return open();
      return digitsOf(
        evaluateConstant(
          node.op,
          width,
          values as bigint[],
          words.map(({ length }) => length),
          lowBitOf(node),
        ),
        width,
      );
    }
  }
}
