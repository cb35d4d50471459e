import type { KnownDevice } from '../jtag/index.ts';

/** One Corvane part. `frames` is the room for a packed design, in frames of 256 bytes. */
export interface Part {
  readonly name: string;
  readonly idcode: number;
  readonly irLength: number;
  readonly luts: number;
  readonly blockRams: number;
  readonly frames: number;
  readonly package: PackageName;
  /** Its flash pins are also pins of the design: SPI_LINK stops what runs. */
  readonly flashStopsDesign: boolean;
}

export type PackageName = 'Q64' | 'Q100' | 'B196';

const part = (
  name: string,
  idcode: number,
  luts: number,
  blockRams: number,
  frames: number,
  pack: PackageName,
  flashStopsDesign = false,
): Part => ({ name, idcode, irLength: 6, luts, blockRams, frames, package: pack, flashStopsDesign });

/** docs/silicon.md, table 1. CV25 and CV25S answer with one IDCODE. */
export const PARTS: readonly Part[] = [
  part('CV10', 0x1c010ffd, 1000, 8, 512, 'Q64', true),
  part('CV25', 0x1c025ffd, 2500, 24, 1280, 'Q100'),
  part('CV25S', 0x1c025ffd, 2500, 24, 1280, 'Q100'),
  part('CV60', 0x1c060ffd, 6000, 64, 3072, 'B196'),
];

export const partNamed = (name: string): Part | undefined => PARTS.find((p) => p.name === name);

/** The supervisor CPLD. Its instruction register is shorter than a Corvane's. */
export const SPRIG = {
  name: 'SP64',
  idcode: 0x05064ffb,
  irLength: 5,
  irCapture: 0b00101,
  package: 'Q64' as PackageName,
} as const;

/** docs/silicon.md, table 2b */
export const SPRIG_INSTRUCTION = {
  EXTEST: 0b00000,
  SAMPLE: 0b00001,
  IDCODE: 0b00010,
  HIGHZ: 0b00101,
  BYPASS: 0b11111,
} as const;

const CORVANE_CAPTURE = 0b000001;

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

/** Twins share silicon and IDCODE; only what is printed on the case tells them apart. docs/silicon.md, section 1 */
const marking = (name: string): string =>
  name.endsWith('S') ? 'a letter S behind the name on the case: sleep mode' : 'no S behind the name on the case';

/** Everything this product can recognise on a chain. */
export const KNOWN_DEVICES: readonly KnownDevice[] = [
  ...PARTS.map(({ name, idcode, irLength, luts }) => ({
    name,
    idcode,
    irLength,
    irCapture: CORVANE_CAPTURE,
    idcodeOpcode: INSTRUCTION.IDCODE,
    tells: `${luts} LUTs, ${marking(name)}`,
  })),
  {
    name: SPRIG.name,
    idcode: SPRIG.idcode,
    irLength: SPRIG.irLength,
    irCapture: SPRIG.irCapture,
    idcodeOpcode: SPRIG_INSTRUCTION.IDCODE,
    tells: 'supervisor, 64 macrocells',
  },
];
