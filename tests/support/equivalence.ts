// The two readers of one design beside each other: hardware in the fabric, and the event simulator.
import { elaborate } from '../../core/hdl/index.ts';
import { optimise } from '../../core/netlist/index.ts';
import { simulate } from '../../core/sim/events/index.ts';
import { Simulator } from '../../core/sim/fabric/index.ts';
import { chanceFrom } from '../fuzz/index.ts';
import { type RandomDesign, randomDesign } from './random-design.ts';

const CYCLES = 12;

/** Where the two differ; null where they agree wherever nothing is unknown. */
export function differenceOf(seed: number, cycles = CYCLES): string | null {
  const design = randomDesign(seed);
  const chance = chanceFrom(seed ^ 0x5eed);
  const stimuli = Array.from({ length: cycles }, () =>
    design.inputs.map(({ width }) => BigInt.asUintN(width, random(chance))),
  );
  const fabric = inFabric(design, stimuli);
  const events = inEvents(design, stimuli);
  for (let cycle = 0; cycle < cycles; cycle++)
    for (const [i, { name, width }] of design.outputs.entries()) {
      const wanted = fabric[cycle]?.[i] ?? 0n;
      const found = events[cycle]?.[i] ?? '';
      const bits = wanted.toString(2).padStart(width, '0');
      const differs = [...found].some((bit, at) => bit !== 'x' && bit !== 'z' && bit !== bits[at]);
      if (differs || found.length !== width)
        return `seed ${seed}, cycle ${cycle}, ${name}: the fabric has ${bits}, the events ${found}\n${design.text}`;
    }
  return null;
}

const random = (chance: ReturnType<typeof chanceFrom>): bigint =>
  BigInt(chance.below(2 ** 30)) | (BigInt(chance.below(2 ** 30)) << 30n) | (BigInt(chance.below(32)) << 60n);

function inFabric({ text, inputs, outputs }: RandomDesign, stimuli: readonly (readonly bigint[])[]): bigint[][] {
  const { netlist, messages } = elaborate([{ name: 'd.v', text }], { top: 'd' });
  if (!netlist) throw new Error(`${messages.list.map((m) => `${m.line}: ${m.message}`).join('\n')}\n${text}`);
  const small = optimise(netlist).netlist;
  const simulator = new Simulator(small, 'javascript');
  const clocked = small.registers.length > 0 || small.memories.some(({ writes }) => writes.length > 0);
  return stimuli.map((values) => {
    for (const [i, { name }] of inputs.entries())
      if (small.inputs.some((one) => one.name === name)) simulator.setInput(name, values[i] ?? 0n);
    const found = outputs.map(({ name }) => simulator.getOutput(name));
    if (clocked) simulator.step(simulator.domain('clk'), 1);
    return found;
  });
}

function inEvents({ text, inputs, outputs }: RandomDesign, stimuli: readonly (readonly bigint[])[]): string[][] {
  const wires = [
    ...inputs.map(({ name, width }) => `reg [${width - 1}:0] ${name};`),
    ...outputs.map(({ name, width }) => `wire [${width - 1}:0] ${name};`),
  ];
  const steps = stimuli.map((values) => {
    const set = inputs.map(({ name, width }, i) => `${name} = ${width}'h${(values[i] ?? 0n).toString(16)};`);
    const show = `$display("${outputs.map(() => '%b').join(' ')}", ${outputs.map(({ name }) => name).join(', ')});`;
    return `${set.join(' ')} #1 ${show} clk = 1; #1 clk = 0;`;
  });
  const bench = `module bench; reg clk = 0; ${wires.join(' ')} d u(.clk(clk), ${[...inputs, ...outputs].map(({ name }) => `.${name}(${name})`).join(', ')}); initial begin ${steps.join('\n')} end endmodule`;
  let output = '';
  const { run, messages } = simulate(
    [
      { name: 'd.v', text },
      { name: 'bench.v', text: bench },
    ],
    {
      top: 'bench',
      host: { read: () => null, print: (piece) => (output += piece) },
    },
  );
  if (!run) throw new Error(`${messages.map((m) => `${m.file}:${m.line}: ${m.message}`).join('\n')}\n${text}`);
  if (run.ending !== 'idle') throw new Error(`${run.ending} ${run.told}\n${text}`);
  return output
    .trimEnd()
    .split('\n')
    .map((line) => line.split(' '));
}
