// Lists and ramps that a lever goes through, and limits of gauges.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { parseLimit, parseValues } from './values-in-turn.ts';

const values = (text: string, width = 8) => {
  const read = parseValues(text, { width, signed: false }, 'dec');
  return read.ok ? read.value.map(Number) : read.error.code;
};

describe('values one after another', () => {
  test('lists, ramps up and down, with a step, in any radix', () => {
    expect(values('1, 2,0x10')).toEqual([1, 2, 16]);
    expect(values('0..4')).toEqual([0, 1, 2, 3, 4]);
    expect(values('10..0 by 4, 7')).toEqual([10, 6, 2, 7]);
    expect(values('0x0..0xff by 0x55')).toEqual([0, 85, 170, 255]);
  });
  test('what is no value, does not fit, goes nowhere or on for ever is refused', () => {
    expect(values('1, two')).toBe('lever-value');
    expect(values('1, 256')).toBe('lever-value');
    expect(values('0..9 by 0')).toBe('values');
    expect(values('0..4000000000', 32)).toBe('values');
    expect(values('')).toBe('lever-value');
  });
  test('a ramp has every value between its ends that a step reaches', () =>
    fc.assert(
      fc.property(fc.nat(255), fc.nat(255), fc.integer({ min: 1, max: 60 }), (from, to, by) => {
        const read = values(`${from}..${to} by ${by}`);
        const expected: number[] = [];
        if (to >= from) for (let at = from; at <= to; at += by) expected.push(at);
        else for (let at = from; at >= to; at -= by) expected.push(at);
        expect(read).toEqual(expected);
      }),
    ));
});

describe('limits', () => {
  const keeps = (text: string, value: bigint, width = 8, signed = false) => {
    const limit = parseLimit(text, { width, signed }, 'dec');
    return limit.ok ? limit.value(value) : limit.error.code;
  };
  test('compare as they are written', () => {
    expect([keeps('< 400', 399n, 12), keeps('< 400', 400n, 12), keeps('<=400', 400n, 12)]).toEqual([true, false, true]);
    expect([keeps('== 0x10', 16n), keeps('!= 3', 3n), keeps('>= 3', 3n), keeps('> 3', 3n)]).toEqual([
      ...[true, false, true, false],
    ]);
  });
  test('of a signed gauge with its sign', () => {
    expect([keeps('< 0', 0xf0n, 8, true), keeps('< 0', 0x10n, 8, true), keeps('> -3', 0xfen, 8, true)]).toEqual([
      ...[true, false, true],
    ]);
  });
  test('what is no limit is refused', () => {
    expect([keeps('400', 1n), keeps('=> 4', 1n), keeps('< many', 1n), keeps('< 256', 1n)]).toEqual([
      ...['limit', 'limit', 'lever-value', 'lever-value'],
    ]);
  });
});
