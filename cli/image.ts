import { counted } from '../core/words.ts';
import { writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import type { Command } from 'commander';
import { misordered, NBITS } from '../core/families/index.ts';
import {
  bitReversed,
  bytesSwapped,
  compareImages,
  composeImages,
  formatOfName,
  IMAGE_FORMATS,
  type ImageFormat,
  imageCrc,
  type ImageReading,
  readImage,
  shifted,
  writeImage,
} from '../core/images/index.ts';
import { ProblemError, problem } from '../core/result.ts';
import { readBytes } from './files.ts';
import { blockImage, type BlockOptions, openLayout } from './flash-blocks.ts';
import { CallError, report } from './output.ts';

const CONTAINERS = [NBITS];
const MOST_TOLD = 1000;

export function imageCommand(program: Command, failed: () => void): void {
  const image = program.command('image').description('memory images: Intel HEX, S-record, plain bytes, .nbits');
  infoCommand(image, failed);
  convertCommand(image);
  composeCommand(image, failed);
  compareCommand(image, failed);
}

function infoCommand(image: Command, failed: () => void): void {
  image
    .command('info')
    .description('format, segments, CRC and what is wrong')
    .argument('<file>')
    .option('--json', 'one JSON document on standard output')
    .action((path: string, options: { json?: boolean }) => {
      const reading = readImage(readBytes(path), CONTAINERS);
      if (!reading.valid) failed();
      const segments = reading.image.segments.map(({ start, bytes }) => ({ start, length: bytes.length }));
      const { valid, format } = reading;
      const problems = [...reading.problems, ...arrangement(reading)];
      const document = {
        valid,
        format,
        segments,
        crc32: imageCrc(reading.image),
        problems: problems.map(({ line, code, message, severity }) => ({ line, code, message, severity })),
      };
      report(options.json ?? false, document, () =>
        [
          `${format}, ${counted(
            segments.reduce((sum, { length }) => sum + length, 0),
            'byte',
          )}, CRC-32 ${document.crc32}`,
          ...segments.map(
            ({ start, length }) => `  ${hex(start)} to ${hex(start + length - 1)}, ${counted(length, 'byte')}`,
          ),
          ...complaints(path, { ...reading, problems }),
        ].join('\n'),
      );
    });
}

interface ConvertOptions {
  readonly to?: string;
  readonly offset: string;
  readonly fill: string;
  readonly reverseBits?: boolean;
  readonly swapBytes?: string;
  readonly json?: boolean;
}

function convertCommand(image: Command): void {
  image
    .command('convert')
    .description('another format, other addresses, other bit order')
    .argument('<in>')
    .argument('<out>')
    .option('--to <format>', `${IMAGE_FORMATS.join(', ')}; without it, what the name of the output asks for`)
    .option('--offset <n>', 'added to every address', '0')
    .option('--fill <byte>', 'what gaps hold in plain bytes', '0xFF')
    .option('--reverse-bits', 'bits of every byte in the other order')
    .option('--swap-bytes <n>', 'bytes of every word of 2 or 4 bytes in the other order')
    .option('--json', 'one JSON document on standard output')
    .action((from: string, to: string, options: ConvertOptions) => {
      const format = formatNamed(options.to) ?? formatOfName(to);
      if (!format) throw new CallError(`Say with --to which format ${to} is to have: ${IMAGE_FORMATS.join(', ')}.`);
      const [offset, fill] = [numberOf('--offset', options.offset), numberOf('--fill', options.fill)];
      if (fill < 0 || fill > 255) throw new CallError('--fill takes a byte, 0 to 255.');
      const reading = readImage(readBytes(from), CONTAINERS);
      const [first] = reading.problems.filter((one) => one.severity === 'error');
      if (first)
        throw new ProblemError({
          ...problem(
            first.code,
            `${from}${first.line ? `, line ${first.line}` : ''}: ${first.message}`,
            'Nothing was written. Run "nimble image info" on the file for the whole list.',
          ),
        });
      const turned = rearranged(reading.image, offset, options);
      const bytes = writeImage(turned, format, CONTAINERS, fill);
      if (!bytes.ok) throw new ProblemError(bytes.error);
      writeFileSync(to, bytes.value);
      report(
        options.json ?? false,
        {
          from: reading.format,
          to: format,
          bytes: bytes.value.length,
          segments: turned.segments.map(({ start, bytes: data }) => ({ start, length: data.length })),
          crc32: imageCrc(turned),
        },
        () => `${to}: ${format}, ${counted(bytes.value.length, 'byte')}.`,
      );
    });
}

/** An image at other addresses, its bytes or bits in another order; throws `ProblemError` where they do not fit. */
function rearranged(image: ImageReading['image'], offset: number, options: ConvertOptions): ImageReading['image'] {
  const moved = shifted(image, offset);
  if (!moved.ok) throw new ProblemError(moved.error);
  const swap = options.swapBytes === undefined ? null : numberOf('--swap-bytes', options.swapBytes);
  if (swap !== null && swap !== 2 && swap !== 4) throw new CallError('--swap-bytes takes 2 or 4.');
  const swapped = swap === null ? moved : bytesSwapped(moved.value, swap);
  if (!swapped.ok) throw new ProblemError(swapped.error);
  return options.reverseBits ? bitReversed(swapped.value) : swapped.value;
}

function composeCommand(image: Command, failed: () => void): void {
  image
    .command('compose')
    .description('several images in one memory, as a layout says')
    .argument('<layout>', '.layout.json')
    .argument('<out>')
    .option('--to <format>', IMAGE_FORMATS.join(', '))
    .option('--fill <byte>', 'what gaps hold in plain bytes', '0xFF')
    .option('--build <file>', 'the .nbits that the layout means by its newest build')
    .option('--table <file>', 'values of boards, one a line')
    .option('--row <n>', 'which line of the table, from 1')
    .option('--set <name=value...>', 'a value of this board')
    .option('--json', 'one JSON document on standard output')
    .action((path: string, to: string, options: BlockOptions & { to?: string; fill: string; json?: boolean }) => {
      const format = formatNamed(options.to) ?? formatOfName(to);
      if (!format) throw new CallError(`Say with --to which format ${to} is to have: ${IMAGE_FORMATS.join(', ')}.`);
      const layout = openLayout(path);
      const composed = composeImages(
        layout,
        layout.blocks.map((block) => blockImage(block, dirname(path), options)),
      );
      if (!composed.ok) throw new ProblemError(composed.error);
      const { image: whole, blocks, problems } = composed.value;
      const [first] = problems.filter((one) => one.severity === 'error');
      const bytes = first ? null : writeImage(whole, format, CONTAINERS, numberOf('--fill', options.fill));
      if (bytes && !bytes.ok) throw new ProblemError(bytes.error);
      if (first) failed();
      if (bytes?.ok) writeFileSync(to, bytes.value);
      report(
        options.json ?? false,
        { file: first ? null : to, blocks, problems, crc32: first ? null : imageCrc(whole) },
        () =>
          [
            ...blocks.map(({ name, start, end }) => `${hex(start)} to ${hex(Math.max(start, end - 1))}  ${name}`),
            ...problems.map(({ severity, message }) => `${severity}: ${message}`),
          ].join('\n'),
        first ? problem(first.code, first.message, 'Nothing was written. Move one of the blocks.') : null,
      );
    });
}

function compareCommand(image: Command, failed: () => void): void {
  image
    .command('compare')
    .description('where two images differ')
    .argument('<first>')
    .argument('<second>')
    .option('--json', 'one JSON document on standard output')
    .action((first: string, second: string, options: { json?: boolean }) => {
      const [a, b] = [readImage(readBytes(first), CONTAINERS), readImage(readBytes(second), CONTAINERS)];
      const differences = compareImages(a.image, b.image);
      if (differences.length > 0 || !a.valid || !b.valid) failed();
      report(
        options.json ?? false,
        { equal: differences.length === 0, differences: differences.slice(0, MOST_TOLD), count: differences.length },
        () =>
          differences.length === 0
            ? 'The same data at the same addresses.'
            : differences
                .slice(0, 40)
                .map(
                  ({ start, length, only }) =>
                    `${hex(start)}, ${counted(length, 'byte')}${only ? `: only in the ${only}` : ' differ'}`,
                )
                .join('\n'),
      );
    });
}

/** A stream whose bits or bytes stand otherwise than an FPGA reads them. */
function arrangement({ image: { segments } }: ImageReading): ImageReading['problems'] {
  const advice = segments[0] ? misordered(segments[0].bytes) : null;
  return advice
    ? [
        {
          severity: 'warning',
          line: 0,
          code: 'stream-order',
          message: advice,
        },
      ]
    : [];
}

const hex = (value: number): string => `0x${value.toString(16).toUpperCase().padStart(8, '0')}`;

const complaints = (path: string, { problems }: ImageReading): string[] =>
  problems.map(
    ({ line, severity, message, code }) => `${path}${line ? `:${line}` : ''}: ${severity}: ${message} [${code}]`,
  );

function formatNamed(name: string | undefined): ImageFormat | null {
  if (name === undefined) return null;
  const found = IMAGE_FORMATS.find((format) => format === name);
  if (!found) throw new CallError(`There is no format "${name}": ${IMAGE_FORMATS.join(', ')}.`);
  return found;
}

function numberOf(option: string, text: string): number {
  const value = /^-/.test(text) ? -Number(text.slice(1)) : Number(text);
  if (!Number.isInteger(value)) throw new CallError(`${option} takes a number, not "${text}".`);
  return value;
}
