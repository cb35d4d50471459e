import { item } from '../lists.ts';
import { FALSE, inverted, type Literal, type Network, TRUE } from './gates/index.ts';

/** Bits of a word, lowest first. */
export type Bits = readonly Literal[];

/** Two operands of one place. */
interface Pair {
  readonly a: Literal;
  readonly b: Literal;
}

/** Additions of two signals shorter than this are cheaper as gates. */
const SHORTEST_CHAIN = 3;
/** Signals that a sum with a constant may have to be made of gates: as many as a table has inputs. */
const SHORT_WITH_CONSTANT = 4;
/** The same for a comparison, which takes three more signals with each further table. */
const SHORT_COMPARISON = 12;
/** Bits of an operand that fit into one table of a chain. */
const RUN = 3;

const isConstant = (literal: Literal): boolean => literal <= TRUE;

function add(network: Network, a: Bits, b: Bits, carryIn: Literal = FALSE): Literal[] {
  return summed(network, paired(a, b), carryIn).sums;
}

export const subtract = (network: Network, a: Bits, b: Bits): Literal[] => add(network, a, b.map(inverted), TRUE);

const paired = (a: Bits, b: Bits): Pair[] => a.map((bit, i) => ({ a: bit, b: item(b, i) }));

/**
 * Sums and the carry out of them. Nothing is added below the first place where both operands have something, nor above
 * the last one where either is a signal: there the carry goes through constants.
 */
function summed(network: Network, pairs: readonly Pair[], carryIn: Literal): { sums: Literal[]; out: Literal } {
  const sums: Literal[] = [];
  let carry = carryIn;
  let from = 0;
  for (const { a, b } of pairs) {
    if (!isConstant(carry) || (a !== carry && b !== carry)) break;
    // One operand is as the carry is: the carry stays, and the other operand is the sum.
    sums.push(a === carry ? b : a);
    from++;
  }
  let to = pairs.length;
  while (to > from && isConstant(item(pairs, to - 1).a) && isConstant(item(pairs, to - 1).b)) to--;
  const middle = pairs.slice(from, to);
  if (middle.length > 0) {
    const done = added(network, middle, carry, to < pairs.length);
    sums.push(...done.sums);
    carry = done.out;
  }
  for (const { a, b } of pairs.slice(to)) {
    sums.push(network.xor(network.xor(a, b), carry));
    if (a === b) carry = a;
  }
  return { sums, out: carry };
}

function added(
  network: Network,
  pairs: readonly Pair[],
  carryIn: Literal,
  wantsCarry: boolean,
): { sums: Literal[]; out: Literal } {
  const signals = pairs.filter(({ a, b }) => !isConstant(a) || !isConstant(b)).length;
  const withConstant = pairs.every(({ a, b }) => isConstant(a) || isConstant(b)) && isConstant(carryIn);
  if (withConstant ? signals <= SHORT_WITH_CONSTANT : pairs.length < SHORTEST_CHAIN)
    return ripple(network, pairs, carryIn);
  return network.chain(pairs, carryIn, wantsCarry ? 'both' : 'sums');
}

function ripple(network: Network, pairs: readonly Pair[], carryIn: Literal): { sums: Literal[]; out: Literal } {
  let carry = carryIn;
  const sums = pairs.map(({ a, b }) => {
    const half = network.xor(a, b);
    const sum = network.xor(half, carry);
    carry = network.or(network.and(a, b), network.and(half, carry));
    return sum;
  });
  return { sums, out: carry };
}

/** 1 where a is less than b, both unsigned: no carry comes out of a - b. */
export function less(network: Network, a: Bits, b: Bits): Literal {
  let pairs = paired(a, b.map(inverted));
  let carry: Literal = TRUE;
  // From the top, constants decide or leave it to those below; from the bottom, they make the carry.
  while (
    pairs.length > 0 &&
    isConstant(item(pairs, pairs.length - 1).a) &&
    isConstant(item(pairs, pairs.length - 1).b)
  ) {
    const { a: x, b: y } = item(pairs, pairs.length - 1);
    if (x === y) return inverted(x);
    pairs = pairs.slice(0, -1);
  }
  let from = 0;
  for (const { a: x, b: y } of pairs) {
    if (x === inverted(y)) from++;
    else if (x === carry || y === carry) {
      if (!isConstant(x) || !isConstant(y)) {
        // One operand is as the carry: the carry is that whatever the other one is.
        from++;
      } else break;
    } else break;
  }
  pairs = pairs.slice(from);
  const constant = pairs.every(({ a: x, b: y }) => isConstant(x) || isConstant(y));
  if (constant ? pairs.length <= SHORT_COMPARISON : pairs.length < SHORTEST_CHAIN) {
    for (const { a: x, b: y } of pairs) carry = majority(network, x, y, carry);
    return inverted(carry);
  }
  const cells = runsOf(network, pairs);
  return inverted(network.chain(cells, carry, 'carry').out);
}

function majority(network: Network, a: Literal, b: Literal, c: Literal): Literal {
  if (isConstant(a)) return a === TRUE ? network.or(b, c) : network.and(b, c);
  if (isConstant(b)) return b === TRUE ? network.or(a, c) : network.and(a, c);
  return network.or(network.and(a, b), network.and(network.or(a, b), c));
}

/** Neighbours beside the same constant as one bit: only whether the carry passes all of them matters. */
function runsOf(network: Network, pairs: readonly Pair[]): Pair[] {
  const cells: Pair[] = [];
  let length = 0;
  for (const pair of pairs) {
    const { signal, constant } = isConstant(pair.a)
      ? { signal: pair.b, constant: pair.a }
      : { signal: pair.a, constant: pair.b };
    const before = cells.at(-1);
    if (isConstant(constant) && before && before.b === constant && length < RUN) {
      // Passing is: the signal differs from the constant.
      const joined = constant === FALSE ? network.and(before.a, signal) : network.or(before.a, signal);
      cells[cells.length - 1] = { a: joined, b: constant };
      length++;
      continue;
    }
    cells.push(isConstant(constant) ? { a: signal, b: constant } : pair);
    length = isConstant(constant) ? 1 : RUN;
  }
  return cells;
}

/**
 * Several words added, each as wide as the sum. Columns of many bits are brought down by full adders where that takes
 * fewer tables than adding one word after another; what is there soonest is added first.
 *
 * @source carry-save addition of C. S. Wallace, 1964 (common practice)
 */
export function addAll(network: Network, words: readonly Bits[]): Literal[] {
  const width = item(words, 0).length;
  const columns: Literal[][] = Array.from({ length: width }, (_, i) =>
    words.map((word) => item(word, i)).filter((bit) => bit !== FALSE),
  );
  // One bit alone goes in as the carry of the last sum.
  const single = words.findIndex((word) => !isConstant(item(word, 0)) && word.slice(1).every((bit) => bit === FALSE));
  const rest = words.filter((_, i) => i !== single);
  const tables = fullAdders(columns.map((column) => column.length));
  if (single >= 0 && rest.length > 1 && tables >= rows(rest)) {
    const [first, ...others] = rest;
    const second = others.length > 1 ? addAll(network, others) : item(others, 0);
    return add(network, first ?? [], second, item(item(words, single), 0));
  }
  if (tables < rows(words)) return compressed(network, columns);
  const open = words.map((bits) => ({ bits, level: levelOf(network, bits) }));
  while (open.length > 1) {
    open.sort((x, y) => y.level - x.level || used(y.bits) - used(x.bits));
    const [x, y] = [open.pop(), open.pop()];
    if (!x || !y) break;
    const bits = add(network, x.bits, y.bits);
    open.push({ bits, level: levelOf(network, bits) });
  }
  return [...item(open, 0).bits];
}

const used = (bits: Bits): number => bits.filter((bit) => !isConstant(bit)).length;
const levelOf = (network: Network, bits: Bits): number =>
  bits.reduce((most, bit) => Math.max(most, network.levelOf(bit)), 0);

/** Tables of adding words one after another. */
function rows(words: readonly Bits[]): number {
  const widths = words.map((word) => word.findLastIndex((bit) => !isConstant(bit)) + 1).sort((x, y) => y - x);
  const limit = item(words, 0).length;
  let tables = 0;
  while (widths.length > 1) {
    const [x, y] = [widths.pop() ?? 0, widths.pop() ?? 0];
    tables += Math.max(x, y) + (Math.max(x, y) < SHORTEST_CHAIN ? 1 : 0);
    widths.push(Math.min(limit, Math.max(x, y) + 1));
    widths.sort((one, other) => other - one);
  }
  return tables;
}

/** Tables of bringing columns of so many bits down to one bit each. */
function fullAdders(heights: readonly number[]): number {
  const left = [...heights];
  let tables = 0;
  for (let i = 0; i < left.length; i++)
    while ((left[i] ?? 0) > 1) {
      const three = (left[i] ?? 0) > 2;
      left[i] = (left[i] ?? 0) - (three ? 2 : 1);
      if (i + 1 < left.length) left[i + 1] = (left[i + 1] ?? 0) + 1;
      tables += i + 1 < left.length ? 2 : 1;
    }
  return tables;
}

function compressed(network: Network, columns: readonly Literal[][]): Literal[] {
  return columns.map((column, i) => {
    const open = [...column];
    const next = columns[i + 1];
    while (open.length > 1) {
      open.sort((x, y) => network.levelOf(x) - network.levelOf(y));
      const [a, b, c] = open.length > 2 ? open.splice(0, 3) : [...open.splice(0, 2), FALSE];
      const [x, y, z] = [a ?? FALSE, b ?? FALSE, c ?? FALSE];
      open.push(network.xor(network.xor(x, y), z));
      const carry = majority(network, x, y, z);
      if (next && carry !== FALSE) next.push(carry);
    }
    return open[0] ?? FALSE;
  });
}

/** Rows of partial products, each added to what stands so far. */
export function multiply(network: Network, a: Bits, b: Bits): Literal[] {
  const width = a.length;
  const [many, few] = used(a) > used(b) ? [a, b] : [b, a];
  let total: Literal[] = Array<Literal>(width).fill(FALSE);
  for (const [shift, bit] of few.entries()) {
    if (bit === FALSE) continue;
    const row = [
      ...Array<Literal>(shift).fill(FALSE),
      ...many.slice(0, width - shift).map((one) => network.and(one, bit)),
    ];
    total = add(network, total, row);
  }
  return total;
}

/** A shift by a signal: one row of choices for each bit of the amount that matters. */
export function shift(network: Network, word: Bits, amount: Bits, towards: 'up' | 'down', fill: Literal): Literal[] {
  const width = word.length;
  let level: Literal[] = [...word];
  let over: Literal = FALSE;
  for (const [i, bit] of amount.entries()) {
    const by = 2 ** i;
    if (by >= width) {
      over = network.or(over, bit);
      continue;
    }
    const from = level;
    level = from.map((stay, at) => {
      const source = towards === 'up' ? at - by : at + by;
      return network.mux(bit, source >= 0 && source < width ? item(from, source) : fill, stay);
    });
  }
  return level.map((bit) => network.mux(over, fill, bit));
}

/** A tree, what is there soonest at its far ends. */
export function reduce(
  network: Network,
  bits: Bits,
  join: (x: Literal, y: Literal) => Literal,
  empty: Literal,
): Literal {
  const open = [...bits];
  if (open.length === 0) return empty;
  const level = open.map((bit) => network.levelOf(bit));
  if (level.some((one) => one !== level[0])) open.sort((x, y) => network.levelOf(x) - network.levelOf(y));
  // Both queues rise: the lowest two are at their fronts.
  const joined: Literal[] = [];
  let [p, q] = [0, 0];
  const next = (): Literal => {
    const [x, y] = [open[p], joined[q]];
    if (y === undefined || (x !== undefined && network.levelOf(x) <= network.levelOf(y))) {
      p++;
      return x ?? empty;
    }
    q++;
    return y;
  };
  while (open.length - p + joined.length - q > 1) joined.push(join(next(), next()));
  return next();
}
