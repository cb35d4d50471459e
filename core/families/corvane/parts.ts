/** What differs from one Corvane part to another. `frames` is the room for a packed design, in frames of 256 bytes. */
interface PartRow {
  readonly name: string;
  readonly idcode: number;
  readonly luts: number;
  readonly blockRams: number;
  readonly clockGenerators: number;
  readonly frames: number;
  /** Cases it is sold in, the usual one first. */
  readonly packages: readonly string[];
  /** Its flash pins are also pins of the design: SPI_LINK stops what runs. */
  readonly flashStopsDesign: boolean;
}

export const IR_LENGTH = 6;
export const IR_CAPTURE = 0b000001;

const row = (
  name: string,
  idcode: number,
  [luts, blockRams, clockGenerators, frames]: readonly [number, number, number, number],
  packages: readonly string[],
  flashStopsDesign = false,
): PartRow => ({ name, idcode, luts, blockRams, clockGenerators, frames, packages, flashStopsDesign });

/** docs/silicon.md, table 1. CV25 and CV25S answer with one IDCODE. */
export const PART_TABLE: readonly PartRow[] = [
  row('CV10', 0x1c010ffd, [1000, 8, 1, 512], ['Q64', 'Q100'], true),
  row('CV25', 0x1c025ffd, [2500, 24, 2, 1280], ['Q100', 'B196']),
  row('CV25S', 0x1c025ffd, [2500, 24, 2, 1280], ['Q100', 'B196']),
  row('CV60', 0x1c060ffd, [6000, 64, 4, 3072], ['B196', 'Q100']),
];

/** Frames of a part; its name is one of the table. */
export const framesOfPart = (name: string): number => PART_TABLE.find((part) => part.name === name)?.frames ?? 0;

/**
 * Corvane instructions, six bits. Names as IEEE 1149.1 and 1532 give them; the last four are private. docs/silicon.md,
 * table 3
 */
export const INSTRUCTION = {
  EXTEST: 0b000000,
  SAMPLE: 0b000010,
  CLAMP: 0b000100,
  HIGHZ: 0b000101,
  IDCODE: 0b000110,
  USERCODE: 0b000111,
  ISC_ENABLE: 0b010001,
  ISC_PROGRAM: 0b010010,
  ISC_READ: 0b010011,
  ISC_NOOP: 0b010100,
  ISC_DISABLE: 0b010101,
  CFG_STATUS: 0b100001,
  CFG_PRINT: 0b100010,
  SPI_LINK: 0b100100,
  FABRIC_LINK: 0b101000,
  BYPASS: 0b111111,
} as const;
