// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../../core/result.ts';

export const problem = saying({
  'foreign-build': ({ part }: Told<'part'>) => ({
    message: `A ${part} is built for by its own tools: there is no bitstream of it here.`,
    tryNext: [
      'Take the design along under Probe, build it with those tools, and play the SVF they write, under Bench, SVF.',
      'docs/any-fpga.md tells it step by step.',
    ],
  }),
  'no-build': () => ({
    message: 'There is no bitstream yet.',
    tryNext: ['Build the design under Design.'],
  }),
  'no-device': () => ({
    message: 'It is not known which part runs this design.',
    tryNext: ['Scan the chain under Bench.'],
  }),
  'no-probes': () => ({
    message: 'This build has no debug cores.',
    tryNext: ['Choose signals under Probe, build and load.'],
  }),
  'no-project': () => ({
    message: 'There is no project.',
    tryNext: ['Start the product with its demo, or create a project.'],
  }),
  'unknown-part': ({ part }: Told<'part'>) => ({
    message: `There is no part "${part}".`,
    tryNext: ['Choose one from the list.'],
  }),
});
