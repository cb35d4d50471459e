// What is read now that was not before, as hardware: IEEE 1364-2005 by its clauses (from memory).
import { describe, expect, test } from 'vitest';
import { complaints, run } from '../../tests/support/fabric.ts';
import { elaborate, offeredModules } from './index.ts';

const y = (text: string, inputs: Readonly<Record<string, bigint>> = {}, name = 'test.v'): bigint => {
  const simulator = run(text, 'javascript', name);
  for (const [port, value] of Object.entries(inputs)) simulator.setInput(port, value);
  return simulator.getOutput('y');
};
const codes = (text: string, name = 'test.v') => complaints(text, name).map((one) => one.replace(/:.*/, ''));

describe('names and parameters', () => {
  test('defparam, from beside and from above; one that sets nothing is told', () => {
    const leaf = 'module leaf #(parameter P = 1) (output [7:0] o); assign o = P; endmodule ';
    expect(y(`${leaf}module m(output [7:0] y); leaf u(y); defparam u.P = 42; endmodule`)).toBe(42n);
    expect(
      y(
        `${leaf}module mid(output [7:0] o); leaf u(o); endmodule module m(output [7:0] y); mid v(y); defparam v.u.P = 7; endmodule`,
      ),
    ).toBe(7n);
    expect(codes(`${leaf}module m(output [7:0] y); leaf u(y); defparam u.Q = 1; endmodule`)).toContain(
      'no-parameter@1',
    );
  });
  test('a hierarchical name reads a signal of an instance', () => {
    const leaf = 'module leaf(input [3:0] a); wire [3:0] inner = a + 1; endmodule ';
    expect(
      y(`${leaf}module m(input [3:0] a, output [3:0] y); leaf u(a); assign y = u.inner; endmodule`, { a: 4n }),
    ).toBe(5n);
  });
  test('a parameter or a port that is not there is told at the instance', () => {
    const leaf = 'module leaf(input a); endmodule\n';
    expect(complaints(`${leaf}module m(input a);\n  leaf #(.W(3)) u(.a(a));\nendmodule`)).toContain(
      'no-parameter@3:10',
    );
    expect(complaints(`${leaf}module m(input a);\n  leaf u(.b(a));\nendmodule`)).toContain('no-port@3:10');
  });
  test('instances that contain themselves end by their parameters; without an end it is told', () => {
    const tree =
      'module tree #(parameter N = 8) (input [N-1:0] a, output o); generate if (N == 1) assign o = a; else begin wire l, r; ' +
      'tree #(N / 2) x(a[N-1:N/2], l); tree #(N / 2) z(a[N/2-1:0], r); assign o = l ^ r; end endgenerate endmodule ';
    expect(y(`${tree}module m(input [7:0] a, output y); tree t(a, y); endmodule`, { a: 0x13n })).toBe(1n);
    expect(codes('module a(input x); a u(x); endmodule module m(input x); a u(x); endmodule')[0]).toMatch(
      /recursive|too-large/,
    );
  });
});

describe('constants', () => {
  test('functions in ranges, before they are declared, recursive', () => {
    const text =
      'module m(output [width(100)-1:0] y); assign y = ~0; function integer width(input integer v); ' +
      'begin width = 0; while (v > 0) begin v = v >> 1; width = width + 1; end end endfunction endmodule';
    expect(y(text)).toBe(127n);
    const fact =
      'module m(output [15:0] y); localparam N = fact(7); function automatic integer fact(input integer n); ' +
      'fact = n < 2 ? 1 : n * fact(n - 1); endfunction assign y = N; endmodule';
    expect(y(fact)).toBe(5040n);
  });
  test('reals and powers of any operands where they are known', () => {
    expect(
      y('module m(output [15:0] y); localparam real F = 12.0e6; localparam N = F / 9600; assign y = N; endmodule'),
    ).toBe(1250n);
    expect(y('module m(output [31:0] y); localparam N = 3 ** 4 - 2 ** -1; assign y = N; endmodule')).toBe(81n);
  });
  test('the name of a data file may be a parameter', () => {
    const text =
      'module m #(parameter F = "a.hex") (output [7:0] y); reg [7:0] t [0:1]; initial $readmemh(F, t); assign y = t[1]; endmodule';
    const { netlist } = elaborate([
      { name: 'rtl/m.v', text },
      { name: 'rtl/a.hex', text: '11 22' },
    ]);
    expect(netlist?.memories[0]?.init ?? [undefined, 0x22n]).toContain(0x22n);
  });
});

describe('nets, gates and delays', () => {
  test('wired nets, pulls, supplies, rows of gates', () => {
    expect(
      y(
        'module m(input a, b, output [1:0] y); wand p; wor q; assign p = a; assign p = b; assign q = a; assign q = b; assign y = {p, q}; endmodule',
        { a: 1n },
      ),
    ).toBe(1n);
    expect(y('module m(output [2:0] y); tri1 a; tri0 b; supply1 c; assign y = {a, b, c}; endmodule')).toBe(5n);
    expect(y('module m(input [3:0] a, b, output [3:0] y); nand g[3:0] (y, a, b); endmodule', { a: 6n, b: 3n })).toBe(
      13n,
    );
  });
  test('delays are passed over with a warning; what waits inside a block is refused with its place', () => {
    expect(complaints('module m(input a, output y); assign #3 y = a; endmodule')).toEqual(['delay@1:42']);
    expect(
      complaints('module m(input a, output reg y);\n  initial begin #5 y = 1;\n @(a) y = 0; end endmodule'),
    ).toContain('not-synthesizable@3:2');
  });
  test('labels of a case are compared at the widest of all', () => {
    const text =
      "module m(input [3:0] a, output reg y); always @* case (~a) 4'd2: y = 1; 32'd9: y = 0; default: y = 0; endcase endmodule";
    // ~a at 32 bits has ones above: nothing but the default fits.
    expect(y(text, { a: 13n })).toBe(0n);
  });
  test('a casez that covers all values is no latch', () => {
    expect(
      codes(
        "module m(input [1:0] a, output reg y); always @* casez (a) 2'b1?: y = 1; 2'b01: y = 0; 2'b00: y = 1; endcase endmodule",
      ),
    ).toEqual([]);
    expect(
      codes("module m(input [1:0] a, output reg y); always @* casez (a) 2'b1?: y = 1; 2'b01: y = 0; endcase endmodule"),
    ).toContain('latch@1');
  });
});

describe('the preprocessor', () => {
  test('numbers from macros, text from arguments, words joined, arguments left out', () => {
    expect(y("`define W 8\n`define V 2a\nmodule m(output [7:0] y); assign y = `W'h`V; endmodule")).toBe(0x2an);
    expect(
      y(
        '`define JOIN(a, b) a``b\nmodule m(output [7:0] y); wire [7:0] left_right = 9; assign y = `JOIN(left_, right); endmodule',
      ),
    ).toBe(9n);
    expect(y('`define ADD(a, b = 3) (a + b)\nmodule m(output [7:0] y); assign y = `ADD(4); endmodule')).toBe(7n);
  });
  test('a file is found beside the one that names it, and what is included is no source of its own', () => {
    const { netlist, messages } = elaborate(
      [
        { name: 'a/top.v', text: '`include "part.v"\nmodule top(output y); part p(y); endmodule' },
        { name: 'a/part.v', text: 'module part(output y); assign y = 1; endmodule' },
        { name: 'b/part.v', text: 'module other(output y); assign y = 0; endmodule' },
      ],
      { top: 'top' },
    );
    expect(netlist).not.toBeNull();
    expect(messages.list.filter(({ severity }) => severity === 'error')).toEqual([]);
  });
});

describe('testbenches beside a design', () => {
  const BENCH = 'module bench; reg clk = 0; always #5 clk = ~clk; dut u(clk); initial #100 $finish; endmodule';
  test('are no top of what is built, and are offered first for a simulation', () => {
    const files = [
      { name: 'dut.v', text: 'module dut(input clk); endmodule' },
      { name: 'bench.v', text: BENCH },
    ];
    const { hierarchy, messages } = elaborate(files);
    expect(hierarchy?.name).toBe('dut');
    expect(messages.list.map(({ code }) => code)).toContain('testbench');
    expect(offeredModules(files)).toMatchObject([
      { name: 'bench', isTestbench: true, isTop: true, file: 'bench.v' },
      { name: 'dut', isTestbench: false, isTop: false },
    ]);
  });
});
