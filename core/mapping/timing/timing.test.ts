// Delays that can be added up by hand from the table of the data sheet.
import { describe, expect, test } from 'vitest';
import { readTimingTable } from '../../constraints/index.ts';
import { elaborate } from '../../hdl/index.ts';
import { optimise } from '../../netlist/index.ts';
import { delaysOf, MEMORIES } from '../../families/corvane/delays.ts';
import { map } from '../map.ts';
import { time } from './time.ts';

function timed(text: string, wanted: Record<string, number> = {}, table = '') {
  const { netlist, messages } = elaborate([{ name: 't.v', text }]);
  if (!netlist) throw new Error(JSON.stringify(messages.list));
  return time(map(optimise(netlist).netlist, MEMORIES), delaysOf(2), new Map(Object.entries(wanted)), {
    ...readTimingTable(table).rules,
  });
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

const TWO =
  'module m(input clk, input d, output reg q, output reg r); reg a, b; always @(posedge clk) begin a <= d; b <= a; q <= a ' +
  '& b; r <= ~b; end endmodule';

describe('what the timing table says', () => {
  const table = (...lines: string[]) => ['kind,from,to,value', ...lines].join('\n');
  test('a way of several cycles has as many to spare, and does not set the highest frequency', () => {
    const delay = D.clockToOut + D.route + D.lut + D.route + D.setup;
    const [plain] = timed(TWO, { clk: 100e6 }).clocks;
    const [ruled] = timed(TWO, { clk: 100e6 }, table('multicycle,m.*,m.q,2', 'multicycle,a,r,3')).clocks;
    const slackTo = (of: typeof plain, name: string) => of?.paths.find(({ to }) => to === name)?.slack;
    expect(plain?.paths.find(({ to }) => to === 'm.q')?.cycles).toBeUndefined();
    expect(ruled?.paths.find(({ to }) => to === 'm.q')?.cycles).toBe(2);
    expect((slackTo(ruled, 'm.q') ?? 0) - (slackTo(plain, 'm.q') ?? 0)).toBeCloseTo(10, 9);
    // What goes to r begins at b, so the second rule is about nothing.
    expect(slackTo(ruled, 'm.r')).toBeCloseTo(slackTo(plain, 'm.r') ?? Number.NaN, 9);
    const longest = ruled?.paths.filter(({ to }) => to !== 'm.q').map((path) => path.delay) ?? [];
    expect(1e9 / (ruled?.highest ?? 1)).toBeCloseTo(Math.max(...longest, (delay + D.routeGrowth) / 2), 6);
  });
  test('a false path is left out, counted, and its rule says how long it is', () => {
    const report = timed(TWO, { clk: 100e6 }, table('false path,b,*', 'false path,nowhere,q'));
    expect(report.clocks[0]?.paths.map(({ from }) => from)).not.toContain('m.b');
    expect(report.rules?.map(({ ways, line }) => [line, ways])).toEqual([
      [2, 2],
      [3, 0],
    ]);
    expect(report.rules?.[0]?.longest).toBeGreaterThan(D.clockToOut + D.setup);
  });
  test('the last rule about a way counts; a clock names all of its registers', () => {
    const text =
      'module m(input c1, c2, input d, output reg q); reg a; always @(posedge c1) a <= d; always @(posedge c2) q <= a; ' +
      'endmodule';
    expect(timed(text).crossings).toHaveLength(1);
    expect(timed(text, {}, table('false path,c1,c2')).crossings).toEqual([]);
    expect(timed(text, {}, table('false path,c1,c2', 'multicycle,a,q,2')).crossings).toHaveLength(1);
  });
  test('a register made narrower keeps its name', () => {
    const text =
      'module m(input clk, output reg [31:0] count); initial count = 0; always @(posedge clk) count <= count == 59 ? 0 : count ' +
      '+ 1; endmodule';
    const report = timed(text, {}, table('false path,m.count,m.count'));
    expect(report.rules?.[0]?.ways).toBeGreaterThan(0);
    expect(timed(text).clocks[0]?.paths[0]?.from).toMatch(/^m\.count\[\d\]$/);
  });
});

describe('ways through pins', () => {
  const PINS =
    'module m(input clk, input d, e, output reg q, output y); always @(posedge clk) q <= d; assign y = ~e; endmodule';
  test('set-up, clock to output and pin to pin, added up by hand', () => {
    const { ports } = timed(PINS, { clk: 100e6 });
    const inside = (port: string, direction: string) =>
      ports?.find((one) => one.port === port && one.direction === direction)?.inside;
    expect(inside('d', 'in')).toBeCloseTo(D.padIn + D.route + D.setup - D.clockIn, 9);
    expect(inside('q', 'out')).toBeCloseTo(D.clockIn + D.clockToOut + D.route + D.padOut, 9);
    expect(inside('e', 'through')).toBeCloseTo(D.padIn + D.route + D.lut + D.route + D.padOut, 9);
    expect(ports).toHaveLength(3);
    for (const { path, inside: all } of ports ?? []) {
      expect(path.delay).toBeCloseTo(all, 9);
      expect(path.steps.reduce((sum, { own }) => sum + own, 0)).toBeCloseTo(all, 9);
    }
  });
  test('what the board takes comes off the cycle', () => {
    const rules = 'input delay,clk,d,6 ns\noutput delay,q,clk,2500 ps\noutput delay,q,clk2,1';
    const { ports } = timed(PINS, { clk: 100e6 }, rules);
    const [into, through, out] = ports ?? [];
    expect(into).toMatchObject({ port: 'd', board: 6 });
    expect(into?.slack).toBeCloseTo(10 - 6 - (into?.inside ?? 0), 9);
    expect(out).toMatchObject({ port: 'q', board: 2.5 });
    expect(out?.slack).toBeCloseTo(10 - 2.5 - (out?.inside ?? 0), 9);
    expect(through).toMatchObject({ board: null, slack: null });
  });
});

describe('what would shorten a way', () => {
  const advice = (text: string) => timed(text).clocks[0]?.paths[0]?.advice;
  test('a register in the middle, with the two ways that it leaves', () => {
    const chain = Array.from({ length: 12 }, (_, i) => `(a[${i}] ${i % 2 ? '&' : '^'} `).join('');
    const said = advice(
      `module m(input clk, input [12:0] d, output reg q); reg [12:0] a; always @(posedge clk) begin a <= d; q <= ${chain}a[12]${')'.repeat(12)}; end endmodule`,
    );
    expect(said).toMatch(/^A register behind .*\(t\.v:1\) makes two ways of it, [\d.]+ ns and [\d.]+ ns\.$/);
    const [whole = 0] = timed(
      `module m(input clk, input [12:0] d, output reg q); reg [12:0] a; always @(posedge clk) begin a <= d; q <= ${chain}a[12]${')'.repeat(12)}; end endmodule`,
    ).clocks.map(({ paths }) => paths[0]?.delay ?? 0);
    const halves = (said?.match(/[\d.]+(?= ns)/g) ?? []).map(Number);
    // Both ways together take the old one, and once more what a register takes: out of it, to it, and its set-up.
    expect((halves[0] ?? 0) + (halves[1] ?? 0)).toBeCloseTo(whole + D.clockToOut + D.route + D.setup, 1);
    expect(Math.max(...halves)).toBeLessThan(whole);
  });
  test('nothing where one register feeds another', () => {
    expect(
      advice('module m(input clk, d, output reg q); reg a; always @(posedge clk) begin a <= d; q <= a; end endmodule'),
    ).toBe(undefined);
  });
  test('copies of what very many places take', () => {
    expect(
      advice(
        'module m(input clk, input s, input [199:0] d, output reg [199:0] q); reg t; reg [199:0] a; always @(posedge clk) begin ' +
          't <= s; a <= d; q <= a & {200{t}} | ~a & {200{~t}}; end endmodule',
      ),
    ).toMatch(/^m\.t \(t\.v:1\) reaches \d+ places; copies of it for 16 each save [\d.]+ ns\.$/);
  });
});
