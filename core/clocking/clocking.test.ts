import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { ClockFamilies, factorsFor, type GeneratorLimits, madeHertz, outOfRange } from './index.ts';

const LIMITS: GeneratorLimits = {
  multiply: { least: 2, most: 40 },
  divide: { least: 1, most: 8 },
  divideOutput: { least: 2, most: 60 },
  input: { least: 1e6, most: 200e6 },
  compared: { least: 1e6, most: 50e6 },
  inner: { least: 300e6, most: 800e6 },
};

type Edge = 'posedge' | 'negedge';
interface Ratio {
  readonly times: number;
  readonly over: number;
}

const ratio = fc.record({ times: fc.integer({ min: 1, max: 12 }), over: fc.integer({ min: 1, max: 12 }) });
const edge = fc.constantFrom<Edge>('posedge', 'negedge');

/** Edges of both clocks laid out side by side until they come round, in exact fractions of the source's cycle. */
function distanceByList(from: Ratio, fromEdge: Edge, to: Ratio, toEdge: Edge): number {
  // The smallest unit in which all halves are whole.
  const unit = 2 * from.times * to.times;
  const edges = ({ times, over }: Ratio, of: Edge, cycles: number) =>
    Array.from(
      { length: cycles },
      (_, i) => (i * over * unit) / times + (of === 'posedge' ? 0 : (over * unit) / times / 2),
    );
  const launch = edges(from, fromEdge, 200);
  const take = edges(to, toEdge, 400);
  let least = Number.POSITIVE_INFINITY;
  for (const begin of launch) {
    const next = take.find((end) => end > begin);
    if (next !== undefined) least = Math.min(least, next - begin);
  }
  return least / unit;
}

const made = (from: Ratio, to: Ratio) =>
  new ClockFamilies([
    { name: 'from', source: 'clk', ratio: from },
    { name: 'to', source: 'clk', ratio: to },
  ]);

describe('edges of clocks of one family', () => {
  test('lie as near to each other as a list of them shows', () =>
    fc.assert(
      fc.property(ratio, edge, ratio, edge, (from, fromEdge, to, toEdge) => {
        const cycles = made(from, to).cyclesBetween('from', fromEdge, 'to', toEdge);
        expect(((cycles ?? 0) * to.over) / to.times).toBeCloseTo(distanceByList(from, fromEdge, to, toEdge), 9);
      }),
      { numRuns: 400 },
    ));

  test('three to two: a sixth of a cycle of their source, from rise to rise (by hand)', () => {
    const families = made({ times: 3, over: 1 }, { times: 2, over: 1 });
    expect(families.cyclesBetween('from', 'posedge', 'to', 'posedge')).toBeCloseTo(1 / 3, 12);
  });

  test('of different sources have nothing to do with each other', () => {
    const families = new ClockFamilies([
      { name: 'g.a', source: 'clk', ratio: { times: 4, over: 1 } },
      { name: 'h.a', source: 'aux', ratio: { times: 4, over: 1 } },
    ]);
    expect(families.cyclesBetween('g.a', 'posedge', 'h.a', 'posedge')).toBeNull();
    expect(families.cyclesBetween('clk', 'posedge', 'clk', 'posedge')).toBe(1);
    expect(families.cyclesBetween('clk', 'posedge', 'clk', 'negedge')).toBe(0.5);
    expect(families.cyclesBetween('clk', 'posedge', 'g.a', 'posedge')).toBe(1);
    expect(families.cyclesBetween('g.a', 'posedge', 'clk', 'posedge')).toBe(0.25);
  });
});

describe('factors of a clock generator', () => {
  const hertz = fc.integer({ min: 1, max: 200 }).map((megahertz) => megahertz * 1e6);
  const wanted = fc.integer({ min: 4, max: 400 }).map((megahertz) => megahertz * 1e6);

  test('are allowed, and no others come nearer', () =>
    fc.assert(
      fc.property(hertz, wanted, (input, one) => {
        const found = factorsFor(LIMITS, input, [one]);
        for (const { setting, hertz: made, error } of found) {
          expect(outOfRange(LIMITS, setting, input)).toEqual([]);
          expect(madeHertz(input, setting, setting.outputs[0] ?? 0)).toBeCloseTo(made[0] ?? 0, 3);
          expect((made[0] ?? 0) / one - 1).toBeCloseTo(error, 9);
        }
        let best = Number.POSITIVE_INFINITY;
        for (let divide = 1; divide <= LIMITS.divide.most; divide++)
          for (let multiply = 2; multiply <= LIMITS.multiply.most; multiply++)
            for (let out = 2; out <= LIMITS.divideOutput.most; out++)
              if (outOfRange(LIMITS, { multiply, divide, outputs: [out] }, input).length === 0)
                best = Math.min(best, Math.abs((input * multiply) / (divide * out * one) - 1));
        expect(Math.abs(found[0]?.error ?? Number.POSITIVE_INFINITY)).toBeCloseTo(best, 9);
      }),
      { numRuns: 40 },
    ));

  test('48 MHz of 12: exactly, with the input as it is (12 × 32 / 8, by hand)', () => {
    expect(factorsFor(LIMITS, 12e6, [48e6])).toEqual([
      { setting: { multiply: expect.any(Number), divide: 1, outputs: [expect.any(Number)] }, hertz: [48e6], error: 0 },
    ]);
  });

  test('what no factors reach has the nearest ones on both sides', () => {
    const [first, second, more] = factorsFor(LIMITS, 12e6, [48.001e6]);
    expect(more).toBeUndefined();
    expect([Math.sign(first?.error ?? 0), Math.sign(second?.error ?? 0)].sort()).toEqual([-1, 1]);
  });

  test('several outputs share what is inside', () => {
    const [found] = factorsFor(LIMITS, 12e6, [48e6, 32e6, 24e6]);
    expect(found).toMatchObject({ hertz: [48e6, 32e6, 24e6], error: 0 });
    const inner = (12e6 * (found?.setting.multiply ?? 0)) / (found?.setting.divide ?? 1);
    expect(found?.setting.outputs.map((divider) => inner / divider)).toEqual([48e6, 32e6, 24e6]);
  });

  test('an input out of range has none, and is told', () => {
    expect(factorsFor(LIMITS, 300e6, [48e6])).toEqual([]);
    const what = (multiply: number, divide: number, input: number) =>
      outOfRange(LIMITS, { multiply, divide, outputs: [2] }, input).map((one) => [one.what, one.value]);
    expect(what(8, 6, 300e6)).toEqual([['input', 300e6]]);
    expect(what(2, 1, 100e6)).toEqual([
      ['compared', 100e6],
      ['inner', 200e6],
    ]);
    expect(
      outOfRange(LIMITS, { multiply: 1, divide: 9, outputs: [1, 0] }, 12e6).map(({ what, output }) => [what, output]),
    ).toEqual([
      ['multiply', undefined],
      ['divide', undefined],
      ['output', 0],
    ]);
  });
});
