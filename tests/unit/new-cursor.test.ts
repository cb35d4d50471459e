// A new cursor is laid where it can be seen and taken hold of: on screen, and apart from those that stand there.
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { freePlace, nextName } from '../../ui/wave/new-cursor.ts';

const axis = (length: number) => ({
  title: 'r',
  tickSeconds: 1e-6,
  length,
  triggers: [],
  gaps: [],
  stored: null,
  sampled: true,
});
const cursors = (ticks: readonly number[]) => ticks.map((tick, i) => ({ name: String(i), tick }));

test('lies on screen and half a cursor’s width from every other, while there is room', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 0, max: 4000 }),
      fc.array(fc.integer({ min: 0, max: 9999 }), { maxLength: 6 }),
      (first, ticks) => {
        const view = { first, perPixel: 5 };
        const place = freePlace(axis(10_000), view, 800, cursors(ticks));
        const x = (place - first) / view.perPixel;
        expect(x).toBeGreaterThanOrEqual(0);
        expect(x).toBeLessThanOrEqual(800);
        for (const tick of ticks) expect(Math.abs(place - tick) / view.perPixel).toBeGreaterThanOrEqual(19);
      },
    ),
  );
});

test('several in a row each get a place of their own', () => {
  const placed: number[] = [];
  for (let i = 0; i < 12; i++) placed.push(freePlace(axis(10_000), { first: 0, perPixel: 5 }, 800, cursors(placed)));
  expect(new Set(placed).size).toBe(12);
});

test('a short record that fills part of the screen has them inside itself', () => {
  const place = freePlace(axis(64), { first: -100, perPixel: 1 }, 800, []);
  expect(place).toBeGreaterThanOrEqual(0);
  expect(place).toBeLessThan(64);
});

test('names go through the alphabet and on', () => {
  expect(nextName([])).toBe('A');
  expect(nextName(['A', 'C'])).toBe('B');
  expect(nextName(Array.from({ length: 26 }, (_, i) => String.fromCharCode(65 + i)))).toBe('A1');
});
