// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../../core/result.ts';

export const problem = saying({
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
