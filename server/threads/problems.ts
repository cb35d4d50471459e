// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying } from '../../core/result.ts';

export const problem = saying({
  cancelled: () => ({
    message: 'Cancelled. Nothing of the last build was replaced.',
    tryNext: ['Start again when ready.'],
  }),
  superseded: () => ({
    message: 'A newer plan is being priced.',
    tryNext: ['Wait for it.'],
  }),
});
