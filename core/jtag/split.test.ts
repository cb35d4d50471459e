import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { bitsFromBigInt } from '../bits/index.ts';
import { idcodeFields } from './idcode.ts';
import { testPattern } from './test-pattern.ts';
import { splitIr } from './split.ts';

/** Captured patterns from the device nearest TDO on, each with its most significant bit first. */
const path = (...patterns: string[]) => {
  const text = [...patterns].reverse().join('');
  return bitsFromBigInt(BigInt(`0b${text}`), text.length);
};
const unknown = { length: null, capture: null };
const known = (length: number, capture: number | null = null) => ({ length, capture });

// IEEE 1149.1: an instruction register has at least two bits, Capture-IR loads 01 into the least significant ones
// (value from memory).
describe('the instruction path is divided', () => {
  test('by known lengths', () =>
    expect(splitIr(path('0001', '000001'), [known(4), known(6)])).toEqual({ kind: 'split', lengths: [4, 6] }));
  test('by patterns alone, where only one way fits', () =>
    expect(splitIr(path('0001', '00001', '01'), [unknown, unknown, unknown])).toEqual({
      kind: 'split',
      lengths: [4, 5, 2],
    }));
  test('one unknown gets what is left', () =>
    expect(splitIr(path('0001', '01010101', '01'), [known(4), unknown, known(2)])).toEqual({
      kind: 'split',
      lengths: [4, 8, 2],
    }));
  test('several ways are told, with what they have in common', () =>
    expect(splitIr(path('0101', '01', '0001'), [unknown, unknown, known(4)])).toEqual({
      kind: 'ambiguous',
      lengths: [null, null, 4],
    }));
  test('a captured pattern that a part fixes decides', () =>
    expect(splitIr(path('0101', '01'), [known(4, 0b0101), unknown])).toEqual({ kind: 'split', lengths: [4, 2] }));
  test('a wrong length fits nowhere', () => {
    expect(splitIr(path('0001', '0001'), [known(5), known(3)])).toEqual({ kind: 'impossible' });
    expect(splitIr(path('0001', '0001'), [known(4), known(5)])).toEqual({ kind: 'impossible' });
  });
  test('any chain whose devices capture a single 1 is divided right', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 2, max: 40 }), { minLength: 1, maxLength: 100 }),
        fc.nat(),
        (lengths, seed) => {
          const hints = lengths.map((length, i) => ((seed >> (i % 16)) & 1 ? known(length) : unknown));
          expect(splitIr(path(...lengths.map((length) => '01'.padStart(length, '0'))), hints)).toEqual({
            kind: 'split',
            lengths,
          });
        },
      ),
      { numRuns: 40 },
    );
  });
});

test('the manufacturer code has a bank of four bits and a code of seven', () => {
  // JEDEC JEP106: continuation codes counted in the upper four bits (value from memory)
  const { manufacturer } = idcodeFields(0x1c025ffd);
  expect([manufacturer >> 7, manufacturer & 0x7f]).toEqual([15, 0x7e]);
});

test('the test pattern repeats after 32 767 bits. Source: ITU-T O.150, x^15 + x^14 + 1', () => {
  const { bytes } = testPattern(3 * 32767);
  const bit = (i: number) => ((bytes[i >>> 3] as number) >>> (i & 7)) & 1;
  let ones = 0;
  for (let i = 0; i < 32767; i++) {
    ones += bit(i);
    expect(bit(i) === bit(i + 32767)).toBe(true);
  }
  expect(ones).toBe(16384);
});
