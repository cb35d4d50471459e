import { dirname, resolve } from 'node:path';
import { NBITS, partWithIdcode, readBitstream, streamFacts } from '../core/families/index.ts';
import {
  BLOCK_ROLES,
  boardData,
  boardRows,
  type DataValues,
  type ImageReading,
  imageOf,
  type Layout,
  type LayoutBlock,
  type MemoryImage,
  readImage,
  readLayout,
  writtenOut,
} from '../core/images/index.ts';
import { type BlockRole, imageBlocks, type KeepBlock, placedImage } from '../core/operations/index.ts';
import { ProblemError, problem } from '../core/result.ts';
import { readBytes, readText } from './files.ts';
import { CallError } from './output.ts';

export interface BlockOptions {
  readonly address?: string;
  readonly as?: string;
  readonly build?: string;
  readonly table?: string;
  readonly row?: string;
  readonly set?: readonly string[];
}

const CONTAINERS = [NBITS];

/** What a file, or a layout with its files, puts into the flash. */
export function openBlocks(path: string, options: BlockOptions): KeepBlock[] {
  if (path.endsWith('.layout.json')) return layoutBlocks(openLayout(path), dirname(path), options);
  const role = roleNamed(options.as);
  return imageBlocks(path, readWhole(path), numberOf('--address', options.address ?? '0')).map((block) =>
    role === null ? block : { ...block, role },
  );
}

export function openLayout(path: string): Layout {
  const layout = readLayout(path, readText(path));
  if (!layout.ok) throw new ProblemError(layout.error);
  return layout.value;
}

const layoutBlocks = (layout: Layout, folder: string, options: BlockOptions): KeepBlock[] =>
  layout.blocks.flatMap((block) =>
    blockImage(block, folder, options).segments.map(({ start, bytes }) => ({
      name: block.name,
      role: block.role,
      address: block.address + start,
      bytes,
    })),
  );

/** A block's own bytes, from address 0 on unless its file says otherwise. */
export function blockImage(block: LayoutBlock, folder: string, options: BlockOptions): MemoryImage {
  if (block.fields) {
    const built = boardData(block.fields, block.byteOrder, valuesOf(block.fields, options));
    if (!built.ok)
      throw new ProblemError({
        ...built.error,
        tryNext: ['Give it with --set NAME=VALUE, or a table with --table FILE and --row N.'],
      });
    return imageOf(built.value);
  }
  if (block.build) {
    if (options.build === undefined)
      throw new CallError(`The block "${block.name}" is the project’s newest build: name its file with --build.`);
    return openImage(options.build, undefined);
  }
  if (block.file !== undefined) return openImage(resolve(folder, block.file), undefined);
  return imageOf(writtenOut(block));
}

function valuesOf(fields: NonNullable<LayoutBlock['fields']>, { table, row, set }: BlockOptions): DataValues {
  const values: Record<string, string> = {};
  if (table !== undefined) {
    const rows = boardRows(fields, readText(table), table);
    if (!rows.ok) throw new ProblemError(rows.error);
    const wanted = rows.value[numberOf('--row', row ?? '1') - 1];
    if (!wanted) throw new CallError(`${table} has ${rows.value.length} rows, there is no row ${row}.`);
    Object.assign(values, wanted);
  }
  for (const one of set ?? []) {
    const at = one.indexOf('=');
    if (at < 1) throw new CallError(`--set takes NAME=VALUE, not "${one}".`);
    values[one.slice(0, at)] = one.slice(at + 1);
  }
  return values;
}

/** Files with addresses of their own keep them; others begin where `--address` says. */
const openImage = (path: string, address: string | undefined): MemoryImage =>
  placedImage(readWhole(path), numberOf('--address', address ?? '0'));

function readWhole(path: string): ImageReading {
  const reading = readImage(readBytes(path), CONTAINERS);
  const [first] = reading.problems.filter((one) => one.severity === 'error');
  if (first)
    throw new ProblemError(
      problem(
        first.code,
        `${path}${first.line ? `, line ${first.line}` : ''}: ${first.message}`,
        'Nothing was written.',
      ),
    );
  return reading;
}

/** The FPGA that images among the blocks are for; null without one. */
export function partOfBlocks(blocks: readonly KeepBlock[], path: string): string | null {
  if (isBitstream(path)) {
    const read = readBitstream(readBytes(path));
    if (read.ok) return read.value.part;
  }
  for (const { role, bytes } of blocks) {
    if (role === 'data') continue;
    const { idcode } = streamFacts(bytes);
    const part = idcode === null ? undefined : partWithIdcode(idcode);
    if (part) return part.name;
  }
  return null;
}

const isBitstream = (path: string): boolean => !path.endsWith('.layout.json') && NBITS.recognises(readBytes(path));

function roleNamed(name: string | undefined): BlockRole | null {
  if (name === undefined) return null;
  const found = BLOCK_ROLES.find((role) => role === name);
  if (!found) throw new CallError(`--as takes one of ${BLOCK_ROLES.join(', ')}, not "${name}".`);
  return found;
}

export function numberOf(option: string, text: string): number {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 0) throw new CallError(`${option} takes a number, not "${text}".`);
  return value;
}
