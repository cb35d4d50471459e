import { counted } from '../words.ts';
import { reverseByte } from '../bits/index.ts';
import { byteAt, item } from '../lists.ts';
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
  segments: image.segments.map(({ start, bytes }) => ({ start, bytes: bytes.map(reverseByte) })),
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
  const found: { start: number; length: number; only: Difference['only'] }[] = [];
  for (const { start, end, only } of stretches(first, second)) {
    const last = found.at(-1);
    if (last && last.only === only && start - (last.start + last.length) < join) last.length = end - last.start;
    else found.push({ start, length: end - start, only });
  }
  return found;
}

/** How many bytes differ, or are in one of them alone. */
export function countDifferent(first: MemoryImage, second: MemoryImage): number {
  let count = 0;
  for (const { start, end } of stretches(first, second)) count += end - start;
  return count;
}

interface Stretch {
  readonly start: number;
  readonly end: number;
  readonly only: Difference['only'];
}

/** Every stretch that differs, next to each other where one ends with the data of one image. */
function* stretches(first: MemoryImage, second: MemoryImage): Iterable<Stretch> {
  let [i, j] = [0, 0];
  for (let at = 0; ; ) {
    const [a, b] = [first.segments[i], second.segments[j]];
    if (!a && !b) return;
    const endOfA = a ? a.start + a.bytes.length : Infinity;
    const endOfB = b ? b.start + b.bytes.length : Infinity;
    at = Math.max(at, Math.min(a?.start ?? Infinity, b?.start ?? Infinity));
    const [inA, inB] = [a !== undefined && a.start <= at, b !== undefined && b.start <= at];
    const edge = Math.min(inA ? endOfA : (a?.start ?? Infinity), inB ? endOfB : (b?.start ?? Infinity));
    if (inA && inB && a && b) yield* differing(a, b, at, edge);
    else yield { start: at, end: edge, only: inA ? 'first' : 'second' };
    at = edge;
    if (edge === endOfA) i++;
    if (edge === endOfB) j++;
  }
}

function* differing(
  a: MemoryImage['segments'][number],
  b: MemoryImage['segments'][number],
  from: number,
  to: number,
): Iterable<Stretch> {
  let since = -1;
  for (let at = from; at < to; at++) {
    const isSame = byteAt(a.bytes, at - a.start) === byteAt(b.bytes, at - b.start);
    if (!isSame && since < 0) since = at;
    if (isSame && since >= 0) {
      yield { start: since, end: at, only: null };
      since = -1;
    }
  }
  if (since >= 0) yield { start: since, end: to, only: null };
}
