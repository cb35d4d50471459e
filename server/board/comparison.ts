import type { MemoryImage } from '../../core/images/index.ts';
import { item } from '../../core/lists.ts';
import type { Comparison } from './statements.ts';

/** What every page is told; the places and bytes are fetched where they are shown. */
export const summaryOfComparison = ({ time, names, end, sectorBytes, bytesDiffer, differences }: Comparison) => ({
  time,
  names,
  end,
  sectorBytes,
  bytesDiffer,
  places: differences.length,
});

const MOST_PLACES = 20_000;
const NO_BYTE = '..';

/** Where two images differ, as far as a page can jump, and which sectors. */
export function placesOf({ differences, sectorBytes }: Comparison): {
  readonly places: readonly (readonly [start: number, length: number])[];
  readonly sectors: readonly number[];
} {
  const sectors = new Set<number>();
  for (const { start, length } of differences)
    for (let sector = Math.floor(start / sectorBytes); sector * sectorBytes < start + length; sector++)
      sectors.add(sector);
  return {
    places: differences.slice(0, MOST_PLACES).map(({ start, length }) => [start, length] as const),
    sectors: [...sectors],
  };
}

/** Bytes of both images in hexadecimal, two characters each; a byte that an image does not have is two points. */
export function bytesOf({ images }: Comparison, start: number, length: number): readonly [string, string] {
  const text = ({ segments }: MemoryImage) => {
    const out: string[] = new Array<string>(length).fill(NO_BYTE);
    for (const segment of segments)
      for (
        let i = Math.max(0, segment.start - start);
        i < length && start + i < segment.start + segment.bytes.length;
        i++
      )
        out[i] = item(segment.bytes, start + i - segment.start)
          .toString(16)
          .toUpperCase()
          .padStart(2, '0');
    return out.join('');
  };
  return [text(images[0]), text(images[1])];
}
