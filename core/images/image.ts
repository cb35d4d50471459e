import { crc32Update } from '../bits/index.ts';
import { item } from '../lists.ts';

/** Bytes at an address. */
interface Segment {
  readonly start: number;
  readonly bytes: Uint8Array;
}

/** What a memory is to hold: segments in the order of their addresses, none touching or overlapping another. */
export interface MemoryImage {
  readonly segments: readonly Segment[];
}

export const IMAGE_FORMATS = ['intel-hex', 's-record', 'binary', 'nbits'] as const;
export type ImageFormat = (typeof IMAGE_FORMATS)[number];

/** `error` means that the data cannot be trusted. `line` counts from 1; 0 where a file has no lines. */
export interface ImageProblem {
  readonly severity: 'error' | 'warning';
  readonly line: number;
  readonly code: string;
  readonly message: string;
}

export interface ImageReading {
  readonly format: ImageFormat;
  readonly image: MemoryImage;
  readonly problems: readonly ImageProblem[];
  /** No error among the problems. */
  readonly valid: boolean;
}

/** CRC-32/ISO-HDLC of all data in the order of addresses, eight lower-case digits. */
export function imageCrc({ segments }: MemoryImage): string {
  const state = segments.reduce((crc, { bytes }) => crc32Update(crc, bytes), 0xffffffff);
  return ((state ^ 0xffffffff) >>> 0).toString(16).padStart(8, '0');
}

/** The first address behind all data. */
export const imageEnd = ({ segments }: MemoryImage): number => {
  const last = segments.at(-1);
  return last ? last.start + last.bytes.length : 0;
};

/** Every byte from address 0 on, gaps filled. The caller has checked that the end is not absurd. */
export function flatBytes(image: MemoryImage, fill: number, length = imageEnd(image)): Uint8Array {
  const out = new Uint8Array(length).fill(fill);
  for (const { start, bytes } of image.segments) out.set(bytes, start);
  return out;
}

export const imageOf = (bytes: Uint8Array, start = 0): MemoryImage => ({
  segments: bytes.length === 0 ? [] : [{ start, bytes }],
});

const FIRST_ROOM = 1 << 12;

interface Run {
  readonly start: number;
  bytes: Uint8Array;
  length: number;
  /** Where each record begins in it, and in which line of the file that stands; ascending. */
  readonly from: number[];
  readonly lines: number[];
}

/** Bytes that are given twice: the first address at which that was seen, and the lines that give it. */
export interface Overlap {
  readonly address: number;
  readonly differs: boolean;
  readonly line: number;
  readonly firstLine: number;
}

/** Collects records that mostly follow each other, and tells of bytes that are given twice. */
export class ImageBuilder {
  readonly #runs: Run[] = [];

  add(address: number, source: Uint8Array, from: number, count: number, line: number): void {
    const last = this.#runs.at(-1);
    const run =
      last && last.start + last.length === address
        ? last
        : { start: address, bytes: new Uint8Array(FIRST_ROOM), length: 0, from: [], lines: [] };
    if (run !== last) this.#runs.push(run);
    if (run.length + count > run.bytes.length) {
      const more = new Uint8Array(Math.max(run.bytes.length * 2, run.length + count));
      more.set(run.bytes.subarray(0, run.length));
      run.bytes = more;
    }
    run.from.push(run.length);
    run.lines.push(line);
    run.bytes.set(source.subarray(from, from + count), run.length);
    run.length += count;
  }

  /**
   * Overlaps of a later stretch with earlier ones; where the later bytes are others, the first that is. The later ones
   * win.
   */
  finish(): { image: MemoryImage; overlaps: Overlap[] } {
    const overlaps: Overlap[] = [];
    const merged: { start: number; bytes: Uint8Array }[] = [];
    const sorted = this.#runs
      .map((run, order) => ({ ...run, order }))
      .sort((a, b) => a.start - b.start || a.order - b.order);
    for (let i = 0; i < sorted.length; ) {
      const first = item(sorted, i);
      let end = first.start + first.length;
      let next = i + 1;
      for (let run = sorted[next]; run && run.start <= end; run = sorted[++next])
        end = Math.max(end, run.start + run.length);
      const bytes = new Uint8Array(end - first.start);
      const known = next - i > 1 ? new Uint8Array(end - first.start) : null;
      const before: Run[] = [];
      for (const run of sorted.slice(i, next).sort((a, b) => a.order - b.order)) {
        const at = run.start - first.start;
        if (known) {
          const [twice, other] = firstOverlap(run, known, bytes, at);
          const found = other >= 0 ? other : twice;
          if (found >= 0)
            overlaps.push({
              address: run.start + found,
              differs: other >= 0,
              line: lineAt(run, found),
              firstLine: lineOf(before, run.start + found),
            });
          known.fill(1, at, at + run.length);
          before.push(run);
        }
        bytes.set(run.bytes.subarray(0, run.length), at);
      }
      merged.push({ start: first.start, bytes });
      i = next;
    }
    return { image: { segments: merged.filter((segment) => segment.bytes.length > 0) }, overlaps };
  }
}

/** Places in a run of the first byte that is known already, and of the first that is known as another; -1 for none. */
function firstOverlap(
  run: Run,
  known: Uint8Array,
  bytes: Uint8Array,
  at: number,
): readonly [twice: number, other: number] {
  let twice = -1;
  for (let k = 0; k < run.length; k++) {
    if (!known[at + k]) continue;
    if (twice < 0) twice = k;
    if (bytes[at + k] !== run.bytes[k]) return [twice, k];
  }
  return [twice, -1];
}

function lineAt({ from, lines }: Run, place: number): number {
  let [low, high] = [0, from.length];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (item(from, middle) <= place) low = middle + 1;
    else high = middle;
  }
  return lines[low - 1] ?? 0;
}

function lineOf(runs: readonly Run[], address: number): number {
  const run = runs.findLast(({ start, length }) => address >= start && address < start + length);
  return run ? lineAt(run, address - run.start) : 0;
}
