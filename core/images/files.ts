import { type Container, detectFormat } from './format.ts';
import { type ImageFormat, type ImageReading, flatBytes, imageEnd, imageOf, type MemoryImage } from './image.ts';
import { readIntelHex, writeIntelHex } from './intel-hex.ts';
import { readSRecord, writeSRecord } from './s-record.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';

const LARGEST_BINARY = 1 << 28;
/** A configuration stream with all that is written before it; no part takes as much. */
const LARGEST_STREAM = 1 << 25;

/** Reads a file of any format. A container that is damaged gives an empty image and says why. */
export function readImage(
  file: Uint8Array,
  containers: readonly Container[],
  format = detectFormat(file, containers),
): ImageReading {
  switch (format) {
    case 'intel-hex':
      return readIntelHex(file);
    case 's-record':
      return readSRecord(file);
    case 'binary':
      return { format, image: imageOf(file), problems: [], valid: true };
    case 'nbits': {
      const read = containers.find((one) => one.format === format)?.read(file);
      if (read?.ok) return { format, image: imageOf(read.value), problems: [], valid: true };
      return {
        format,
        image: { segments: [] },
        problems: [
          {
            severity: 'error',
            line: 0,
            code: read?.error.code ?? 'format',
            message: read?.error.message ?? 'This format cannot be read here.',
          },
        ],
        valid: false,
      };
    }
  }
}

/** An image as a file. Plain bytes begin at address 0; gaps are filled. */
export function writeImage(
  image: MemoryImage,
  format: ImageFormat,
  containers: readonly Container[],
  fill = 0xff,
): Result<Uint8Array> {
  switch (format) {
    case 'intel-hex':
      return written(writeIntelHex(image));
    case 's-record':
      return written(writeSRecord(image));
    case 'binary':
    case 'nbits': {
      const end = imageEnd(image);
      if (end > (format === 'binary' ? LARGEST_BINARY : LARGEST_STREAM))
        return fail(problem('too-large', { end, start: (image.segments[0]?.start ?? 0).toString(16).toUpperCase() }));
      const bytes = flatBytes(image, fill);
      if (format === 'binary') return ok(bytes);
      return containers.find((one) => one.format === format)?.write(bytes) ?? fail(problem('format'));
    }
  }
}

const written = (bytes: Uint8Array | null): Result<Uint8Array> => (bytes ? ok(bytes) : fail(problem('address')));

/** The format that a file's name asks for; null where it says nothing. */
export function formatOfName(name: string): ImageFormat | null {
  const ending = name.toLowerCase().split('.').at(-1) ?? '';
  if (ending === 'nbits') return 'nbits';
  if (ending === 'bin' || ending === 'raw') return 'binary';
  if (/^(hex|ihex|ihx)$/.test(ending)) return 'intel-hex';
  return /^(s19|s28|s37|srec|mot|s)$/.test(ending) ? 's-record' : null;
}
