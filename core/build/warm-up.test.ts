// What is built while nobody waits: it has to go all the way, or it would warm nothing.
import { expect, test } from 'vitest';
import { build } from './build.ts';
import { WARM_UP, warmUp } from './warm-up.ts';

test('the design that is built first has all that others have, and its probes', () => {
  const { messages, probes, timing, resources, memories } = build(WARM_UP);
  expect(messages.filter(({ severity }) => severity === 'error')).toEqual([]);
  expect(probes?.cores.map(({ kind }) => kind)).toEqual(['recorder', 'panel']);
  expect(timing?.clocks.map(({ clock }) => clock)).toEqual(['clk', 'clk_b', 'TCK (debug link)']);
  expect(resources.carryBits).toBeGreaterThan(0);
  expect(memories.map(({ kind }) => kind)).toContain('block');
});

test('it is built and thrown away', () => {
  expect(warmUp()).toBeUndefined();
});
