/** The fields of a device identification register. @source IEEE 1149.1, device identification register */
interface IdcodeFields {
  readonly version: number;
  readonly part: number;
  /** JEP106: continuation codes in bits 10..7, the code without parity in bits 6..0. */
  readonly manufacturer: number;
}

export const idcodeFields = (idcode: number): IdcodeFields => ({
  version: idcode >>> 28,
  part: (idcode >>> 12) & 0xffff,
  manufacturer: (idcode >>> 1) & 0x7ff,
});

/**
 * A manufacturer as JEP106 counts it: banks from 1, the first one without a continuation code, and the code of seven
 * bits.
 * @source JEDEC JEP106; value from memory
 */
export const describeManufacturer = (manufacturer: number): string =>
  `bank ${(manufacturer >> 7) + 1}, 0x${(manufacturer & 0x7f).toString(16).toUpperCase().padStart(2, '0')}`;

/** `0x` and eight digits, as IDCODEs are always written. */
export const describeIdcode = (idcode: number): string =>
  `0x${(idcode >>> 0).toString(16).toUpperCase().padStart(8, '0')}`;
