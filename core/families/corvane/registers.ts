import { type Bits, hexOf, packedLength, reverseByte } from '../../bits/index.ts';
import type { ReadRegister } from '../register.ts';
import type { ConfigStatus } from '../status.ts';
import { INSTRUCTION } from './parts.ts';
import { decodeStatus, STATUS_LENGTH } from './status.ts';

export const STATUS_REGISTER: ReadRegister<ConfigStatus> = {
  opcode: INSTRUCTION.CFG_STATUS,
  length: STATUS_LENGTH,
  decode: decodeStatus,
};

const PRINT_BITS = 128;

/** Fingerprint of the design that runs, first byte first, bit 7 first. docs/silicon.md, table 3 */
export const PRINT_REGISTER: ReadRegister<string | null> = {
  opcode: INSTRUCTION.CFG_PRINT,
  length: PRINT_BITS,
  decode: (bits) => (hexOf(bits) === '0'.repeat(PRINT_BITS / 4) ? null : printText(bits)),
};

const printText = (bits: Bits): string =>
  [...Uint8Array.from(bits.bytes.subarray(0, packedLength(PRINT_BITS)), reverseByte)]
    .map((byte) => byte.toString(16).padStart(2, '0'))
    .join('');
