// Small circuits: what they compute, and how many tables they take against the count by hand that stands beside each.
import { describe, expect, test } from 'vitest';
import { CLOCK, LISTED, MORE } from '../../tests/circuits/index.ts';
import { expectEqual, netlistOf } from '../../tests/support/mapped-equals.ts';
import { delaysOf, MEMORIES } from '../families/corvane/delays.ts';
import { map } from './map.ts';
import { countResources } from './resources.ts';
import { time } from './timing/index.ts';

const all = [...LISTED, ...MORE];

describe('small circuits', () => {
  test.each(all.map(({ name, text, most }) => ({ name, text, most })))(
    '$name takes at most $most tables',
    ({ text, most }) => {
      const mapped = expectEqual(netlistOf(text), 400);
      expect(countResources(mapped).total.luts).toBeLessThanOrEqual(most);
    },
  );
  test('the counts by hand are reached on the whole', () => {
    const ratios = all.map(({ text, byHand }) => countResources(map(netlistOf(text), MEMORIES)).total.luts / byHand);
    const mean = Math.exp(ratios.reduce((sum, ratio) => sum + Math.log(ratio), 0) / ratios.length);
    expect(mean).toBeLessThanOrEqual(1.05);
    expect(Math.max(...ratios)).toBeLessThanOrEqual(1.3);
  });
});

test('a clock on six digits: at most 280 tables, at least 150 MHz at grade 2', () => {
  const mapped = expectEqual(netlistOf(CLOCK), 300);
  expect(countResources(mapped).total.luts).toBeLessThanOrEqual(280);
  expect(time(mapped, delaysOf(2), new Map()).clocks[0]?.highest).toBeGreaterThanOrEqual(150e6);
});
