// The advice that would save most, and its figures against designs that take it.
import { describe, expect, test } from 'vitest';
import { netlistOf } from '../../tests/support/mapped-equals.ts';
import { MEMORIES } from '../families/corvane/delays.ts';
import { countResources } from './resources.ts';
import { map } from './map.ts';
import { mostSaved } from './savings.ts';

const usage = (text: string) => {
  const source = netlistOf(text);
  const used = countResources(map(source, MEMORIES));
  return { luts: used.total.luts, saving: mostSaved(source, used) };
};
const module = (ports: string, body: string) =>
  `module m(input clk, ${ports});\n always @(posedge clk) begin\n ${body}\n end\nendmodule`;

describe('the advice that would save most', () => {
  test('a division: one bit a clock, and that takes about what is said', () => {
    const { luts, saving } = usage(module('input [15:0] a, b, output reg [15:0] q', 'q <= a / b;'));
    expect(saving).toMatchObject({ file: 't.v', line: 3 });
    const said = Number(/done one bit of the result a clock it is about (\d+)\./.exec(saving?.text ?? '')?.[1]);
    expect(saving?.luts).toBe(luts - said);
    // Restoring division, a bit of the quotient a clock (handbook method).
    const inSteps = usage(
      `module m(input clk, go, input [15:0] a, b, output reg [15:0] q);
         reg [15:0] rest, left, by; reg [4:0] n = 0;
         wire [16:0] next = {rest[14:0], left[15]} - by;
         always @(posedge clk)
           if (go) begin rest <= 0; left <= a; by <= b; n <= 16; end
           else if (n != 0) begin
             n <= n - 1;
             left <= left << 1;
             q <= {q[14:0], ~next[16]};
             rest <= next[16] ? {rest[14:0], left[15]} : next[15:0];
           end
       endmodule`,
    ).luts;
    // What is loaded is beside it: a choice for each bit of the dividend.
    expect(inSteps - 16).toBeGreaterThan(said * 0.7);
    expect(inSteps - 16).toBeLessThan(said * 1.5);
  });
  test('a multiplication, a shift by a variable; nothing where there is nothing to save', () => {
    const said = (ports: string, body: string) => usage(module(ports, body)).saving?.text;
    expect(said('input [15:0] a, b, output reg [15:0] q', 'q <= a * b;')).toMatch(
      /^The multiplication at t\.v:3 takes \d+ LUTs; done one row of it a clock it is about 24\.$/,
    );
    expect(said('input [31:0] a, input [4:0] n, output reg [31:0] q', 'q <= a << n;')).toMatch(
      /^The shift by a variable at t\.v:3 takes \d+ LUTs; done one place a clock it is about 41\.$/,
    );
    expect(said('input [7:0] a, b, output reg [7:0] q', 'q <= a + b;')).toBeUndefined();
    // One bit chosen of many is no shift.
    expect(said('input [63:0] a, input [5:0] n, output reg q', 'q <= a[n];')).toBeUndefined();
  });
  test('a multiplication by a constant is as many adders as its signed digits, less one', () => {
    // 7 = 8 - 1, 100 = 128 - 32 + 4, 10 = 8 + 2, 255 = 256 - 1, 85 = 64 + 16 + 4 + 1 (canonical signed digits, handbook).
    for (const [by, adders] of [
      [7, '1 adder'],
      [10, '1 adder'],
      [100, '2 adders'],
      [255, '1 adder'],
      [85, '3 adders'],
    ] as const)
      expect(usage(module('input [15:0] a, output reg [23:0] q', `q <= a * ${by};`)).saving?.text).toMatch(
        new RegExp(
          `^The multiplication by ${by} at t\\.v:3 is ${adders}, \\d+ LUTs; by a power of two it takes none\\.$`,
        ),
      );
    expect(usage(module('input [15:0] a, output reg [23:0] q', 'q <= a * 8;')).saving).toBeNull();
  });
  test('a memory that is read without a clock', () => {
    const { saving } = usage(
      'module m(input clk, w, input [7:0] at, d, output [7:0] q); reg [7:0] kept [0:255]; always @(posedge clk) if (w) ' +
        'kept[at] <= d; assign q = kept[at]; endmodule',
    );
    expect(saving?.text).toMatch(/^The memory m\.kept takes \d+ LUTs\. It is read without a clock;/);
  });
});
