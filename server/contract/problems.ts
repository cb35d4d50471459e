// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../../core/result.ts';

export const problem = saying({
  defect: ({ message }: Told<'message'>) => ({
    message: `The server failed: ${message}`,
    tryNext: ['Its log says more. Try again.', 'Reload the page.'],
  }),
  'job-ended': () => ({
    message: 'This job has ended already.',
    tryNext: ['Look at the job line for how it ended.'],
  }),
  'no-build': () => ({
    message: 'One of the two builds is not kept any more.',
    tryNext: ['Choose another one.'],
  }),
  'no-capture': () => ({
    message: 'There is no such capture.',
    tryNext: ['Choose one from the list.'],
  }),
  'no-comparison': () => ({
    message: 'Nothing was compared yet.',
    tryNext: ['Choose two sides under Keep, Compare.'],
  }),
  'no-file': ({ name }: Told<'name'>) => ({
    message: `"${name}" cannot be deleted.`,
    tryNext: ['nimble.json belongs to every project; other files may be gone already: reload the page.'],
  }),
  'no-project': () => ({
    message: 'There is no project.',
    tryNext: ['Create one, or import one, under Design.'],
  }),
  'no-project (gone)': () => ({
    message: 'There is no such project any more.',
    tryNext: ['Reload the page.'],
  }),
  'pod-in-use': ({ title, name }: Told<'title' | 'name'>) => ({
    message: `"${title}" still uses ${name}; what it finds would be said of another board.`,
    tryNext: ['Wait until it is done, or cancel it, then change to the other pod.'],
  }),
  'svf-played': () => ({
    message: 'This file is played just now.',
    tryNext: ['Stop it, or wait until it has ended.'],
  }),
  request: ({ why }: Told<'why'>) => ({
    message: `The request is not as expected: ${why}`,
    tryNext: ['Reload the page.'],
  }),
});
