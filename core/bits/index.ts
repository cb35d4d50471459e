// Packed bit vectors, least significant (first shifted) bit first. Knows nothing of what the bits mean.
export {
  type Bits,
  bigIntOf,
  bitAt,
  bitsFromBigInt,
  concatBits,
  constantBits,
  hexOf,
  sliceBits,
} from './bits.ts';
export { copyBits, getBit, packedLength, reverseByte, setBit } from './packed.ts';
export { bytesFromBase64, base64FromBytes } from './base64.ts';
export { crc32, crc32Update } from './crc32.ts';
