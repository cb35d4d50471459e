import { counted } from '../words.ts';
import { reverseByte } from '../bits/index.ts';
import { item } from '../lists.ts';
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import type { MemoryImage } from './image.ts';

/** The same data at other addresses. Fails where one would fall below 0. */
export function shifted(image: MemoryImage, by: number): Result<MemoryImage> {
  const [first] = image.segments;
  if (first && first.start + by < 0)
    return fail(
      problem('offset', { start: first.start.toString(16).toUpperCase(), by: (-by).toString(16).toUpperCase() }),
    );
  return ok({ segments: image.segments.map(({ start, bytes }) => ({ start: start + by, bytes })) });
}

/** Bits of every byte in the other order. */
export const bitReversed = (image: MemoryImage): MemoryImage => ({
  segments: image.segments.map(({ start, bytes }) => ({ start, bytes: Uint8Array.from(bytes, reverseByte) })),
});

/**
 * Bytes of every word of 2 or 4 in the other order; words are counted from address 0. Fails where a segment begins or
 * ends inside a word.
 */
export function bytesSwapped(image: MemoryImage, word: 2 | 4): Result<MemoryImage> {
  const odd = image.segments.find(({ start, bytes }) => start % word !== 0 || bytes.length % word !== 0);
  if (odd)
    return fail(
      problem('byte-order', {
        start: odd.start.toString(16).toUpperCase(),
        bytesCount: counted(odd.bytes.length, 'byte'),
        word,
      }),
    );
  return ok({
    segments: image.segments.map(({ start, bytes }) => ({
      start,
      bytes: bytes.map((_, i) => item(bytes, i - (i % word) + (word - 1 - (i % word)))),
    })),
  });
}

/** A stretch of addresses in which two images differ; `only` says which one has data there, where it is not both. */
interface Difference {
  readonly start: number;
  readonly length: number;
  readonly only: 'first' | 'second' | null;
}

/** Where two images differ, in the order of addresses. Stretches less than `join` bytes apart are told as one. */
export function compareImages(first: MemoryImage, second: MemoryImage, join = 1): Difference[] {
  const edges = new Set<number>();
  for (const { start, bytes } of [...first.segments, ...second.segments]) edges.add(start).add(start + bytes.length);
  const places = [...edges].sort((a, b) => a - b);
  const found: { start: number; length: number; only: Difference['only'] }[] = [];
  const add = (start: number, end: number, only: Difference['only']) => {
    const last = found.at(-1);
    if (last && last.only === only && start - (last.start + last.length) < join) last.length = end - last.start;
    else found.push({ start, length: end - start, only });
  };
  for (const [i, from] of places.slice(0, -1).entries()) {
    const to = item(places, i + 1);
    const [a, b] = [segmentAt(first, from), segmentAt(second, from)];
    if (!a && !b) continue;
    if (!a || !b) {
      add(from, to, a ? 'first' : 'second');
      continue;
    }
    for (let at = from; at < to; at++) if (a.bytes[at - a.start] !== b.bytes[at - b.start]) add(at, at + 1, null);
  }
  return found;
}

const segmentAt = ({ segments }: MemoryImage, address: number) =>
  segments.find(({ start, bytes }) => start <= address && address < start + bytes.length);
