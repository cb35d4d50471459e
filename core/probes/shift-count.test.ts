// Counts in shift registers: every value once, and back from a value to its count.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { afterSteps, neverHeld, SEEN, stepsTo, TIMES, WITHIN } from './shift-count.ts';

/** With the primes that divide the number of values but one. */
const kinds = [
  ['17 bits', TIMES, [131071]],
  ['20 bits', WITHIN, [3, 5, 11, 31, 41]],
  ['24 bits', SEEN, [3, 5, 7, 13, 17, 241]],
] as const;

describe.each(kinds)('a shift count of %s', (_, kind, primes) => {
  const all = 2 ** kind.bits - 1;
  test('comes back to 0 after all values but one, and not before', () => {
    expect(afterSteps(all, kind)).toBe(0);
    // The way back to 0 divides every other one: were it shorter, one of these would lead there too.
    expect(primes.every((prime) => all % prime === 0)).toBe(true);
    for (const prime of primes) expect(all / prime === 1 || afterSteps(all / prime, kind) !== 0).toBe(true);
  });
  test('never holds all ones', () => {
    expect(stepsTo(neverHeld(kind), kind)).toBeNull();
  });
  test('many steps at once are as many single ones, and the way back is found', () => {
    const taps = kind.taps.map((tap) => tap - 1);
    let value = 0;
    for (let steps = 0; steps < 3000; steps++) {
      if (steps % 97 === 0) expect(afterSteps(steps, kind)).toBe(value);
      const parity = taps.reduce((sum, tap) => sum + ((value >>> tap) & 1), 1) % 2;
      value = (value * 2 + parity) % 2 ** kind.bits;
    }
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 2 ** kind.bits - 2 }), (steps) => {
        expect(stepsTo(afterSteps(steps, kind), kind)).toBe(steps);
      }),
    );
  });
});
