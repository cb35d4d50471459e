// A table for an instance: simulated by itself, with the parameters that it has in the design.
import { describe, expect, test } from 'vitest';
import { runVectors } from './index.ts';

const FILES = [
  {
    name: 'top.v',
    text: `module top(input clk, input [3:0] step, output [7:0] a, b);
  defparam u_b.FROM = 8'd7;
  count #(.FROM(8'd100), .BY(2)) u_a(.clk(clk), .on(step[0]), .n(a));
  generate
    genvar i;
    for (i = 0; i < 2; i = i + 1) begin : lane
      count #(.BY(i + 3)) u_c(.clk(clk), .on(step[i]), .n());
    end
  endgenerate
  count u_b(.clk(clk), .on(step[1]), .n(b));
  slow #(.FACTOR(1.5)) u_s(.clk(clk), .q());
endmodule
module count #(parameter [7:0] FROM = 0, parameter BY = 1, localparam NEXT = FROM + BY)(
  input clk, input on, output reg [7:0] n = FROM
);
  always @(posedge clk) if (on) n <= n + BY;
endmodule
module slow #(parameter real FACTOR = 1.0)(input clk, output reg q = 0);
  always @(posedge clk) q <= ~q;
endmodule
`,
  },
];
const table = (rows: string) => ({ name: 't.csv', text: `on,=n\n${rows}` });
const run = (instance: string, rows: string, more: object = {}) =>
  runVectors(FILES, table(rows), { instance, ...more });
const outcome = (instance: string, rows: string, more: object = {}) => {
  const ran = run(instance, rows, more);
  return ran.ok ? `${ran.value.top}: ${ran.value.passed} passed, ${ran.value.failed} failed` : ran.error.message;
};

describe('a table for an instance', () => {
  test('is simulated with what stands at the instance, with defparam, and with a generate’s own number', () => {
    expect(outcome('u_a', '0,100\n1,102\n1,104\n')).toBe('count: 3 passed, 0 failed');
    expect(outcome('top.u_b', '1,8\n1,9\n')).toBe('count: 2 passed, 0 failed');
    expect(outcome('lane[1].u_c', '1,4\n')).toBe('count: 1 passed, 0 failed');
    expect(outcome('u_a', '1,101\n')).toBe('count: 0 passed, 1 failed');
  });

  test('a clock that was named for the whole design counts where the module has one of that name', () => {
    expect(outcome('u_a', '1,102\n', { clock: 'clk' })).toBe('count: 1 passed, 0 failed');
    expect(outcome('u_a', '1,102\n', { clock: 'clk_100' })).toBe('count: 1 passed, 0 failed');
  });

  test('no such instance, and a parameter that is no whole number, are said', () => {
    expect(outcome('u_x', '1,1\n')).toBe('The design has no instance "u_x".');
    expect(outcome('u_s', '1,1\n')).toMatch(/"FACTOR" of "u_s" is no whole number/);
  });
});
