import { byteAt } from '../lists.ts';
import { copyBits, getBit, packedLength } from './packed.ts';

/** `length` bits; bit i is bit `i % 8` of `bytes[floor(i / 8)]`. Bits past the end are zero. */
export interface Bits {
  readonly length: number;
  readonly bytes: Uint8Array;
}

export const bitAt = (bits: Bits, index: number): number => (index < bits.length ? getBit(bits.bytes, index) : 0);

export function constantBits(length: number, bit: 0 | 1): Bits {
  const bytes = new Uint8Array(packedLength(length));
  if (bit) {
    bytes.fill(0xff);
    if (length & 7) bytes[bytes.length - 1] = (1 << (length & 7)) - 1;
  }
  return { length, bytes };
}

/** The low `length` bits of a non-negative integer. */
export function bitsFromBigInt(value: bigint, length: number): Bits {
  const bytes = new Uint8Array(packedLength(length));
  let rest = BigInt.asUintN(length, value);
  for (let i = 0; i < bytes.length && rest !== 0n; i++, rest >>= 8n) bytes[i] = Number(rest & 0xffn);
  return { length, bytes };
}

export function bigIntOf(bits: Bits): bigint {
  let hex = '';
  for (let i = bits.bytes.length - 1; i >= 0; i--) hex += byteAt(bits.bytes, i).toString(16).padStart(2, '0');
  return hex === '' ? 0n : BigInt.asUintN(bits.length, BigInt(`0x${hex}`));
}

/** Hexadecimal digits, most significant first, as many as the length needs. */
export const hexOf = (bits: Bits): string =>
  bigIntOf(bits)
    .toString(16)
    .padStart(Math.max(1, Math.ceil(bits.length / 4)), '0');

export function sliceBits(bits: Bits, start: number, length: number): Bits {
  const bytes = new Uint8Array(packedLength(length));
  copyBits(bits.bytes, start, bytes, 0, length);
  return { length, bytes };
}

/** Joins vectors; the first argument ends up in the lowest bits, so it is shifted first. */
export function concatBits(...parts: readonly Bits[]): Bits {
  const length = parts.reduce((sum, part) => sum + part.length, 0);
  const bytes = new Uint8Array(packedLength(length));
  let at = 0;
  for (const part of parts) {
    copyBits(part.bytes, 0, bytes, at, part.length);
    at += part.length;
  }
  return { length, bytes };
}
