// Counts in shift registers: every value once, and back from a value to its count.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { afterSteps, neverHeld, SEEN, shifted, stepsTo, TIMES, WITHIN } from './shift-count.ts';

const kinds = [
  ['17 bits', TIMES],
  ['20 bits', WITHIN],
  ['24 bits', SEEN],
] as const;

describe.each(kinds)('a shift count of %s', (_, kind) => {
  test('comes back to 0 after all values but one, and not before', () => {
    let value = 0;
    let steps = 0;
    do {
      value = shifted(value, kind);
      steps++;
    } while (value !== 0 && steps < 2 ** kind.bits);
    expect(steps).toBe(2 ** kind.bits - 1);
  });
  test('never holds all ones, from where it would not move', () => {
    expect(shifted(neverHeld(kind), kind)).toBe(neverHeld(kind));
    expect(stepsTo(neverHeld(kind), kind)).toBeNull();
  });
  test('many steps at once are as many single ones, and the way back is found', () => {
    let value = 0;
    for (let steps = 0; steps < 3000; steps++) {
      if (steps % 97 === 0) expect(afterSteps(steps, kind)).toBe(value);
      value = shifted(value, kind);
    }
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 2 ** kind.bits - 2 }), (steps) => {
        expect(stepsTo(afterSteps(steps, kind), kind)).toBe(steps);
      }),
    );
  });
});
