// Small machines that can be started in every state: what the record leaves possible is counted, not reckoned.
import { describe, expect, test } from 'vitest';
import { type Chance, chanceFrom } from '../../tests/fuzz/index.ts';
import { knowWidths, netlistOf, randomStimulus, recordOf, traced } from '../../tests/support/replayed.ts';
import { digitsOf, indexAt } from '../wave/index.ts';
import { prepareReplay, regionOf, replay, replayDesign } from './index.ts';

const SAMPLES = 9;

/** Registers of 1 to 3 bits, `bits` in all, that an input can load with anything; and what they make of each other. */
function machine(chance: Chance): { readonly text: string; readonly bits: number; readonly names: readonly string[] } {
  const widths = Array.from({ length: 2 + chance.below(3) }, () => 1 + chance.below(3));
  const names = widths.map((_, i) => `q${i}`);
  const operand = (): string => chance.pick([...names, ...names, 'i', 'i[0]', "2'd1", `${chance.pick(names)}[0]`]);
  const expression = (): string => {
    const [a, b, c] = [operand(), operand(), operand()];
    return chance.pick([
      `${a} + ${b}`,
      `${a} - ${b}`,
      `${a} & ${b}`,
      `${a} | ${b}`,
      `${a} ^ ${b}`,
      `(${a} == ${b}) ? ${c} : ${a}`,
      `(${a} < ${b}) ? ${b} : ${c}`,
      `i[1] ? ${a} : ${b}`,
      `${a} * ${b}`,
      `{${a}, ${b}} >> ${c}`,
      `^${a}`,
      `${a} % ${b}`,
      'i',
    ]);
  };
  const wires = ['w0', 'w1'].map((name) => `  wire [2:0] ${name} = ${expression()};\n`);
  let lo = 0;
  const registers = widths.map((width, i) => {
    const next = `    q${i} <= load ? start[${lo + width - 1}:${lo}] : ${expression()};\n`;
    lo += width;
    return { declared: `  reg [${width - 1}:0] q${i} = 0;\n`, next };
  });
  return {
    text: `module d(input clk, input load, input [${lo - 1}:0] start, input [2:0] i, output [2:0] o);
${registers.map(({ declared }) => declared).join('')}${wires.join('')}  always @(posedge clk) begin
${registers.map(({ next }) => next).join('')}  end
  assign o = w0 ^ w1;
endmodule
`,
    bits: lo,
    names: [...names, 'w0', 'w1', 'o'].map((name) => `d.${name}`),
  };
}

describe('a bit is known exactly when all starts that explain the record agree on it', () => {
  test.each(Array.from({ length: 30 }, (_, i) => i))('machine %i', async (seed) => {
    const chance = chanceFrom(seed * 7 + 3);
    const { text, bits, names } = machine(chance);
    const netlist = netlistOf(text, 'd');
    const inputs = randomStimulus(chanceFrom(seed), 2);
    const given = Array.from({ length: SAMPLES }, (_, k) => inputs('i', 3, k));
    // The first sample loads the start; the record begins behind it.
    const runFrom = (start: number) =>
      traced(netlist, SAMPLES, (name, _, k) => {
        if (name === 'i') return given[k] ?? 0n;
        if (name === 'start') return BigInt(start);
        return k === 0 ? 1n : 0n;
      });
    const all = Array.from({ length: 2 ** bits }, (_, start) => runFrom(start));
    const real = all[chance.below(all.length)];
    if (!real) throw new Error('no run');
    knowWidths(real);
    const stored = ['d.i', 'd.load', chance.pick(names), ...(chance.below(2) === 0 ? [chance.pick(names)] : [])];
    const recorded = [...new Set(stored)];
    const agreeing = all.filter((run) =>
      recorded.every((name) => same(run.values.get(name) ?? [], real.values.get(name) ?? [])),
    );
    const region = regionOf(replayDesign(netlist), { see: ['d'] });
    if (!region.ok) throw new Error(region.error.message);
    const prepared = prepareReplay(region.value, recordOf(real, recorded, 1), 'samples');
    if (!prepared.ok) throw new Error(prepared.error.message);
    const done = await replay(prepared.value);
    expect(done.disagreements).toEqual([]);
    for (const name of names) {
      const trace = done.recording.traces.find((one) => one.name === name);
      if (!trace) throw new Error(`no trace of ${name}`);
      for (let k = 1; k < SAMPLES; k++) {
        const want = agreedOn(
          agreeing.map((run) => run.values.get(name)?.[k] ?? 0n),
          trace.width,
        );
        expect(`${name} ${k} ${digitsOf(trace, indexAt(trace, k - 1))}`).toBe(`${name} ${k} ${want}`);
      }
    }
  });
});

const same = (a: readonly bigint[], b: readonly bigint[]): boolean => a.every((value, k) => k === 0 || value === b[k]);

/** The digits that all values share, x where they differ. */
function agreedOn(values: readonly bigint[], width: number): string {
  let text = '';
  for (let bit = BigInt(width - 1); bit >= 0n; bit--) {
    const found = new Set(values.map((value) => (value >> bit) & 1n));
    text += found.size === 1 ? String([...found][0]) : 'x';
  }
  return text;
}
