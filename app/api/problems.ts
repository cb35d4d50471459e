// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../../core/result.ts';

export const problem = saying({
  format: ({ format, writers }: Told<'format' | 'writers'>) => ({
    message: `Captures are not written as "${format}".`,
    tryNext: [`Choose ${writers}.`],
  }),
  'format (flash)': () => ({
    message: 'There is no such format.',
    tryNext: ['Use the links of the page.'],
  }),
  'format (line)': () => ({
    message: 'What was said is not written in that form.',
    tryNext: ['Choose text, bytes or csv.'],
  }),
  'no-simulation': () => ({
    message: 'There is no such run in this project, or it kept no waves.',
    tryNext: ['Run the testbench again under Design, Simulate.'],
  }),
  'no-capture': () => ({
    message: 'There is no such capture.',
    tryNext: ['Choose one from the list.'],
  }),
  'no-project': () => ({
    message: 'There is no such project any more.',
    tryNext: ['Reload the page.'],
  }),
  'no-read': () => ({
    message: 'Nothing was read from the flash yet.',
    tryNext: ['Read a stretch under Keep, Steps.'],
  }),
  'probe-map': ({ name }: Told<'name'>) => ({
    message: `${name} is no JSON.`,
    tryNext: ['Choose the .probes.json that was written beside the bitstream.'],
  }),
  request: () => ({
    message: 'Ask for what=load or what=keep.',
    tryNext: ['Use the links of the page.'],
  }),
  'request (for)': () => ({
    message: 'A file is given for=load or for=flash.',
    tryNext: ['Use the buttons of the page.'],
  }),
  'request (name)': ({ most }: Told<'most'>) => ({
    message: `The name of the file is longer than ${most} characters, or none.`,
    tryNext: ['Rename the file.'],
  }),
  'request (empty)': () => ({
    message: 'The file is empty.',
    tryNext: ['Choose another one.'],
  }),
  'too-large': ({ most }: Told<'most'>) => ({
    message: `The upload is larger than ${most} MiB.`,
    tryNext: ['Choose a smaller file.'],
  }),
});
