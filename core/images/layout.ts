import { z } from 'zod';
import { readJsonFile } from '../json-file.ts';
import { ok, type Result } from '../result.ts';
import { type ImageProblem, imageEnd, type MemoryImage } from './image.ts';
import { shifted } from './change.ts';

const address = z.union([z.number().int().nonnegative(), z.string().regex(/^0x[0-9a-fA-F]+$/, 'must be a number or 0x and hexadecimal digits').transform(Number)]);

const block = z.object({
  name: z.string().min(1).max(60),
  /** Added to the block's own addresses: a bitstream and plain bytes begin at 0. */
  address,
  /** The image of a file, or data written out. */
  file: z.string().optional(),
  hex: z.string().regex(/^([0-9a-fA-F]{2}\s*)*$/, 'must be pairs of hexadecimal digits').optional(),
  text: z.string().optional(),
});

const layoutFile = z.object({
  format: z.literal('nimble-layout'),
  version: z.literal(1),
  name: z.string().default('layout'),
  /** Size of the memory in bytes. */
  size: address,
  /** Blocks should begin at multiples of this, so that each can be erased alone. */
  sectorBytes: address.default(4096),
  blocks: z.array(block).min(1).max(200),
});

/** Several images and pieces of data in one memory. docs/formats.md, section 12 */
export type Layout = z.infer<typeof layoutFile>;

export const readLayout = (name: string, text: string): Result<Layout> => readJsonFile(layoutFile, { code: 'layout-file', section: 12 }, name, text);

/** One block in its place: the addresses it takes. */
export interface PlacedBlock {
  readonly name: string;
  readonly start: number;
  readonly end: number;
}

export interface Composed {
  readonly image: MemoryImage;
  readonly blocks: readonly PlacedBlock[];
  readonly problems: readonly ImageProblem[];
}

/**
 * Puts the blocks' images where the layout says. Blocks that overlap or do not fit are errors; one that shares a sector with another, or begins
 * inside one, is a warning: it cannot be erased alone.
 */
export function composeImages(layout: Layout, images: readonly MemoryImage[]): Result<Composed> {
  const problems: ImageProblem[] = [];
  const add = (severity: ImageProblem['severity'], code: string, message: string) => problems.push({ severity, line: 0, code, message });
  const parts: MemoryImage[] = [];
  const blocks: PlacedBlock[] = [];
  for (const [i, { name, address: at }] of layout.blocks.entries()) {
    const moved = shifted(images[i] ?? { segments: [] }, at);
    if (!moved.ok) return moved;
    parts.push(moved.value);
    const start = moved.value.segments[0]?.start ?? at;
    const end = Math.max(start, imageEnd(moved.value));
    if (start === end) add('warning', 'empty', `The block "${name}" holds nothing.`);
    if (end > layout.size) add('error', 'does-not-fit', `The block "${name}" ends at ${hex(end)}, the memory at ${hex(layout.size)}.`);
    if (start % layout.sectorBytes !== 0) add('warning', 'alignment', `The block "${name}" begins at ${hex(start)}, inside a sector of ${hex(layout.sectorBytes)}.`);
    for (const [k, other] of blocks.entries()) {
      const common = parts[k]?.segments.some((a) => moved.value.segments.some((b) => a.start < b.start + b.bytes.length && b.start < a.start + a.bytes.length));
      if (common) add('error', 'overlap', `The blocks "${other.name}" and "${name}" overlap at ${hex(Math.max(start, other.start))}.`);
      else if (sharesSector(other, { name, start, end }, layout.sectorBytes)) add('warning', 'shared-sector', `The blocks "${other.name}" and "${name}" share a sector; neither can be erased alone.`);
    }
    blocks.push({ name, start, end });
  }
  const segments = parts.flatMap((part) => part.segments).sort((a, b) => a.start - b.start);
  return ok({ image: { segments }, blocks, problems });
}

const sharesSector = (a: PlacedBlock, b: PlacedBlock, sector: number): boolean => a.end > a.start && b.end > b.start && Math.floor((a.end - 1) / sector) >= Math.floor(b.start / sector) && Math.floor((b.end - 1) / sector) >= Math.floor(a.start / sector);

const hex = (value: number): string => `0x${value.toString(16).toUpperCase()}`;
