// Bytes that are nearly right: bits turned, lengths that lie, parts doubled, cut and exchanged.
import type { Chance } from './chance.ts';

const MOST_CHANGES = 8;
const EXTREMES = [0, 1, 0x7f, 0x80, 0xff];
const LONGEST = 1 << 20;

/** One file out of those of a corpus; `seeds` is not empty. */
export function mutatedBytes(seeds: readonly Uint8Array[], chance: Chance): Uint8Array {
  let bytes: Uint8Array = chance.pick(seeds).slice();
  for (let left = 1 + chance.below(MOST_CHANGES); left > 0; left--) bytes = changed(bytes, seeds, chance);
  return bytes.subarray(0, LONGEST);
}

function changed(bytes: Uint8Array, seeds: readonly Uint8Array[], chance: Chance): Uint8Array {
  if (bytes.length === 0) return chance.pick(seeds).slice();
  // What says how long the rest is mostly stands near the front.
  const at = chance.below(chance.oneIn(2) ? Math.min(64, bytes.length) : bytes.length);
  switch (chance.below(8)) {
    case 0:
      bytes[at] = (bytes[at] ?? 0) ^ (1 << chance.below(8));
      return bytes;
    case 1:
      bytes[at] = chance.pick(EXTREMES);
      return bytes;
    case 2:
      bytes[at] = chance.below(256);
      return bytes;
    case 3:
      return spliced(bytes, at, 1 + chance.below(chance.oneIn(3) ? 300 : 4), []);
    case 4: {
      const part = bytes.subarray(at, at + 1 + chance.below(64));
      const times = chance.oneIn(10) ? 500 : 1 + chance.below(4);
      return spliced(bytes, at, 0, Array.from({ length: times }, () => [...part]).flat());
    }
    case 5:
      return bytes.slice(0, at);
    case 6: {
      const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
      const value = chance.pick([0, 1, 0x7fffffff, 0xffffffff, bytes.length, bytes.length + 1, 0x10000]);
      if (at + 4 <= bytes.length) view.setUint32(at, value, chance.oneIn(2));
      return bytes;
    }
    default: {
      const other = chance.pick(seeds);
      return spliced(bytes, at, bytes.length - at, other.subarray(chance.below(other.length + 1)));
    }
  }
}

function spliced(bytes: Uint8Array, at: number, gone: number, put: ArrayLike<number>): Uint8Array {
  const rest = bytes.subarray(Math.min(bytes.length, at + gone));
  const out = new Uint8Array(at + put.length + rest.length);
  out.set(bytes.subarray(0, at));
  out.set(put, at);
  out.set(rest, at + put.length);
  return out;
}
