// Code without what changes nothing, against the same code as it was asked for.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { type BinaryOp, constant, type Emitter, type Value } from './emitter.ts';
import { Lean } from './lean.ts';

/** Carries out code at once, over words that are given; counts what it was asked for. */
class Run implements Emitter {
  asked = 0;
  readonly #words: readonly number[];
  readonly #values: number[] = [];

  constructor(words: readonly number[]) {
    this.#words = words;
  }

  valueOf(value: Value): number {
    return 'constant' in value ? value.constant : (this.#values[value.local] ?? 0);
  }

  #keep(value: number): Value {
    this.asked++;
    return { local: this.#values.push(value | 0) - 1 };
  }

  binary(op: BinaryOp, a: Value, b: Value): Value {
    const [x, y] = [this.valueOf(a), this.valueOf(b)];
    const by: Partial<Record<BinaryOp, () => number>> = {
      add: () => x + y,
      sub: () => x - y,
      mul: () => Math.imul(x, y),
      and: () => x & y,
      or: () => x | y,
      xor: () => x ^ y,
      shl: () => x << y,
      shru: () => x >>> y,
      shrs: () => x >> y,
      eq: () => Number(x === y),
      ne: () => Number(x !== y),
      ltu: () => Number(x >>> 0 < y >>> 0),
      lts: () => Number(x < y),
    };
    return this.#keep(by[op]?.() ?? 0);
  }

  isZero(a: Value): Value {
    return this.#keep(Number(this.valueOf(a) === 0));
  }

  parity(a: Value): Value {
    return this.#keep([...(this.valueOf(a) >>> 0).toString(2)].filter((bit) => bit === '1').length % 2);
  }

  select(condition: Value, then: Value, otherwise: Value): Value {
    return this.#keep(this.valueOf(condition) ? this.valueOf(then) : this.valueOf(otherwise));
  }

  load(address: number): Value {
    return this.#keep(this.#words[address] ?? 0);
  }

  loadAt(base: number, index: Value): Value {
    return this.load(base + this.valueOf(index));
  }

  store(): void {}
  storeAt(): void {}
  if(): void {}
  end(): void {}
  stopIf(): void {}
  run(): void {}
}

const OPS: readonly BinaryOp[] = [
  ...(['add', 'sub', 'mul', 'and', 'or', 'xor', 'shl', 'shru', 'shrs', 'eq', 'ne', 'ltu', 'lts'] as const),
];
const small = fc.oneof(
  fc.constantFrom(0, 1, -1, 3, 15, 31, 63, 0xff, 0xffff),
  fc.integer({ min: -(2 ** 31), max: 2 ** 31 - 1 }),
);
const step = fc.record({
  op: fc.oneof(fc.constantFrom(...OPS), fc.constantFrom('isZero', 'parity', 'select', 'load')),
  a: fc.nat(30),
  b: fc.nat(30),
  c: fc.nat(30),
  fixed: fc.option(small),
});

/** The same steps on an emitter: each takes what earlier ones gave. */
function written(e: Emitter, steps: readonly (typeof step extends fc.Arbitrary<infer S> ? S : never)[]): Value[] {
  const made: Value[] = [e.load(0, 0xff), e.load(1, 1), e.load(2), constant(5)];
  const at = (i: number): Value => made[i % made.length] ?? constant(0);
  for (const { op, a, b, c, fixed } of steps) {
    const right =
      fixed === null ? at(b) : constant(op === 'shl' || op === 'shru' || op === 'shrs' ? fixed & 31 : fixed);
    made.push(
      op === 'isZero'
        ? e.isZero(at(a))
        : op === 'parity'
          ? e.parity(at(a))
          : op === 'select'
            ? e.select(at(a), at(b), at(c))
            : op === 'load'
              ? e.load(a % 3, [0xff, 1, -1][a % 3])
              : e.binary(op, at(a), right),
    );
  }
  return made;
}

describe('lean code', () => {
  test('gives what the code gives that it was made of, with no more of it', () =>
    fc.assert(
      fc.property(fc.tuple(small, small, small), fc.array(step, { maxLength: 40 }), ([a, b, c], steps) => {
        const words = [a & 0xff, b & 1, c];
        const [whole, inner] = [new Run(words), new Run(words)];
        const wanted = written(whole, steps).map((value) => whole.valueOf(value));
        expect(written(new Lean(inner), steps).map((value) => inner.valueOf(value))).toEqual(wanted);
        expect(inner.asked).toBeLessThanOrEqual(whole.asked);
      }),
      { numRuns: 2000 },
    ));

  test('leaves out masks of what is 0 anyway, or is shifted out, and comparisons of a bit with a bit', () => {
    const run = new Run([0x5a, 1, 0x12345678]);
    const e = new Lean(run);
    const byte = e.load(0, 0xff);
    const bit = e.load(1, 1);
    const word = e.load(2);
    const before = run.asked;
    expect(e.binary('and', byte, constant(0xfff))).toBe(byte);
    expect(e.binary('eq', bit, constant(1))).toBe(bit);
    expect(e.binary('ne', bit, constant(0))).toBe(bit);
    expect(e.binary('and', bit, constant(2))).toEqual(constant(0));
    expect(run.asked).toBe(before);
    // Of a rotation both masks go: what is left is two shifts.
    const high = e.binary('and', e.binary('shru', word, constant(6)), constant(0x03ffffff));
    const low = e.binary('shl', e.binary('and', word, constant(63)), constant(26));
    expect(run.valueOf(e.binary('or', high, low)) >>> 0).toBe(((0x12345678 >>> 6) | (0x12345678 << 26)) >>> 0);
  });
});
