import { misordered, streamFacts } from '../families/index.ts';
import { flatBytes, imageOf, type ImageReading, type MemoryImage } from '../images/index.ts';
import type { KeepBlock } from './keep-blocks.ts';

/**
 * The data of a file where it belongs in the flash: files with addresses of their own keep them, plain bytes and a
 * bitstream begin at `start`.
 */
export const placedImage = ({ format, image }: Pick<ImageReading, 'format' | 'image'>, start = 0): MemoryImage =>
  format === 'binary' || format === 'nbits' ? imageOf(flatBytes(image, 0xff), start) : image;

/**
 * A memory file as blocks of the flash, one for each stretch without a gap: a configuration stream at 0x0 is an image,
 * which the FPGA boots; all else is data. A bitstream file at 0x0 is an image even if its stream is not known as one,
 * so that the checks before a write stop it.
 */
export function imageBlocks(name: string, reading: Pick<ImageReading, 'format' | 'image'>, start = 0): KeepBlock[] {
  return placedImage(reading, start).segments.map(({ start: address, bytes }) => ({
    name,
    role: address === 0 && (reading.format === 'nbits' || isStream(bytes)) ? 'image' : 'data',
    address,
    bytes,
  }));
}

const isStream = (bytes: Uint8Array): boolean => streamFacts(bytes).idcode !== null || misordered(bytes) !== null;
