// What Keep would write, and which build would boot from it.
import { describe, expect, test } from 'vitest';
import type { Layout } from '../../core/images/index.ts';
import type { ImageRow } from '../../server/index.ts';
import { bootsFile, chosenName, printsOf } from './chosen.ts';
import { emptyLayout } from './layout/edit.ts';

const PRINT = 'ab'.repeat(16);
const OTHER = 'cd'.repeat(16);
const row = (id: number, name: string, change: Partial<ImageRow> = {}): ImageRow => ({
  id,
  name,
  added: '2026-01-01',
  bytes: 100,
  format: 'intel-hex',
  start: 0,
  end: 100,
  fingerprint: PRINT,
  ...change,
});
const layout: Layout = {
  ...emptyLayout('two'),
  blocks: [
    { name: 'golden', role: 'golden', address: 0, byteOrder: 'little', file: 'first.nbits' },
    { name: 'update', role: 'update', address: 0x100000, byteOrder: 'little', build: true },
    { name: 'note', role: 'data', address: 0x200000, byteOrder: 'little', text: 'x' },
  ],
};

describe('a chosen memory file', () => {
  test('boots where its own addresses put the stream at 0x0', () => {
    expect(bootsFile(row(1, 'a.hex'), { id: 1, name: 'a.hex', at: 0 })).toBe(PRINT);
    expect(bootsFile(row(1, 'a.hex', { start: 0x100000 }), { id: 1, name: 'a.hex', at: 0 })).toBeNull();
  });
  test.each(['binary', 'nbits'] as const)(
    'of %s boots where it is said to begin at 0x0, and is data elsewhere',
    (format) => {
      expect(bootsFile(row(1, 'a', { format }), { id: 1, name: 'a', at: 0 })).toBe(PRINT);
      expect(bootsFile(row(1, 'a', { format }), { id: 1, name: 'a', at: 0x1000 })).toBeNull();
    },
  );
  test('that is no stream boots nowhere', () => {
    expect(bootsFile(row(1, 'a', { fingerprint: null }), { id: 1, name: 'a', at: 0 })).toBeNull();
  });
});

describe('what would be written', () => {
  test('is the newest build where nothing else is chosen', () => {
    expect(printsOf({ image: null, layout: null }, PRINT, null, [])).toEqual([PRINT]);
    expect(printsOf({ image: null, layout: null }, null, null, [])).toEqual([]);
  });
  test('is the file, whatever the newest build is; one that is gone is not known', () => {
    const image = { id: 3, name: 'a.hex', at: 0 };
    expect(printsOf({ image, layout: null }, OTHER, null, [row(3, 'a.hex')])).toEqual([PRINT]);
    expect(printsOf({ image, layout: null }, OTHER, null, [])).toEqual([]);
  });
  test('is every image of a layout, and none of its data', () => {
    const images = [row(1, 'first.nbits', { format: 'nbits' })];
    expect(printsOf({ image: null, layout: 'two.layout.json' }, OTHER, layout, images)).toEqual([PRINT, OTHER]);
    expect(printsOf({ image: null, layout: 'two.layout.json' }, null, layout, [])).toEqual([]);
    expect(printsOf({ image: null, layout: 'gone.layout.json' }, OTHER, null, images)).toEqual([]);
  });
  test('has a name', () => {
    const choice = { layout: null, image: null, replaceGolden: false, rehearseBy: 'power' as const, values: {} };
    expect(chosenName({ keepChoice: choice })).toBe('the newest build');
    expect(chosenName({ keepChoice: { ...choice, layout: 'two.layout.json' } })).toBe('two.layout.json');
    expect(chosenName({ keepChoice: { ...choice, image: { id: 1, name: 'a.hex', at: 0 } } })).toBe('a.hex');
    expect(chosenName(null)).toBe('the newest build');
  });
});
