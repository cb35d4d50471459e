import { z } from 'zod';
import { readJsonFile } from '../json-file.ts';
import { ok, type Result } from '../result.ts';
import { type ImageProblem, imageEnd, type MemoryImage } from './image.ts';
import { dataField } from './board-data.ts';
import { shifted } from './change.ts';
import { checkPlaces, type Place } from './places.ts';

const address = z.union([
  z.number().int().nonnegative(),
  z
    .string()
    .regex(/^0x[0-9a-fA-F]+$/, 'must be a number or 0x and hexadecimal digits')
    .transform(Number),
]);

export const BLOCK_ROLES = ['image', 'golden', 'update', 'data'] as const;

const block = z
  .object({
    name: z.string().min(1).max(60),
    /** What it is to the FPGA; docs/silicon.md, section 5. */
    role: z.enum(BLOCK_ROLES).default('data'),
    /** Added to the block's own addresses: a bitstream and plain bytes begin at 0. */
    address,
    /** The image of a file, or data written out. */
    file: z.string().optional(),
    hex: z
      .string()
      .regex(/^([0-9a-fA-F]{2}\s*)*$/, 'must be pairs of hexadecimal digits')
      .optional(),
    text: z.string().optional(),
    /** The project's newest build. */
    build: z.literal(true).optional(),
    /** Values that differ from board to board, then their CRC. */
    fields: z.array(dataField).min(1).max(200).optional(),
    byteOrder: z.enum(['little', 'big']).default('little'),
  })
  .refine(
    (one) => [one.file, one.hex, one.text, one.build, one.fields].filter((source) => source !== undefined).length === 1,
    'needs exactly one of file, hex, text, build and fields',
  );

export type LayoutBlock = z.infer<typeof block>;

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

/** The bytes that a block has written out as `text` or `hex`; none where they come from elsewhere. */
export const writtenOut = ({ hex: digits, text }: LayoutBlock): Uint8Array =>
  digits === undefined
    ? new TextEncoder().encode(text ?? '')
    : Uint8Array.from(digits.match(/[0-9a-fA-F]{2}/g) ?? [], (byte) => Number.parseInt(byte, 16));

export const readLayout = (name: string, text: string): Result<Layout> =>
  readJsonFile(layoutFile, { code: 'layout-file', section: 12 }, name, text);

interface Composed {
  readonly image: MemoryImage;
  /** In the order of the layout. */
  readonly blocks: readonly Place[];
  readonly problems: readonly ImageProblem[];
}

/**
 * Puts the blocks' images where the layout says. Blocks that overlap or do not fit are errors; one that shares a sector
 * with another, or begins inside one, is a warning: it cannot be erased alone.
 */
export function composeImages(layout: Layout, images: readonly MemoryImage[]): Result<Composed> {
  const problems: ImageProblem[] = [];
  const add = (severity: ImageProblem['severity'], code: string, message: string) =>
    problems.push({ severity, line: 0, code, message });
  const parts: MemoryImage[] = [];
  const blocks: Place[] = [];
  for (const [i, { name, address: at }] of layout.blocks.entries()) {
    const moved = shifted(images[i] ?? { segments: [] }, at);
    if (!moved.ok) return moved;
    parts.push(moved.value);
    const start = moved.value.segments[0]?.start ?? at;
    const end = Math.max(start, imageEnd(moved.value));
    if (start === end) add('warning', 'empty', `The block "${name}" holds nothing.`);
    blocks.push({ name, start, end });
  }
  for (const { severity, code, message, at } of checkPlaces(blocks, layout.size, layout.sectorBytes))
    if (code !== 'overlap' || interleave(parts, at)) add(severity, code, message);
  const segments = parts.flatMap((part) => part.segments).sort((a, b) => a.start - b.start);
  return ok({ image: { segments }, blocks, problems });
}

/** An image with gaps may lie around another one. */
const interleave = (parts: readonly MemoryImage[], [a, b]: readonly number[]): boolean =>
  parts[a as number]?.segments.some((one) =>
    parts[b as number]?.segments.some(
      (other) => one.start < other.start + other.bytes.length && other.start < one.start + one.bytes.length,
    ),
  ) ?? false;
