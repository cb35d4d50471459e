import { crc32 } from '../../bits/index.ts';

/** The last part of a flash chip, which holds the boot header alone. */
export const BOOT_HEADER_ROOM = 4096;
/** Where a part boots from without a header, and falls back to: the golden image. */
export const GOLDEN_ADDRESS = 0;
export const BOOT_HEADER_BYTES = 16;

const MARK = 0xb007ab1e;
const VERSION = 1;

export const bootHeaderAddress = (chipBytes: number): number => chipBytes - BOOT_HEADER_ROOM;

/**
 * Names the image a part tries first. Mark, version, address, CRC-32 of those; big-endian. docs/silicon.md, section 5
 */
export function writeBootHeader(update: number): Uint8Array {
  const bytes = new Uint8Array(BOOT_HEADER_BYTES);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, MARK);
  view.setUint32(4, VERSION);
  view.setUint32(8, update);
  view.setUint32(12, crc32(bytes.subarray(0, 12)));
  return bytes;
}

/** Address of the update; null where there is no header, or one that was not written to its end. */
export function readBootHeader(bytes: Uint8Array): number | null {
  if (bytes.length < BOOT_HEADER_BYTES) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, BOOT_HEADER_BYTES);
  if (
    view.getUint32(0) !== MARK ||
    view.getUint32(4) !== VERSION ||
    view.getUint32(12) !== crc32(bytes.subarray(0, 12))
  )
    return null;
  return view.getUint32(8);
}
