// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../result.ts';

export const problem = saying({
  'instance-parameter': ({ instance, parameter }: Told<'instance' | 'parameter'>) => ({
    message: `The parameter "${parameter}" of "${instance}" is no whole number: it cannot be simulated by itself.`,
    tryNext: ['Run the table on the top module.'],
  }),
  'no-instance': ({ instance }: Told<'instance'>) => ({
    message: `The design has no instance "${instance}".`,
    tryNext: ['Take its path from Design, Schematic, or from a list of signals.'],
  }),
  'floating-input': ({ row, port }: Told<'row' | 'port'>) => ({
    message: `Row ${row}: ${port} is to float, which a lever cannot make it.`,
    tryNext: ['Write 0 or 1 for each digit, or x for a digit that may be either.'],
  }),
  loop: ({ names }: Told<'names'>) => ({
    message: `This logic feeds itself without a register: ${names}.`,
    tryNext: ['Put a register into the way round.'],
  }),
  'no-clock': ({ wanted, inputs }: Told<'wanted' | 'inputs'>) => ({
    message: `The design has no input "${wanted}" to be the clock.`,
    tryNext: [`Inputs: ${inputs}.`],
  }),
  'no-vectors': ({ file }: Told<'file'>) => ({
    message: `${file} has no header row.`,
    tryNext: ['Write a row of port names first: an input by its name, an expected output as =name.'],
  }),
  'not-understood': ({ errorsCountText, errors }: Told<'errorsCountText' | 'errors'>) => ({
    message: `The sources have ${errorsCountText}: ${errors}`,
    tryNext: ['Correct the sources; the table was not run.'],
  }),
  'several-clocks': ({ list }: Told<'list'>) => ({
    message: `The design has several clocks: ${list}.`,
    tryNext: ['Say which one a cycle means, with --clock NAME; give the others as columns of the table.'],
  }),
});
