// The mapped design against the word-level one, and counts that can be worked out by hand.
import { MEMORIES } from '../families/corvane/delays.ts';
import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { countResources } from './resources.ts';
import { map } from './map.ts';
import { rootsOf } from './roots.ts';
import { PieceMemory } from './pieces.ts';
import { forMapping } from '../netlist/index.ts';
import { expectEqual, netlistOf } from '../../tests/support/mapped-equals.ts';

const DESIGNS: Record<string, string> = {
  arithmetic:
    'module m(input [11:0] a, b, input signed [8:0] c, d, output [12:0] s, output [11:0] t, output [23:0] p, ' +
    'output lt, slt, eq, output [11:0] q, r, output signed [8:0] sq); assign s = a + b; assign t = a - b; assign ' +
    'p = a * b; assign lt = a < b; assign slt = c < d; assign eq = a == b; assign q = a / b; assign r = a % b; ' +
    'assign sq = c / d; endmodule',
  shifts:
    'module m(input [16:0] a, input [5:0] n, input signed [9:0] s, output [16:0] l, r, output signed [9:0] x, ' +
    'output [2:0] k); assign l = a << n; assign r = a >> n; assign x = s >>> n[3:0]; assign k = {&a, |a, ^a}; ' +
    'endmodule',
  registers:
    'module m(input clk, rst, en, up, input [7:0] d, output reg [7:0] q, output reg [3:0] z); always @(posedge ' +
    "clk) if (rst) q <= 8'h5a; else if (en) q <= up ? q + 1 : d ^ q; always @(posedge clk or posedge rst) if " +
    '(rst) z <= 0; else if (!en) z <= z + d[3:0]; endmodule',
  choices:
    "module m(input [2:0] s, input [7:0] a, b, c, d, output reg [7:0] y); always @* casez (s) 3'b1??: y = a; " +
    "3'b01?: y = b & c; 3'b001: y = d | a; default: y = ~c; endcase endmodule",
};

describe('the mapped design computes what the words compute', () => {
  test.each(Object.entries(DESIGNS))('%s', (_, text) => {
    expectEqual(netlistOf(text), 60);
  });
  test('SHA-256, a round of AES and the demo', () => {
    expectEqual(netlistOf(readFileSync('tests/designs/sha256.v', 'utf8')), 4);
    expectEqual(netlistOf(readFileSync('tests/designs/aes128.v', 'utf8')), 3);
  });
  const logic = (leaves: readonly string[]) =>
    fc.letrec<{ e: string }>((tie) => ({
      e: fc.oneof(
        { maxDepth: 5 },
        fc.constantFrom(...leaves),
        fc.tuple(tie('e'), fc.constantFrom('&', '|', '^', '+'), tie('e')).map(([x, op, y]) => `(${x} ${op} ${y})`),
        fc.tuple(tie('e'), tie('e'), tie('e')).map(([x, y, z]) => `(${x} ? ${y} : ${z})`),
        tie('e').map((x) => `(~${x})`),
      ),
    })).e;
  test('random logic', () => {
    fc.assert(
      fc.property(logic(['a', 'b', 'c', 'd', 'e']), (text) => {
        expectEqual(netlistOf(`module m(input [3:0] a, b, c, d, e, output [4:0] y); assign y = ${text}; endmodule`), 8);
      }),
      { numRuns: 150 },
    );
  });
  test('random logic behind registers that do not have every value', () => {
    fc.assert(
      fc.property(logic(['s', 't', 'a', 'b', '(s == 9)', '(t == 4)', 'k[2]']), fc.constantFrom(4, 8), (text, width) => {
        const source = netlistOf(
          `module m(input clk, a, b, output reg [${width - 1}:0] s, output reg [3:0] t, output reg [3:0] k, output [4:0] y);
             initial begin s = 0; t = 1; k = 0; end
             always @(posedge clk) begin
               if ((a | b) & ~(a & k[0])) s <= 3; else s <= s == 9 ? 0 : s + 1;
               t <= a ? {t[2:0], t[3]} : t;
               k <= k >= 11 ? 5 : k + 2;
             end
             assign y = ${text};
           endmodule`,
        );
        expectEqual(source, 30);
      }),
      { numRuns: 30 },
    );
  });
});

describe('what is written without end', () => {
  const names = (count: number) => Array.from({ length: count }, (_, i) => i);
  test('and and or in turns, which have as many cases as there are terms', () => {
    const condition = names(60).reduce((text, i) => `(${text} ${i % 2 ? '&' : '|'} a[${i}])`, 'b');
    const text =
      `module m(input clk, b, input [63:0] a, output reg [7:0] q); initial q = 0; always @(posedge clk) if (${condition}) ` +
      'q <= 3; else q <= q == 9 ? 0 : q + 1; endmodule';
    expectEqual(netlistOf(text), 20);
  });
  test('a registered table of hundreds of rows, and one of thousands read and optimised', () => {
    const table = (rows: number) =>
      'module m(input clk, input [12:0] a, output reg [15:0] q); always @(posedge clk) case (a) ' +
      `${names(rows)
        .map((i) => `${i}: q <= ${(i * 40_503) & 0xffff};`)
        .join(' ')} default: q <= 1; endcase endmodule`;
    expectEqual(netlistOf(table(300)), 4);
    expect(forMapping(netlistOf(table(4000))).registers).toHaveLength(1);
  });
});

describe('counts that can be worked out by hand', () => {
  const usage = (text: string) => countResources(map(netlistOf(text), MEMORIES));
  test('any function of four inputs is one table, of five at most three', () => {
    expect(
      usage('module m(input a, b, c, d, output y); assign y = (a ^ b) & (c | ~d) | a & d; endmodule').total.luts,
    ).toBe(1);
    expect(usage('module m(input a, b, c, d, e, output y); assign y = a & b & c & d & e; endmodule').total.luts).toBe(
      2,
    );
    expect(usage('module m(input [15:0] a, output y); assign y = ^a; endmodule').total).toMatchObject({
      luts: 5,
      depth: 2,
    });
  });
  test('an adder is one table a bit on a carry chain, a counter with reset and enable is no more', () => {
    expect(usage('module m(input [15:0] a, b, output [15:0] y); assign y = a + b; endmodule').total).toMatchObject({
      luts: 16,
      carryBits: 16,
    });
    expect(
      usage(
        'module m(input clk, rst, en, output reg [7:0] q); always @(posedge clk) if (rst) q <= 0; else if (en) q ' +
          '<= q + 1; endmodule',
      ).total,
    ).toMatchObject({ luts: 8, registers: 8, cells: 8 });
  });
  test('a two-way choice is a table a bit, four ways are two, one behind the other', () => {
    expect(
      usage('module m(input s, input [7:0] a, b, output [7:0] y); assign y = s ? a : b; endmodule').total.luts,
    ).toBe(8);
    expect(
      usage(
        'module m(input [1:0] s, input [7:0] a, b, c, d, output [7:0] y); assign y = s[1] ? (s[0] ? a : b) : ' +
          '(s[0] ? c : d); endmodule',
      ).total.luts,
    ).toBe(16);
  });
  test('a memory read at a clock edge is block RAM, one read without is tables, and says why', () => {
    const memory = (read: string) =>
      'module m(input clk, we, input [8:0] a, input [7:0] d, output reg [7:0] y); reg [7:0] t [0:511]; always ' +
      `@(posedge clk) if (we) t[a] <= d; ${read} endmodule`;
    expect(usage(memory('always @(posedge clk) y <= t[a];'))).toMatchObject({
      total: { blockRams: 1, memoryLuts: 0 },
      memories: [{ kind: 'block' }],
    });
    expect(usage(memory('always @* y = t[a];'))).toMatchObject({
      total: { blockRams: 0 },
      memories: [{ kind: 'tables', reason: expect.stringContaining('clock') }],
    });
  });
  test('byte lanes need no second port', () => {
    const text =
      'module m(input clk, input [1:0] we, input [7:0] a, input [15:0] d, output reg [15:0] y); reg [15:0] t ' +
      '[0:255]; always @(posedge clk) begin if (we[0]) t[a][7:0] <= d[7:0]; if (we[1]) t[a][15:8] <= d[15:8]; y ' +
      '<= t[a]; end endmodule';
    expect(usage(text).total.blockRams).toBe(1);
  });
  test('each instance is counted for itself', () => {
    const { instances } = usage(
      'module k(input [3:0] a, output [3:0] y); assign y = a + 3; endmodule module m(input clk, input [3:0] a, ' +
        'output reg [3:0] y); wire [3:0] w; k one(a, w); always @(posedge clk) y <= w; endmodule',
    );
    expect(instances).toEqual([
      { path: 'm', luts: 1, registers: 4, blockRams: 0 },
      { path: 'm.one', luts: 3, registers: 0, blockRams: 0 },
    ]);
  });
  test('each line is counted for itself, over all of its instances, and the lines come to the whole', () => {
    const { lines, total } = usage(
      'module k(input [7:0] a,\noutput [7:0] y);\nassign y = a + 3;\nendmodule\nmodule m(input clk, input [7:0] a, b, ' +
        'output reg [7:0] x, y);\nwire [7:0] v, w;\nk one(a, v);\nk two(b, w);\nalways @(posedge clk) begin\n' +
        'x <= v;\ny <= w ^ v;\nend\nendmodule',
    );
    expect(lines.map(({ line, luts }) => [line, luts])).toEqual([
      [3, 13],
      [11, 9],
    ]);
    expect(lines.reduce((sum, { registers }) => sum + registers, 0)).toBe(16);
    expect(lines.reduce((sum, { luts }) => sum + luts, 0)).toBe(total.luts);
  });
  test('every table has at most four inputs and every root has a value', () => {
    const mapped = map(netlistOf(readFileSync('tests/designs/sha256.v', 'utf8')), MEMORIES);
    expect(Math.max(...mapped.logic.inputs.map((inputs) => inputs.length))).toBeLessThanOrEqual(4);
    expect(rootsOf(mapped.design).length).toBeGreaterThan(700);
  });
});

describe('pieces of logic', () => {
  const text = (
    k: number,
  ) => `module part #(parameter K = 1) (input clk, input [7:0] a, output reg [7:0] q); always @(posedge clk) q <= (a ^ q) + K; endmodule
    module other(input clk, input [7:0] a, output reg [7:0] q); always @(posedge clk) q <= a * q ^ a; endmodule
    module m(input clk, input [7:0] a, output [7:0] x, y); part #(.K(${k})) u(clk, a, x); other v(clk, a, y); endmodule`;
  test('unchanged ones are not covered again, and the result is that of a build from nothing', () => {
    const memory = new PieceMemory();
    const first = map(netlistOf(text(1)), MEMORIES, memory);
    expect(first.reused).toBeLessThan(first.pieces);
    const again = map(netlistOf(text(1)), MEMORIES, memory);
    expect(again.reused).toBe(again.pieces);
    const changed = map(netlistOf(text(5)), MEMORIES, memory);
    expect(changed.reused).toBeGreaterThan(0);
    expect(changed.reused).toBeLessThan(changed.pieces);
    expect(changed.logic).toEqual(map(netlistOf(text(5)), MEMORIES).logic);
    expect(again.logic).toEqual(first.logic);
  });
});
