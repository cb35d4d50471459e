// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying } from '../../../core/result.ts';

export const problem = saying({
  'not-understood': () => ({
    message: 'The sources have errors, so there is nothing to draw.',
    tryNext: ['Build, and mend what the messages point at.'],
  }),
});
