// Advice about a way against what it comes to when it is followed.
import { describe, expect, test } from 'vitest';
import { delaysOf, MEMORIES } from '../../families/corvane/delays.ts';
import { netlistOf } from '../../../tests/support/mapped-equals.ts';
import { map } from '../map.ts';
import { time, type TimingReport } from './index.ts';

const timed = (text: string): TimingReport => time(map(netlistOf(text), MEMORIES), delaysOf(2), new Map());
const figures = (advice: string | undefined): number[] => (advice?.match(/[\d.]+(?= ns)/g) ?? []).map(Number);

describe('advice, when it is followed', () => {
  test('the register that a carry chain is told to have makes the longest way as long as was said', () => {
    const design = (sum: string, extra: string) =>
      `module m(input clk, input [23:0] a, b, c, output reg q); reg [23:0] x, y, z; ${extra}
         always @(posedge clk) begin x <= a; y <= b; z <= c; q <= ${sum} < z; end endmodule`;
    const [path] = timed(design('(x + y)', '')).clocks[0]?.paths ?? [];
    const [first = 0, second = 0] = figures(path?.advice);
    expect(path?.advice).toMatch(/^A register behind /);
    const followed =
      timed(design('s', 'reg [23:0] s; always @(posedge clk) s <= x + y;')).clocks[0]?.paths[0]?.delay ?? 0;
    expect(Math.max(first, second)).toBeLessThan(path?.delay ?? 0);
    // What the cut is told to leave is for one bit of the chain: the longest of all may be a few carries longer.
    expect(Math.abs(followed - Math.max(first, second))).toBeLessThan(1);
  });
  test('a block RAM’s value may rest in a register', () => {
    const text =
      'module m(input clk, w, input [8:0] at, input [7:0] d, output reg q); reg [7:0] kept [0:511]; reg [8:0] a; reg [7:0] v; ' +
      'always @(posedge clk) begin a <= at; if (w) kept[at] <= d; q <= ^kept[a] ^ &kept[a]; end endmodule';
    const path = timed(text).clocks[0]?.paths.find(({ steps }) => steps[0]?.what === 'memory');
    const [first = 0, second = 0] = figures(path?.advice);
    expect(path?.advice).toMatch(/^A register behind (the memory )?/);
    expect(Math.max(first, second)).toBeLessThan(path?.delay ?? 0);
  });
  test('of a way through a pin the clock’s own way counts for the half at the pin alone', () => {
    const D = delaysOf(2);
    const deep = (word: string) =>
      Array.from({ length: 24 }, (_, i) => i).reduce((text, i) => `(${text} ${i % 2 ? '&' : '^'} ${word}[${i}])`, 'e');
    const text =
      `module m(input clk, e, input [23:0] d, output reg q, output z); reg [23:0] a; always @(posedge clk) begin a <= d; q <= ` +
      `${deep('d')}; end assign z = ${deep('a')}; endmodule`;
    for (const { direction, inside, path } of timed(text).ports ?? []) {
      if (path.advice === undefined) continue;
      const [first = 0, second = 0] = figures(path.advice);
      // Both halves together: the old way, and once more what a register takes. Of a way without a register, so too.
      const both = inside + D.clockToOut + D.route + D.setup;
      expect(first + second, direction).toBeCloseTo(both, 1);
      // Into the part the first half is a set-up at the pin, so the clock's own way is off it.
      const cuts = path.steps.map(({ at }) => at + D.route + D.setup - (direction === 'in' ? D.clockIn : 0));
      if (direction === 'in') expect(Math.min(...cuts.map((cut) => Math.abs(cut - first)))).toBeLessThan(0.01);
    }
    const directions = (timed(text).ports ?? [])
      .filter(({ path }) => path.advice !== undefined)
      .map((one) => one.direction);
    expect([...new Set(directions)].sort()).toEqual(['in', 'out', 'through']);
  });
});
