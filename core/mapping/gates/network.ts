import { numberAt } from '../../lists.ts';

/** A signal with a polarity: twice the node's number, plus one where it is inverted. */
export type Literal = number;

export const FALSE: Literal = 0;
export const TRUE: Literal = 1;

export const nodeOf = (literal: Literal): number => literal >> 1;
export const isInverted = (literal: Literal): boolean => (literal & 1) === 1;
export const inverted = (literal: Literal): Literal => literal ^ 1;

const CHAIN_LEVEL = 2;

export const KIND = { constant: 0, leaf: 1, and: 2, xor: 3, sum: 4, carry: 5 } as const;

/** One bit of a carry chain adds `a` and `b` to the carry from below. */
export interface ChainBit {
  readonly a: Literal;
  readonly b: Literal;
}

/** A row of additions along dedicated carry wiring. `sums[i]` and `out` are network nodes; -1 where nobody asks. */
export interface Chain {
  readonly bits: readonly ChainBit[];
  readonly carryIn: Literal;
  readonly sums: readonly number[];
  readonly out: number;
  readonly origin: number;
}

/**
 * Single-bit logic of two-input gates and carry chains, every node after what it depends on. Equal gates are made once.
 * `first` and `second` are literals of a gate's inputs; of a chain output its chain and bit.
 */
export class Network {
  readonly kind: number[] = [KIND.constant];
  readonly first: number[] = [0];
  readonly second: number[] = [0];
  /** Word-level node each bit was made for; its place in the sources is that node's. */
  readonly origin: number[] = [-1];
  readonly chains: Chain[] = [];
  /** Gates on the longest way to each node, a chain counted as two. */
  readonly #level: number[] = [0];
  readonly #known = new Map<number, Map<number, number>>();
  /** Word-level node that new gates are made for. */
  for = -1;

  levelOf(literal: Literal): number {
    return this.#level[nodeOf(literal)] ?? 0;
  }

  leaf(): Literal {
    return this.#add(KIND.leaf, 0, 0, 0) * 2;
  }

  and(x: Literal, y: Literal): Literal {
    if (x === FALSE || y === FALSE || x === inverted(y)) return FALSE;
    if (x === TRUE || x === y) return y;
    if (y === TRUE) return x;
    return this.#gate(KIND.and, x, y) * 2;
  }

  or(x: Literal, y: Literal): Literal {
    return inverted(this.and(inverted(x), inverted(y)));
  }

  xor(x: Literal, y: Literal): Literal {
    if (x <= TRUE) return x ^ y;
    if (y <= TRUE) return x ^ y;
    if (nodeOf(x) === nodeOf(y)) return x === y ? FALSE : TRUE;
    const flip = (x & 1) ^ (y & 1);
    return (this.#gate(KIND.xor, x & ~1, y & ~1) * 2) ^ flip;
  }

  mux(condition: Literal, then: Literal, otherwise: Literal): Literal {
    if (then === otherwise || condition === TRUE) return then;
    if (condition === FALSE) return otherwise;
    if (then === inverted(otherwise)) return this.xor(condition, otherwise);
    return this.or(this.and(condition, then), this.and(inverted(condition), otherwise));
  }

  /** A chain of additions, lowest bit first: its sums and, above them, the carry out. */
  chain(
    bits: readonly ChainBit[],
    carryIn: Literal,
    wanted: 'sums' | 'carry' | 'both',
  ): { sums: Literal[]; out: Literal } {
    const { sums, out } = this.#chain(bits, carryIn, {
      sums: bits.map(() => wanted !== 'carry'),
      out: wanted !== 'sums',
      origin: this.for,
    });
    return { sums: sums.map((node) => node * 2), out: out * 2 };
  }

  /** A chain with those of its outputs that another one has. */
  chainLike({ bits, carryIn, sums, out, origin }: Chain): Chain {
    return this.#chain(bits, carryIn, { sums: sums.map((sum) => sum >= 0), out: out >= 0, origin });
  }

  #chain(
    bits: readonly ChainBit[],
    carryIn: Literal,
    has: { readonly sums: readonly boolean[]; readonly out: boolean; readonly origin: number },
  ): Chain {
    const index = this.chains.length;
    const level = this.#levelAbove([carryIn, ...bits.flatMap(({ a, b }) => [a, b])], CHAIN_LEVEL);
    const sums = has.sums.map((is, i) => (is ? this.#add(KIND.sum, index, i, level) : -1));
    const out = has.out ? this.#add(KIND.carry, index, bits.length - 1, level) : -1;
    const made = { bits, carryIn, sums, out, origin: has.origin };
    this.chains.push(made);
    return made;
  }

  #levelAbove(literals: readonly Literal[], by: number): number {
    return literals.reduce((most, literal) => Math.max(most, this.levelOf(literal)), 0) + by;
  }

  #gate(kind: number, x: Literal, y: Literal): number {
    const [low, high] = x < y ? [x, y] : [y, x];
    const key = low * 2 + (kind === KIND.xor ? 1 : 0);
    let row = this.#known.get(key);
    if (!row) {
      row = new Map();
      this.#known.set(key, row);
    }
    let node = row.get(high);
    if (node === undefined) {
      node = this.#add(kind, low, high, this.#levelAbove([low, high], 1));
      row.set(high, node);
    }
    return node;
  }

  #add(kind: number, first: number, second: number, level: number): number {
    this.kind.push(kind);
    this.first.push(first);
    this.second.push(second);
    this.#level.push(level);
    return this.origin.push(this.for) - 1;
  }
}

export const isGate = (kind: number | undefined): boolean => kind === KIND.and || kind === KIND.xor;
export const isChain = (kind: number | undefined): boolean => kind === KIND.sum || kind === KIND.carry;

/** Nodes that a node is computed from; of a chain output, what the whole chain takes. */
export function inputsOf({ kind, first, second, chains }: Network, node: number): number[] {
  if (isGate(kind[node])) return [nodeOf(numberAt(first, node)), nodeOf(numberAt(second, node))];
  const chain = isChain(kind[node]) ? chains[numberAt(first, node)] : undefined;
  return chain ? [nodeOf(chain.carryIn), ...chain.bits.flatMap(({ a, b }) => [nodeOf(a), nodeOf(b)])] : [];
}
