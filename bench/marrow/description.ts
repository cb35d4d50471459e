import { bsdlText } from '../../core/families/cases/index.ts';
import { MARROW, MARROW_INSTRUCTION, MARROW_STATE } from './facts.ts';

/** The boundary-scan description that its maker gives away. */
export const marrowBsdl = (): string => {
  const { EXTEST, SAMPLE, IDCODE, HIGHZ, USER1, STATE, BYPASS } = MARROW_INSTRUCTION;
  return bsdlText({
    name: MARROW.name,
    package: MARROW.package,
    idcode: MARROW.idcode,
    irLength: MARROW.irLength,
    irCapture: MARROW.irCapture.toString(2).padStart(MARROW.irLength, '0'),
    instructions: { EXTEST, SAMPLE, PRELOAD: SAMPLE, IDCODE, HIGHZ, USER1, STATE, BYPASS },
    registers: `BOUNDARY (EXTEST, SAMPLE, PRELOAD), BYPASS (BYPASS, HIGHZ), STATE[${MARROW_STATE.length}] (STATE)`,
  });
};
