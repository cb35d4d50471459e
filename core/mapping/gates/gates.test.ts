// Gates and what is made of them: every function of four inputs, and networks that must compute what they did.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { item } from '../../lists.ts';
import { balanced, build, classOf, gatesFor, type Literal, Network, nodeOf, unchained } from './index.ts';
import { KIND } from './network.ts';
import { randomGates } from '../../../tests/support/random-gates.ts';

/** Values of literals of a network for given leaves, gate by gate; chains by adding their bits. */
function valuesOf(network: Network, leaves: readonly boolean[]): (literal: Literal) => boolean {
  const known: boolean[] = [];
  const of = (literal: Literal) => item(known, nodeOf(literal)) !== ((literal & 1) === 1);
  let leaf = 0;
  for (const [node, kind] of network.kind.entries()) {
    const [x, y] = [item(network.first, node), item(network.second, node)];
    if (kind === KIND.constant) known.push(false);
    else if (kind === KIND.leaf) known.push(leaves[leaf++] ?? false);
    else if (kind === KIND.and) known.push(of(x) && of(y));
    else if (kind === KIND.xor) known.push(of(x) !== of(y));
    else {
      const { bits, carryIn } = item(network.chains, x);
      const word = (side: 'a' | 'b') => bits.reduce((sum, bit, i) => sum + (of(bit[side]) ? 2 ** i : 0), 0);
      const sum = word('a') + word('b') + (of(carryIn) ? 1 : 0);
      known.push(((sum >> (kind === KIND.sum ? y : bits.length)) & 1) === 1);
    }
  }
  return of;
}

const LEAVES = 5;
const grown = randomGates({ leaves: LEAVES, steps: 25, chains: true });

const everyRow = Array.from({ length: 1 << LEAVES }, (_, row) =>
  Array.from({ length: LEAVES }, (_, leaf) => ((row >> leaf) & 1) === 1),
);

describe('functions of four inputs', () => {
  // 222 classes: the number of NPN classes of four inputs in the literature (value from memory).
  test('fall into 222 classes, each made by at most seven gates', () => {
    const classes = new Set(Array.from({ length: 1 << 16 }, (_, truth) => classOf(truth)));
    expect(classes.size).toBe(222);
    expect(Math.max(...[...classes].map(gatesFor))).toBe(7);
  });
  test('are built as they are', () => {
    for (let truth = 0; truth < 1 << 16; truth += 7) {
      const network = new Network();
      const inputs = [network.leaf(), network.leaf(), network.leaf(), network.leaf()];
      const root = build(network, truth, inputs);
      let found = 0;
      for (let row = 0; row < 16; row++)
        if (
          valuesOf(
            network,
            [0, 1, 2, 3].map((k) => ((row >> k) & 1) === 1),
          )(root)
        )
          found |= 1 << row;
      expect(found).toBe(truth);
    }
  });
  test('of which a few are known: parity three gates, a multiplexer of two three, majority of three four', () => {
    expect(gatesFor(0x6996)).toBe(3);
    expect(gatesFor(0xcaca)).toBe(3);
    expect(gatesFor(0xe8e8)).toBeLessThanOrEqual(4);
  });
});

describe('a network', () => {
  test('balanced, or with its chains as gates, computes what it did', () => {
    fc.assert(
      fc.property(grown, ({ network, roots }) => {
        const others = [balanced(network, roots), unchained(network, roots, 8)].filter((other) => other !== null);
        for (const row of everyRow) {
          const wanted = roots.map(valuesOf(network, row));
          for (const other of others) expect(other.roots.map(valuesOf(other.network, row))).toEqual(wanted);
        }
      }),
      { numRuns: 150 },
    );
  });
  test('a row of fifteen gates is four deep when balanced', () => {
    const network = new Network();
    let row = network.leaf();
    for (let i = 0; i < 15; i++) row = network.and(row, network.leaf());
    expect(network.levelOf(row)).toBe(15);
    const { network: tree, roots } = balanced(network, [row]);
    expect(tree.levelOf(item(roots, 0))).toBe(4);
  });
  test('makes equal gates once, and knows what is constant', () => {
    const network = new Network();
    const [a, b] = [network.leaf(), network.leaf()];
    expect(network.and(a, b)).toBe(network.and(b, a));
    expect(network.and(a, a ^ 1)).toBe(0);
    expect(network.xor(a, a ^ 1)).toBe(1);
    expect(network.mux(a, b, b)).toBe(b);
  });
});
