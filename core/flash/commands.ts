/** @source common command set of serial flash; JEDEC JESD216 for the parameter table (values from memory) */
export const COMMAND = {
  PAGE_PROGRAM: 0x02,
  READ: 0x03,
  WRITE_DISABLE: 0x04,
  READ_STATUS: 0x05,
  WRITE_ENABLE: 0x06,
  FAST_READ: 0x0b,
  ERASE_4K: 0x20,
  ERASE_32K: 0x52,
  UNIQUE_ID: 0x4b,
  PARAMETERS: 0x5a,
  IDENTITY: 0x9f,
  WAKE: 0xab,
  SLEEP: 0xb9,
  ERASE_CHIP: 0xc7,
  ERASE_64K: 0xd8,
} as const;

export const STATUS_BUSY = 0x01;
export const STATUS_WRITE_ENABLED = 0x02;
export const PAGE_BYTES = 256;

export const withAddress = (command: number, address: number): Uint8Array =>
  Uint8Array.of(command, (address >>> 16) & 0xff, (address >>> 8) & 0xff, address & 0xff);
