import { crc32 } from '../../core/bits/index.ts';

const HEADER_ROOM = 4096;
const MARK = 'b007ab1e';
const VERSION = '00000001';

/**
 * Where a part reads its image: the address its flash's boot header names; null without a whole header, and the part
 * then reads the golden image. docs/silicon.md, section 5
 */
export function updateIn(flash: Uint8Array): number | null {
  const from = flash.length - HEADER_ROOM;
  const text = (word: number) =>
    [...flash.subarray(from + word * 4, from + word * 4 + 4)]
      .map((byte) => byte.toString(16).padStart(2, '0'))
      .join('');
  if (text(0) !== MARK || text(1) !== VERSION) return null;
  const check = crc32(flash.subarray(from, from + 12));
  return Number.parseInt(text(3), 16) === check ? Number.parseInt(text(2), 16) : null;
}
