// What the debug cores take, counted in tables, and how fast they can run: the reach that is laid down for them.
import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { type CoreFigure, coreFigures, isReached } from '../../tests/support/core-sizes.ts';
import { probePlan } from './plan.ts';

describe('debug cores', () => {
  const figures = coreFigures();
  const nameOf = ({ core, unit }: CoreFigure) => `${core}, ${unit}`;

  test.each(figures.map((one) => [nameOf(one), one] as const))('%s', (_, figure) => {
    expect(isReached(figure), `${figure.value} against ${figure.reach}`).toBe(true);
  });
  test('the plan of the water levels is the one that is counted', () => {
    const [recorder] = probePlan.parse(
      JSON.parse(readFileSync('demo/lockhouse/plans/levels.plan.json', 'utf8')),
    ).recorders;
    expect(recorder).toMatchObject({ depth: 1024, comparators: 3, stages: 2 });
  });
});
