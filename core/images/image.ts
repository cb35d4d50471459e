import { crc32Update } from '../bits/index.ts';

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
