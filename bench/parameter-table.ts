import type { FlashPart } from '../core/flash/index.ts';
import { numberAt } from '../core/lists.ts';

const TABLE_AT = 0x30;
const TABLE_WORDS = 16;
const ERASE_UNITS = [1_000, 16_000, 128_000, 1_000_000] as const;

/** What a chip answers to command 5A from address 0 on. @source JEDEC JESD216, revision B */
export function parameterTable(part: FlashPart): Uint8Array {
  const bytes = new Uint8Array(TABLE_AT + TABLE_WORDS * 4).fill(0xff);
  bytes.set([
    0x53,
    0x46,
    0x44,
    0x50,
    0x06,
    0x01,
    0x00,
    0xff,
    0x00,
    0x06,
    0x01,
    TABLE_WORDS,
    TABLE_AT,
    0x00,
    0x00,
    0xff,
  ]);
  const view = new DataView(bytes.buffer);
  const put = (word: number, value: number) => view.setUint32(TABLE_AT + (word - 1) * 4, value >>> 0, true);
  for (let word = 1; word <= TABLE_WORDS; word++) put(word, 0);
  const small = part.erases.find((erase) => erase.bytes === 4096);
  put(1, 0xfff00000 | ((small?.command ?? 0xff) << 8) | 0x04 | (small ? 1 : 3));
  put(2, part.bytes * 8 - 1);
  const types = [0, 1, 2, 3].map((i) => part.erases[i]);
  const pair = (i: number) =>
    types
      .slice(i, i + 2)
      .reduce((sum, erase, k) => sum | (erase ? (Math.log2(erase.bytes) | (erase.command << 8)) << (16 * k) : 0), 0);
  put(8, pair(0));
  put(9, pair(2));
  const ratio = Math.round(part.erase.worst / part.erase.typical / 2) - 1;
  put(
    10,
    types.reduce((sum, erase, i) => (erase ? sum | (timeField(erase.typical) << (4 + 7 * i)) : sum), ratio),
  );
  const unit = part.page.typical > 256 ? 64 : 8;
  put(
    11,
    (Math.round(part.page.worst / part.page.typical / 2) - 1) |
      (8 << 4) |
      ((Math.round(part.page.typical / unit) - 1) << 8) |
      ((unit === 64 ? 1 : 0) << 13) |
      (9 << 24) |
      (2 << 29),
  );
  return bytes;
}

/** Five bits of count and two of unit, the finest that reaches. */
function timeField(microseconds: number): number {
  const unit = ERASE_UNITS.findIndex((one) => microseconds / one <= 32);
  return (Math.round(microseconds / numberAt(ERASE_UNITS, unit)) - 1) | (unit << 5);
}
