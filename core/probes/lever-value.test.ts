import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { type DriveRadix, parseLeverValue, writeLeverValue } from './lever-value.ts';

const value = (text: string, width: number, radix: DriveRadix) => {
  const read = parseLeverValue(text, width, radix);
  return read.ok ? read.value : read.error.message;
};

describe('what is typed for a lever', () => {
  test('is read in the radix that is shown: 10 is sixteen in hexadecimal, two in binary', () => {
    expect([value('10', 8, 'dec'), value('10', 8, 'hex'), value('10', 8, 'bin')]).toEqual([10n, 16n, 2n]);
    expect(value('deadbeef', 32, 'hex')).toBe(0xdeadbeefn);
    expect(value('deadbeef', 32, 'dec')).toMatch(/no decimal value/);
  });

  test('a prefix says another radix; where its letters are digits of what is shown, they are digits', () => {
    expect([
      value('0x10', 8, 'dec'),
      value('0b10', 8, 'dec'),
      value('0d10', 8, 'bin'),
      value("8'hF0", 8, 'dec'),
    ]).toEqual([16n, 2n, 10n, 0xf0n]);
    expect([value('0b10', 16, 'hex'), value('0x0b10', 16, 'hex')]).toEqual([0xb10n, 0xb10n]);
  });

  test('what cannot be driven is refused: open digits, digits of another radix, values too wide', () => {
    for (const text of ['0b1x0', '0x1z', 'x', '0b1?0']) expect(value(text, 8, 'dec')).toMatch(/open digits|no decimal/);
    expect(value('102', 8, 'bin')).toMatch(/no binary value/);
    expect(value('256', 8, 'dec')).toMatch(/does not fit into the 8 bits/);
    expect(value('', 8, 'dec')).toMatch(/no decimal value/);
    expect(value('-1', 8, 'dec')).toBe(255n);
    expect(value('-129', 8, 'dec')).toMatch(/does not fit/);
  });

  test('what is shown may be typed again, in every radix and width', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 300 }),
        fc.bigInt({ min: 0n, max: (1n << 300n) - 1n }),
        fc.constantFrom<DriveRadix>('dec', 'hex', 'bin'),
        (width, any, radix) => {
          const wanted = BigInt.asUintN(width, any);
          expect(value(writeLeverValue(wanted, width, radix), width, radix)).toBe(wanted);
        },
      ),
    );
  });
});
