import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { ImageBuilder } from './builder.ts';
import { compareImages, countDifferent, type MemoryImage, readImage } from './index.ts';

const records = fc.array(fc.tuple(fc.integer({ min: 0, max: 120 }), fc.uint8Array({ maxLength: 9 })), {
  maxLength: 40,
});

/** The same, a byte at a time: what each address holds, and in which record that stood. */
function byModel(given: readonly (readonly [number, Uint8Array])[]) {
  const held = new Map<number, number>();
  let differs = false;
  let twice = false;
  for (const [address, bytes] of given)
    for (const [i, byte] of bytes.entries()) {
      const before = held.get(address + i);
      twice ||= before !== undefined;
      differs ||= before !== undefined && before !== byte;
      held.set(address + i, byte);
    }
  return { held, differs, twice };
}

const heldBy = ({ segments }: MemoryImage) =>
  new Map(segments.flatMap(({ start, bytes }) => [...bytes].map((byte, i) => [start + i, byte] as const)));

const builtFrom = (given: readonly (readonly [number, Uint8Array])[]) => {
  const builder = new ImageBuilder();
  for (const [i, [address, bytes]] of given.entries()) builder.add(address, bytes, 0, bytes.length, i + 1);
  return builder.finish();
};

describe('records that are put together', () => {
  test('hold what a map of bytes holds, in stretches with gaps between them, and overlaps are told', () => {
    fc.assert(
      fc.property(records, (given) => {
        const { image, overlaps, tooMany } = builtFrom(given);
        const model = byModel(given);
        expect(tooMany).toBeNull();
        expect([...heldBy(image)].sort()).toEqual([...model.held].sort());
        let end = -1;
        for (const { start, bytes } of image.segments) {
          expect(start).toBeGreaterThan(end);
          end = start + bytes.length;
        }
        expect(overlaps.some(({ differs }) => differs)).toBe(model.differs);
        expect(overlaps.length > 0).toBe(model.twice);
        for (const { address, line, firstLine } of overlaps) {
          const gives = (at: number) => {
            const [start, bytes] = given[at - 1] ?? [0, new Uint8Array()];
            return address >= start && address < start + bytes.length;
          };
          expect([gives(line), gives(firstLine), firstLine < line]).toEqual([true, true, true]);
        }
      }),
    );
  });

  test('so many that they are no image are refused as a whole, and said', () => {
    const record = (address: number) => {
      const bytes = [6, address >>> 24, (address >>> 16) & 0xff, (address >>> 8) & 0xff, address & 0xff, 0x55];
      const sum = ~bytes.reduce((all, byte) => all + byte, 0) & 0xff;
      return `S3${[...bytes, sum].map((byte) => byte.toString(16).padStart(2, '0')).join('')}`;
    };
    const file = (count: number) =>
      new TextEncoder().encode(
        `${Array.from({ length: count }, (_, i) => record(i * 2)).join('\n')}\nS70500000000FA\n`,
      );
    expect(readImage(file(65_536), []).image.segments).toHaveLength(65_536);
    const { image, problems, valid } = readImage(file(65_537), []);
    expect([image.segments.length, valid]).toEqual([0, false]);
    expect(problems.map(({ message }) => message).join()).toMatch(/65,537 stretches/);
  });

  test('an error is told however many warnings stand before it', () => {
    const line = (address: number, byte: number) => {
      const bytes = [4, address >> 8, address & 0xff, byte];
      const sum = ~bytes.reduce((all, one) => all + one, 0) & 0xff;
      return `S1${[...bytes, sum].map((one) => one.toString(16).padStart(2, '0')).join('')}`;
    };
    const lines: string[] = [];
    for (let i = 0; i < 500; i++) lines.push(line(i * 2, 1), line(i * 2, 1));
    lines.push(line(0, 2), 'S9030000FC');
    const { problems, valid } = readImage(new TextEncoder().encode(`${lines.join('\n')}\n`), []);
    expect(valid).toBe(false);
    expect(problems.find(({ severity }) => severity === 'error')).toMatchObject({ code: 'overlap', line: 1001 });
  });
});

const anyImage = records.map((given) => builtFrom(given).image);

describe('two images', () => {
  test('differ where maps of their bytes do', () => {
    fc.assert(
      fc.property(anyImage, anyImage, (a, b) => {
        const [first, second] = [heldBy(a), heldBy(b)];
        const places = [...new Set([...first.keys(), ...second.keys()])].filter(
          (at) => first.get(at) !== second.get(at),
        );
        const told = compareImages(a, b);
        const covered = told.flatMap(({ start, length }) => Array.from({ length }, (_, i) => start + i));
        expect(covered).toEqual(places.sort((x, y) => x - y));
        expect(countDifferent(a, b)).toBe(places.length);
        for (const { start, only } of told)
          expect(only).toBe(!first.has(start) ? 'second' : !second.has(start) ? 'first' : null);
      }),
    );
  });
});
