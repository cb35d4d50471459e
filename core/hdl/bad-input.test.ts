// Sources that nobody should write: each ends with a message, none with a crash or a hang.
import { readdirSync, readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { optimise } from '../netlist/index.ts';
import { elaborate, type SourceFile } from './index.ts';

const codes = (text: string, more: readonly SourceFile[] = []) =>
  elaborate([{ name: 't.sv', text }, ...more]).messages.list.map((m) => m.code);
const repeat = (text: string, times: number) => text.repeat(times);

describe('too much of something', () => {
  test.each<[string, () => string, string]>([
    [
      'brackets',
      () => `module m(output y); assign y = ${repeat('(', 100_000)}1${repeat(')', 100_000)}; endmodule`,
      'too-deep',
    ],
    ['words', () => `module m; ${repeat('wire w; ', 300_000)} endmodule`, 'too-large'],
    [
      'characters of a string',
      () => `module m(output y); assign y = "${repeat('a', 200_000)}"; endmodule`,
      'string-width',
    ],
    ['comments that are never closed', () => `module m; ${repeat('/* ', 20_000)} endmodule`, 'comment-open'],
    ['terms', () => `module m(input a, output y); assign y = a${repeat(' ^ a', 50_000)}; endmodule`, 'too-deep'],
    [
      'blocks',
      () =>
        `module m(input a, output reg y); always @* ${repeat('begin ', 50_000)} y = a; ${repeat('end ', 50_000)} ` +
        'endmodule',
      'too-deep',
    ],
    [
      'generate blocks',
      () => `module m; ${repeat('if (1) begin ', 20_000)} ${repeat('end ', 20_000)} endmodule`,
      'too-deep',
    ],
    [
      'operators before a value',
      () => `module m(input a, output y); assign y = ${repeat('~', 100_000)}a; endmodule`,
      'too-deep',
    ],
    ['structures', () => `module m; ${repeat('struct packed { ', 5000)}`, 'too-deep'],
    ['digits', () => `module m(output y); assign y = 'h${repeat('f', 1_000_000)}; endmodule`, 'number-width'],
    ['decimal digits', () => `module m(output y); assign y = ${repeat('9', 1_000_000)}; endmodule`, 'number-width'],
    [
      'bits',
      () => "module m #(parameter N = 32'h7fffffff) (input [N:0] a, output y); assign y = a[0]; endmodule",
      'width',
    ],
    ['bits by replication', () => "module m(output y); assign y = ^{32'd2147483647{1'b1}}; endmodule", 'width'],
    [
      'words',
      () =>
        'module m(input clk, output reg y); reg [63:0] t [0:2147483647]; always @(posedge clk) begin t[0] <= 1; ' +
        'y <= t[0][0]; end endmodule',
      'width',
    ],
    [
      'turns',
      () =>
        'module m(output reg [7:0] y); integer i; always @* begin y = 0; for (i = 0; i >= 0; i = i + 1) y = y + ' +
        '1; end endmodule',
      'endless-loop',
    ],
    [
      'turns inside turns',
      () =>
        'module m(output reg [7:0] y); integer i, j; always @* begin y = 0; for (i = 0; i < 30000; i = i + 1) ' +
        'for (j = 0; j < 30000; j = j + 1) y = y + 1; end endmodule',
      'too-large',
    ],
    [
      'generated turns',
      () => 'module m; genvar i; for (i = 0; i >= 0; i = i + 1) begin : g wire w; end endmodule',
      'endless-loop',
    ],
    [
      'generated turns inside turns',
      () =>
        'module m; genvar i, j; for (i = 0; i < 60000; i = i + 1) begin : g for (j = 0; j < 60000; j = j + 1) ' +
        'begin : h end end endmodule',
      'too-large',
    ],
    [
      'a turn that comes back',
      () => 'module m; genvar i; for (i = 0; i < 2; i = i + 0) begin : g end endmodule',
      'endless-loop',
    ],
    [
      'calls',
      () =>
        'module m(input a, output y); function f(input x); f = f(x) ^ f(~x); endfunction assign y = f(a); endmodule',
      'recursion',
    ],
    [
      'parts of a wide word',
      () =>
        'module m(input a, output reg [65535:0] y); integer i; always @* for (i = 0; i < 65536; i = i + 1) y[i] ' +
        '= a ^ y[(i + 1) % 65536]; endmodule',
      'too-large',
    ],
  ])('%s', (_, text, code) => {
    expect(codes(text())).toContain(code);
  });

  test('instances that double at each level', () => {
    const levels = Array.from({ length: 40 }, (_, i) => `module l${i}; l${i + 1} a(); l${i + 1} b(); endmodule`).join(
      '\n',
    );
    expect(codes(`${levels} module l40; endmodule`)).toContain('too-large');
  });
  test('includes and macros that double', () => {
    const headers = Array.from({ length: 30 }, (_, i) => ({
      name: `h${i}.vh`,
      text: `\`include "h${i + 1}.vh"\n\`include "h${i + 1}.vh"\n`,
    }));
    expect(
      codes('`include "h0.vh"\nmodule m; endmodule', [...headers, { name: 'h30.vh', text: 'wire w;' }]).length,
    ).toBeGreaterThan(0);
    const macros = Array.from({ length: 40 }, (_, i) => `\`define M${i} \`M${i + 1} \`M${i + 1}`).join('\n');
    expect(codes(`${macros}\n\`define M40 ;\nmodule m; \`M0 endmodule`)).toContain('too-large');
  });
  test('an error behind five hundred warnings is still an error', () => {
    const instances = Array.from({ length: 700 }, (_, i) => `u x${i}(.a(a));`).join('\n');
    const text = `module u(input a, input b); endmodule
      module m(input a, output y); ${instances} assign y = nothing; endmodule`;
    const found = elaborate([{ name: 't.v', text }], { top: 'm' });
    expect(found.netlist).toBeNull();
    expect(found.messages.list.some(({ severity }) => severity === 'error')).toBe(true);
  });
  test('a million characters on one line are read', () => {
    expect(codes(`module m(input a, output y); assign y = a; /* ${repeat('x', 1_000_000)} */ endmodule`)).toEqual([]);
    expect(codes(`module m(input a, output y); assign y = a; ${repeat('x', 1_000_000)} endmodule`)).toContain('syntax');
  });
});

describe('what does not fit together', () => {
  test.each<[string, string, string]>([
    ['include cycles', '`include "t.sv"\nmodule m; endmodule', 'include'],
    [
      'a module inside itself',
      'module a; b u(); endmodule module b; a u(); endmodule module m; a u(); endmodule',
      'recursive-instance',
    ],
    ['two tops', 'module a; endmodule module b; endmodule', 'several-tops'],
    ['no module', 'wire w;', 'no-top'],
    ['a missing module', 'module m; nobody u(); endmodule', 'no-module'],
    ['an open macro', '`define F(a) a\nmodule m; `F( endmodule', 'macro'],
    ['an open string', 'module m; initial $display("no end\n); endmodule', 'unreadable-character'],
    ['an open comment', 'module m; /* endmodule', 'syntax'],
  ])('%s', (_, text, code) => {
    const found = codes(text);
    expect(found.length).toBeGreaterThan(0);
    if (code !== 'unreadable-character' && code !== 'no-top') expect(found).toContain(code);
  });
  test('reading goes on after an error, so that all are reported', () => {
    expect(
      codes('module m(output y);\n assign y = ;\n wire = 3;\n specify\n endspecify;\n fork;\nendmodule').length,
    ).toBeGreaterThanOrEqual(3);
  });
  test('a chain of names longer than the call stack ends with a message or a netlist', () => {
    const chain =
      'module m(input a, output y); wire [60000:0] w; assign w[0] = a; genvar i; for (i = 0; i < 30000; i = i + 1) ' +
      'begin : g assign w[i+1] = ~w[i]; end assign y = w[60000]; endmodule';
    const { netlist, messages } = elaborate([{ name: 't.v', text: chain }]);
    expect(netlist !== null || messages.failed).toBe(true);
  });
});

describe('mutated sources', () => {
  const sources = [
    ...readdirSync('demo/lockhouse/rtl').map((name) => readFileSync(`demo/lockhouse/rtl/${name}`, 'utf8')),
    readFileSync('tests/designs/sha256.v', 'utf8'),
    'package p; typedef enum logic [1:0] {A, B} s_t; typedef struct packed { s_t s; logic [3:0] v; } w_t; ' +
      'endpackage module m import p::*; (input clk, input w_t i, output w_t o); w_t q [2]; always_ff @(posedge ' +
      "clk) begin q[0] <= i; q[1] <= '{s: A, default: '1}; unique case (i.s) A: o <= q[0]; B: o <= q[1]; default: " +
      "o <= '0; endcase end endmodule",
  ];
  const words = [
    'begin',
    'end',
    'endmodule',
    'module',
    '(',
    ')',
    '[',
    ']',
    '{',
    '}',
    ';',
    '<=',
    '=',
    '@',
    '*',
    'case',
    'endcase',
    'if',
    'else',
    'for',
    "8'hzz",
    "'1",
    '`define',
    '`ifdef',
    '`endif',
    '#',
    '.',
    '::',
    'enum',
    'struct',
    'packed',
    'return',
    'generate',
    '"',
    '/*',
    '\\',
    '$clog2',
    '999999999',
    '-1',
    'assign',
    'always',
    'posedge',
    'inout',
    'function',
    'typedef',
  ];
  const change = fc.record({
    kind: fc.constantFrom('drop', 'insert', 'swap', 'double', 'cut'),
    at: fc.nat(),
    word: fc.constantFrom(...words),
  });
  const mutate = (text: string, changes: readonly { kind: string; at: number; word: string }[]): string => {
    const tokens = text.split(/(\s+|\b)/);
    for (const { kind, at, word } of changes) {
      const i = at % Math.max(1, tokens.length);
      if (kind === 'drop') tokens.splice(i, 1);
      else if (kind === 'insert') tokens.splice(i, 0, ` ${word} `);
      else if (kind === 'swap') tokens[i] = word;
      else if (kind === 'double') tokens.splice(i, 0, tokens[i] ?? '');
      else tokens.splice(i, 5);
    }
    return tokens.join('');
  };
  test('never crash the front end or the optimiser', () => {
    fc.assert(
      fc.property(fc.constantFrom(...sources), fc.array(change, { minLength: 1, maxLength: 6 }), (text, changes) => {
        const { netlist } = elaborate([{ name: 't.sv', text: mutate(text, changes) }]);
        if (netlist) optimise(netlist);
      }),
      { numRuns: 150 },
    );
  });
  test('any characters at all', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 300, unit: 'binary' }), (text) => {
        elaborate([{ name: 't.sv', text: `module m; ${text}` }]);
      }),
      { numRuns: 200 },
    );
  });
});
