import fc from 'fast-check';
import { expect, test } from 'vitest';
import { recordingFrom } from '../../tests/support/wave-model.ts';
import { indexAt, lastAt, rangeIn, rangesOf, stepsOf } from './index.ts';

test('steps find the same value as a search through all changes, and ranges the same peaks', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 0, max: 15 }), { minLength: 900, maxLength: 1500 }),
      fc.array(fc.tuple(fc.nat(1500), fc.nat(1500)), { minLength: 20, maxLength: 20 }),
      (values, places) => {
        const recording = recordingFrom({ w: values.map((value) => value.toString(2).padStart(4, '0')) });
        const [trace] = recording.traces as [(typeof recording.traces)[0]];
        const steps = stepsOf(trace, recording.length);
        expect(steps).not.toBeNull();
        const ranges = rangesOf(trace, true);
        for (const [a, b] of places) {
          expect(lastAt(trace, steps, a)).toBe(indexAt(trace, a));
          const [from, to] = [Math.min(a, b) % trace.at.length, Math.max(a, b) % trace.at.length].sort(
            (x, y) => x - y,
          ) as [number, number];
          const amounts = [...ranges.amount.slice(from, to + 1)];
          expect(rangeIn(ranges, from, to)).toEqual({ least: Math.min(...amounts), most: Math.max(...amounts) });
        }
      },
    ),
    { numRuns: 20 },
  );
});
