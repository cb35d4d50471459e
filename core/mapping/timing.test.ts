// Delays that can be added up by hand from the table of the data sheet.
import { describe, expect, test } from 'vitest';
import { elaborate } from '../hdl/index.ts';
import { optimise } from '../netlist/index.ts';
import { delaysOf, MEMORIES } from '../families/corvane/delays.ts';
import { map } from './map.ts';
import { time } from './timing.ts';

function timed(text: string, wanted: Record<string, number> = {}) {
  const { netlist, messages } = elaborate([{ name: 't.v', text }]);
  if (!netlist) throw new Error(JSON.stringify(messages.list));
  return time(map(optimise(netlist).netlist, MEMORIES), delaysOf(2), new Map(Object.entries(wanted)));
}
const D = delaysOf(2);

describe('static timing', () => {
  test('one table between two registers', () => {
    const { clocks } = timed(
      'module m(input clk, input d, output reg q); reg a, b; always @(posedge clk) begin a <= d; b <= ~d; q <= a ' +
        '& b; end endmodule',
      { clk: 100e6 },
    );
    const delay = D.clockToOut + D.route + D.lut + D.route + D.setup;
    expect(clocks).toHaveLength(1);
    expect(clocks[0]?.paths[0]?.delay).toBeCloseTo(delay, 9);
    expect(clocks[0]?.highest).toBeCloseTo(1e9 / delay, 0);
    expect(clocks[0]?.worstSlack).toBeCloseTo(10 - delay, 9);
    expect(clocks[0]?.paths[0]?.steps.map((s) => s.what)).toEqual(['register', 'wire', 'LUT', 'wire', 'setup']);
    expect(clocks[0]?.paths[0]?.steps.at(-1)?.at).toBeCloseTo(delay, 9);
  });
  test('a longer counter is slower by the carries between', () => {
    const worst = (width: number) =>
      timed(`module m(input clk, output reg [${width - 1}:0] q); always @(posedge clk) q <= q + 1; endmodule`).clocks[0]
        ?.paths[0]?.delay ?? 0;
    expect(worst(32) - worst(16)).toBeCloseTo(16 * D.carry, 9);
  });
  test('half a period between opposite edges', () => {
    const { clocks } = timed(
      'module m(input clk, input d, output reg q); reg a; always @(posedge clk) a <= d; always @(negedge clk) q ' +
        '<= a; endmodule',
      { clk: 100e6 },
    );
    expect(clocks[0]?.worstSlack).toBeCloseTo(5 - D.clockToOut - D.route - D.setup, 9);
  });
  test('ways between clocks are kept apart and give no frequency', () => {
    const { clocks, crossings } = timed(
      'module m(input c1, c2, input d, output reg q); reg a; always @(posedge c1) a <= d; always @(posedge c2) q ' +
        '<= a; endmodule',
    );
    expect(clocks.map((c) => [c.clock, c.highest])).toEqual([
      ['c1', null],
      ['c2', null],
    ]);
    expect(crossings).toMatchObject([{ from: 'c1', to: 'c2', count: 1, longest: { from: 'm.a', to: 'm.q' } }]);
  });
  test('steps name the source line of what they were made for', () => {
    const { clocks } = timed(
      'module m(input clk, input [3:0] d, output reg q);\n reg [3:0] a;\n wire all = &a;\n always @(posedge clk) ' +
        'begin\n a <= d;\n q <= all;\n end\nendmodule',
    );
    expect(clocks[0]?.paths[0]?.steps.find((s) => s.what === 'LUT')).toMatchObject({
      file: 't.v',
      line: 3,
      name: 'm.all',
    });
  });
  test('speed grades order the delays, and the histogram counts every endpoint once', () => {
    expect(delaysOf(1).lut).toBeGreaterThan(delaysOf(2).lut);
    expect(delaysOf(3).lut).toBeLessThan(delaysOf(2).lut);
    const { clocks } = timed('module m(input clk, output reg [7:0] q); always @(posedge clk) q <= q + 3; endmodule', {
      clk: 1e8,
    });
    expect(clocks[0]?.histogram.reduce((sum, bin) => sum + bin.count, 0)).toBe(clocks[0]?.endpoints);
  });
});
