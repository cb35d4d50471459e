// All that can go wrong here, and how it is said. Codes are stable; what stands in brackets tells apart where it
// happens.
import { saying, type Told } from '../result.ts';

export const problem = saying({
  'no-bridge': ({ name }: Told<'name'>) => ({
    message: `The core "${name}" does not answer as a bridge to a flash.`,
    tryNext: ['Load the build that the probe map is of.'],
  }),
  'capture-broken': ({ segment }: Told<'segment'>) => ({
    message: `Segment ${segment} has no sample that triggered.`,
    tryNext: ['Arm again.', 'Scan more slowly: the read-out may have lost bits.'],
  }),
  'clock-column': ({ clock }: Told<'clock'>) => ({
    message: `The table has a column for ${clock}, which is the clock that its cycles are of.`,
    tryNext: ['Delete the column and say in a column "cycles" how often the clock rises.', 'Name another clock.'],
  }),
  'clock-stands': ({ name, clock }: Told<'name' | 'clock'>) => ({
    message: `The stepper "${name}" does not answer: its clock ${clock} stands still.`,
    tryNext: ['Check the oscillator on the board.', 'Check that the clock is enabled in the design.'],
  }),
  'clock-stopped': ({ name, clock }: Told<'name' | 'clock'>) => ({
    message: `The panel "${name}" does not answer: its clock ${clock} stands still.`,
    tryNext: ['Check the oscillator on the board.', 'Check that the clock is enabled in the design.'],
  }),
  'lever-value (open digits)': ({ text }: Told<'text'>) => ({
    message: `"${text}" has open digits; a lever drives every bit to 0 or 1.`,
    tryNext: ['Write every digit out.'],
  }),
  'lever-value (too wide)': ({ text, width, bits, limit }: Told<'text' | 'width' | 'bits' | 'limit'>) => ({
    message: `"${text}" does not fit into the ${width} ${bits} of the lever.`,
    tryNext: [`Write a value up to ${limit}.`],
  }),
  'lever-value': ({ text, radix }: Told<'text' | 'radix'>) => ({
    message: `"${text}" is no ${radix} value.`,
    tryNext: [`Values are read in the radix that is shown, ${radix}; 0x, 0b and 0d in front say another one.`],
  }),
  expression: ({ part, why }: Told<'part' | 'why'>) => ({
    message: `"${part}" cannot be computed: ${why}`,
    tryNext: ['Write an expression of Verilog over the inputs.'],
  }),
  'expression (output)': ({ part, outputs }: Told<'part' | 'outputs'>) => ({
    message: `"${part}" says nothing of an output.`,
    tryNext: [`Write output = expression; outputs are ${outputs}.`],
  }),
  'fixed-value': ({ text, least, most }: Told<'text' | 'least' | 'most'>) => ({
    message: `${text} does not fit.`,
    tryNext: [`Write a value from ${least} to ${most}.`],
  }),
  limit: ({ text }: Told<'text'>) => ({
    message: `"${text}" is no limit.`,
    tryNext: ['Write a comparison such as < 400; there are <, <=, ==, !=, >= and >.'],
  }),
  'link-lost': () => ({
    message: 'The debug cores do not answer any more.',
    tryNext: ['Check that the board has power and the cable is in.', 'Scan; load again where power was lost.'],
  }),
  'no-hub': () => ({
    message: 'The design that runs has no debug cores.',
    tryNext: ['Choose signals under Probe, build, and load that build.'],
  }),
  'no-instance': ({ instance }: Told<'instance'>) => ({
    message: `The design has no instance "${instance}".`,
    tryNext: ['Write its path as the hierarchy has it, from the top module down.'],
  }),
  'not-understood': () => ({
    message: 'The sources have errors, so there is nothing to take along.',
    tryNext: ['Build, and mend what the messages point at.'],
  }),
  'no-pulse': ({ name }: Told<'name'>) => ({
    message: `The panel "${name}" was built without pulses.`,
    tryNext: ['Switch them on for the panel under Probe, build and load.'],
  }),
  'not-understood (table)': ({ errors }: Told<'errors'>) => ({
    message: `The sources have errors: ${errors}`,
    tryNext: ['Correct the sources; no plan was made.'],
  }),
  'plan-file (not json)': ({ fileName, why }: Told<'fileName' | 'why'>) => ({
    message: `${fileName} is no JSON: ${why}`,
    tryNext: ['Choose a probe plan.'],
  }),
  'plan-file (version)': ({ fileName, version }: Told<'fileName' | 'version'>) => ({
    message: `${fileName} is ${version}`,
    tryNext: ['Open it with a newer release, or write it anew: docs/formats.md, section 3.'],
  }),
  'plan-file': ({ fileName, why }: Told<'fileName' | 'why'>) => ({
    message: `${fileName} is no probe plan: ${why}`,
    tryNext: ['See docs/formats.md, section 3.'],
  }),
  'plan-file (map)': ({ fileName }: Told<'fileName'>) => ({
    message: `${fileName} is the map of a build, which says where probes are in hardware, not what is wanted.`,
    tryNext: ['Choose the plan it was built from.'],
  }),
  'probe-map (version)': ({ version }: Told<'version'>) => ({
    message: `This probe map is ${version}`,
    tryNext: ['Take the map of a build by this release.'],
  }),
  'probe-map': ({ path, why }: Told<'path' | 'why'>) => ({
    message: `This is no probe map: ${path}: ${why}.`,
    tryNext: ['Build the design again; the map is written with the bitstream.'],
  }),
  'signal-gone': ({ problemsCountText, list }: Told<'problemsCountText' | 'list'>) => ({
    message: `The probe plan names ${problemsCountText} the design no longer has: ${list}.`,
    tryNext: ['Open Probe and choose again; the other choices are kept.'],
  }),
  'truth-table': ({ bits, most }: Told<'bits' | 'most'>) => ({
    message: `The inputs have ${bits} bits together; a table of all combinations takes up to ${most}.`,
    tryNext: ['Write a table of the rows that matter.', 'Choose a smaller module as the top of a project of its own.'],
  }),
  'values (no step)': ({ part }: Told<'part'>) => ({
    message: `"${part}" goes nowhere: its step is 0.`,
    tryNext: ['Give a step of 1 or more.'],
  }),
  'values (many)': ({ most }: Told<'most'>) => ({
    message: `There are more than ${most} values.`,
    tryNext: ['Give a larger step.'],
  }),
  'too-many-cores': ({ plannedCount, mostCores }: Told<'plannedCount' | 'mostCores'>) => ({
    message: `The plan has ${plannedCount} cores; a hub takes ${mostCores}.`,
    tryNext: ['Join recorders of the same clock.'],
  }),
});
