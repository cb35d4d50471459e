// Values in the forms that people write them in, read back as they are shown.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { formsOf, parseValueIn, type ValueForm, writeValue } from './value-form.ts';

const STATE = { width: 3, signed: false, names: { IDLE: '0', FILL: '1', DRAIN: '4' } };
const read = (text: string, signal: Parameters<typeof parseValueIn>[1], form: ValueForm) => {
  const value = parseValueIn(text, signal, form);
  return value.ok ? value.value : value.error.code;
};

describe('forms of values', () => {
  test('names of a state, and numbers where there is none', () => {
    expect([0n, 1n, 2n, 4n].map((value) => writeValue(value, STATE, 'names'))).toEqual(['IDLE', 'FILL', '2', 'DRAIN']);
    expect([read('DRAIN', STATE, 'names'), read('2', STATE, 'names'), read('0x1', STATE, 'names')]).toEqual([
      4n,
      2n,
      1n,
    ]);
    expect(read('OPEN', STATE, 'names')).toBe('lever-value');
  });

  test('signed: two’s complement', () => {
    const byte = { width: 8, signed: false };
    expect([
      writeValue(0xffn, byte, 'signed'),
      writeValue(0x80n, byte, 'signed'),
      writeValue(0x7fn, byte, 'signed'),
    ]).toEqual([...['-1', '-128', '127']]);
    expect([read('-128', byte, 'signed'), read('-129', byte, 'signed')]).toEqual([0x80n, 'lever-value']);
  });

  test('fixed point: Q4.4 by hand, with and without a sign', () => {
    const [plain, signed] = [
      { width: 8, signed: false },
      { width: 8, signed: true },
    ];
    expect([0x18n, 0x01n, 0xffn].map((value) => writeValue(value, plain, 'fixed 4'))).toEqual([
      '1.5',
      '0.0625',
      '15.9375',
    ]);
    expect([0xe8n, 0x80n].map((value) => writeValue(value, signed, 'fixed 4'))).toEqual(['-1.5', '-8']);
    // To the nearest there is: 0.1 is 1.6 sixteenths.
    expect([read('0.1', plain, 'fixed 4'), read('-1.5', signed, 'fixed 4'), read('2', plain, 'fixed 4')]).toEqual([
      ...[2n, 0xe8n, 0x20n],
    ]);
    expect([read('16', plain, 'fixed 4'), read('-0.1', plain, 'fixed 4'), read('8', signed, 'fixed 4')]).toEqual([
      ...['fixed-value', 'fixed-value', 'fixed-value'],
    ]);
  });

  test('what is shown may be typed again, in every form and width', () =>
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 70 }),
        fc.boolean(),
        fc.bigInt({ min: 0n, max: (1n << 70n) - 1n }),
        fc.nat(),
        (width, signed, any, which) => {
          const signal = { width, signed, names: { ONE: '1' } };
          const forms = formsOf(signal);
          const form = forms[which % forms.length] ?? 'dec';
          const value = BigInt.asUintN(width, any);
          expect(read(writeValue(value, signal, form), signal, form)).toBe(value);
        },
      ),
    ));
});
