import { partNamed, usualPart } from '../../../core/families/index.ts';
import {
  checkPlaces,
  dataBytes,
  type Layout,
  type LayoutBlock,
  type PlaceProblem,
  writtenOut,
} from '../../../core/images/index.ts';
import type { ImageRow } from '../../../server/index.ts';
import type { StripPlace } from '../places.ts';

/** Where blocks take their bytes from, as a page knows them. */
export interface Sources {
  /** Part of the newest build; null without one. */
  readonly part: string | null;
  readonly images: readonly ImageRow[];
}

/** A new layout for the board's flash. */
export const emptyLayout = (name: string): Layout => ({
  format: 'nimble-layout',
  version: 1,
  name,
  size: 1 << 22,
  sectorBytes: 4096,
  blocks: [],
});

/**
 * First and last address of a block's data, counted from the block's own address; null while its source is not known.
 */
export function extentOf(block: LayoutBlock, { part, images }: Sources): readonly [start: number, end: number] | null {
  if (block.build) {
    const known = part === null ? undefined : partNamed(part);
    return known ? [0, known.family.stream.bytes(known)] : null;
  }
  if (block.fields) return [0, dataBytes(block.fields)];
  if (block.hex !== undefined || block.text !== undefined) return [0, writtenOut(block).length];
  const image = images.find(({ name }) => name === block.file);
  return image ? [image.start, image.end] : null;
}

/** All blocks in their places, then the boot header where an update asks for one. */
export function placesOf(layout: Layout, sources: Sources): StripPlace[] {
  const places: StripPlace[] = layout.blocks.map((block) => {
    const [start, end] = extentOf(block, sources) ?? [0, 0];
    return { name: block.name, role: block.role, start: block.address + start, end: block.address + end };
  });
  const boot = partNamed(sources.part ?? usualPart())?.family.flash?.boot;
  if (boot && layout.blocks.some(({ role }) => role === 'update')) {
    const start = boot.headerAddress(layout.size);
    places.push({ name: 'boot header', role: 'header', start, end: start + boot.headerRoom });
  }
  return places;
}

/** What is wrong with a layout as it stands. */
export function problemsOf(layout: Layout, sources: Sources): PlaceProblem[] {
  const places = placesOf(layout, sources);
  const problems = checkPlaces(
    places.map((place) => ({ ...place, guarded: place.role !== 'data' })),
    layout.size,
    layout.sectorBytes,
  );
  for (const [i, block] of layout.blocks.entries()) {
    if (extentOf(block, sources) === null)
      problems.push({
        severity: 'error',
        code: 'does-not-fit',
        at: [i],
        message: block.build
          ? `"${block.name}" waits for a build.`
          : `The file ${block.file} of "${block.name}" was not added here.`,
      });
    if ((block.role === 'image' || block.role === 'golden') && block.address !== 0)
      problems.push({
        severity: 'error',
        code: 'alignment',
        at: [i],
        message: `"${block.name}" must begin at 0x0: that is where the FPGA looks.`,
      });
  }
  if (layout.blocks.some(({ role }) => role === 'update') && !layout.blocks.some(({ role }) => role === 'golden'))
    problems.push({
      severity: 'warning',
      code: 'alignment',
      at: [],
      message: 'There is an update and no golden image: one must stand in the flash already.',
    });
  return problems;
}

/** The first whole sector behind everything, where a new block can stand. */
export function freeAddress(layout: Layout, sources: Sources): number {
  const end = Math.max(
    0,
    ...placesOf(layout, sources)
      .filter(({ role }) => role !== 'header')
      .map((place) => place.end),
  );
  return Math.ceil(end / layout.sectorBytes) * layout.sectorBytes;
}

export const withBlock = (layout: Layout, index: number, change: Partial<LayoutBlock>): Layout => ({
  ...layout,
  blocks: layout.blocks.map((block, i) => (i === index ? { ...block, ...change } : block)),
});

/** The same block with its bytes from elsewhere. */
export function withSource(block: LayoutBlock, source: string): LayoutBlock {
  const { name, role, address, byteOrder } = block;
  const bare = { name, role, address, byteOrder };
  switch (source) {
    case 'build':
      return { ...bare, build: true };
    case 'text':
      return { ...bare, text: block.text ?? 'text' };
    case 'hex':
      return { ...bare, hex: block.hex ?? '00' };
    case 'fields':
      return { ...bare, role: 'data', fields: block.fields ?? [{ name: 'serial', type: 'text', length: 16 }] };
    default:
      return { ...bare, file: source.slice('file:'.length) };
  }
}

export const sourceOf = (block: LayoutBlock): string =>
  block.build
    ? 'build'
    : block.fields
      ? 'fields'
      : block.text !== undefined
        ? 'text'
        : block.hex !== undefined
          ? 'hex'
          : `file:${block.file}`;
