// The flash as a strip folded into rows: every byte of a place is drawn once, and no name lies over another.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { named, pieces, type StripPlace } from './places.ts';

const ROW = 0x80000;
const SIZE = 8 * ROW;
const place = (name: string, start: number, end: number): StripPlace => ({ name, role: 'data', start, end });
const anyPlace = fc
  .tuple(fc.string({ minLength: 1, maxLength: 20 }), fc.nat(SIZE - 2), fc.integer({ min: 1, max: 3 * ROW }))
  .map(([name, start, length]) => place(name, start, Math.min(SIZE, start + length)));

describe('pieces', () => {
  test('are as long together as the place, one a row, and stay inside their rows', () => {
    fc.assert(
      fc.property(anyPlace, (one) => {
        const found = pieces(one, ROW, SIZE);
        expect(found.reduce((sum, { from, to }) => sum + to - from, 0)).toBe(one.end - one.start);
        expect(new Set(found.map(({ row }) => row)).size).toBe(found.length);
        for (const { from, to } of found) expect(from >= 0 && from < to && to <= ROW).toBe(true);
        expect((found[0]?.row ?? 0) * ROW + (found[0]?.from ?? 0)).toBe(one.start);
      }),
    );
  });
  test('an empty place is a line that can be seen', () => {
    expect(pieces(place('x', 5, 5), ROW, SIZE)).toEqual([{ row: 0, from: 5, to: 6 }]);
  });
});

describe('names', () => {
  test('of two stretches beside each other are written once', () => {
    const list = [place('table.hex', 0x300000, 0x300004), place('table.hex', 0x301000, 0x301002)];
    expect(named(list, ROW, SIZE).map(({ index }) => index)).toEqual([0]);
  });
  test('of places far apart, or in other rows, are all written', () => {
    const list = [place('a', 0, 16), place('b', 0x40000, 0x40010), place('c', ROW, ROW + 16)];
    expect(named(list, ROW, SIZE).map(({ index }) => index)).toEqual([0, 1, 2]);
  });
  test('the first one always has its name, and what is drawn keeps its number', () => {
    fc.assert(
      fc.property(fc.array(anyPlace, { minLength: 1, maxLength: 12 }), (list) => {
        const shown = named(list, ROW, SIZE);
        expect(shown[0]?.index).toBe(0);
        for (const { place: one, index } of shown) expect(list[index]).toBe(one);
      }),
    );
  });
});
