import { describe, expect, test } from 'vitest';
import { type Part, partNamed } from '../../../core/families/index.ts';
import { type Layout, type LayoutBlock, readLayout } from '../../../core/images/index.ts';
import {
  emptyLayout,
  extentOf,
  freeAddress,
  placesOf,
  problemsOf,
  type Sources,
  sourceOf,
  withSource,
} from './edit.ts';

const sources: Sources = {
  part: 'CV25',
  images: [
    {
      id: 1,
      name: 'table.hex',
      added: '',
      bytes: 400,
      format: 'intel-hex',
      start: 0x100,
      end: 0x180,
      fingerprint: null,
    },
  ],
};
const part = partNamed('CV25') as Part;
const stream = part.family.stream.bytes(part);
const block = (change: Partial<LayoutBlock> & { readonly name: string }): LayoutBlock => ({
  role: 'data',
  address: 0,
  byteOrder: 'little',
  ...change,
});
const layout = (...blocks: LayoutBlock[]): Layout => ({ ...emptyLayout('x'), blocks });
const golden = block({ name: 'golden', role: 'golden', build: true });
const update = block({ name: 'update', role: 'update', address: 0x100000, build: true });

describe('a layout on the screen', () => {
  test('blocks are as long as what they take their bytes from', () => {
    expect(extentOf(golden, sources)).toEqual([0, stream]);
    expect(extentOf(golden, { ...sources, part: null })).toBeNull();
    expect(extentOf(block({ name: 'a', file: 'table.hex' }), sources)).toEqual([0x100, 0x180]);
    expect(extentOf(block({ name: 'a', file: 'gone.hex' }), sources)).toBeNull();
    expect(extentOf(block({ name: 'a', hex: '01 02 FF' }), sources)).toEqual([0, 3]);
    expect(extentOf(block({ name: 'a', text: 'größe' }), sources)).toEqual([0, 7]);
    expect(extentOf(block({ name: 'a', fields: [{ name: 'n', type: 'u16' }] }), sources)).toEqual([0, 6]);
  });
  test('an update brings the boot header into the last sector', () => {
    expect(placesOf(layout(golden, update), sources).at(-1)).toEqual({
      name: 'boot header',
      role: 'header',
      start: 0x3ff000,
      end: 0x400000,
    });
    expect(placesOf(layout(golden), sources)).toHaveLength(1);
  });
  test('what cannot be written is said with its blocks', () => {
    const errors = (...blocks: LayoutBlock[]) =>
      problemsOf(layout(...blocks), sources)
        .filter(({ severity }) => severity === 'error')
        .map(({ at, message }) => [at, message]);
    expect(errors(golden, update, block({ name: 'a', address: 0x200000, text: 'x' }))).toEqual([]);
    expect(errors(golden, { ...update, address: 0x1000 })).toEqual([
      [[0, 1], '"golden" and "update" overlap at 0x1000.'],
    ]);
    expect(errors(golden, update, block({ name: 'a', address: 0x3fffff, text: 'xy' })).map(([at]) => at)).toEqual([
      [2],
      [2, 3],
    ]);
    expect(errors({ ...golden, address: 0x1000 })).toEqual([
      [[0], '"golden" must begin at 0x0: that is where the FPGA looks.'],
    ]);
    expect(errors(block({ name: 'a', file: 'gone.hex' }))[0]?.[1]).toMatch(/was not added/);
    expect(problemsOf(layout(update), sources).map(({ message }) => message)).toEqual([
      'There is an update and no golden image: one must stand in the flash already.',
    ]);
  });
  test('a new block finds a free sector', () => {
    expect(freeAddress(layout(), sources)).toBe(0);
    expect(freeAddress(layout(golden), sources)).toBe(Math.ceil(stream / 4096) * 4096);
    expect(freeAddress(layout(golden, update), sources)).toBe(0x100000 + Math.ceil(stream / 4096) * 4096);
  });
  test('every source that can be chosen gives a layout that is read back', () => {
    for (const source of ['build', 'text', 'hex', 'fields', 'file:table.hex']) {
      const next = withSource(golden, source);
      expect(sourceOf(next)).toBe(source);
      const read = readLayout('x', JSON.stringify(layout(next)));
      expect(read.ok && read.value.blocks[0]).toEqual(JSON.parse(JSON.stringify(next)));
    }
  });
});
