import { byteAt, wordAt } from '../lists.ts';
const POLYNOMIAL = 0xedb88320; // CRC-32/ISO-HDLC, reflected 0x04C11DB7

const table = Uint32Array.from({ length: 256 }, (_, byte) => {
  let crc = byte;
  for (let bit = 0; bit < 8; bit++) crc = crc & 1 ? (crc >>> 1) ^ POLYNOMIAL : crc >>> 1;
  return crc >>> 0;
});

/** Carries a running CRC-32 register over more bytes. Start with 0xFFFFFFFF, invert at the end. */
export function crc32Update(register: number, bytes: Uint8Array): number {
  let crc = register;
  for (let i = 0; i < bytes.length; i++) crc = ((crc >>> 8) ^ wordAt(table, (crc ^ byteAt(bytes, i)) & 0xff)) >>> 0;
  return crc;
}

/**
 * CRC-32/ISO-HDLC of a block.
 *
 * @source catalogue of parametrised CRC algorithms: "123456789" gives CBF43926
 */
export const crc32 = (bytes: Uint8Array): number => (crc32Update(0xffffffff, bytes) ^ 0xffffffff) >>> 0;
