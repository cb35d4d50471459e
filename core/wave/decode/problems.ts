// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../../result.ts';

export const problem = saying({
  'decode-signal': ({ missing }: Told<'missing'>) => ({
    message: `The record has no single bit "${missing}".`,
    tryNext: ['Choose another signal for the decoder.'],
  }),
  'line-fast': ({ baud, bitTicks }: Told<'baud' | 'bitTicks'>) => ({
    message: `At ${baud} bits a second a bit is ${bitTicks} ticks of this record; two are the least.`,
    tryNext: ['Sample with a faster clock.'],
  }),
  'line-quiet': ({ name, pulsesCount, pulsesCountText }: Told<'name' | 'pulsesCount' | 'pulsesCountText'>) => ({
    message: `${name} moves too little to measure its speed: ${pulsesCount} whole ${pulsesCountText}.`,
    tryNext: ['Record while something is sent.', 'Give the speed by hand.'],
  }),
});
