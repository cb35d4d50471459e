// All that can go wrong on the wire to a microcontroller, and how it is said. Codes are stable.
import { saying, type Told } from '../../core/result.ts';

const SCAN_FIRST = 'Scan the chain before anything else: the board may be in any state.';

export const problem = saying({
  'wire-path': ({ path, why }: Told<'path' | 'why'>) => ({
    message: `${path} cannot be opened as a serial line: ${why}.`,
    tryNext: [
      'Look where the microcontroller is found: `ls /dev/serial/by-id` names each by what it is.',
      'Where it is not allowed, become a member of the group that owns the device, and sign in anew.',
      'Close whatever else has it open.',
    ],
  }),
  'wire-silent': ({ path, baud }: Told<'path' | 'baud'>) => ({
    message: `Nothing at all answers at ${path}, ${baud} baud.`,
    tryNext: [
      'Check that this is the path of the microcontroller that has the firmware of pod/firmware.',
      'Check --baud: both ends have to speak at one rate (docs/wire.md, section 1).',
      'Pull its plug and put it back.',
    ],
  }),
  'wire-silent (later)': ({ path, seconds }: Told<'path' | 'seconds'>) => ({
    message: `The microcontroller at ${path} has said nothing for ${seconds} s.`,
    tryNext: ['Pull its plug and put it back; it is found by itself.', SCAN_FIRST],
  }),
  'wire-not-ours': ({ path, baud, heard }: Told<'path' | 'baud' | 'heard'>) => ({
    message: `Something answers at ${path}, ${baud} baud, but it does not speak the wire’s protocol. It said ${heard}.`,
    tryNext: [
      'Check that this is the path of the microcontroller, and not of the board’s own serial line or a modem.',
      'Check --baud: at a wrong rate everything reads as rubbish.',
      'Put the firmware of pod/firmware on it.',
    ],
  }),
  'wire-version': ({ path, theirs, ours }: Told<'path' | 'theirs' | 'ours'>) => ({
    message: `The firmware at ${path} speaks version ${theirs} of the wire’s protocol, this pod version ${ours}.`,
    tryNext: ['Put the firmware of this release on the microcontroller.'],
  }),
  'wire-unplugged': ({ path, why }: Told<'path' | 'why'>) => ({
    message: `The microcontroller at ${path} was unplugged: ${why}.`,
    tryNext: ['Plug it in again; it is found by itself.', SCAN_FIRST],
  }),
  'wire-restarted': ({ path }: Told<'path'>) => ({
    message: `The microcontroller at ${path} has started anew in the middle of this.`,
    tryNext: [
      'Begin again: it is spoken to anew by itself.',
      'Check its supply and its reset wire if this comes back: a board that draws much at power-on pulls it down.',
      SCAN_FIRST,
    ],
  }),
  'wire-let-go': ({ path }: Told<'path'>) => ({
    message: `The microcontroller at ${path} has let go of the board, since it had heard nothing for too long.`,
    tryNext: ['Begin again: it is spoken to anew by itself.', 'Keep the computer from sleeping while it works.'],
  }),
  'wire-fault': ({ path, fault, at }: Told<'path' | 'fault' | 'at'>) => ({
    message: `The microcontroller at ${path} does not understand its work: ${fault}, byte ${at}.`,
    tryNext: ['Put the firmware of this release on the microcontroller.'],
  }),
  'wire-garbled': ({ path, what }: Told<'path' | 'what'>) => ({
    message: `The microcontroller at ${path} does not keep to the wire’s protocol: ${what}.`,
    tryNext: ['Put the firmware of this release on the microcontroller.', SCAN_FIRST],
  }),
});
