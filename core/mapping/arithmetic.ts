import { item } from '../lists.ts';
import { type ChainBit, FALSE, inverted, type Literal, type Network, TRUE } from './network.ts';

/** Bits of a word, lowest first. */
export type Bits = readonly Literal[];

/** Additions shorter than this are cheaper as gates. */
const SHORTEST_CHAIN = 3;

const plain = (a: Literal, b: Literal): ChainBit => ({ a, a2: TRUE, b });

export function add(network: Network, a: Bits, b: Bits, carryIn: Literal = FALSE): Literal[] {
  if (a.length < SHORTEST_CHAIN) return ripple(network, a, b, carryIn).sums;
  // Below the first bit where both sides have something, nothing is added.
  const from = carryIn === FALSE ? a.findIndex((bit, i) => bit !== FALSE && b[i] !== FALSE) : 0;
  if (from < 0) return a.map((bit, i) => network.or(bit, item(b, i)));
  const low = a.slice(0, from).map((bit, i) => network.or(bit, item(b, i)));
  return [
    ...low,
    ...network.chain(
      a.slice(from).map((bit, i) => plain(bit, item(b, from + i))),
      carryIn,
      'sums',
    ).sums,
  ];
}

export const subtract = (network: Network, a: Bits, b: Bits): Literal[] => add(network, a, b.map(inverted), TRUE);

/** 1 where a is less than b, both unsigned: no carry comes out of a - b. */
export function less(network: Network, a: Bits, b: Bits): Literal {
  if (a.length < SHORTEST_CHAIN) return inverted(ripple(network, a, b.map(inverted), TRUE).out);
  return inverted(
    network.chain(
      a.map((bit, i) => plain(bit, inverted(item(b, i)))),
      TRUE,
      'carry',
    ).out,
  );
}

function ripple(network: Network, a: Bits, b: Bits, carryIn: Literal): { sums: Literal[]; out: Literal } {
  let carry = carryIn;
  const sums = a.map((x, i) => {
    const y = item(b, i);
    const half = network.xor(x, y);
    const sum = network.xor(half, carry);
    carry = network.or(network.and(x, y), network.and(half, carry));
    return sum;
  });
  return { sums, out: carry };
}

/** Rows of partial products, each added to what stands so far. */
export function multiply(network: Network, a: Bits, b: Bits): Literal[] {
  const width = a.length;
  const [many, few] = count(a) > count(b) ? [a, b] : [b, a];
  let total: Literal[] = Array<Literal>(width).fill(FALSE);
  for (const [shift, bit] of few.entries()) {
    if (bit === FALSE) continue;
    if (bit === TRUE) {
      const row = [...Array<Literal>(shift).fill(FALSE), ...many.slice(0, width - shift)];
      total = add(network, total, row);
      continue;
    }
    const upper = total.slice(shift);
    if (upper.every((t) => t === FALSE)) {
      total = [...total.slice(0, shift), ...many.slice(0, width - shift).map((m) => network.and(m, bit))];
      continue;
    }
    const bits = upper.map((t, i) => ({ a: item(many, i), a2: bit, b: t }));
    total = [...total.slice(0, shift), ...network.chain(bits, FALSE, 'sums').sums];
  }
  return total;
}

const count = (bits: Bits): number => bits.filter((bit) => bit > TRUE).length;

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

/** A balanced tree. */
export function reduce(bits: Bits, join: (x: Literal, y: Literal) => Literal, empty: Literal): Literal {
  let level = [...bits];
  if (level.length === 0) return empty;
  while (level.length > 1)
    level = Array.from({ length: Math.ceil(level.length / 2) }, (_, i) =>
      2 * i + 1 < level.length ? join(item(level, 2 * i), item(level, 2 * i + 1)) : item(level, 2 * i),
    );
  return item(level, 0);
}
