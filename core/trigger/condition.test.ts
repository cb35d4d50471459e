import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { RecorderMap, TriggerProgram } from '../probes/index.ts';
import { stageHolds } from '../../tests/support/trigger-model.ts';
import { compileCondition, parseValue } from './index.ts';
import { readSentence } from './sentence.ts';

const recorder: RecorderMap = {
  kind: 'recorder',
  core: 1,
  name: 'r',
  clock: 'top.clk',
  depth: 16,
  width: 16,
  comparators: 5,
  stages: 4,
  qualifier: true,
  segments: 1,
  atTrigger: [],
  signals: [
    { name: 'top.a.level', width: 8, lo: 0, signed: false },
    { name: 'top.a.go', width: 1, lo: 8, signed: false },
    { name: 'top.b.go', width: 4, lo: 9, signed: true },
    { name: 'top.state', width: 3, lo: 13, signed: false, names: { IDLE: '0', FILLING: '4' } },
  ],
};
const compiled = (text: string, of = recorder): TriggerProgram => {
  const result = compileCondition(text, of);
  if (!result.ok) throw new Error(result.error.message);
  return result.value;
};
const trouble = (text: string, of = recorder) => {
  const result = compileCondition(text, of);
  return result.ok ? null : [result.error.code, result.error.place?.column];
};

describe('a sentence', () => {
  test('of stages with counts, ends and ways back', () => {
    const read = readSentence(
      'a rises 3 times then b in 2..5 for 10 samples within 200 samples else stage 2 then not (c && d != 1) within 9',
    );
    expect(
      read.ok &&
        read.value.map(({ times, inARow, within, otherwise, condition }) => [
          condition.kind,
          times,
          inARow,
          within,
          otherwise,
        ]),
    ).toEqual([
      ['edge', 3, false, null, 0],
      ['range', 10, true, 200, 1],
      ['not', 1, false, 9, 0],
    ]);
  });
  test('and binds closer than or, not closest; signs and words mean the same', () => {
    const shape = (text: string) => {
      const read = readSentence(text);
      return read.ok
        ? JSON.stringify(read.value[0]?.condition, (key, value) => (key === 'at' || key === 'end' ? undefined : value))
        : read.error.message;
    };
    expect(shape('a or b and not c')).toBe(shape('a || (b && !c)'));
    expect(shape('a or b and not c')).not.toBe(shape('(a or b) and not c'));
  });
  test.each([
    ['level = 5', 7],
    ['level ==', 9],
    ['(a.go', 6],
    ['a.go and', 9],
    ['then a.go', 1],
    ['a.go 3', 7],
    ['a.go for 0 samples', 10],
    ['a.go else stage 1', 11],
    ['a.go within 5 else stage 3', 1],
    ['level in 3', 11],
    ['level == 5 x', 12],
    ['', 1],
    ['§', 1],
  ])('%j is wrong at column %i', (text, column) => {
    const read = readSentence(text);
    expect(!read.ok && [read.error.code, read.error.place?.column]).toEqual(['trigger-syntax', column]);
  });
});

describe('a condition', () => {
  test('finds its signals by the end of their path, and value names', () => {
    expect(compiled('level == 5').comparators).toEqual([{ relation: 'equal', value: 5n, mask: 0xffn }]);
    expect(compiled('a.go').comparators).toEqual([{ relation: 'equal', value: 0x100n, mask: 0x100n }]);
    expect(compiled('state == FILLING').comparators[0]?.value).toBe(4n << 13n);
    expect(compiled("level == 8'b1xxx0000").comparators[0]).toMatchObject({ value: 0x80n, mask: 0x8fn });
  });
  test('names what each comparator looks at', () => {
    expect(
      compileCondition('state == FILLING or b.go < -1 or level == 0b1xx0xxx1 or a.go falls', recorder),
    ).toMatchObject({
      ok: true,
      value: {
        labels: ['top.state == FILLING', 'b.go == 0b1xxx', 'bits of b.go < 15', 'a.level == 0b1xx0xxx1', 'a.go falls'],
      },
    });
  });
  test('equal and opposite comparisons share a comparator', () => {
    expect(compiled('level < 9 or level >= 9 and level <= 8').comparators).toHaveLength(1);
    expect(compiled('a.go == 1 then a.go != 1').comparators).toHaveLength(1);
    expect(compiled('level >= 0').comparators).toHaveLength(0);
  });
  test('says what it does not understand, and where', () => {
    expect(trouble('depth == 5')).toEqual(['trigger-signal', 1]);
    expect(trouble('level > 2 and go')).toEqual(['trigger-signal', 15]);
    expect(trouble('level == 256')).toEqual(['trigger-value', 10]);
    expect(trouble('level == SOON')).toEqual(['trigger-value', 10]);
    expect(trouble("level < 8'bx0")).toEqual(['trigger-value', 9]);
    expect(trouble('level')).toEqual(['trigger-syntax', 1]);
    expect(trouble('level rises')).toEqual(['trigger-syntax', 1]);
    expect(trouble('level == 1 70000 times')).toEqual(['trigger-value', 1]);
  });
  test('says what the plan would need', () => {
    const two = { ...recorder, comparators: 2, stages: 1 };
    const small = compileCondition('level == 1 or level == 2 or a.go', two);
    expect(!small.ok && small.error.message).toBe('This needs 3 comparators, the recorder "r" was built with 2.');
    expect(trouble('a.go then level == 2', two)?.[0]).toBe('trigger-resources');
    const both = compileCondition('level == 1 or level == 2 then a.go', two);
    expect(!both.ok && both.error.message).toBe(
      'This needs 3 comparators and 2 stages, the recorder "r" was built with 2 and 1.',
    );
    expect(trouble('a.go 3 times within 9', two)?.[0]).toBe('trigger-resources');
    expect(trouble('a.go', { ...recorder, comparators: 0 })?.[0]).toBe('trigger-old');
  });
});

/** Expressions as text beside what they say of two samples. */
type Said = { readonly text: string; readonly of: (now: bigint, last: bigint) => boolean };

const bitsOf = (word: bigint, lo: number, width: number) => (word >> BigInt(lo)) & ((1n << BigInt(width)) - 1n);
const signed4 = (bits: bigint) => (bits >= 8n ? bits - 16n : bits);
const RELATIONS: readonly (readonly [string, (a: bigint, b: bigint) => boolean])[] = [
  ['==', (a, b) => a === b],
  ['!=', (a, b) => a !== b],
  ['<', (a, b) => a < b],
  ['<=', (a, b) => a <= b],
  ['>', (a, b) => a > b],
  ['>=', (a, b) => a >= b],
];

const atoms: fc.Arbitrary<Said> = fc.oneof(
  fc
    .record({ r: fc.constantFrom(...RELATIONS), v: fc.bigInt(0n, 255n) })
    .map(({ r: [sign, hold], v }): Said => ({ text: `level ${sign} ${v}`, of: (now) => hold(bitsOf(now, 0, 8), v) })),
  fc.record({ r: fc.constantFrom(...RELATIONS), v: fc.bigInt(-8n, 7n) }).map(
    ({ r: [sign, hold], v }): Said => ({
      text: `b.go ${sign} ${v}`,
      of: (now) => hold(signed4(bitsOf(now, 9, 4)), v),
    }),
  ),
  fc.record({ low: fc.bigInt(-8n, 7n), high: fc.bigInt(-8n, 7n) }).map(
    ({ low, high }): Said => ({
      text: `top.b.go in ${low}..${high}`,
      of: (now) => signed4(bitsOf(now, 9, 4)) >= low && signed4(bitsOf(now, 9, 4)) <= high,
    }),
  ),
  fc.constantFrom<Said>(
    { text: 'a.go', of: (now) => bitsOf(now, 8, 1) === 1n },
    { text: 'a.go rises', of: (now, last) => bitsOf(now, 8, 1) > bitsOf(last, 8, 1) },
    { text: 'a.go falls', of: (now, last) => bitsOf(now, 8, 1) < bitsOf(last, 8, 1) },
    { text: 'state changes', of: (now, last) => bitsOf(now, 13, 3) !== bitsOf(last, 13, 3) },
    { text: 'state == FILLING', of: (now) => bitsOf(now, 13, 3) === 4n },
    { text: "level == 8'b1xx0_xxx1", of: (now) => (bitsOf(now, 0, 8) & 0b10010001n) === 0b10000001n },
  ),
);

const { said } = fc.letrec<{ said: Said }>((tie) => ({
  said: fc.oneof(
    { maxDepth: 2 },
    atoms,
    tie('said').map((a): Said => ({ text: `not (${a.text})`, of: (now, last) => !a.of(now, last) })),
    fc.tuple(tie('said'), tie('said')).map(
      ([a, b]): Said => ({
        text: `(${a.text}) and (${b.text})`,
        of: (now, last) => a.of(now, last) && b.of(now, last),
      }),
    ),
    fc.tuple(tie('said'), tie('said')).map(
      ([a, b]): Said => ({
        text: `(${a.text}) || (${b.text})`,
        of: (now, last) => a.of(now, last) || b.of(now, last),
      }),
    ),
  ),
}));

test('the settings hold exactly where the sentence does', () => {
  fc.assert(
    fc.property(
      said,
      fc.array(fc.tuple(fc.bigInt(0n, 0xffffn), fc.bigInt(0n, 0xffffn)), { minLength: 30, maxLength: 30 }),
      (one, samples) => {
        const program = compileCondition(one.text, recorder);
        if (!program.ok) {
          expect(program.error.code, program.error.message).toBe('trigger-resources');
          return;
        }
        for (const [now, last] of samples)
          expect(stageHolds(program.value, 0, now, last), one.text).toBe(one.of(now, last));
      },
    ),
    { numRuns: 400 },
  );
});

test('digits of any base, some of them open, are what they are one after another', () => {
  const base = fc.constantFrom(
    ['b', 1, '01x'] as const,
    ['o', 3, '01234567x'] as const,
    ['h', 4, '0123456789abcdefx'] as const,
  );
  const given = base.chain(([letter, bits, digits]) =>
    fc
      .array(fc.constantFrom(...digits), { minLength: 1, maxLength: 30 })
      .map((all) => ({ text: `'${letter}${all.join('')}`, bits: BigInt(bits), all })),
  );
  fc.assert(
    fc.property(given, ({ text, bits, all }) => {
      let [value, mask] = [0n, 0n];
      for (const digit of all) {
        value = (value << bits) | BigInt(digit === 'x' ? 0 : Number.parseInt(digit, 16));
        mask = (mask << bits) | (digit === 'x' ? 0n : (1n << bits) - 1n);
      }
      const width = Number(bits) * all.length;
      const parsed = parseValue(text, width);
      expect(parsed.ok && parsed.value).toEqual({ value, mask });
    }),
  );
});

test.each([
  ['255', 8, 255n],
  ['-1', 8, 255n],
  ['-128', 8, 128n],
  ['0b1010', 4, 10n],
  ["4'hF", 4, 15n],
  ["'o17", 4, 15n],
  ['1_000', 10, 1000n],
])('%s in %i bits', (text, width, value) => {
  const parsed = parseValue(text, width);
  expect(parsed.ok && parsed.value.value).toBe(value);
});

test.each([
  ['-129', 8],
  ['0x100', 8],
  ['0b2', 4],
  ['', 4],
  ['0x', 4],
])('%s does not fit into %i bits or is no value', (text, width) => {
  expect(parseValue(text, width).ok).toBe(false);
});
