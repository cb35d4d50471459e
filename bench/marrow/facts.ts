/** What is printed on the case. docs/silicon.md, section 11 */
export const MARROW = {
  name: 'MW40',
  package: 'Q100',
  idcode: 0x1a040ffd,
  irLength: 8,
  irCapture: 0b0001_0001,
} as const;

/** Opcodes. Those from FEED_BEGIN on are the maker's own, and stand in no description. */
export const MARROW_INSTRUCTION = {
  EXTEST: 0x00,
  SAMPLE: 0x01,
  IDCODE: 0x09,
  HIGHZ: 0x0a,
  USER1: 0x22,
  STATE: 0x33,
  FEED_BEGIN: 0xb1,
  FEED: 0xb2,
  FEED_END: 0xb4,
  BYPASS: 0xff,
} as const;

/** Bits of the register behind STATE. */
export const MARROW_STATE = { length: 8, alive: 0, refused: 2, runs: 3 } as const;

/** Length of the register behind FEED: what stands in it at Update-DR is taken. */
export const FEED_BYTES = 4096;

/** Bits between the user register of the fabric and TDO. */
export const USER_PREFIX_BITS = 1;
