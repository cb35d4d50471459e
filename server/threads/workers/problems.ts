// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../../../core/result.ts';

export const problem = saying({
  'simulation-until': ({ until }: Told<'until'>) => ({
    message: `"${until}" is no time.`,
    tryNext: ['Write a number with its unit, such as 10us, or a number of ticks.'],
  }),
  'simulation-not-understood': ({ count, first }: Told<'count' | 'first'>) => ({
    message: `The sources have ${count === 1 ? 'an error' : `${count} errors`}, so there is nothing to run. ${first}`,
    tryNext: ['Mend what is said, then run again.'],
  }),
  'not-understood': () => ({
    message: 'The sources have errors, so there is nothing to draw.',
    tryNext: ['Build, and mend what the messages point at.'],
  }),
});
