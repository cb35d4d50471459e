// Every combination of a design's inputs as a table of vectors, with what outputs are wanted to be.
import { elaborate, type SourceFile } from '../hdl/index.ts';
import { type Netlist, optimise } from '../netlist/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { Simulator } from '../sim/fabric/index.ts';
import { chooseClock, type VectorOptions } from '../vectors/index.ts';
import { problem } from './problems.ts';

/** Bits of all inputs together: a table has a row for each of their values. */
const MOST_BITS = 16;

interface TruthTableOptions extends VectorOptions {
  /** What is wanted, as `output = expression` in Verilog over the inputs, several with `;` between; empty for nothing. */
  readonly wanted: string;
}

type Port = Netlist['inputs'][number];

/**
 * The text of a table with a row for each combination of the inputs but the clock, the first input counting slowest.
 * Outputs without an expression are looked at and expect nothing.
 */
export function truthTable(files: readonly SourceFile[], options: TruthTableOptions): Result<string> {
  const { netlist, messages } = elaborate(files, options);
  const wrong = messages.list.find(({ severity }) => severity === 'error');
  if (!netlist) return fail(problem('not-understood (table)', { errors: wrong?.message ?? '' }));
  const ports = netlist.inputs.filter(({ name }) => !name.includes('$'));
  const clock = chooseClock(
    ports.map(({ name }) => name),
    optimise(netlist).netlist,
    options.clock,
  );
  if (!clock.ok) return clock;
  const inputs = ports.filter(({ name }) => name !== clock.value);
  const outputs = netlist.outputs.filter(({ name }) => !name.includes('$'));
  const bits = inputs.reduce((sum, { width }) => sum + width, 0);
  if (bits > MOST_BITS) return fail(problem('truth-table', { bits, most: MOST_BITS }));
  const expected = expectations(inputs, outputs, options.wanted);
  if (!expected.ok) return expected;
  const lines = [[...inputs.map(({ name }) => name), ...outputs.map(({ name }) => `=${name}`)].join(',')];
  for (let row = 0; row < 2 ** bits; row++) {
    let at = bits;
    const values = inputs.map(({ width }) => {
      at -= width;
      return BigInt((row >>> at) & (2 ** width - 1));
    });
    lines.push([...values, ...expected.value(values)].join(','));
  }
  return ok(`${lines.join('\n')}\n`);
}

/** What outputs are wanted to be for values of the inputs; empty for those that nothing is said of. */
function expectations(
  inputs: readonly Port[],
  outputs: readonly { readonly name: string; readonly width: number }[],
  wanted: string,
): Result<(values: readonly bigint[]) => readonly string[]> {
  const said = new Map<string, string>();
  for (const part of wanted.split(';').map((one) => one.trim())) {
    if (part === '') continue;
    const [, name = '', expression = ''] = /^([A-Za-z_]\w*)\s*=(?!=)\s*([\s\S]+)$/.exec(part) ?? [];
    if (!outputs.some((output) => output.name === name))
      return fail(
        problem('expression (output)', { part, outputs: outputs.map((one) => one.name).join(', ') || 'none' }),
      );
    said.set(name, expression);
  }
  if (said.size === 0) return ok(() => outputs.map(() => ''));
  const of = outputs.filter(({ name }) => said.has(name));
  const ranged = ({ name, width }: { readonly name: string; readonly width: number }) => `[${width - 1}:0] ${name}`;
  const text = [
    `module nimble_wanted(${[...inputs.map((port) => `input ${ranged(port)}`), ...of.map((port) => `output ${ranged(port)}`)].join(', ')});`,
    ...of.map(({ name }) => `assign ${name} = ${said.get(name)};`),
    'endmodule',
  ].join('\n');
  const { netlist, messages } = elaborate([{ name: 'expression.v', text }], { top: 'nimble_wanted' });
  const wrong = messages.list.find(({ severity }) => severity === 'error');
  if (!netlist || wrong) {
    const part = [...said][(wrong?.line ?? 2) - 2];
    return fail(problem('expression', { part: part ? part.join(' = ') : wanted, why: wrong?.message ?? '' }));
  }
  const sim = new Simulator(optimise(netlist).netlist);
  return ok((values) => {
    for (const [i, { name }] of inputs.entries()) sim.setInput(name, values[i] ?? 0n);
    return outputs.map(({ name }) => (said.has(name) ? String(sim.getOutput(name)) : ''));
  });
}
