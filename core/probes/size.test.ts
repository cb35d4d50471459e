// What the debug cores take, counted in tables, and how fast they can run: the reach that is laid down for them.
import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { coreSize, panelOf, recorderOf } from '../../tests/support/core-sizes.ts';
import { probePlan } from './plan.ts';

/** Tables of a stored bit and comparator, and of everything else. */
const A_BIT = 3.5;
const REST = 250;

describe('a recorder of 16 bits and 1,024 samples', () => {
  const base = recorderOf({ width: 16, depth: 1024 });
  const one = coreSize(base.plan, base.width);
  const more = (over: Parameters<typeof recorderOf>[0]) => {
    const { plan, width } = recorderOf({ width: 16, depth: 1024, ...over });
    return coreSize(plan, width).luts - one.luts;
  };
  test('takes no more than 3.5 tables a bit, and 250 for the rest', () => {
    expect(one.luts).toBeLessThanOrEqual(16 * A_BIT + REST);
    const wide = recorderOf({ width: 48, depth: 1024 });
    expect(coreSize(wide.plan, 48).luts - one.luts).toBeLessThanOrEqual(32 * A_BIT);
    expect(more({ comparators: 2 })).toBeLessThanOrEqual(16 * A_BIT);
  });
  test('a second stage 60, a qualifier 120, segments 40', () => {
    expect(more({ stages: 2 })).toBeLessThanOrEqual(60);
    expect(more({ qualifier: true })).toBeLessThanOrEqual(120);
    expect(more({ segments: 4 })).toBeLessThanOrEqual(40);
  });
  test('of 4 bits and 64 samples is the smallest, 180', () => {
    const least = recorderOf({ width: 4, depth: 64 });
    expect(coreSize(least.plan, least.width).luts).toBeLessThanOrEqual(180);
  });
  test('runs at 150 MHz at grade 2', () => {
    expect(one.megahertz).toBeGreaterThanOrEqual(150);
  });
});

test('the plan of the water levels takes no more than 620, a panel of 32 levers and 32 gauges 150', () => {
  const levels = probePlan.parse(JSON.parse(readFileSync('demo/lockhouse/plans/levels.plan.json', 'utf8')));
  const [recorder] = levels.recorders;
  const { plan } = recorderOf({ width: 18, depth: recorder?.depth ?? 0, comparators: 3, stages: 2 });
  expect(coreSize(plan, 18).luts).toBeLessThanOrEqual(620);
  expect(coreSize(panelOf(32, 32), 1).luts).toBeLessThanOrEqual(150);
});
