// All that can go wrong with what is said of a foreign part, and how it is said. Codes are stable.
import { saying, type Told } from '../../result.ts';

export const problem = saying({
  'foreign-description': ({ part, bsdl }: Told<'part' | 'bsdl'>) => ({
    message: `${bsdl} says too little of ${part}: its instruction length and its IDCODE are needed.`,
    tryNext: ['Take the BSDL file of the part as its maker gives it away.', 'Check it with nimble bsdl check.'],
  }),
  'foreign-instruction': ({ part, name, names }: Told<'part' | 'name' | 'names' | 'irLength'>) => ({
    message: `${part} has no instruction "${name}". Its description names ${names}.`,
    tryNext: [
      'Name the instruction that gives the fabric its user register as the description has it.',
      'Makers often leave it out: give its opcode from the data sheet, as 0b and the digits.',
    ],
  }),
  'foreign-instruction (length)': ({ part, name, irLength }: Told<'part' | 'name' | 'irLength'>) => ({
    message: `The instruction register of ${part} has ${irLength} bits; ${name} has another number of digits.`,
    tryNext: ['Write all digits of the opcode, most significant first.'],
  }),
  'foreign-pin': ({ part, pin }: Told<'part' | 'pin'>) => ({
    message: `No boundary cell of ${part} sees ${pin}, so it cannot be read through SAMPLE.`,
    tryNext: ['Name a port or a pin that has an input cell in the description.', 'Name a bit of a register instead.'],
  }),
  'foreign-bit': ({ part, name, bit, length }: Told<'part' | 'name' | 'bit' | 'length'>) => ({
    message:
      length === null
        ? `How long the register behind ${name} of ${part} is, is not known.`
        : `The register behind ${name} of ${part} has ${length} bits; there is no bit ${bit}.`,
    tryNext: ['Say its length in bits, and count bits from 0, the one that comes first.'],
  }),
});
