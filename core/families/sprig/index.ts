// The supervisor CPLD Sprig: seen in a chain and scanned by its boundary register; no design is built for it here.
// docs/silicon.md, table 2
import { bsdlText, caseDrawing } from '../cases/index.ts';
import type { Family } from '../family.ts';

/** docs/silicon.md, tables 2 and 2b; a Sprig's instruction register is shorter than a Corvane's. */
export const SPRIG = {
  name: 'SP64',
  idcode: 0x05064ffb,
  irLength: 5,
  irCapture: 0b00101,
  package: 'Q64',
} as const;

export const SPRIG_INSTRUCTION = {
  EXTEST: 0b00000,
  SAMPLE: 0b00001,
  IDCODE: 0b00010,
  HIGHZ: 0b00101,
  BYPASS: 0b11111,
} as const;

export const sprig: Family = {
  name: 'Sprig',
  devices: [
    {
      name: SPRIG.name,
      idcode: SPRIG.idcode,
      irLength: SPRIG.irLength,
      irCapture: SPRIG.irCapture,
      idcodeOpcode: SPRIG_INSTRUCTION.IDCODE,
      tells: 'supervisor, 64 macrocells',
    },
  ],
  packagesOf: (part) => (part === SPRIG.name ? [SPRIG.package] : []),
  drawing: caseDrawing,
  describe: (part, packageName) =>
    part !== SPRIG.name || packageName !== SPRIG.package
      ? null
      : bsdlText({
          name: SPRIG.name,
          package: SPRIG.package,
          idcode: SPRIG.idcode,
          irLength: SPRIG.irLength,
          irCapture: SPRIG.irCapture.toString(2).padStart(SPRIG.irLength, '0'),
          instructions: { ...SPRIG_INSTRUCTION, PRELOAD: SPRIG_INSTRUCTION.SAMPLE },
          registers: 'BOUNDARY (EXTEST, SAMPLE, PRELOAD), BYPASS (BYPASS, HIGHZ)',
        }),
  debug: () => null,
  fpga: null,
};
