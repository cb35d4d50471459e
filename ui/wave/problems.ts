// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../../core/result.ts';

export const problem = saying({
  'not-replayed': () => ({
    message: 'Nothing was computed from this record.',
    tryNext: ['Choose what to see first.'],
  }),
  vcd: ({ name, firstText }: Told<'name' | 'firstText'>) => ({
    message: `${name} is no value change dump${firstText}`,
    tryNext: ['Choose a .vcd file.'],
  }),
  worker: ({ messageText }: Told<'messageText'>) => ({
    message: `The record cannot be shown: what reads it ended${messageText}.`,
    tryNext: ['Open it again.', 'A very large file may need more memory than the browser gives.'],
  }),
});
