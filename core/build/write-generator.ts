import type { Factors } from '../clocking/index.ts';
import type { ClockGenerator } from '../families/index.ts';
import { item } from '../lists.ts';

interface Wanted {
  readonly generator: ClockGenerator;
  readonly factors: Factors;
  /** The port whose clock it takes. */
  readonly input: string;
  /** Text in which none of the names may stand that are made here. */
  readonly beside: string;
}

/** Verilog that declares and makes an instance of a clock generator, each line indented as in a module. */
export function generatorInstance({ generator, factors, input, beside }: Wanted): string {
  const { module, parameters, outputs } = generator;
  const { setting, hertz } = factors;
  const taken = new Set<string>(beside.match(/[A-Za-z_$][\w$]*/g));
  const free = (wanted: string): string => {
    let name = wanted;
    for (let i = 2; taken.has(name); i++) name = `${wanted}_${i}`;
    taken.add(name);
    return name;
  };
  const wires = hertz.map((one) => free(`${input}_${megahertz(one).replace('.', 'p')}mhz`));
  const locked = free(`${input}_locked`);
  const given = [
    [parameters.multiply, setting.multiply],
    [parameters.divide, setting.divide],
    ...parameters.outputs.map((name, i) => [name, setting.outputs[i] ?? 0] as const),
  ].map(([name, value]) => `.${name}(${value})`);
  const ports = [
    `.${generator.input}(${input})`,
    ...outputs.map((name, i) => `.${name}(${wires[i] ?? ''})`),
    `.${generator.locked}(${locked})`,
  ];
  const made = hertz.map((one) => `${megahertz(one)} MHz`).join(', ');
  return [
    `  // ${made} of ${input}; ${item(wires, 0)} rests at 0 until ${locked} is 1.`,
    `  wire ${[...wires, locked].join(', ')};`,
    `  ${module} #(${given.join(', ')}) ${free(`u_${input}_generator`)} (`,
    `    ${ports.join(', ')}`,
    '  );',
  ].join('\n');
}

const megahertz = (hertz: number): string => String(Number((hertz / 1e6).toFixed(4)));
