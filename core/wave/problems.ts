// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../result.ts';

export const problem = saying({
  'capture-file': ({ file, why }: Told<'file' | 'why'>) => ({
    message: `${file} is no capture that can be read: ${why}.`,
    tryNext: ['Take one that was written as JSON by nimble capture, or by the page.'],
  }),
  'compare-nothing': () => ({
    message: 'The two records have no signal in common.',
    tryNext: ['Choose a record of the same design.'],
  }),
  'compare-clock': ({ clock }: Told<'clock'>) => ({
    message: `The capture was taken with a clock that is ${clock} in the simulation, and that never rises there.`,
    tryNext: ['Compare by time.', 'Give the testbench a clock at that port.'],
  }),
  'join-gaps': ({ title }: Told<'title'>) => ({
    message: `Nobody knows how much time passed between the segments of ${title}, so it cannot share an axis.`,
    tryNext: ['Give the recorder a qualifier under Probe: its samples then have times.', 'Take it in one segment.'],
  }),
  'join-nothing': () => ({
    message: 'There is nothing to lay on one axis.',
    tryNext: ['Choose captures.'],
  }),
});
