/** The fields of a device identification register. @source IEEE 1149.1, device identification register */
export interface IdcodeFields {
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

/** `0x` and eight digits, as IDCODEs are always written. */
export const describeIdcode = (idcode: number): string => `0x${(idcode >>> 0).toString(16).toUpperCase().padStart(8, '0')}`;
