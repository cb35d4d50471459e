// Functions of unknown bits against their tables of truth.
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { Decisions, type Fn, TooLarge } from './decisions.ts';

const VARIABLES = 6;

type Tree =
  | { readonly op: 'variable'; readonly index: number }
  | { readonly op: 'not'; readonly of: Tree }
  | { readonly op: 'and' | 'or' | 'xor'; readonly a: Tree; readonly b: Tree }
  | { readonly op: 'choice'; readonly a: Tree; readonly b: Tree; readonly c: Tree };

const { tree } = fc.letrec<{ tree: Tree }>((tie) => ({
  tree: fc.oneof(
    { maxDepth: 6, withCrossShrink: true },
    fc.record({ op: fc.constant('variable' as const), index: fc.nat(VARIABLES - 1) }),
    fc.record({ op: fc.constant('not' as const), of: tie('tree') }),
    fc.record({ op: fc.constantFrom('and' as const, 'or' as const, 'xor' as const), a: tie('tree'), b: tie('tree') }),
    fc.record({ op: fc.constant('choice' as const), a: tie('tree'), b: tie('tree'), c: tie('tree') }),
  ),
}));

function made(f: Decisions, one: Tree): Fn {
  switch (one.op) {
    case 'variable':
      return f.variable(one.index);
    case 'not':
      return f.not(made(f, one.of));
    case 'choice':
      return f.choice(made(f, one.a), made(f, one.b), made(f, one.c));
    default:
      return f[one.op](made(f, one.a), made(f, one.b));
  }
}

function value(one: Tree, row: number): number {
  switch (one.op) {
    case 'variable':
      return (row >> one.index) & 1;
    case 'not':
      return 1 - value(one.of, row);
    case 'choice':
      return value(one.a, row) === 1 ? value(one.b, row) : value(one.c, row);
    case 'and':
      return value(one.a, row) & value(one.b, row);
    case 'or':
      return value(one.a, row) | value(one.b, row);
    default:
      return value(one.a, row) ^ value(one.b, row);
  }
}

const table = (one: Tree): string => Array.from({ length: 1 << VARIABLES }, (_, row) => value(one, row)).join('');
const bitOf = (row: number) => (variable: number) => (((row >> variable) & 1) === 1 ? 1 : 0);

test('each is what its table says, and two of one table are one node', () => {
  const f = new Decisions(1 << 20);
  const known = new Map<string, Fn>();
  fc.assert(
    fc.property(tree, (one) => {
      const [fn, rows] = [made(f, one), table(one)];
      for (let row = 0; row < 1 << VARIABLES; row++) expect(f.valueOf(fn, bitOf(row))).toBe(Number(rows[row]));
      expect(known.get(rows) ?? fn).toBe(fn);
      known.set(rows, fn);
      const example = f.example(fn, () => 1);
      expect(example === null).toBe(!rows.includes('1'));
      if (example) expect(f.valueOf(fn, (variable) => example.get(variable) ?? 0)).toBe(1);
    }),
    { numRuns: 400 },
  );
});

/** Bit `n` of a sum of two words of variables: each needs the carries of all below it. */
function sum(f: Decisions, bits: number): Fn {
  let carry: Fn = 0;
  let last: Fn = 0;
  for (let i = 0; i < bits; i++) {
    // The two words one behind the other is the order that grows fastest.
    const [a, b] = [f.variable(i), f.variable(bits + i)];
    last = f.xor(f.xor(a, b), carry);
    carry = f.choice(a, f.or(b, carry), f.and(b, carry));
  }
  return last;
}

test('many nodes are as right as few: a sum bit by bit, with tables that grow and choices that are forgotten', () => {
  const f = new Decisions(1 << 17);
  const bits = 11;
  const top = sum(f, bits);
  fc.assert(
    fc.property(fc.nat((1 << bits) - 1), fc.nat((1 << bits) - 1), (x, y) => {
      const value = f.valueOf(top, (variable) =>
        ((variable < bits ? x >> variable : y >> (variable - bits)) & 1) === 1 ? 1 : 0,
      );
      expect(value).toBe(((x + y) >> (bits - 1)) & 1);
    }),
    { numRuns: 500 },
  );
});

test('what takes more nodes than it may is given up, and what was there before stays as it is', () => {
  const f = new Decisions(1 << 12);
  const small = f.and(f.variable(0), f.variable(1));
  expect(() => sum(f, 16)).toThrow(TooLarge);
  expect(f.and(f.variable(0), f.variable(1))).toBe(small);
  const g = new Decisions(1 << 16);
  expect(g.within(8, () => sum(g, 12))).toBeNull();
  const again = g.within(1 << 15, () => sum(g, 9));
  expect(again).not.toBeNull();
  expect(again).toBe(sum(g, 9));
});
