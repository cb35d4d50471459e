// All that can go wrong with a replay, and how it is said. Codes are stable; what stands in brackets tells apart where
// it happens.
import { saying, type Told } from '../result.ts';

export const problem = saying({
  'nothing-chosen': () => ({
    message: 'Nothing is chosen to be seen.',
    tryNext: ['Choose an instance of the design.'],
  }),
  'nothing-there': ({ path, near }: Told<'path' | 'near'>) => ({
    message: `The design has no instance and no signal "${path}".`,
    tryNext: [`There are: ${near}.`],
  }),
  'no-clock': () => ({
    message: 'No register of the design has a clock that comes in from outside: there is nothing to compute in time.',
    tryNext: ['Choose an instance with registers of a clock.'],
  }),
  'no-such-clock': ({ name }: Told<'name'>) => ({
    message: `"${name}" is no clock that comes into the design from outside.`,
    tryNext: ['Name a clock port, or the output of a clock generator.'],
  }),
  'one-clock-alone': ({ clocks }: Told<'clocks'>) => ({
    message: `A table of vectors has one clock, and the record has several: ${clocks}.`,
    tryNext: ['Take a testbench instead.'],
  }),
  'cannot-be-stored': ({ names }: Told<'names'>) => ({
    message: `What is chosen cannot be computed without signals that are not to be touched: ${names}.`,
    tryNext: ['Allow some of them to be recorded.', 'Choose less to be seen.'],
  }),
  'too-few-bits': ({ wanted, least }: Told<'wanted' | 'least'>) => ({
    message: `${wanted} bits are not enough: what is chosen needs at least ${least}.`,
    tryNext: [`Allow ${least} bits.`, 'Choose less to be seen.'],
  }),
  'nothing-recorded': ({ missing }: Told<'missing'>) => ({
    message: 'Nothing of what the design has was found in the record.',
    tryNext: [`It would need: ${missing}.`, 'Look whether the record is one of this design.'],
  }),
  'no-samples': () => ({
    message: 'The record holds no samples.',
    tryNext: ['Take a record that has some.'],
  }),
  'never-rises': ({ clock }: Told<'clock'>) => ({
    message: `The clock "${clock}" is in the record, and never rises.`,
    tryNext: ['Leave it out of the record: each time is then one sample.', 'Record it while it runs.'],
  }),
  'no-instance': ({ path }: Told<'path'>) => ({
    message: `"${path}" is no instance that a testbench could be made for.`,
    tryNext: ['Choose an instance, not a signal.'],
  }),
  'no-inputs-known': ({ path }: Told<'path'>) => ({
    message: `No sample of the record tells what came into ${path}.`,
    tryNext: ['Record its inputs, or what they follow from: replay plan proposes them.'],
  }),
});
