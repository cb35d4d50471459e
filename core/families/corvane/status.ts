import type { Bits } from '../../bits/index.ts';
import { bitAt } from '../../bits/index.ts';
import type { ConfigStatus } from '../status.ts';

/** Bits of the configuration status register. docs/silicon.md, table 4 */
export const STATUS = {
  START_SEEN: 0,
  IDCODE_MISMATCH: 1,
  CRC_ERROR: 2,
  CLEAR: 3,
  DONE: 4,
  FROM_FLASH: 5,
  BOOT_FLASH: 6,
  ENABLED: 7,
  CHECKED: 8,
  FELL_BACK: 9,
  FROM_UPDATE: 10,
} as const;

export const STATUS_LENGTH = 32;

export function decodeStatus(bits: Bits): ConfigStatus {
  const flag = (bit: number) => bitAt(bits, bit) === 1;
  const done = flag(STATUS.DONE);
  let raw = 0;
  for (let i = 0; i < 32; i++) raw = (raw | (bitAt(bits, i) << i)) >>> 0;
  return {
    startSeen: flag(STATUS.START_SEEN),
    idcodeMismatch: flag(STATUS.IDCODE_MISMATCH),
    crcError: flag(STATUS.CRC_ERROR),
    memoryClear: flag(STATUS.CLEAR),
    done,
    source: done ? (flag(STATUS.FROM_FLASH) ? 'flash' : 'jtag') : 'none',
    bootSource: flag(STATUS.BOOT_FLASH) ? 'flash' : 'jtag',
    enabled: flag(STATUS.ENABLED),
    checked: flag(STATUS.CHECKED),
    fellBack: flag(STATUS.FELL_BACK),
    fromUpdate: flag(STATUS.FROM_UPDATE),
    raw: `0x${raw.toString(16).toUpperCase().padStart(8, '0')}`,
  };
}
