// What single constructs of the language come to in hardware.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { complaints, run } from '../../tests/support/fabric.ts';
import { elaborate } from './index.ts';

const outputs = (sim: ReturnType<typeof run>, ...names: string[]) => names.map((name) => sim.getOutput(name));

/**
 * An independent model of expressions, from IEEE 1364-2005 clauses 5.4 and 5.5: a tree with widths and signs, evaluated
 * with big integers, and its text.
 */
type Node = {
  readonly text: string;
  readonly width: number;
  readonly signed: boolean;
  readonly at: (width: number, signed: boolean, env: Env) => bigint;
};
type Env = Readonly<Record<string, bigint>>;

const extend = (value: bigint, from: number, to: number, signed: boolean): bigint =>
  BigInt.asUintN(to, signed ? BigInt.asIntN(from, value) : value);
const self = (node: Node, env: Env): bigint => node.at(node.width, node.signed, env);

const name = (id: string, width: number, signed: boolean): Node => ({
  text: id,
  width,
  signed,
  at: (w, s, env) => extend(env[id] as bigint, width, w, s),
});
const literal = (value: number, width: number): Node => ({
  text: `${width}'d${value}`,
  width,
  signed: false,
  at: (w) => BigInt.asUintN(w, BigInt(value)),
});
const context = (op: string, a: Node, b: Node, f: (x: bigint, y: bigint) => bigint): Node => ({
  text: `(${a.text} ${op} ${b.text})`,
  width: Math.max(a.width, b.width),
  signed: a.signed && b.signed,
  at: (w, s, env) => BigInt.asUintN(w, f(a.at(w, s, env), b.at(w, s, env))),
});
const compare = (op: string, a: Node, b: Node, f: (x: bigint, y: bigint) => boolean): Node => {
  const width = Math.max(a.width, b.width);
  const signed = a.signed && b.signed;
  const value = (node: Node, env: Env) =>
    signed ? BigInt.asIntN(width, node.at(width, signed, env)) : node.at(width, signed, env);
  return {
    text: `(${a.text} ${op} ${b.text})`,
    width: 1,
    signed: false,
    at: (_, __, env) => (f(value(a, env), value(b, env)) ? 1n : 0n),
  };
};
const shift = (op: string, a: Node, b: Node): Node => ({
  text: `(${a.text} ${op} ${b.text})`,
  width: a.width,
  signed: a.signed,
  at: (w, s, env) => {
    const by = self(b, env);
    const value = a.at(w, s, env);
    if (op === '<<') return by > 200n ? 0n : BigInt.asUintN(w, value << by);
    return op === '>>>' && s ? BigInt.asUintN(w, BigInt.asIntN(w, value) >> by) : value >> by;
  },
});
const choose = (c: Node, a: Node, b: Node): Node => ({
  text: `(${c.text} ? ${a.text} : ${b.text})`,
  width: Math.max(a.width, b.width),
  signed: a.signed && b.signed,
  at: (w, s, env) => (self(c, env) !== 0n ? a : b).at(w, s, env),
});
const join = (a: Node, b: Node): Node => ({
  text: `{${a.text}, ${b.text}}`,
  width: a.width + b.width,
  signed: false,
  at: (w, _, env) => BigInt.asUintN(w, (self(a, env) << BigInt(b.width)) | self(b, env)),
});
const invert = (a: Node): Node => ({
  text: `(~${a.text})`,
  width: a.width,
  signed: a.signed,
  at: (w, s, env) => BigInt.asUintN(w, ~a.at(w, s, env)),
});
const any = (a: Node): Node => ({
  text: `(|${a.text})`,
  width: 1,
  signed: false,
  at: (_, __, env) => (self(a, env) !== 0n ? 1n : 0n),
});
const cast = (a: Node, signed: boolean): Node => ({
  text: `${signed ? '$signed' : '$unsigned'}(${a.text})`,
  width: a.width,
  signed,
  at: (w, s, env) => extend(self(a, env), a.width, w, s),
});

const leaves: Node[] = [
  name('u5', 5, false),
  name('u17', 17, false),
  name('s8', 8, true),
  name('s40', 40, true),
  literal(3, 4),
  literal(200, 8),
];
const tree: fc.Arbitrary<Node> = fc.letrec<{ node: Node }>((tie) => ({
  node: fc.oneof(
    { maxDepth: 4, withCrossShrink: true },
    fc.constantFrom(...leaves),
    fc.tuple(tie('node'), tie('node'), fc.constantFrom('+', '-', '*', '&', '|', '^')).map(([a, b, op]) =>
      context(
        op,
        a,
        b,
        {
          '+': (x: bigint, y: bigint) => x + y,
          '-': (x: bigint, y: bigint) => x - y,
          '*': (x: bigint, y: bigint) => x * y,
          '&': (x: bigint, y: bigint) => x & y,
          '|': (x: bigint, y: bigint) => x | y,
          '^': (x: bigint, y: bigint) => x ^ y,
        }[op] as (x: bigint, y: bigint) => bigint,
      ),
    ),
    fc.tuple(tie('node'), tie('node'), fc.constantFrom('<', '<=', '>', '>=', '==', '!=')).map(([a, b, op]) =>
      compare(
        op,
        a,
        b,
        {
          '<': (x: bigint, y: bigint) => x < y,
          '<=': (x: bigint, y: bigint) => x <= y,
          '>': (x: bigint, y: bigint) => x > y,
          '>=': (x: bigint, y: bigint) => x >= y,
          '==': (x: bigint, y: bigint) => x === y,
          '!=': (x: bigint, y: bigint) => x !== y,
        }[op] as (x: bigint, y: bigint) => boolean,
      ),
    ),
    fc
      .tuple(tie('node'), fc.constantFrom(name('u5', 5, false), literal(3, 4)), fc.constantFrom('<<', '>>', '>>>'))
      .map(([a, b, op]) => shift(op, a, b)),
    fc.tuple(tie('node'), tie('node'), tie('node')).map(([c, a, b]) => choose(c, a, b)),
    fc.tuple(tie('node'), tie('node')).map(([a, b]) => join(a, b)),
    tie('node').map(invert),
    tie('node').map(any),
    fc.tuple(tie('node'), fc.boolean()).map(([a, s]) => cast(a, s)),
  ),
})).node;

describe('expressions', () => {
  test('any expression agrees with a model written from the standard, at any target width', () => {
    fc.assert(
      fc.property(
        tree,
        fc.integer({ min: 1, max: 70 }),
        fc.array(fc.bigInt(0n, (1n << 40n) - 1n), { minLength: 4, maxLength: 4 }),
        (node, target, values) => {
          fc.pre(node.width <= 400);
          const sim = run(
            'module m(input [4:0] u5, input [16:0] u17, input signed [7:0] s8, input signed [39:0] s40, output ' +
              `[${target - 1}:0] y); assign y = ${node.text}; endmodule`,
          );
          const widths = { u5: 5, u17: 17, s8: 8, s40: 40 };
          const env: Record<string, bigint> = {};
          for (const [i, [id, width]] of Object.entries(widths).entries()) {
            env[id] = BigInt.asUintN(width, values[i] as bigint);
            sim.setInput(id, env[id]);
          }
          const expected = BigInt.asUintN(target, node.at(Math.max(target, node.width), node.signed, env));
          expect(sim.getOutput('y'), node.text).toBe(expected);
        },
      ),
      { numRuns: 800 },
    );
  });

  test('division truncates towards zero, a remainder has the sign of its dividend', () => {
    const sim = run(
      'module m(input signed [7:0] a, input signed [7:0] b, output signed [7:0] q, output signed [7:0] r); ' +
        'assign q = a / b; assign r = a % b; endmodule',
    );
    for (const [a, b] of [
      [7, 2],
      [-7, 2],
      [7, -2],
      [-7, -2],
      [-128, -1],
    ] as const) {
      sim.setInput('a', BigInt.asUintN(8, BigInt(a)));
      sim.setInput('b', BigInt.asUintN(8, BigInt(b)));
      expect(outputs(sim, 'q', 'r').map((v) => Number(BigInt.asIntN(8, v)))).toEqual(
        [Number(BigInt.asIntN(8, BigInt(Math.trunc(a / b)))), a % b].map((v) => v + 0),
      );
    }
  });

  test('bits outside a word read as 0 and are warned of', () => {
    expect(complaints('module m(input [3:0] a, output y);\n  assign y = a[7];\nendmodule')).toContain(
      'out-of-range@2:15',
    );
    const sim = run('module m(input [3:0] a, input [3:0] i, output y); assign y = a[i]; endmodule');
    sim.setInput('a', 15n);
    sim.setInput('i', 9n);
    expect(sim.getOutput('y')).toBe(0n);
  });

  test('vectors run either way', () => {
    const sim = run(
      'module m(input [0:7] a, output [0:3] y, output z, input [2:0] i, output w); assign y = a[0:3]; assign z = ' +
        'a[0]; assign w = a[i]; endmodule',
    );
    sim.setInput('a', 0b1010_0001n);
    sim.setInput('i', 7n);
    expect(outputs(sim, 'y', 'z', 'w')).toEqual([0b1010n, 1n, 1n]);
  });
});

describe('procedures', () => {
  test('blocking assignments are seen by the next line, non-blocking ones are not', () => {
    const sim = run(`module m(input clk, input [3:0] d, output reg [3:0] a, output reg [3:0] b, output reg [3:0] c);
      reg [3:0] t; always @(posedge clk) begin t = d + 1; a <= t; b <= a; c = t + 1; end endmodule`);
    sim.setInput('d', 4n);
    sim.step(sim.domain('clk'));
    expect(outputs(sim, 'a', 'b', 'c')).toEqual([5n, 0n, 6n]);
    sim.step(sim.domain('clk'));
    expect(outputs(sim, 'a', 'b')).toEqual([5n, 5n]);
  });

  test('the last assignment of a block wins, and parts keep what they were', () => {
    const sim = run(`module m(input clk, input [1:0] i, input v, output reg [3:0] q);
      always @(posedge clk) begin q[i] <= v; q[0] <= 1'b1; end endmodule`);
    sim.setInput('i', 2n);
    sim.setInput('v', 1n);
    sim.step(sim.domain('clk'));
    expect(sim.getOutput('q')).toBe(0b0101n);
    sim.setInput('v', 0n);
    sim.step(sim.domain('clk'));
    expect(sim.getOutput('q')).toBe(0b0001n);
  });

  test('loops of every kind that end when the design is built', () => {
    const sim = run(`module m(input [7:0] a, output reg [7:0] r, output reg [3:0] n, output reg [3:0] k); integer i;
      always @* begin
        for (i = 0; i < 8; i = i + 1) r[i] = a[7 - i];
        n = 0; repeat (5) n = n + 1;
        k = 0; i = 0; while (i < 3) begin k = k + 2; i = i + 1; end
      end endmodule`);
    sim.setInput('a', 0b1100_0001n);
    expect(outputs(sim, 'r', 'n', 'k')).toEqual([0b1000_0011n, 5n, 6n]);
  });

  test('casex leaves x and z digits open, casez only z', () => {
    const text = (word: string) =>
      `module m(input [1:0] a, output reg y); always @* ${word} (a) 2'b1x: y = 1; default: y = 0; endcase endmodule`;
    const sim = run(text('casex'));
    sim.setInput('a', 2n);
    expect(sim.getOutput('y')).toBe(1n);
    expect(complaints(text('casez')).map((c) => c.split('@')[0])).toEqual(['never-matches']);
  });

  test('a case with a label for every value needs no default', () => {
    expect(
      complaints(
        'module m(input [1:0] a, output reg y); always @* case (a) 0: y = 1; 1: y = 0; 2: y = 1; 3: y = 0; ' +
          'endcase endmodule',
      ),
    ).toEqual([]);
    expect(
      complaints(
        'module m(input [1:0] a, output reg y); always @* case (a) 0: y = 1; 1: y = 0; 2: y = 1; endcase endmodule',
      ).map((c) => c.split('@')[0]),
    ).toEqual(['case-open', 'latch']);
  });

  test('assignments to a concatenation are divided from the left', () => {
    const sim = run('module m(input [7:0] a, output reg c, output reg [6:0] s); always @* {c, s} = a; endmodule');
    sim.setInput('a', 0b1000_0101n);
    expect(outputs(sim, 'c', 's')).toEqual([1n, 5n]);
  });

  test('tasks copy in and out and act in the caller’s own step', () => {
    const sim =
      run(`module m(input clk, input [3:0] a, input [3:0] b, output reg [3:0] big, output reg [3:0] low, output reg [7:0] n);
      task sort(input [3:0] x, input [3:0] y, output [3:0] hi, output [3:0] lo);
        begin if (x > y) begin hi = x; lo = y; end else begin hi = y; lo = x; end end
      endtask
      task count; begin n <= n + 1; end endtask
      always @* sort(a, b, big, low);
      always @(posedge clk) if (a != b) count; endmodule`);
    sim.setInput('a', 3n);
    sim.setInput('b', 9n);
    sim.step(sim.domain('clk'), 2);
    expect(outputs(sim, 'big', 'low', 'n')).toEqual([9n, 3n, 2n]);
    sim.setInput('b', 3n);
    sim.step(sim.domain('clk'), 2);
    expect(sim.getOutput('n')).toBe(2n);
    expect(
      complaints('module m(output reg y); task t(input a); y = a; endtask always @* t(); endmodule').map(
        (c) => c.split('@')[0],
      ),
    ).toContain('arguments');
    expect(
      complaints('module m(output reg y); task t; t; endtask always @* t; endmodule').map((c) => c.split('@')[0]),
    ).toContain('recursion');
  });

  test('a loop that depends on a signal, and one without an end, are refused', () => {
    expect(
      complaints(
        'module m(input [3:0] a, output reg y); integer i; always @* begin y = 0; for (i = 0; i < a; i = i + 1) ' +
          'y = ~y; end endmodule',
      ).map((c) => c.split('@')[0]),
    ).toEqual(['loop-not-constant']);
    expect(
      complaints(
        'module m(output reg y); integer i; always @* begin y = 0; for (i = 0; i >= 0; i = i + 0) y = ~y; end ' +
          'endmodule',
      ).map((c) => c.split('@')[0]),
    ).toEqual(['endless-loop']);
  });
});

describe('registers', () => {
  test('both polarities of asynchronous reset, in any way of writing it', () => {
    for (const [edge, condition, active] of [
      ['posedge', 'rst', 1n],
      ['posedge', "rst == 1'b1", 1n],
      ['negedge', '!rst', 0n],
      ['negedge', '~rst', 0n],
      ['negedge', "rst == 1'b0", 0n],
    ] as const) {
      const sim = run(
        `module m(input clk, input rst, output reg [3:0] q); always @(posedge clk or ${edge} rst) if ` +
          `(${condition}) q <= 4'd7; else q <= q + 1; endmodule`,
      );
      sim.setInput('rst', 1n - active);
      sim.step(sim.domain('clk'), 2);
      expect(sim.getOutput('q'), condition).toBe(2n);
      sim.setInput('rst', active);
      expect(sim.getOutput('q'), condition).toBe(7n);
    }
  });

  test('a register that the reset does not name keeps its value through it', () => {
    const sim = run(`module m(input clk, input rst, output reg [3:0] a, output reg [3:0] b);
      always @(posedge clk or posedge rst) if (rst) a <= 0; else begin a <= a + 1; b <= b + 1; end endmodule`);
    sim.step(sim.domain('clk'), 3);
    sim.setInput('rst', 1n);
    sim.step(sim.domain('clk'), 2);
    expect(outputs(sim, 'a', 'b')).toEqual([0n, 3n]);
  });

  test('power-up values from a declaration and from an initial block', () => {
    const sim = run(`module m(input clk, output reg [3:0] a, output [3:0] b, output [3:0] c);
      reg [3:0] r = 4'd9; reg [3:0] s; initial begin a = 3; s = 4'd7; s[0] = 0; end
      assign b = r; assign c = s; always @(posedge clk) begin a <= b; r <= c; end endmodule`);
    expect(outputs(sim, 'a', 'b', 'c')).toEqual([3n, 9n, 6n]);
    sim.step(sim.domain('clk'));
    expect(outputs(sim, 'a', 'b')).toEqual([9n, 6n]);
  });

  test('an asynchronous value that is no constant, two resets and mixed lists are refused', () => {
    const codes = (text: string) => complaints(text).map((c) => c.split('@')[0]);
    expect(
      codes(
        'module m(input clk, input r, input d, output reg q); always @(posedge clk or posedge r) if (r) q <= d; ' +
          'else q <= 0; endmodule',
      ),
    ).toEqual(['reset-value']);
    expect(codes('module m(input clk, input r, output reg q); always @(posedge clk or r) q <= 0; endmodule')).toEqual([
      'sensitivity',
    ]);
    expect(
      codes('module m(input clk, input r, output reg q); always @(posedge clk or posedge r) q <= ~q; endmodule'),
    ).toEqual(['async-reset']);
  });
});

describe('memories', () => {
  test('are filled from a file of the project, with addresses and comments in it', () => {
    const { netlist, messages } = elaborate([
      {
        name: 'm.v',
        text:
          'module m(input [2:0] a, output [7:0] y); reg [7:0] rom [0:7]; initial $readmemh("rom.hex", rom); assign ' +
          'y = rom[a]; endmodule',
      },
      { name: 'rom.hex', text: '// table\n01 02 /* two */ a_5\n@6 ff\n' },
    ]);
    expect(messages.list).toEqual([]);
    expect([0, 1, 2, 6].map((i) => Number(netlist?.memories[0]?.init[i]))).toEqual([1, 2, 0xa5, 0xff]);
  });

  test('may begin at another address than 0', () => {
    const sim = run(
      'module m(input clk, input [3:0] a, input [7:0] d, input we, output reg [7:0] q); reg [7:0] mem [4:11]; ' +
        'always @(posedge clk) begin if (we) mem[a] <= d; q <= mem[a]; end endmodule',
    );
    sim.setInput('a', 4n);
    sim.setInput('d', 77n);
    sim.setInput('we', 1n);
    sim.step(sim.domain('clk'), 2);
    expect(sim.getOutput('q')).toBe(77n);
  });

  test('a memory whose file is missing, that is read whole or written without a clock is refused', () => {
    const codes = (text: string) => complaints(text).map((c) => c.split('@')[0]);
    expect(
      codes('module m(output y); reg r [0:3]; initial $readmemb("no.bin", r); assign y = r[0]; endmodule'),
    ).toEqual(['include']);
    expect(codes('module m(output y); reg r [0:3]; assign y = r; endmodule')).toEqual(['whole-array']);
    expect(
      codes('module m(input [1:0] a, output y); reg r [0:3]; always @* r[a] = 1; assign y = r[0]; endmodule'),
    ).toEqual(['latch']);
  });
});

describe('hierarchy', () => {
  test('generate if and case choose at elaboration; blocks give names', () => {
    const text = (k: number) => `module m #(parameter K = ${k}) (input a, output y, output z);
      generate if (K > 1) begin : big wire w = ~a; assign y = w; end else begin : tiny assign y = a; end
      case (K) 0: assign z = 0; 1, 2: assign z = 1; default: assign z = a; endcase endgenerate endmodule`;
    const answers = [0, 1, 2, 3].map((k) => outputs(run(text(k)), 'y', 'z').map(Number));
    expect(answers).toEqual([
      [0, 0],
      [0, 1],
      [1, 1],
      [1, 0],
    ]);
    expect(elaborate([{ name: 't.v', text: text(2) }]).netlist?.signals.map((s) => s.name)).toContain('m.big.w');
  });

  test('named and wildcard connections, open ports', () => {
    const sim = run(`module leaf(input a, input b, output y, output n); assign y = a & b; assign n = ~a; endmodule
      module top(input a, input b, output y); leaf u1 (.*, .n()); endmodule`);
    sim.setInput('a', 1n);
    sim.setInput('b', 1n);
    expect(sim.getOutput('y')).toBe(1n);
  });

  test('arrays of instances share a narrow connection and divide a wide one', () => {
    const sim =
      run(`module inv(input a, input [1:0] k, output y, output [1:0] z); assign y = ~a; assign z = k + a; endmodule
      module top(input [3:0] a, input [1:0] k, output [3:0] y, output [7:0] z); inv u [3:0] (.a(a), .k(k), .y(y), .z(z)); endmodule`);
    sim.setInput('a', 0b0110n);
    sim.setInput('k', 2n);
    expect(outputs(sim, 'y', 'z')).toEqual([0b1001n, 0b10_11_11_10n]);
  });

  test('recursion without an end, unknown ports and parameters, too many ports', () => {
    const codes = (text: string) => complaints(text).map((c) => c.split('@')[0]);
    expect(
      codes(
        'module a(output y); b u (y); endmodule module b(output y); a u (y); endmodule module t(output y); a u ' +
          '(y); endmodule',
      ),
    ).toEqual(['recursive-instance']);
    expect(codes('module l(input a); endmodule module t(input a); l u (.b(a)); endmodule')).toContain('no-port');
    expect(codes('module l(input a); endmodule module t(input a); l #(.N(3)) u (a); endmodule')).toContain(
      'no-parameter',
    );
    expect(codes('module l(input a); endmodule module t(input a); l u (a, a); endmodule')).toContain('too-many-ports');
    expect(codes('module l(input a); endmodule module t(output y); l u (); assign y = 0; endmodule')).toContain(
      'unconnected',
    );
  });

  test('names can be escaped, and a keyword may be one then', () => {
    expect(complaints('module m(input \\case , output \\a+b ); assign \\a+b = ~\\case ; endmodule')).toEqual([]);
  });

  test('absurd sizes are refused at once', () => {
    const codes = (text: string) => complaints(text).map((c) => c.split('@')[0]);
    expect(codes('module m #(parameter N = 1 << 30) (input [N:0] a, output y); assign y = a[0]; endmodule')).toContain(
      'width',
    );
    expect(codes('module m(output y); reg [31:0] r [0:100000000]; assign y = r[0][0]; endmodule')).toContain('width');
    expect(codes(`module m(output y); assign y = ${'('.repeat(5000)}1${')'.repeat(5000)}; endmodule`)).toContain(
      'too-deep',
    );
    expect(codes(`module m(output y); assign y = ${'~'.repeat(100_000)}1; endmodule`)).toContain('too-deep');
  });
});

describe('directives', () => {
  test('macros of macros, undef, elsif, nested conditions', () => {
    const sim = run(`\`define A 3
\`define B(x) (x + \`A)
\`undef NOT_THERE
module m(output [7:0] y, output [1:0] z);
  assign y = \`B(\`B(1));
\`ifdef NO
  assign z = 0;
\`elsif A
 \`ifndef B
  assign z = 1;
 \`else
  assign z = 2;
 \`endif
\`else
  assign z = 3;
\`endif
endmodule`);
    expect(outputs(sim, 'y', 'z')).toEqual([7n, 2n]);
  });

  test('a macro over several lines, one that is missing, one of itself, a file that includes itself', () => {
    expect(
      complaints('`define SUM(a, b) \\\n  a + \\\n  b\nmodule m(output [3:0] y); assign y = `SUM(1, 2); endmodule'),
    ).toEqual([]);
    expect(complaints('module m(output y); assign y = `NONE; endmodule').map((c) => c.split('@')[0])).toContain(
      'macro',
    );
    expect(
      complaints('`define X `X\nmodule m(output y); assign y = `X; endmodule').map((c) => c.split('@')[0]),
    ).toContain('macro');
    expect(
      complaints('`include "self.v"\nmodule m(output y); assign y = 0; endmodule', 'self.v').map(
        (c) => c.split('@')[0],
      ),
    ).toContain('include');
  });
});
