// The words of a recorder's registers against the bits that docs/silicon.md, section 6, gives them.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { item } from '../lists.ts';
import { recorderMap } from '../../tests/support/recorder-map.ts';
import { KEEP_ALL, type ComparatorSetting } from './program.ts';
import { comparatorRows, rowWords, settingsRow, tableWords, toldBy, toldWords } from './recorder-words.ts';
import { afterSteps, SEEN, TICKS } from './shift-count.ts';

describe('what a recorder tells', () => {
  test('is a row of bits, lowest first: state, steps, counts, answers, places, stage, segment', () => {
    fc.assert(
      fc.property(
        fc.record({
          comparators: fc.integer({ min: 1, max: 5 }),
          stages: fc.integer({ min: 1, max: 4 }),
          segments: fc.constantFrom(1, 2, 32),
          log: fc.integer({ min: 4, max: 16 }),
          level: fc.constantFrom([8, 'filling'], [12, 'waiting'], [14, 'triggered'], [15, 'done'], [7, 'idle']),
          isAnswered: fc.boolean(),
          numbers: fc.array(fc.nat(), { minLength: 12, maxLength: 12 }),
        }),
        ({ comparators, stages, segments, log, level: [level, status], isAnswered, numbers }) => {
          const at = (i: number, below: number) => item(numbers, i) % below;
          const seen = Array.from({ length: comparators }, (_, i) => at(i, 2 ** 24 - 1));
          const [ticks, count, writeAt] = [at(5, 2 ** 20 - 1), at(6, 2 ** log), at(7, 2 ** log)];
          const [stage, segment, hits] = [at(8, stages), at(9, segments), at(10, 2 ** comparators)];
          const bits = (value: number, width: number) => value.toString(2).padStart(width, '0');
          // Written down highest first.
          const row = [
            segments > 1 ? bits(segment, 5) : '',
            stages > 1 ? bits(stage, stages > 2 ? 2 : 1) : '',
            bits(writeAt, log),
            bits(count, log),
            bits(hits, comparators),
            ...seen.map((one) => bits(afterSteps(one, SEEN), 24)).reverse(),
            bits(afterSteps(ticks, TICKS), 20),
            isAnswered ? '11' : '10',
            bits(Number(level), 4),
          ].join('');
          const recorder = recorderMap({ comparators, stages, segments, depth: 2 ** log });
          expect(toldWords(recorder)).toBe(Math.ceil(row.length / 32));
          const words = (row.padStart(32 * toldWords(recorder), '0').match(/.{32}/g) ?? []).reverse();
          expect(
            toldBy(
              recorder,
              words.map((word) => BigInt(`0b${word}`)),
            ),
          ).toEqual({
            status,
            answered: isAnswered,
            ticks,
            seen,
            hits: Array.from({ length: comparators }, (_, i) => ((hits >> i) & 1) === 1),
            count,
            writeAt,
            stage,
            segment,
          });
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe('what a recorder is told', () => {
  test('a comparator by its tables is what the relation says, by adding pair by pair', () => {
    const setting = fc.record({
      relation: fc.constantFrom<ComparatorSetting['relation']>('equal', 'below', 'changes', 'rises', 'falls'),
      value: fc.nat(255),
      mask: fc.nat(255),
    });
    fc.assert(
      fc.property(setting, fc.nat(255), fc.nat(255), ({ relation, value, mask }, last, now) => {
        const one: ComparatorSetting = { relation, value: BigInt(value & mask), mask: BigInt(mask) };
        const rows = comparatorRows(one, 8);
        const word = [0, 1, 2, 3].map((pair) => {
          const of = (sample: number) => (sample >> (2 * pair)) & 3;
          const row = item(rows, of(now) | (of(last) << 2)).value;
          return { a: Number((row >> BigInt(2 * pair)) & 1n), b: Number((row >> BigInt(2 * pair + 1)) & 1n) };
        });
        let carry = relation === 'below' ? 0 : 1;
        for (const { a, b } of word) carry = a + b + carry > 1 ? 1 : 0;
        const answer = (carry === 1) !== (relation === 'changes' || relation === 'rises' || relation === 'falls');
        const wanted = {
          equal: (now & mask) === (value & mask),
          below: (now & mask) < (value & mask),
          changes: ((now ^ last) & mask) !== 0,
          rises: (~last & now & mask) !== 0,
          falls: (last & ~now & mask) !== 0,
        }[relation];
        expect(answer).toBe(wanted);
      }),
      { numRuns: 1000 },
    );
  });

  test('settings come in words of which the core keeps the last bits; entries of the tables name row and stage', () => {
    const program = {
      comparators: [],
      stages: [{ table: 0b10, times: 1, inARow: true, within: null, otherwise: 0 }],
      keep: KEEP_ALL,
    };
    const row = settingsRow(recorderMap({ depth: 64 }), program, { before: 3, segments: 1 });
    // 6 bits of samples, none, all but one, all but two, 17 of the count, once, in a row, carry, turned.
    expect(row.bits).toBe(6 + 3 + 17 + 2 + 2);
    expect(row.value & 0x3fn).toBe(2n);
    expect((row.value >> 26n) & 0b1111n).toBe(0b0111n);
    const [word = 0n] = rowWords(row);
    expect(word >> BigInt(32 - row.bits)).toBe(row.value);
    expect(tableWords(recorderMap(), program)).toEqual([0n | (1n << 9n), 1n | (1n << 8n) | (1n << 9n)]);
  });
});
