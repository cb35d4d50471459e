// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../../core/result.ts';

export const problem = saying({
  cancelled: () => ({
    message: 'Cancelled. Nothing of the last build was replaced.',
    tryNext: ['Start again when ready.'],
  }),
  'too-heavy': ({ what }: Told<'what'>) => ({
    message: `Reading this takes more than ${what}; it was given up.`,
    tryNext: ['Give the file in smaller parts.'],
  }),
  superseded: () => ({
    message: 'A newer plan is being priced.',
    tryNext: ['Wait for it.'],
  }),
});
