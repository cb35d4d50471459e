import {
  type GeneratorSetting,
  madeHertz,
  type MadeClock,
  outOfRange,
  type OutOfRange,
  reduced,
} from '../clocking/index.ts';
import { type ClockGenerator, type Part, settingOf } from '../families/index.ts';
import type { Messages } from '../hdl/index.ts';
import { item, own } from '../lists.ts';
import { cellPort, isInnerPort, type Netlist, type PartCell } from '../netlist/index.ts';
import { counted } from '../words.ts';

/** A clock generator of a design. */
export interface GeneratorUse {
  /** The instance, without the top module's name. */
  readonly path: string;
  readonly file: string;
  readonly line: number;
  /** The port whose clock it takes; null where that is not a port. */
  readonly input: string | null;
  readonly setting: GeneratorSetting;
  /** Those that are not at rest. */
  readonly outputs: readonly { readonly clock: string; readonly divider: number }[];
}

/** The clock generators of an optimised netlist. */
export function generatorsIn({ cells, nodes, outputs }: Netlist, generator: ClockGenerator | null): GeneratorUse[] {
  if (!generator) return [];
  return cells
    .filter(({ module }) => module === generator.module)
    .map(({ path, parameters, at: { file, line } }) => {
      const taken = outputs.find(({ name }) => name === cellPort(path, generator.input));
      const node = taken && item(nodes, taken.node);
      const setting = settingOf(generator, parameters);
      return {
        ...{ path, file, line, setting },
        input: node?.op === 'input' && !isInnerPort(node) ? node.name : null,
        outputs: setting.outputs.flatMap((divider, i) =>
          divider === 0 ? [] : [{ clock: `${path}.${item(generator.outputs, i)}`, divider }],
        ),
      };
    });
}

/** The clocks that generators make, in terms of the ports that they take theirs from. */
export const clocksMade = (uses: readonly GeneratorUse[]): MadeClock[] =>
  uses.flatMap(({ input, setting, outputs }) =>
    input === null
      ? []
      : outputs.map(({ clock, divider }) => ({
          name: clock,
          source: input,
          ratio: reduced({ times: setting.multiply, over: setting.divide * divider }),
        })),
  );

/** Frequencies in hertz of all clocks: those that are given, and those that follow from them. */
export function frequenciesOf(
  uses: readonly GeneratorUse[],
  given: Readonly<Record<string, number>>,
): Readonly<Record<string, number>> {
  const made = uses.flatMap(({ input, setting, outputs }) => {
    const hertz = input === null ? undefined : own(given, input);
    if (hertz === undefined) return [];
    return outputs.flatMap(({ clock, divider }) => [[clock, madeHertz(hertz, setting, divider) ?? 0] as const]);
  });
  return { ...given, ...Object.fromEntries(made) };
}

/** Those of a build by every name that a signal has which carries one of these clocks, the top module's left out. */
export function frequenciesByName(
  { generators = [], signals, top }: Named,
  given: Readonly<Record<string, number>>,
): Readonly<Record<string, number>> {
  const known = frequenciesOf(generators, given);
  const netOf = new Map(signals.map(({ name, net = name }) => [name, net]));
  const byNet = new Map(Object.entries(known).map(([clock, hertz]) => [netOf.get(`${top}.${clock}`), hertz]));
  const others = signals.flatMap(({ name, net = name }) => {
    const hertz = byNet.get(net);
    return hertz === undefined ? [] : [[name.slice(top.length + 1), hertz] as const];
  });
  return { ...Object.fromEntries(others), ...known };
}

interface Named {
  readonly generators?: readonly GeneratorUse[];
  readonly signals: readonly { readonly name: string; readonly net?: string }[];
  readonly top: string;
}

/** What a part's clock generators cannot do of what a design asks of them. */
export function checkGenerators(
  uses: readonly GeneratorUse[],
  { cells, clocks }: { readonly cells: readonly PartCell[]; readonly clocks: readonly string[] },
  part: Part,
  given: Readonly<Record<string, number>>,
  messages: Messages,
): void {
  const generator = part.family.clockGenerator;
  if (!generator) return;
  const spare = uses[part.clockGenerators];
  if (spare)
    messages.error(
      'clock-generators',
      { file: spare.file, line: spare.line, column: 1 },
      `The design has ${counted(uses.length, 'clock generator')}; a ${part.name} has ${part.clockGenerators}.`,
    );
  for (const { path, file, line, input, setting } of uses) {
    const place = cells.find((cell) => cell.path === path)?.at ?? { file, line, column: 1 };
    if (input === null)
      messages.error(
        'generator-input',
        place,
        `"${path}" does not take its clock from a pin. A clock generator runs on the clock of an input port of the ` +
          'top module as it comes, not on one that logic or another generator makes.',
      );
    const hertz = input === null ? null : (own(given, input) ?? null);
    for (const wrong of outOfRange(generator.limits, setting, hertz))
      messages.error('generator-range', place, rangeText(path, generator, wrong));
    for (const [i, divider] of setting.outputs.entries())
      if (divider === 0 && clocks.includes(`${path}.${item(generator.outputs, i)}`))
        messages.add(
          'serious',
          'generator-idle',
          place,
          `${item(generator.outputs, i)} of "${path}" clocks registers and rests: ${item(generator.parameters.outputs, i)} is 0.`,
        );
  }
}

function rangeText(
  path: string,
  { parameters }: ClockGenerator,
  { what, value, least, most, output }: OutOfRange,
): string {
  const name =
    what === 'output'
      ? item(parameters.outputs, output ?? 0)
      : what === 'multiply'
        ? parameters.multiply
        : parameters.divide;
  if (what === 'multiply' || what === 'divide' || what === 'output')
    return `${name} of "${path}" is ${value}; it may be ${least} to ${most}${what === 'output' ? ', or 0 for an output at rest' : ''}.`;
  const megahertz = (hertz: number) => Number((hertz / 1e6).toPrecision(6));
  const of = {
    input: `takes ${megahertz(value)} MHz; it can take`,
    compared: `compares at ${megahertz(value)} MHz, which is its clock divided by ${parameters.divide}; it can do that at`,
    inner:
      `would run at ${megahertz(value)} MHz inside, which is its clock times ${parameters.multiply}, divided by ` +
      `${parameters.divide}; it can run at`,
  }[what];
  return `"${path}" ${of} ${megahertz(least)} to ${megahertz(most)} MHz. Clocks proposes factors for a wanted frequency.`;
}
