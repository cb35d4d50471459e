// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../result.ts';

export const problem = saying({
  'step-condition (none)': ({ name }: Told<'name'>) => ({
    message: `The stepper "${name}" was built without anything to compare.`,
    tryNext: ['Give it signals under Probe, build and load.'],
  }),
  'step-condition (empty)': () => ({
    message: 'There is no condition to run until.',
    tryNext: ['Write one, such as level > 20.'],
  }),
  'step-condition (counts)': () => ({
    message: 'A step ends where the condition holds for the first time; it does not count.',
    tryNext: ['Leave out how often it is to hold.'],
  }),
  'trigger-old': ({ name }: Told<'name'>) => ({
    message: `The recorder "${name}" comes from an older release.`,
    tryNext: ['Build and load again.'],
  }),
  'trigger-resources (within)': ({ name, stages }: Told<'name' | 'stages'>) => ({
    message: `"within" needs a recorder of two stages or more, "${name}" was built with ${stages}.`,
    tryNext: ['Set its stages to 2 under Probe, build and load.'],
  }),
  'trigger-resources (qualifier)': ({ name }: Told<'name'>) => ({
    message: `The recorder "${name}" was built to store every sample.`,
    tryNext: ['Switch its qualifier on under Probe, build and load.'],
  }),
  'trigger-resources (comparators)': ({ needed, name, comparators }: Told<'needed' | 'name' | 'comparators'>) => ({
    message: `This needs ${needed} comparators, the recorder "${name}" was built with ${comparators}.`,
    tryNext: [`Set its comparators to ${needed} under Probe, build and load.`, 'Leave out a comparison.'],
  }),
  'trigger-resources (stages)': ({ neededStages, name, stages }: Told<'neededStages' | 'name' | 'stages'>) => ({
    message: `This has ${neededStages} stages, the recorder "${name}" was built with ${stages}.`,
    tryNext: [`Set its stages to ${neededStages} under Probe, build and load.`],
  }),
  'trigger-resources (both)': ({
    needed,
    neededStages,
    name,
    comparators,
    stages,
  }: Told<'needed' | 'neededStages' | 'name' | 'comparators' | 'stages'>) => ({
    message:
      `This needs ${needed} comparators and ${neededStages} stages, the recorder "${name}" was built with ` +
      `${comparators} and ${stages}.`,
    tryNext: [`Set its comparators to ${needed} and its stages to ${neededStages} under Probe, build and load.`],
  }),
  'trigger-syntax': () => ({
    message: 'Here is one sample looked at, so there are no counts, ends or stages.',
    tryNext: ['Leave out "times", "for", "within" and "then".'],
  }),
  'trigger-value': ({ text }: Told<'text'>) => ({
    message: `"${text}" is no value.`,
    tryNext: ["Write a decimal number, 0x1f, 0b01x1 or 4'h0F."],
  }),
  'trigger-value (too wide)': ({ text, width, bits }: Told<'text' | 'width' | 'bits'>) => ({
    message: `"${text}" does not fit into the ${width} ${bits} of the signal.`,
    tryNext: ['Check the value, or compare another signal.'],
  }),
});
