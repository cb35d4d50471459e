import { byteAt } from '../lists.ts';
/** Bytes needed for `count` packed bits. */
export const packedLength = (count: number): number => (count + 7) >>> 3;

export const getBit = (bytes: Uint8Array, index: number): number => (byteAt(bytes, index >>> 3) >>> (index & 7)) & 1;

export function setBit(bytes: Uint8Array, index: number, bit: number): void {
  const mask = 1 << (index & 7);
  if (bit) bytes[index >>> 3] = byteAt(bytes, index >>> 3) | mask;
  else bytes[index >>> 3] = byteAt(bytes, index >>> 3) & ~mask;
}

/** Copies `count` bits from bit `from` of `source` to bit `to` of `target`. Byte-aligned stretches move as bytes. */
export function copyBits(source: Uint8Array, from: number, target: Uint8Array, to: number, count: number): void {
  let done = 0;
  while (done < count && ((to + done) & 7) !== 0) {
    setBit(target, to + done, getBit(source, from + done));
    done++;
  }
  const shift = (from + done) & 7;
  const whole = (count - done) >>> 3;
  let s = (from + done) >>> 3;
  let t = (to + done) >>> 3;
  if (shift === 0) target.set(source.subarray(s, s + whole), t);
  else {
    for (let k = 0; k < whole; k++, s++, t++)
      target[t] = (byteAt(source, s) >>> shift) | (byteAt(source, s + 1) << (8 - shift));
  }
  for (done += whole * 8; done < count; done++) setBit(target, to + done, getBit(source, from + done));
}

const reversed = Uint8Array.from({ length: 256 }, (_, byte) => {
  let out = 0;
  for (let bit = 0; bit < 8; bit++) if (byte & (1 << bit)) out |= 0x80 >> bit;
  return out;
});

/** The same eight bits in the other order: a scan shifts bit 0 first, SPI sends bit 7 first. */
export const reverseByte = (byte: number): number => byteAt(reversed, byte & 0xff);
