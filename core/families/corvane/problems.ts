// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../../result.ts';

export const problem = saying({
  'crc-error': () => ({
    message: 'The part found a CRC error in the stream; DONE stays low.',
    tryNext: [
      'Load again: a single bad bit on the cable shows like this.',
      'Lower the TCK frequency.',
      'Build again: the file may be damaged.',
    ],
  }),
  'does-not-fit': ({ bytes, name, room }: Told<'bytes' | 'name' | 'room'>) => ({
    message: `The packed design takes ${bytes} bytes; the frames of a ${name} hold ${room}.`,
    tryNext: ['Choose a larger part.'],
  }),
  'done-low': () => ({
    message: 'The whole stream was sent but DONE did not rise.',
    tryNext: ['Build again: the stream may be cut short.', 'Check DONE for a short to ground.'],
  }),
  'idcode-mismatch': ({ idcode, part }: Told<'idcode' | 'part'>) => ({
    message: `The part refused the stream: it is meant for ${idcode} (${part}), not for this part.`,
    tryNext: ['Build for the part that is on the board.'],
  }),
  'no-start-word': () => ({
    message: 'The part never saw the beginning of the stream.',
    tryNext: ['Lower the TCK frequency.', 'Check TDI for a break.'],
  }),
  'not-cleared': () => ({
    message: 'The part did not finish clearing its configuration memory.',
    tryNext: ['Check the supply of the part.', 'Power-cycle the board and load again.'],
  }),
  'read-back': ({ frame, byte, written, read }: Told<'frame' | 'byte' | 'written' | 'read'>) => ({
    message: `Frame ${frame}, byte ${byte}: ${written} was written, ${read} is read back.`,
    tryNext: ['Read it back once more at a lower TCK frequency: the reading itself may be disturbed.', 'Load again.'],
  }),
});
