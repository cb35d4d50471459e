// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../result.ts';

export const problem = saying({
  'ir-unknown': () => ({
    message: 'The chain holds a device whose instruction length is not known.',
    tryNext: ['Read its BSDL file.'],
  }),
  'low-reference': ({ volts, leastVolts }: Told<'volts' | 'leastVolts'>) => ({
    message: `The reference voltage is ${volts} V, too low for the cable: it needs ${leastVolts} V.`,
    tryNext: [
      'Measure the supply of the JTAG bank on the board.',
      'Check the resistor or fuse in the reference wire.',
      'Check that no other supply is shorted to it.',
    ],
  }),
  'no-cable': () => ({
    message: 'No cable is plugged into the board’s JTAG connector.',
    tryNext: ['Plug the cable into the board.', 'Check that its plug is fully in and the right way round.'],
  }),
  'no-device': ({ wanted, seen }: Told<'wanted' | 'seen'>) => ({
    message: `There is no device ${wanted} in the chain. It holds: ${seen}.`,
    tryNext: ['Count from 0, the device nearest TDO.'],
  }),
  'no-power': ({ volts }: Told<'volts'>) => ({
    message: `The board is not powered: the reference voltage is ${volts} V.`,
    tryNext: [
      'Switch the board on.',
      'Check the supply lead and the fuse.',
      'Check that the cable’s reference pin reaches the board.',
    ],
  }),
  'no-user-register': ({ name }: Told<'name'>) => ({
    message: `Which instruction of ${name} gives its fabric a user register is not said.`,
    tryNext: ['Name it in the project, under "foreign" in nimble.json: docs/any-fpga.md.'],
  }),
  'part-not-in-chain': ({ part, seen }: Told<'part' | 'seen'>) => ({
    message: `There is no ${part} in the chain. It holds: ${seen}. Nothing was shifted.`,
    tryNext: ['Build for a part that is on the board.', 'Check that the right board is connected.'],
  }),
  'several-devices': ({ count, part, places }: Told<'count' | 'part' | 'places'>) => ({
    message: `The chain holds ${count} devices that may be a ${part}: ${places}.`,
    tryNext: ['Name the one with --device.'],
  }),
  'unknown-part': ({ name }: Told<'name'>) => ({
    message: `${name} is no part that designs are built for here.`,
    tryNext: ['Check the spelling of the part in the project.'],
  }),
  'wrong-part': ({ part, index, found, fitting }: Told<'part' | 'index' | 'found' | 'fitting'>) => ({
    message: `This is for a ${part}, but device ${index} is ${found}. Nothing was shifted.`,
    tryNext: [`Choose one of: ${fitting}.`],
  }),
});
