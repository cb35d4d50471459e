// Serial flash by the common command set: identity, erase, page program, verify. Works over any SPI port; knows nothing
// of JTAG.
export type { SpiPort } from './port.ts';
export { FLASH_PARTS, type FlashIdentity, type FlashPart, meet } from './identity.ts';
export type { FlashParameters } from './sfdp.ts';
export { affectedRange, joinErases, type Piece, smallestErase, type WritePlan } from './plan.ts';
export {
  carryOut,
  ERASING,
  eraseBlocks,
  planWriting,
  readFlash,
  readUniqueId,
  readWatched,
  verifyPieces,
  type WriteReport,
  writePieces,
  WRITING,
} from './write.ts';
export { COMMAND, PAGE_BYTES, STATUS_BUSY, withAddress } from './commands.ts';
