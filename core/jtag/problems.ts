// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../result.ts';

export const problem = saying({
  'chain-open': ({ answered, answeredText, next }: Told<'answered' | 'answeredText' | 'next'>) => ({
    message:
      `The ${answered} ${answeredText} nearest TDO answer, but nothing that is sent into TDI comes out: the chain ` +
      `is open behind place ${next}.`,
    tryNext: [
      `Check that the device next to place ${next}, towards TDI, is fitted and powered.`,
      'Check that it is not held in reset: measure its TRST pin.',
      'Check TDI from the connector on for a break.',
    ],
  }),
  'idcode-illegal': ({ index, idcode }: Told<'index' | 'idcode'>) => ({
    message:
      `Place ${index} answers ${idcode}: its manufacturer code is one that nobody may have, so these are disturbed ` +
      'bits.',
    tryNext: ['Lower the TCK frequency and scan again.', 'Check ground and TCK at the connector.'],
  }),
  'ir-ambiguous': ({ total, open }: Told<'total' | 'open'>) => ({
    message:
      `The instruction path is ${total} bits long and can be divided in several ways among the unknown devices at ` +
      `places ${open}.`,
    tryNext: ['Read the BSDL file of one of them.', 'Or give the instruction length of one of them.'],
  }),
  'ir-length': ({ places }: Told<'places'>) => ({
    message:
      `The instruction lengths given by hand (${places}) do not hold: a neighbour did not get the instruction it ` +
      'was sent.',
    tryNext: ['Correct the length.', 'Read the BSDL file of the device.'],
  }),
  'ir-length (irDiffers)': ({ pathCount, told, why }: Told<'pathCount' | 'told' | 'why'>) => ({
    message: `The instruction path is ${pathCount} bits long, which does not fit ${told}. ${why}`,
    tryNext: [
      'Where a length was given by hand, correct it.',
      'Scan again: a marginal TCK frequency shows like this.',
      'Compare the parts on the board with the IDCODEs.',
    ],
  }),
  'tdo-high': () => ({
    message: 'TDO stays at 1: no device answers on the chain.',
    tryNext: [
      'Check that the board has power and the reference voltage is present.',
      'Check that the cable is plugged in the right way round.',
      'Measure TDO at the connector: a pull-up holds it high when nothing drives it.',
    ],
  }),
  'tdo-low': () => ({
    message: 'TDO stays at 0: the ones that were shifted in never come out.',
    tryNext: ['Look for a short from TDO to ground.', 'Check that no device on the chain is held in reset (TRST).'],
  }),
  'too-many': ({ mostDevices }: Told<'mostDevices'>) => ({
    message: `The chain does not end within ${mostDevices} devices, or its bits are disturbed.`,
    tryNext: ['Lower the TCK frequency and scan again.', 'Divide the chain: more devices than that are not handled.'],
  }),
});
