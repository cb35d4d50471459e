// What is built while nobody waits: it has to go all the way, or it would warm nothing.
import { expect, test } from 'vitest';
import { warmUp } from './warm-up.ts';

test('the design that is built first has all that others have, and its probes', () => {
  const { messages, probes, timing, resources, memories, bitstream } = warmUp();
  expect(messages.filter(({ severity }) => severity === 'error')).toEqual([]);
  expect(probes?.cores.map(({ kind }) => kind)).toEqual(['recorder', 'panel']);
  expect(timing?.clocks.map(({ clock }) => clock)).toEqual(['clk', 'clk_b', 'TCK (debug link)']);
  expect(resources.carryBits).toBeGreaterThan(0);
  expect(memories.map(({ kind }) => kind)).toContain('block');
  expect(bitstream?.length).toBeGreaterThan(1000);
});
