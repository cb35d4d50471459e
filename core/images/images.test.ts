import fc from 'fast-check';
import { parse as byIntelHex } from 'intel-hex';
import { describe, expect, test } from 'vitest';
import { builtDemo } from '../../tests/support/demo.ts';
import { NBITS, readBitstream } from '../families/index.ts';
import {
  bitReversed,
  bytesSwapped,
  compareImages,
  composeImages,
  flatBytes,
  formatOfName,
  imageCrc,
  imageOf,
  type MemoryImage,
  readImage,
  readLayout,
  shifted,
  writeImage,
} from './index.ts';
import { detectFormat } from './format.ts';

const text = (...lines: string[]) => new TextEncoder().encode(`${lines.join('\n')}\n`);
const read = (file: Uint8Array) => readImage(file, [NBITS]);
const codes = (...lines: string[]) => read(text(...lines)).problems.map(({ code, line }) => `${code}@${line}`);
const segments = (...lines: string[]) =>
  read(text(...lines)).image.segments.map(({ start, bytes }) => [start, [...bytes]]);
const write = (image: MemoryImage, format: 'intel-hex' | 's-record' | 'binary') => {
  const bytes = writeImage(image, format, [NBITS]);
  if (!bytes.ok) throw new Error(bytes.error.message);
  return bytes.value;
};

/** Segments with gaps between them, anywhere in 32 bits. */
const anyImage = fc
  .array(fc.tuple(fc.integer({ min: 0, max: 0xffff0 }), fc.uint8Array({ minLength: 1, maxLength: 70 })), {
    maxLength: 8,
  })
  .map((parts) => {
    let at = 0;
    return {
      segments: parts.map(([gap, bytes]) => {
        const start = at + gap + 1;
        at = start + bytes.length;
        return { start, bytes };
      }),
    };
  });

// Intel hexadecimal object file format specification, revision A (1988); the two records are examples of it (values
// from memory).
describe('Intel HEX', () => {
  test('the published records', () => {
    expect(segments(':0300300002337A1E', ':00000001FF')).toEqual([[0x30, [0x02, 0x33, 0x7a]]]);
    expect(codes(':0300300002337A1E', ':00000001FF')).toEqual([]);
  });
  test('segment addresses wrap in their 64 KiB, linear ones go on', () => {
    expect(segments(':020000021000EC', ':04FFFE0001020304F5', ':00000001FF')).toEqual([
      [0x10000, [3, 4]],
      [0x1fffe, [1, 2]],
    ]);
    expect(segments(':020000040001F9', ':04FFFE0001020304F5', ':00000001FF')).toEqual([[0x1fffe, [1, 2, 3, 4]]]);
  });
  test('start addresses are passed over, small letters, blanks and any line end are taken', () => {
    const file = new TextEncoder().encode(':0300300002337a1e \r\n\r\n:04000005000000cd2a\r:00000001ff');
    expect(read(file)).toMatchObject({ format: 'intel-hex', valid: true, problems: [] });
  });
  test.each([
    ['a wrong check sum', [':0300300002337A1F', ':00000001FF'], 'checksum@1'],
    ['a wrong length', [':0400300002337A1E', ':00000001FF'], 'length@1'],
    ['a letter that is no digit', [':0300300002337G1E', ':00000001FF'], 'digits@1'],
    ['an odd digit', [':0300300002337A1', ':00000001FF'], 'digits@1'],
    ['a type that is none', [':0000000AF6', ':00000001FF'], 'type@1'],
    ['something between', [':0300300002337A1E', 'hello', ':00000001FF'], 'no-record@2'],
    ['no end', [':0300300002337A1E'], 'no-end@1'],
    ['more behind the end', [':00000001FF', ':0300300002337A1E'], 'after-end@2'],
    ['an address given twice', [':0300300002337A1E', ':0300310002337A1D', ':00000001FF'], 'overlap@2'],
    ['the same data twice', [':0300300002337A1E', ':0300300002337A1E', ':00000001FF'], 'overlap-same@2'],
  ])('%s is told with its line', (_, lines, code) => expect(codes(...lines)).toContain(code));
});

describe('data that is given twice', () => {
  test('is told with the line where it happened and the line that was first, wherever in a long file they stand', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 60 }),
        fc.nat(1000),
        fc.nat(15),
        fc.boolean(),
        (records, pick, offset, differs) => {
          const bytes = Uint8Array.from({ length: records * 16 }, (_, i) => (i * 7) & 0xff);
          const lines = new TextDecoder()
            .decode(write(imageOf(bytes), 'intel-hex'))
            .split('\n')
            .filter(Boolean);
          const twice = pick % records;
          const address = twice * 16 + offset;
          const value = differs ? (bytes[address] as number) ^ 1 : (bytes[address] as number);
          const extra = new TextDecoder()
            .decode(write(imageOf(Uint8Array.of(value), address), 'intel-hex'))
            .split('\n')[0] as string;
          const { problems } = read(new TextEncoder().encode([...lines.slice(0, -1), extra, lines.at(-1)].join('\n')));
          expect(problems).toEqual([
            {
              severity: differs ? 'error' : 'warning',
              line: records + 1,
              code: differs ? 'overlap' : 'overlap-same',
              message: expect.stringContaining(`in line ${twice + 1}.`),
            },
          ]);
        },
      ),
    );
  });

  test('data behind the end record makes the file invalid, at its line', () => {
    const { valid, problems } = read(
      new TextEncoder().encode(':0300300002337A1E\n:00000001FF\n\n:0300400002337A0E\n:00000001FF\n'),
    );
    expect([valid, problems.map(({ line, severity, code }) => [line, severity, code])]).toEqual([
      false,
      [[4, 'error', 'after-end']],
    ]);
  });
});

// Motorola S-record format, programmer's manual; the three records are examples of it (values from memory).
describe('S-record', () => {
  test('the published records', () => {
    expect(read(text('S00F000068656C6C6F202020202000003C', 'S5030000FC', 'S9030000FC'))).toMatchObject({
      format: 's-record',
      valid: true,
      problems: [],
    });
    expect(codes('S00F000068656C6C6F202020202000003C', 'S5030003F9', 'S9030000FC')).toEqual(['count@2']);
  });
  test('addresses of two, three and four bytes', () => {
    expect(segments('S1051234AABB4F', 'S206123456AABBF8', 'S30712345678AABB7F')).toEqual([
      [0x1234, [0xaa, 0xbb]],
      [0x123456, [0xaa, 0xbb]],
      [0x12345678, [0xaa, 0xbb]],
    ]);
  });
  test.each([
    ['a wrong check sum', ['S1051234AABB50', 'S9030000FC'], 'checksum@1'],
    ['a wrong length', ['S1061234AABB4F', 'S9030000FC'], 'length@1'],
    ['a reserved kind', ['S4030000FC', 'S9030000FC'], 'type@1'],
    ['no end', ['S1051234AABB4F'], 'no-end@1'],
    ['more behind the end', ['S9030000FC', 'S1051234AABB4F'], 'after-end@2'],
    ['an address given twice', ['S1051234AABB4F', 'S1051300AABB82', 'S1051235AACC3D', 'S9030000FC'], 'overlap@3'],
  ])('%s is told with its line', (_, lines, code) => expect(codes(...lines)).toContain(code));
});

describe('any image', () => {
  test.each(['intel-hex', 's-record'] as const)('written as %s reads back the same', (format) => {
    fc.assert(
      fc.property(anyImage, (image) => {
        const back = read(write(image, format));
        expect(back.valid).toBe(true);
        expect(back.image).toEqual(image);
      }),
      { numRuns: 60 },
    );
  });
  test('damage ends in problems or other data, never in an exception', () => {
    const good = write(
      imageOf(
        Uint8Array.from({ length: 100 }, (_, i) => i),
        0xfff0,
      ),
      'intel-hex',
    );
    fc.assert(
      fc.property(fc.nat(good.length - 1), fc.integer({ min: 0, max: 255 }), (at, byte) => {
        const bad = good.slice();
        bad[at] = byte;
        const reading = read(bad);
        expect(reading.valid && byte !== good[at] && reading.format === 'intel-hex' ? reading.image : null).toEqual(
          reading.valid && byte !== good[at] && reading.format === 'intel-hex' ? read(good).image : null,
        );
      }),
      { numRuns: 400 },
    );
  });
  test('is recognised by its content, whatever its name', () => {
    expect(detectFormat(text(':00000001FF'), [])).toBe('intel-hex');
    expect(detectFormat(text('', '  S9030000FC'), [])).toBe('s-record');
    expect(detectFormat(Uint8Array.of(0x3a, 0x30, 0x00, 0x01), [])).toBe('binary');
    expect(detectFormat(text('hello'), [])).toBe('binary');
    expect(['x.HEX', 'x.s37', 'x.bin', 'x.nbits', 'x.txt'].map(formatOfName)).toEqual([
      'intel-hex',
      's-record',
      'binary',
      'nbits',
      null,
    ]);
  });
  test('a bitstream gives its stream, and comes back from plain bytes', () => {
    const { bitstream } = builtDemo();
    const opened = readBitstream(bitstream);
    const reading = read(bitstream);
    expect(reading).toMatchObject({ format: 'nbits', valid: true });
    const again = writeImage(reading.image, 'nbits', [NBITS]);
    const back = again.ok ? readBitstream(again.value) : null;
    expect(back?.ok && opened.ok && [back.value.part, back.value.fingerprint]).toEqual(
      opened.ok && [opened.value.part, opened.value.fingerprint],
    );
    expect(writeImage(imageOf(Uint8Array.of(1, 2, 3)), 'nbits', [NBITS])).toMatchObject({
      ok: false,
      error: { code: 'no-stream' },
    });
    expect(read(bitstream.slice(0, 200))).toMatchObject({ valid: false, problems: [{ code: 'bitstream-truncated' }] });
  });
});

describe('Intel HEX as a package of the registry reads it', () => {
  test('intel-hex, with linear addresses', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ minLength: 1, maxLength: 400 }),
        fc.integer({ min: 0, max: 0x1ff00 }),
        (bytes, start) => {
          const { data } = byIntelHex(new TextDecoder().decode(write(imageOf(bytes, start), 'intel-hex')));
          expect(Buffer.from(data.subarray(start, start + bytes.length)).equals(Buffer.from(bytes))).toBe(true);
        },
      ),
      { numRuns: 40 },
    );
  });
});

describe('changes', () => {
  test('the CRC is over all data in the order of addresses. Source: catalogue of parametrised CRC algorithms, CRC-32/ISO-HDLC', () => {
    const digits = new TextEncoder().encode('123456789');
    expect(imageCrc(imageOf(digits))).toBe('cbf43926');
    expect(
      imageCrc({
        segments: [
          { start: 0, bytes: digits.slice(0, 4) },
          { start: 100, bytes: digits.slice(4) },
        ],
      }),
    ).toBe('cbf43926');
  });
  test('moved, turned, filled', () => {
    const image = imageOf(Uint8Array.of(0x01, 0x80), 4);
    expect(shifted(image, -4)).toEqual({ ok: true, value: imageOf(Uint8Array.of(0x01, 0x80), 0) });
    expect(shifted(image, -5)).toMatchObject({ ok: false, error: { code: 'offset' } });
    expect([...flatBytes(bitReversed(image), 0xff)]).toEqual([0xff, 0xff, 0xff, 0xff, 0x80, 0x01]);
    expect(writeImage(imageOf(Uint8Array.of(1), 0x80000000), 'binary', [])).toMatchObject({
      ok: false,
      error: { code: 'too-large' },
    });
    expect(writeImage(imageOf(Uint8Array.of(1), 2 ** 32), 'intel-hex', [])).toMatchObject({
      ok: false,
      error: { code: 'address' },
    });
  });
  test('compared: bytes that differ, and data that only one has', () => {
    const [a, b] = [
      imageOf(Uint8Array.of(1, 2, 3, 4)),
      {
        segments: [
          { start: 0, bytes: Uint8Array.of(1, 9, 9) },
          { start: 8, bytes: Uint8Array.of(7) },
        ],
      },
    ];
    expect(compareImages(a, b)).toEqual([
      { start: 1, length: 2, only: null },
      { start: 3, length: 1, only: 'first' },
      { start: 8, length: 1, only: 'second' },
    ]);
    expect(compareImages(a, a)).toEqual([]);
  });
});

describe('byte order', () => {
  test('words are counted from address 0, twice is nothing, and a part of a word is refused', () => {
    const image = imageOf(Uint8Array.of(1, 2, 3, 4, 5, 6, 7, 8), 4);
    const swapped = bytesSwapped(image, 4);
    expect(swapped.ok && [...(swapped.value.segments[0]?.bytes ?? [])]).toEqual([4, 3, 2, 1, 8, 7, 6, 5]);
    const twice = swapped.ok ? bytesSwapped(swapped.value, 4) : swapped;
    expect(twice).toEqual({ ok: true, value: image });
    const halves = bytesSwapped(image, 2);
    expect(halves.ok && [...(halves.value.segments[0]?.bytes ?? [])]).toEqual([2, 1, 4, 3, 6, 5, 8, 7]);
    expect(bytesSwapped(imageOf(new Uint8Array(7)), 2)).toMatchObject({ ok: false, error: { code: 'byte-order' } });
    expect(bytesSwapped(imageOf(new Uint8Array(4), 2), 4).ok).toBe(false);
  });
});

describe('a layout', () => {
  const layout = (...blocks: object[]) =>
    readLayout('x', JSON.stringify({ format: 'nimble-layout', version: 1, size: '0x4000', blocks }));
  const put = (...blocks: { name: string; address: number | string; length: number }[]) => {
    const read = layout(...blocks.map(({ name, address }) => ({ file: 'x', name, address })));
    if (!read.ok) throw new Error(read.error.message);
    const composed = composeImages(
      read.value,
      blocks.map(({ length }, i) => imageOf(new Uint8Array(length).fill(i + 1))),
    );
    if (!composed.ok) throw new Error(composed.error.message);
    return composed.value;
  };
  test('puts images where it says', () => {
    const { image, blocks, problems } = put(
      { name: 'a', address: 0, length: 100 },
      { name: 'b', address: '0x1000', length: 3 },
    );
    expect(problems).toEqual([]);
    expect(blocks).toEqual([
      { name: 'a', start: 0, end: 100 },
      { name: 'b', start: 0x1000, end: 0x1003 },
    ]);
    expect(image.segments.map(({ start, bytes }) => [start, bytes.length, bytes[0]])).toEqual([
      [0, 100, 1],
      [0x1000, 3, 2],
    ]);
  });
  test('tells of overlaps, of what does not fit, of shared sectors and of empty blocks', () => {
    const codes = (...blocks: Parameters<typeof put>) =>
      put(...blocks).problems.map(({ severity, code }) => `${severity} ${code}`);
    expect(codes({ name: 'a', address: 0, length: 0x1001 }, { name: 'b', address: 0x1000, length: 1 })).toEqual([
      'error overlap',
    ]);
    expect(codes({ name: 'a', address: 0x3000, length: 0x1001 })).toEqual(['error does-not-fit']);
    expect(codes({ name: 'a', address: 0, length: 10 }, { name: 'b', address: 0x800, length: 10 })).toEqual([
      'warning alignment',
      'warning shared-sector',
    ]);
    expect(codes({ name: 'a', address: 0, length: 0 })).toEqual(['warning empty']);
  });
  test('of another form is refused with its place', () => {
    const read = layout({ name: 'a', address: '12' });
    expect(!read.ok && read.error.message).toMatch(/blocks\.0\.address/);
    expect(readLayout('x', '{').ok).toBe(false);
  });
});
