// Covering, and resynthesis in windows: what they give computes what the gates do; what can be told apart is.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { item } from '../../lists.ts';
import { type Literal, type Network, nodeOf } from '../gates/index.ts';
import { cover, rewritten } from './cover.ts';
import { NODE, TableNet } from './net.ts';
import { resynthesise } from './resynthesis.ts';
import { conflicts, determine, separates, tableOf, twoTables, wantedOf } from './separate.ts';
import { randomGates } from '../../../tests/support/random-gates.ts';
import { inputValues, tableValues, type Values, wordsFor } from './words.ts';

const LEAVES = 6;

const grown = randomGates({ leaves: LEAVES, steps: 40, chains: false });

const words = wordsFor(LEAVES);
const turned = (values: Values, literal: Literal): number[] =>
  [...values].map((word) => (literal & 1 ? ~word : word) >>> 0);

/** All values of all roots, gate by gate. */
function ofGates({ kind, first, second }: Network, roots: readonly Literal[]): number[][] {
  const known: number[][] = [];
  let leaf = 0;
  const of = (literal: Literal): number[] =>
    item(known, nodeOf(literal)).map((word) => (literal & 1 ? ~word : word) >>> 0);
  for (const [node, is] of kind.entries())
    if (is === 0) known.push(Array<number>(words).fill(0));
    else if (is === 1) known.push([...inputValues(leaf++, LEAVES)]);
    else {
      const [x, y] = [of(item(first, node)), of(item(second, node))];
      known.push(x.map((word, i) => (is === 2 ? word & item(y, i) : word ^ item(y, i)) >>> 0));
    }
  return roots.map(of);
}

/** The same, table by table. */
function ofTables(net: TableNet): number[][] {
  const known = new Map<number, Values>([[0, new Uint32Array(words)]]);
  let leaf = 0;
  for (const [node, is] of net.kind.entries())
    if (node > 0 && is === NODE.leaf) known.set(node, inputValues(leaf++, LEAVES));
  const at = (node: number): Values => known.get(node) ?? new Uint32Array(words);
  for (const node of net.ordered())
    known.set(node, tableValues(item(net.truth, node), item(net.inputs, node).map(at), words));
  return net.roots.map((root) => turned(at(nodeOf(root)), root));
}

describe('covered gates', () => {
  test('compute what they did, before and after resynthesis, and take no more tables after it', () => {
    fc.assert(
      fc.property(grown, fc.constantFrom(3, 4), ({ network, roots }, inputs) => {
        const wanted = ofGates(network, roots);
        const net = cover(network, roots, inputs);
        expect(ofTables(net)).toEqual(wanted);
        const before = net.tables;
        resynthesise(net, []);
        expect(ofTables(net)).toEqual(wanted);
        expect(net.tables).toBeLessThanOrEqual(before);
        expect(Math.max(0, ...net.inputs.map((of) => of.length))).toBeLessThanOrEqual(4);
      }),
      { numRuns: 150 },
    );
  });
  test('rewritten they compute what they did', () => {
    fc.assert(
      fc.property(grown, ({ network, roots }) => {
        const other = rewritten(network, roots);
        expect(ofGates(other.network, other.roots)).toEqual(ofGates(network, roots));
      }),
      { numRuns: 100 },
    );
  });
  test('what never occurs does not matter: of two bits that are never both 1, or is xor', () => {
    const net = new TableNet();
    const [a, b] = [net.put(NODE.leaf, [], 0, -1), net.put(NODE.leaf, [], 0, -1)];
    const or = net.put(NODE.table, [a, b], 0xeeee, 0);
    const xor = net.put(NODE.table, [a, b], 0x6666, 0);
    net.roots = [or * 2, xor * 2];
    resynthesise(net, [{ nodes: [a, b], values: [0, 1, 2] }]);
    expect(net.tables).toBe(1);
  });
});

describe('telling apart', () => {
  const six = Array.from({ length: 6 }, (_, k) => inputValues(k, 6));
  const everywhere = new Uint32Array(2).fill(0xffffffff);
  const random = fc.array(fc.nat(0xffffffff), { minLength: 2, maxLength: 2 }).map((list) => Uint32Array.from(list));

  test('inputs determine a table of themselves, and not what another input decides', () => {
    fc.assert(
      fc.property(fc.nat(0xffff), (truth) => {
        const values = tableValues(truth, six.slice(0, 4), 2);
        const wanted = wantedOf(values, everywhere);
        expect(determine(wanted, six.slice(0, 4))).toBe(true);
        expect(tableOf(wanted.on, six.slice(0, 4))).toBe(truth);
      }),
    );
    expect(determine(wantedOf(item(six, 5), everywhere), six.slice(0, 4))).toBe(false);
    const parts = conflicts(wantedOf(item(six, 5), everywhere), six.slice(0, 2));
    expect(parts).toHaveLength(4);
    expect(separates(parts, item(six, 5))).toBe(true);
    expect(separates(parts, item(six, 4))).toBe(false);
  });
  test('a function that is two tables is found to be two tables', () => {
    fc.assert(
      fc.property(fc.nat(0xffff), fc.nat(0xffff), fc.nat(3), (inner, outer, shared) => {
        const h = tableValues(inner, six.slice(0, 4), 2);
        const f = tableValues(outer, [h, item(six, 4), item(six, 5), item(six, shared)], 2);
        const found = twoTables(wantedOf(f, everywhere), 6, () => true);
        expect(found).not.toBeNull();
        if (!found) return;
        const first = tableValues(
          found.innerTruth,
          found.inner.map((k) => item(six, k)),
          2,
        );
        expect(tableValues(found.outerTruth, [first, ...found.outer.map((k) => item(six, k))], 2)).toEqual(f);
      }),
    );
  });
  test('what is no two tables is not said to be', () => {
    // With a = 1 and b = 0 it is 0, e or 1 for none, one or both of c and d: one bit cannot hand that on, whichever
    // two of the four are looked at again (worked out by hand).
    const five = Array.from({ length: 5 }, (_, k) => inputValues(k, 5));
    const majority = new Uint32Array(1);
    for (let row = 0; row < 32; row++) {
      const ones = five.reduce((sum, values) => sum + ((item([...values], 0) >>> row) & 1), 0);
      if (ones > 2) majority[0] = (item([...majority], 0) | (1 << row)) >>> 0;
    }
    expect(twoTables(wantedOf(majority, new Uint32Array(1).fill(0xffffffff)), 5, () => true)).toBeNull();
    fc.assert(
      fc.property(random, (f) => {
        const found = twoTables(wantedOf(f, everywhere), 6, () => true);
        if (!found) return;
        const first = tableValues(
          found.innerTruth,
          found.inner.map((k) => item(six, k)),
          2,
        );
        expect(tableValues(found.outerTruth, [first, ...found.outer.map((k) => item(six, k))], 2)).toEqual(f);
      }),
    );
  });
});
