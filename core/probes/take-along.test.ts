import { describe, expect, test } from 'vitest';
import { demoPlan, demoProject } from '../../tests/support/demo.ts';
import { allCells } from '../families/index.ts';
import { elaborate } from '../hdl/index.ts';
import { madeClocks, optimise } from '../netlist/index.ts';
import { Simulator } from '../sim/fabric/index.ts';
import { insertCores, probePlan, takeAlong } from './index.ts';

const PRINT = '00112233445566778899aabbccddeeff';
const JTAG = {
  '$link.tck': 'jtag_tck',
  '$link.tdi': 'jtag_tdi',
  '$link.capture': 'jtag_capture',
  '$link.shift': 'jtag_shift',
  '$link.update': 'jtag_update',
  '$link.tdo': 'jtag_tdo',
} as Record<string, string>;

describe('taking a probed design along', () => {
  test('the exported text elaborates to the same behaviour: all outputs, clock by clock, with noise on every input', () => {
    const { files } = demoProject();
    const sources = files.filter(({ name }) => name.endsWith('.v'));
    const taken = takeAlong(sources, { top: 'lockhouse' }, demoPlan(), PRINT);
    if (!taken.ok) throw new Error(taken.error.message);
    const again = elaborate([{ name: 'taken.v', text: taken.value.verilog }], { top: 'lockhouse_probed' });
    expect(again.messages.list.filter(({ severity }) => severity === 'error')).toEqual([]);
    const { netlist } = elaborate(sources, { top: 'lockhouse' });
    if (!netlist || !again.netlist) throw new Error('does not elaborate');
    insertCores(netlist, demoPlan(), PRINT);
    const [here, there] = [new Simulator(optimise(netlist).netlist), new Simulator(optimise(again.netlist).netlist)];
    const named = (name: string) => JTAG[name] ?? name;
    const clocks = ['clk', 'clk10', '$link.tck'];
    const inputs = netlist.inputs.filter(({ name }) => !clocks.includes(name));
    let seed = 1;
    const random = () => {
      seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
      return seed >>> 8;
    };
    for (let i = 0; i < 6000; i++) {
      for (const { name, width } of inputs) {
        // Buttons are held for a while, and reset is not pressed all the time.
        if (name === 'button' && i % 500 !== 0) continue;
        const value = BigInt.asUintN(width, BigInt(random())) & (name === 'button' && i > 0 ? 7n : -1n);
        here.setInput(name, BigInt.asUintN(width, value));
        there.setInput(named(name), BigInt.asUintN(width, value));
      }
      const clock = clocks[random() % 3] as string;
      here.step(here.domain(clock));
      there.step(there.domain(named(clock)));
      if (i % 7 === 0)
        for (const { name } of netlist.outputs)
          expect(there.getOutput(named(name)), `${name} after ${i} edges`).toBe(here.getOutput(name));
    }
  });

  test('a cell of the part is an instance again, with its factors, and takes its clock from where it did', () => {
    const text = `module t(input clk, output reg [7:0] q, output ok);
      wire f;
      corvane_clock_generator #(.MULTIPLY(32), .DIVIDE(1), .DIVIDE_A(8)) u_g (.clock_in(clk), .clock_a(f), .locked(ok));
      always @(posedge f) q <= q + 3;
    endmodule`;
    const settings = { top: 't', cells: allCells() };
    const plan = { recorders: [{ name: 'r', clock: 't.f', depth: 16, signals: ['t.q'] }], panels: [] };
    const taken = takeAlong([{ name: 't.v', text }], settings, probePlan.parse(plan), PRINT);
    if (!taken.ok) throw new Error(taken.error.message);
    expect(taken.value.verilog).not.toContain('$u_g');
    const again = elaborate([{ name: 'taken.v', text: taken.value.verilog }], { top: 't_probed', cells: allCells() });
    expect(again.messages.list.filter(({ severity }) => severity === 'error')).toEqual([]);
    if (!again.netlist) throw new Error('does not elaborate');
    const small = optimise(again.netlist).netlist;
    expect(small.cells.map(({ module, parameters }) => [module, parameters])).toEqual([
      ['corvane_clock_generator', { MULTIPLY: 32, DIVIDE: 1, DIVIDE_A: 8, DIVIDE_B: 0, DIVIDE_C: 0 }],
    ]);
    const of = (node: number) => small.inputs.find((input) => input.node === node)?.name;
    const made = [...madeClocks(small)].map(([clock, source]) => [of(clock), of(source)]);
    expect(new Set(made.map(([, source]) => source))).toEqual(new Set(['clk']));
    // The register and the recorder run on what the generator makes.
    const clocks = small.registers.map(({ clock }) => of(clock));
    expect(clocks.filter((name) => name?.endsWith('.clock_a')).length).toBeGreaterThan(8);
  });

  test('names its JTAG port and the build, and says what is missing', () => {
    const taken = takeAlong(
      [{ name: 't.v', text: 'module t(input clk, output reg [3:0] q); always @(posedge clk) q <= q + 1; endmodule' }],
      { top: 't' },
      { recorders: [{ name: 'r', clock: 't.clk', depth: 16, signals: ['t.q'] }], panels: [] },
      PRINT,
    );
    expect(taken.ok && taken.value.verilog).toMatch(
      /build 00112233445566778899aabbccddeeff[\s\S]*module t_probed \([\s\S]*jtag_tdo/,
    );
    const gone = takeAlong(
      [{ name: 't.v', text: 'module t(input clk, output q); assign q = clk; endmodule' }],
      { top: 't' },
      { recorders: [{ name: 'r', clock: 't.clk', depth: 16, signals: ['t.gone'] }], panels: [] },
      PRINT,
    );
    expect(gone.ok ? null : gone.error.code).toBe('signal-gone');
  });
});
