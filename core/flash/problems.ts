// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../result.ts';

export const problem = saying({
  'flash-busy': ({ waited, what, worst }: Told<'waited' | 'what' | 'worst'>) => ({
    message: `The chip was still busy ${waited} ms after ${what}; its worst time is ${worst} ms.`,
    tryNext: [
      'Power-cycle the board and write again.',
      'If it happens at the same address again, the block is worn out.',
    ],
  }),
  'flash-disagrees': ({ text, maker, name, against }: Told<'text' | 'maker' | 'name' | 'against'>) => ({
    message:
      `The chip answers ${text}, which is ${maker} ${name}, but its own table says otherwise: ${against}. Nothing ` +
      'was erased.',
    tryNext: ['Compare the marking on the chip.', 'A relabelled or damaged chip shows like this: replace it.'],
  }),
  'flash-refused': ({ what }: Told<'what'>) => ({
    message: `The chip did not carry out ${what}: it is still enabled for writing.`,
    tryNext: ['The area may be protected. Check the protection bits and the write-protect pin.'],
  }),
  'flash-silent': ({ text }: Told<'text'>) => ({
    message: `No flash chip answers: its identity reads ${text}.`,
    tryNext: ['Check that the board has power.', 'Check the chip select and MISO wires of the flash.'],
  }),
  'flash-too-large': ({ address, bytes }: Told<'address' | 'bytes'>) => ({
    message: `This ends at ${address}, the chip at ${bytes}. Nothing was erased.`,
    tryNext: ['Choose a smaller image, a lower address or a larger chip.'],
  }),
  'flash-unknown': ({ text }: Told<'text'>) => ({
    message:
      `The flash chip answers ${text}, which is no chip known here, and its parameter table does not say enough. ` +
      'Nothing was erased.',
    tryNext: ['Compare the marking on the chip with docs/silicon.md.'],
  }),
  'flash-verify': ({ address, expected, actual }: Told<'address' | 'expected' | 'actual'>) => ({
    message: `Verify failed at ${address}: ${expected} should be there, ${actual} is read.`,
    tryNext: ['Write again.', 'If the same address fails again, the block is bad.'],
  }),
  'no-sfdp': () => ({
    message: 'The chip has no parameter table: the signature "SFDP" is missing.',
    tryNext: ['The known-part table is used alone.'],
  }),
  'no-sfdp (basicTablePlace)': () => ({
    message: 'The parameter table holds no basic flash parameters.',
    tryNext: ['The known-part table is used alone.'],
  }),
});
