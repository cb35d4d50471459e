// When a record is looked at: samples, gaps, edges that a stepper did not let through.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { type Trace, TraceWriter } from '../wave/index.ts';
import { momentAt, momentsOfSamples, momentsOfStamps } from './moments.ts';

const bits = (values: readonly (0 | 1)[], ticks?: readonly number[]): Trace => {
  const writer = new TraceWriter(1);
  for (const [i, value] of values.entries()) writer.add(ticks?.[i] ?? i, [value], null);
  return writer.finish({ name: 'lets', width: 1, signed: false, domain: '' });
};

describe('edges before samples', () => {
  test('lie between all but the first, and none behind a gap', () => {
    const { edgesBefore, breaks } = momentsOfSamples({ length: 9, stored: Float64Array.of(0, 1, 2, 6, 7, 8) });
    expect([...edgesBefore]).toEqual([-1, 0, 0, -1, 0, 0]);
    expect(breaks).toEqual([0, 3]);
  });

  test('are those that were let through behind the sample before', () => {
    const lets = bits([1, 0, 0, 1, 1]);
    expect([...momentsOfSamples({ length: 5, stored: null }, lets).edgesBefore]).toEqual([-1, 0, -1, -1, 0]);
    const stamps = Float64Array.of(0, 10, 20, 30, 40);
    expect([...momentsOfStamps(stamps, bits([1, 0, 0, 1, 1], [0, 10, 20, 30, 40])).edgesBefore]).toEqual([
      -1, 0, -1, -1, 0,
    ]);
    // Before anybody says anything they are let through.
    expect([...momentsOfSamples({ length: 4, stored: null }, bits([0], [2])).edgesBefore]).toEqual([-1, 0, 0, -1]);
  });

  test('with gaps and a held clock, as each alone says', () =>
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.boolean(), fc.constantFrom(1, 1, 1, 5)), { minLength: 1, maxLength: 40 }),
        (samples) => {
          let tick = -1;
          const ticks = samples.map(([, apart]) => (tick += apart));
          const lets = bits(
            samples.map(([isLet]) => (isLet ? 1 : 0)),
            ticks,
          );
          const made = momentsOfSamples({ length: tick + 1, stored: Float64Array.from(ticks) }, lets);
          for (const [i] of samples.entries()) {
            const isBreak = i === 0 || ticks[i] !== (ticks[i - 1] ?? 0) + 1;
            expect((made.edgesBefore[i] ?? 0) >= 0).toBe(!isBreak && samples[i - 1]?.[0] === true);
            expect(made.breaks.includes(i)).toBe(isBreak);
          }
        },
      ),
    ));
});

test('the first moment that is not before a place is found from any moment on', () =>
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 60 }),
      fc.nat(200),
      fc.nat(59),
      (apart, tick, from) => {
        let at = 0;
        const ticks = Float64Array.from(apart.map((one) => (at += one)));
        const start = Math.min(from, ticks.length - 1);
        const found = ticks.findIndex((one, i) => i >= start && one >= tick);
        expect(momentAt(ticks, tick, start)).toBe(found < 0 ? ticks.length : found);
      },
    ),
  ));
