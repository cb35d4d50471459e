// A memory file as blocks of the flash: the addresses are those of the file, whatever wrote it, and only a stream at
// 0x0 is what boots.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { builtDemo } from '../../tests/support/demo.ts';
import { NBITS, readBitstream } from '../families/index.ts';
import { bitReversed, imageOf, type MemoryImage, readImage, writeImage } from '../images/index.ts';
import { imageBlocks, placedImage } from './index.ts';

const file = (image: MemoryImage, format: 'intel-hex' | 's-record' | 'binary') => {
  const bytes = writeImage(image, format, [NBITS]);
  if (!bytes.ok) throw new Error(bytes.error.message);
  return readImage(bytes.value, [NBITS]);
};
const apart = fc
  .array(fc.tuple(fc.integer({ min: 0, max: 0x3fff }), fc.uint8Array({ minLength: 1, maxLength: 60 })), {
    minLength: 1,
    maxLength: 6,
  })
  .map((parts): MemoryImage => {
    let at = 0;
    return {
      segments: parts.map(([gap, bytes]) => {
        const start = at + gap + 1;
        at = start + bytes.length;
        return { start, bytes };
      }),
    };
  });
const { bitstream } = builtDemo();
const opened = readBitstream(bitstream);
const stream = opened.ok ? opened.value.stream : new Uint8Array(0);

describe('a memory file in the flash', () => {
  test('has every byte at the address the file gives it, in either record format', () => {
    fc.assert(
      fc.property(apart, fc.constantFrom('intel-hex' as const, 's-record' as const), (image, format) => {
        const blocks = imageBlocks('t', file(image, format), 0x1000);
        expect(blocks.map(({ address, bytes }) => [address, [...bytes]])).toEqual(
          image.segments.map(({ start, bytes }) => [start, [...bytes]]),
        );
        expect(blocks.every(({ role, name }) => role === 'data' && name === 't')).toBe(true);
      }),
    );
  });

  test('of plain bytes begins where it is said to', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ minLength: 1, maxLength: 40 }),
        fc.integer({ min: 0, max: 0x3fffff }),
        (bytes, at) => {
          const image = placedImage({ format: 'binary', image: imageOf(bytes) }, at);
          expect(image.segments.map(({ start, bytes: held }) => [start, [...held]])).toEqual([[at, [...bytes]]]);
        },
      ),
    );
  });

  test.each(['intel-hex', 's-record', 'binary'] as const)(
    'a configuration stream as %s at 0x0 is the image that boots',
    (format) => {
      expect(
        imageBlocks('t', file(imageOf(stream), format)).map(({ role, address, bytes }) => [
          role,
          address,
          bytes.length,
        ]),
      ).toEqual([['image', 0, stream.length]]);
    },
  );

  test('a stream anywhere else is data, and so are bytes at 0x0 that are no stream', () => {
    expect(imageBlocks('t', file(imageOf(stream, 0x100000), 'intel-hex')).map(({ role }) => role)).toEqual(['data']);
    expect(
      imageBlocks('t', readImage(bitstream, [NBITS]), 0x100000).map(({ role, address }) => [role, address]),
    ).toEqual([['data', 0x100000]]);
    expect(imageBlocks('t', file(imageOf(Uint8Array.of(1, 2, 3, 4)), 's-record')).map(({ role }) => role)).toEqual([
      'data',
    ]);
  });

  test('a stream in another order of bits counts as an image, so that it is stopped and not written as data', () => {
    const reversed = bitReversed(imageOf(stream));
    expect(imageBlocks('t', file(reversed, 'intel-hex')).map(({ role }) => role)).toEqual(['image']);
  });
});
