// Clocks that are put through gates, against the event-driven simulation, which knows nothing of domains.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { fabricRows } from '../../../tests/support/fabric-rows.ts';
import { runOnHardware, runVectors } from '../../vectors/index.ts';

const DESIGNS = {
  'a gate that moves while the clock is high': `reg [1:0] p = 0; reg [7:0] c = 0; wire k = clk & p[1];
    always @(posedge clk) p <= p + 1; always @(posedge k) c <= c + 1; assign o = {c, p};`,
  'registers of the gated clock that those of the other read': `reg [1:0] p = 0; reg [7:0] c = 0, seen = 0; wire k = clk & i[0];
    always @(posedge clk) begin p <= p + 1; seen <= seen + c; end always @(posedge k) c <= c + p + 1; assign o = {seen, c, p};`,
  'two gates of one clock, each of what the other counts': `reg [3:0] a = 0, b = 1; wire k = clk & (i[0] | a[0]), m = clk & ~(i[1] & b[1]);
    reg [7:0] n = 0; always @(posedge clk) n <= n + a; always @(posedge k) a <= a + b; always @(posedge m) b <= b + a + 1; assign o = {n, b, a};`,
  'an or that holds it high, and its falling edge': `reg [3:0] p = 0; reg [7:0] c = 0; wire k = clk | i[2];
    always @(posedge clk) p <= p + 1; always @(negedge k) c <= c + p; assign o = {c, p};`,
  'a gate that only moves while the clock is low': `reg en = 0; reg [7:0] c = 0, t = 0; wire k = clk & en;
    always @(negedge clk) en <= i[0] ^ t[0]; always @(posedge k) c <= c + t; always @(posedge clk) t <= t + 1; assign o = {c, t};`,
};

describe('gated clocks', () => {
  test.each(Object.entries(DESIGNS))('%s', (_, body) =>
    fc.assert(
      fc.asyncProperty(
        fc.array(fc.record({ i: fc.nat(7), cycles: fc.integer({ min: 0, max: 5 }) }), { minLength: 1, maxLength: 20 }),
        async (rows) => {
          const files = [
            { name: 't.v', text: `module m(input clk, input [2:0] i, output [23:0] o); ${body} endmodule` },
          ];
          const text = ['i,cycles,=o', ...rows.map(({ i, cycles }) => `${i},${cycles},`)].join('\n');
          const events = runVectors(files, { name: 't.csv', text }, { top: 'm', clock: 'clk' });
          const { target, vectors, clock } = fabricRows(files, { name: 't.csv', text }, 'm', 'clk');
          const fabric = await runOnHardware(vectors, target, { clock });
          if (!events.ok || !fabric.ok) throw new Error('the rows are not run');
          expect(fabric.value.rows.map(({ actual }) => actual[2])).toEqual(events.value.actual.map((row) => row[2]));
        },
      ),
      { numRuns: 25 },
    ),
  );
});
