// Serial flash by the common command set: identity, erase, page program, verify. Works over any SPI port; knows nothing of JTAG.
export type { SpiPort } from './port.ts';
export { FLASH_PARTS, type FlashPart, identify } from './identity.ts';
export { ERASING, readFlash, writeFlash, type WriteReport } from './write.ts';
export { COMMAND, PAGE_BYTES, STATUS_BUSY, withAddress } from './commands.ts';
