// What a table of vectors needs to be built in, by the names of its columns.
import { describe, expect, test } from 'vitest';
import { planForTable } from './table-plan.ts';

const FILES = [
  {
    name: 't.v',
    text: `module inner(input clk, input [3:0] x, output reg [3:0] y = 0); reg [3:0] kept = 0;
        always @(posedge clk) begin kept <= x; y <= kept; end endmodule
      module top(input clk, input clk2, input [3:0] in, output [3:0] out, output reg t = 0);
        inner u_in(.clk(clk), .x(in), .y(out)); always @(posedge clk2) t <= ~t; endmodule
      module plain(input [1:0] a, output y); assign y = ^a; endmodule`,
  },
];
const plan = (table: string, options: Parameters<typeof planForTable>[2]) => {
  const made = planForTable(FILES, { name: 't.csv', text: `${table}\n` }, options);
  return made.ok ? made.value.plan : made.error.code;
};

describe('the plan for a table', () => {
  test('levers over inputs, gauges of outputs, and the clock held from its first edge on', () => {
    expect(plan('in,=out\n1,0', { top: 'top', clock: 'clk' })).toEqual({
      recorders: [],
      panels: [{ name: 'table', clock: 'top.clk', levers: ['top.in'], gauges: ['top.out'] }],
      steppers: [{ name: 'table', clock: 'top.clk', held: true }],
    });
  });

  test('a design without a clock has none to hold', () => {
    expect(plan('a,=y\n1,1', { top: 'plain' })).toEqual({
      recorders: [],
      panels: [{ name: 'table', clock: '', levers: ['plain.a'], gauges: ['plain.y'] }],
    });
  });

  test('an instance inside: its ports by their names, with or without the top module in front', () => {
    const wanted = {
      recorders: [],
      panels: [{ name: 'table', clock: 'top.clk', levers: ['top.u_in.x'], gauges: ['top.u_in.y'] }],
      steppers: [{ name: 'table', clock: 'top.clk', held: true }],
    };
    for (const instance of ['u_in', 'top.u_in'])
      expect(plan('x,=y\n1,0', { top: 'top', clock: 'clk', instance })).toEqual(wanted);
  });

  test('any signal by its path, inside what the table is for or from the top', () => {
    const made = plan('u_in.x,=u_in.kept,=top.t\n1,0,0', { top: 'top', clock: 'clk' });
    expect(made).toMatchObject({ panels: [{ levers: ['top.u_in.x'], gauges: ['top.u_in.kept', 'top.t'] }] });
  });

  test('what cannot be is told: several clocks, the clock as a column, other sides, names and instances', () => {
    expect(plan('in,=out\n1,0', { top: 'top' })).toBe('several-clocks');
    expect(plan('clk,=out\n1,0', { top: 'top', clock: 'clk' })).toBe('clock-column');
    expect(plan('out,=in\n1,0', { top: 'top', clock: 'clk' })).toBe('vectors');
    expect(plan('nothing,=out\n1,0', { top: 'top', clock: 'clk' })).toBe('vectors');
    expect(plan('x,=y\n1,0', { top: 'top', clock: 'clk', instance: 'u_out' })).toBe('no-instance');
    expect(plan('in,=out\n1,0', { top: 'missing' })).toBe('not-understood');
  });
});
