import type { Bits } from '../bits/index.ts';
import { item } from '../lists.ts';

/** Long runs and quick changes both: x^15 + x^14 + 1. @source ITU-T O.150 */
export function testPattern(length: number): Bits {
  const bytes = new Uint8Array((length + 7) >>> 3);
  for (let i = 0, state = 0x7fff; i < length; i++) {
    const bit = ((state >>> 14) ^ (state >>> 13)) & 1;
    state = ((state << 1) | bit) & 0x7fff;
    if (bit) bytes[i >>> 3] = item(bytes, i >>> 3) | (1 << (i & 7));
  }
  return { length, bytes };
}
