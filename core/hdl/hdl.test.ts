import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { complaints, run } from '../../tests/support/fabric.ts';
import { elaborate } from './index.ts';

/** Value of an expression as `width` bits, with 8-bit a and b. */
function value(expression: string, width: number, a = 0n, b = 0n, signed = ''): bigint {
  const sim = run(
    `module m(input ${signed} [7:0] a, input ${signed} [7:0] b, output [${width - 1}:0] y); assign y = ` +
      `${expression}; endmodule`,
  );
  sim.setInput('a', a);
  sim.setInput('b', b);
  return sim.getOutput('y');
}

// IEEE 1364-2005, clause 5.4: expression bit lengths, and 5.5: signed expressions.
describe('widths and signs', () => {
  test('a sum keeps its carry when the target is wider', () => expect(value('a + b', 9, 255n, 1n)).toBe(256n));
  test('a sum in a comparison is as wide as its operands', () =>
    expect(value("(a + b) == 8'd0", 1, 255n, 1n)).toBe(1n));
  test('a number of no width makes the comparison 32 bits wide', () =>
    expect(value('(a + b) == 0', 1, 255n, 1n)).toBe(0n));
  test('operands of a concatenation stand alone', () => expect(value('{a + b}', 16, 255n, 1n)).toBe(0n));
  test('a shift to the left takes its width from the target', () => expect(value('a << 4', 12, 0xffn)).toBe(0xff0n));
  test('signed operands extend their sign', () => expect(value('a + b', 16, 0xffn, 1n, 'signed')).toBe(0n));
  test('one unsigned operand makes all unsigned', () =>
    expect(value("a + 16'd0", 16, 0xffn, 0n, 'signed')).toBe(0xffn));
  test('signed comparison', () => expect(value('a < b', 1, 0xffn, 1n, 'signed')).toBe(1n));
  test('unsigned comparison', () => expect(value('a < b', 1, 0xffn, 1n)).toBe(0n));
  test('>>> fills with the sign only when signed', () => {
    expect(value('a >>> 4', 8, 0x80n, 0n, 'signed')).toBe(0xf8n);
    expect(value('a >>> 4', 8, 0x80n)).toBe(0x08n);
  });
  test('$signed inside an expression', () => expect(value('$signed(a) >>> 1', 8, 0x80n)).toBe(0xc0n));
  test('precedence: & before ^ before |, shifts before comparisons', () => {
    expect(value('1 | 2 ^ 3 & 1', 8)).toBe(3n);
    expect(value('1 << 2 > 3', 1)).toBe(1n);
  });
  test('replication and part selects', () => {
    expect(value('{2{a[3:0]}}', 8, 0xabn)).toBe(0xbbn);
    expect(value('a[b[2:0] +: 2]', 2, 0b0110_0000n, 5n)).toBe(3n);
    expect(value('a[7 -: 4]', 4, 0xabn)).toBe(0xan);
  });
  test('a unary minus and reductions', () => {
    expect(value('-a', 8, 1n)).toBe(0xffn);
    expect(value('{&a, |a, ^a, ~&a, ~|a, ~^a}', 6, 0xffn)).toBe(0b110001n);
  });
  test('sums agree with arithmetic modulo 2^w', () => {
    const sim = run(
      'module m(input [7:0] a, input [7:0] b, output [7:0] s, output [15:0] p, output [7:0] d); assign s = a + ' +
        'b; assign p = a * b; assign d = a - b; endmodule',
    );
    fc.assert(
      fc.property(fc.bigInt(0n, 255n), fc.bigInt(0n, 255n), (a, b) => {
        sim.setInput('a', a);
        sim.setInput('b', b);
        expect([sim.getOutput('s'), sim.getOutput('p'), sim.getOutput('d')]).toEqual([
          (a + b) & 255n,
          a * b,
          (a - b) & 255n,
        ]);
      }),
    );
  });
});

describe('structure', () => {
  test('parameters by name and order, generate for, functions', () => {
    const sim = run(`
      module add #(parameter W = 2, parameter [W-1:0] K = 1) (input [W-1:0] x, output [W-1:0] y);
        assign y = x + K;
      endmodule
      module top(input [7:0] a, output [7:0] y, output [3:0] g, output [3:0] ones);
        wire [7:0] t;
        add #(.W(8), .K(3)) u1 (.x(a), .y(t));
        add #(8, 5) u2 (t, y);
        genvar i;
        generate for (i = 0; i < 4; i = i + 1) begin : flip assign g[i] = ~a[3 - i]; end endgenerate
        function [3:0] count(input [7:0] v);
          integer k;
          begin count = 0; for (k = 0; k < 8; k = k + 1) count = count + v[k]; end
        endfunction
        assign ones = count(a);
      endmodule`);
    sim.setInput('a', 0x0fn);
    expect([sim.getOutput('y'), sim.getOutput('g'), sim.getOutput('ones')]).toEqual([0x17n, 0n, 4n]);
  });

  test('the older port style, casez, nested ifs', () => {
    const sim = run(`module m(a, y); input [3:0] a; output [1:0] y; reg [1:0] y;
      always @(a) casez (a) 4'b1???: y = 3; 4'b01??: y = 2; 4'b001?: y = 1; default: y = 0; endcase endmodule`);
    const answers = [...Array(16).keys()].map((a) => {
      sim.setInput('a', BigInt(a));
      return Number(sim.getOutput('y'));
    });
    expect(answers).toEqual([0, 0, 1, 1, 2, 2, 2, 2, 3, 3, 3, 3, 3, 3, 3, 3]);
  });

  test('bits of a vector that feed one another are no loop', () => {
    const sim = run(`module m(input [7:0] a, input [7:0] b, output [7:0] s);
      wire [8:0] c; assign c[0] = 0; genvar i;
      generate for (i = 0; i < 8; i = i + 1) begin : bit
        assign s[i] = a[i] ^ b[i] ^ c[i];
        assign c[i+1] = (a[i] & b[i]) | (c[i] & (a[i] ^ b[i]));
      end endgenerate endmodule`);
    sim.setInput('a', 200n);
    sim.setInput('b', 100n);
    expect(sim.getOutput('s')).toBe(44n);
  });

  test.each([
    // Gray to binary: bit i is the sum of all bits from i up (common practice).
    [
      "assign s = {1'b0, s[7:1]} ^ a;",
      (a: number) => a ^ (a >> 1) ^ (a >> 2) ^ (a >> 3) ^ (a >> 4) ^ (a >> 5) ^ (a >> 6) ^ (a >> 7),
    ],
    ['assign s = (s >> 1) | a;', (a: number) => (a === 0 ? 0 : 2 ** (32 - Math.clz32(a)) - 1)],
    ["assign s = b[0] ? {s[6:0], 1'b1} : a;", () => 255],
    // s + 2 s = a: a times the inverse of 3 modulo 256.
    ["assign s = a - {s[6:0], 1'b0};", (a: number) => Number(BigInt.asUintN(8, BigInt(a) * 171n))],
  ])('a word that feeds itself bit by bit is no loop: %s', (body, wanted) => {
    const sim = run(`module m(input [7:0] a, input [7:0] b, output [7:0] s); ${body} endmodule`);
    sim.setInput('b', 1n);
    for (const a of [0, 1, 2, 37, 128, 200, 255]) {
      sim.setInput('a', BigInt(a));
      expect(sim.getOutput('s')).toBe(BigInt(wanted(a)));
    }
  });

  test('a table with more rows than the call stack is deep, and a wide word written bit by bit, are built', () => {
    const rows = Array.from({ length: 10_000 }, (_, i) => `16'd${i}: y = ${(i * 37) % 251};`).join('\n');
    const table = run(
      `module m(input [15:0] a, output reg [7:0] y); always @* case (a) ${rows} default: y = 255; endcase endmodule`,
    );
    for (const a of [0, 1, 4999, 9999, 10_000]) {
      table.setInput('a', BigInt(a));
      expect(table.getOutput('y')).toBe(a < 10_000 ? BigInt((a * 37) % 251) : 255n);
    }
    const mirror = run(`module m(input [2047:0] a, output reg [2047:0] y); integer i;
      always @* for (i = 0; i < 2048; i = i + 1) y[i] = a[2047 - i]; endmodule`);
    mirror.setInput('a', 0b1011n);
    expect(mirror.getOutput('y')).toBe(0b1101n << 2044n);
  });

  test('registers written bit by bit from several blocks', () => {
    const sim = run(`module m(input clk, input [3:0] d, output reg [3:0] q); genvar i;
      generate for (i = 0; i < 4; i = i + 1) begin : r always @(posedge clk) q[i] <= d[i] ^ (i == 2); end endgenerate endmodule`);
    sim.setInput('d', 0b1001n);
    sim.step(sim.domain('clk'));
    expect(sim.getOutput('q')).toBe(0b1101n);
  });

  test('directives: define with arguments, ifdef, include', () => {
    const files = [
      { name: 'defs.vh', text: '`define SUM(x, y) ((x) + (y))\n`define WIDE\n' },
      {
        name: 'm.v',
        text:
          '`include "defs.vh"\nmodule m(output [7:0] y);\n`ifdef WIDE\nassign y = `SUM(3, 4);\n`else\nassign y = ' +
          '0;\n`endif\nendmodule\n',
      },
    ];
    const { netlist } = elaborate(files);
    const out = netlist?.outputs[0];
    expect(out && netlist?.signals.find((s) => s.name === 'm.y')).toBeTruthy();
    expect(elaborate(files).messages.list).toEqual([]);
  });
});

/** A module with ports of 8 bits, connected in line 3 to signals of 4 and of 16. */
const instanceWith = (port: string) =>
  'module u(input [7:0] a, output [7:0] y); assign y = a; endmodule module m(input [3:0] n, input [15:0] w);\n' +
  `  localparam P = 3;\n  u x(${port});\nendmodule`;

describe('complaints name their place', () => {
  test.each<[string, string]>([
    ['module m(output y);\n  assign y = ;\nendmodule', 'syntax@2:14'],
    ['module m(output y);\n  assign y = nothing;\nendmodule', 'undeclared@2:14'],
    ['module m(output y);\n  other u (y);\nendmodule', 'no-module@2:9'],
    ['module m(input a, output y);\n  assign y = a;\n  assign y = !a;\nendmodule', 'several-drivers@3:10'],
    ['module m(input a, input b, output reg y);\n  always @* if (a) y = b;\nendmodule', 'latch@2:3'],
    ['module m(input [7:0] a, output [3:0] y);\n  assign y = a;\nendmodule', 'width-loss@2:14'],
    ['module m(output y);\n  wire w;\n  assign y = w;\nendmodule', 'undriven@2:8'],
    ...(
      [
        ['.a(n)', 'port-width@3:10'],
        ['.a(w)', 'port-width@3:10'],
        ['.a({n, n, n})', 'port-width@3:10'],
        [".a(4'd3)", 'port-width@3:10'],
        ['.y(n)', 'port-width@3:7'],
        ['.y(w)', 'port-width@3:7'],
      ] as const
    ).map(([port, wanted]): [string, string] => [instanceWith(port), wanted]),
    ['module m(input clk, output reg y);\n  always @(posedge clk) #5 y <= 1;\nendmodule', 'delay@2:25'],
    ['module m(output y);\n  m u (y);\nendmodule', 'no-top@1:8'],
    ['module m(output y);\n', 'syntax@1:19'],
    ['`ifdef A\nmodule m(output y); endmodule', 'directive@1:1'],
  ])('%j', (text, wanted) => {
    const found = complaints(text);
    if (wanted === 'no-top@1:8') expect(found[0]).toMatch(/^no-top/);
    else expect(found).toContain(wanted);
  });

  test('a number, a sum and a port of its own width are at home in any port', () => {
    for (const port of ['.a(3)', '.a(n + 1)', '.a(P)', ".a(8'd3)", '.y()', '.y(w[7:0])', '.a({n, n})', '.a(n == 3)'])
      expect(complaints(instanceWith(port)).filter((one) => one.startsWith('port-width'))).toEqual([]);
  });

  test('one run reports them all', () => {
    expect(
      complaints('module m(output y, output z);\n  assign y = a;\n  assign z = b;\n  wire = 3;\nendmodule').map(
        (c) => c.split('@')[0],
      ),
    ).toEqual(['syntax', 'undeclared', 'undeclared']);
  });

  test('a module with an error in its header is not also called missing', () => {
    expect(
      complaints(
        'module a(output y);\n  b u (y);\nendmodule\nmodule b(output y oops\n);\n  assign y = 1;\nendmodule',
      ).map((c) => c.split('@')[0]),
    ).toEqual(['syntax']);
  });

  test('mutilated sources end in messages, never in a crash', () => {
    const source =
      'module m #(parameter W = 4) (input clk, input [W-1:0] a, output reg [W-1:0] q); wire [W-1:0] n = a ^ ' +
      "{W{1'b1}}; always @(posedge clk) case (a[1:0]) 2'd0: q <= n; default: q <= q + 1; endcase endmodule";
    fc.assert(
      fc.property(
        fc.nat(source.length),
        fc.nat(12),
        fc.constantFrom('', '(', ')', 'begin', '[', "'h", '`x', ';', 'module', '{'),
        (at, cut, insert) => {
          expect(() => complaints(source.slice(0, at) + insert + source.slice(at + cut))).not.toThrow();
        },
      ),
      { numRuns: 400 },
    );
  });
});
