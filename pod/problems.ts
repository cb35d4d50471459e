// All that can go wrong when a pod carries a file out by itself, and how it is said. Codes are stable.
import { saying, type Told } from '../core/result.ts';

export const problem = saying({
  'stage-no-bitstream': ({ size }: Told<'size'>) => ({
    message: `The file has ${size} bytes: it is no bitstream.`,
    tryNext: ['Run it as SVF if that is what it is.', 'Send the bitstream (.nbits).'],
  }),
});
