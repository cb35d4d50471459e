import { crc32 } from '../../core/bits/index.ts';

const MARK = [0x4d, 0x57, 0x34, 0x31] as const;
const HEAD_BYTES = 12;
const TAPS = 0xa3000000;

/** What the maker's tools put around a design, so that nobody reads it. */
export function sealed(plain: Uint8Array): Uint8Array {
  const whole = new Uint8Array(HEAD_BYTES + plain.length);
  const view = new DataView(whole.buffer);
  whole.set(MARK);
  view.setUint32(4, plain.length);
  view.setUint32(8, crc32(plain));
  whole.set(scrambled(plain, view.getUint32(8)), HEAD_BYTES);
  return whole;
}

/** What is inside; null for what is none, or is damaged. */
export function opened(envelope: Uint8Array): Uint8Array | null {
  if (envelope.length < HEAD_BYTES || MARK.some((byte, i) => envelope[i] !== byte)) return null;
  const view = new DataView(envelope.buffer, envelope.byteOffset);
  const length = view.getUint32(4);
  if (envelope.length < HEAD_BYTES + length) return null;
  const check = view.getUint32(8);
  const plain = scrambled(envelope.subarray(HEAD_BYTES, HEAD_BYTES + length), check);
  return crc32(plain) === check ? plain : null;
}

/** The same way there and back: each byte with one of a row that the check begins. */
function scrambled(bytes: Uint8Array, from: number): Uint8Array {
  let state = from | 1;
  return bytes.map((byte) => {
    state = state & 1 ? (state >>> 1) ^ TAPS : state >>> 1;
    return byte ^ (state & 0xff);
  });
}
