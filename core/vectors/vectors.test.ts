// Vectors without hardware, and whole cores of published standards run through them.
import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { runVectors, traceVcd, type VectorRun } from './index.ts';
import { formatWord, parseWord } from './word.ts';

const source = (name: string) => ({ name, text: readFileSync(`tests/designs/${name}`, 'utf8') });
function run(text: string, table: string, options: Parameters<typeof runVectors>[2] = {}): VectorRun {
  const done = runVectors([{ name: 't.v', text }], { name: 't.csv', text: table }, options);
  if (!done.ok) throw new Error(`${done.error.code}: ${done.error.message}`);
  return done.value;
}
const problemOf = (text: string, table: string, options: Parameters<typeof runVectors>[2] = {}) => {
  const done = runVectors([{ name: 't.v', text }], { name: 't.csv', text: table }, options);
  return done.ok ? null : done.error;
};
const failures = (text: string, table: string) => run(text, table).failures;

describe('published digests', () => {
  test('SHA-256 of "abc"', () => {
    // FIPS 180-4, example of SHA-256; the one block is "abc", the bit 1, zeros, the length 24.
    const block = `0x61626380${'0'.repeat(112)}00000018`;
    const table = `rst,start,block,cycles,=done,=digest\n1,0,,1,0,\n0,1,${block},1,0,\n,0,,65,1,0xba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad\n`;
    const done = runVectors([source('sha256.v')], { name: 'sha.csv', text: table });
    expect(done.ok && done.value.failures).toEqual([]);
    expect(done.ok && done.value.passed).toBe(3);
  });
  test('AES-128 of appendix C.1', () => {
    // FIPS 197, appendix C.1
    const table =
      'start,key,plain,cycles,=done,=cipher\n1,0x000102030405060708090a0b0c0d0e0f,0x00112233445566778899aabbccddeeff,1,0,\n0,,,10,1,0x69c4e0d86a7b0430d8cdb78070b4c55a\n,,,1,0,0x69c4e0d86a7b0430d8cdb78070b4c55a\n';
    const done = runVectors([source('aes128.v')], { name: 'aes.csv', text: table });
    expect(done.ok && done.value.failures).toEqual([]);
  });
  test('the catalogue of CRC algorithms, a bit a cycle', () => {
    // CRC of "123456789", catalogue of parametrised CRC algorithms; XMODEM and IBM-3740 differ in their start only.
    const crc =
      'module crc #(parameter [15:0] INIT = 0) (input clk, input load, input [7:0] d, output reg [15:0] c); ' +
      "integer i; reg [15:0] n; always @* begin n = c ^ {d, 8'd0}; for (i = 0; i < 8; i = i + 1) n = n[15] ? (n " +
      "<< 1) ^ 16'h1021 : n << 1; end always @(posedge clk) c <= load ? INIT : n; endmodule";
    const bytes = [...'123456789'].map((char) => `0,${char.charCodeAt(0)},`).join('\n');
    const table = (end: string) => `load,d,=c\n1,0,\n${bytes.slice(0, -1)},${end}\n`;
    expect(run(crc, table('0x31c3')).failed).toBe(0);
    expect(run(crc, table('0x29b1'), { parameters: { INIT: 0xffffn } }).failed).toBe(0);
  });
  test('the shift register of O.150 with x^7 + x^6 + 1 comes round after 127 steps and not before', () => {
    const lfsr =
      'module l(input clk, output reg [6:0] q = 1); always @(posedge clk) q <= {q[5:0], q[6] ^ q[5]}; endmodule';
    const rows = Array.from({ length: 126 }, () => ',').join('\n');
    const result = run(lfsr, `cycles,=q\n0,1\n${rows.replaceAll(',', '1,')}\n1,1\n`);
    expect(result.failed).toBe(0);
    expect(result.actual.slice(1, 127).every(([, q]) => q !== '0x01')).toBe(true);
  });
});

describe('whole truth tables', () => {
  test('a three-bit ripple adder over all inputs', () => {
    const rows = Array.from({ length: 128 }, (_, i) => [i & 7, (i >> 3) & 7, i >> 6].map(Number)).map(
      ([a = 0, b = 0, c = 0]) => `${a},${b},${c},${(a + b + c) & 7},${(a + b + c) >> 3}`,
    );
    const adder =
      'module add(input [2:0] a, b, input ci, output [2:0] s, output co); wire [3:0] c; assign c[0] = ci; assign ' +
      'co = c[3]; genvar i; for (i = 0; i < 3; i = i + 1) begin : bit_of assign s[i] = a[i] ^ b[i] ^ c[i]; ' +
      'assign c[i+1] = a[i] & b[i] | c[i] & (a[i] ^ b[i]); end endmodule';
    expect(run(adder, `a,b,ci,=s,=co\n${rows.join('\n')}\n`)).toMatchObject({ passed: 128, failed: 0, clock: null });
  });
  test('an inverted AND is lit unless both inputs are 1', () => {
    // Common practice.
    expect(
      run('module n(input a, b, output y); assign y = ~(a & b); endmodule', 'a,b,=y\n0,0,1\n0,1,1\n1,0,1\n1,1,0\n')
        .failed,
    ).toBe(0);
  });
});

describe('four states', () => {
  // IEEE 1364-2005, tables 5-8 to 5-11, values from memory. Rows: left operand 0 1 x z; columns: right operand 0 1 x z.
  const STATES = ['0', '1', 'x', 'z'];
  const TABLES: Record<string, string[]> = {
    '&': ['0000', '01xx', '0xxx', '0xxx'],
    '|': ['01xx', '1111', 'x1xx', 'x1xx'],
    '^': ['01xx', '10xx', 'xxxx', 'xxxx'],
    '==': ['10xx', '01xx', 'xxxx', 'xxxx'],
  };
  test.each(Object.keys(TABLES))('%s', (operator) => {
    const rows = STATES.flatMap((a, i) => STATES.map((b, k) => ({ a, b, y: TABLES[operator]?.[i]?.[k] as string })));
    const { actual } = run(
      `module m(input a, b, output y); assign y = a ${operator} b; endmodule`,
      `a,b,=y\n${rows.map(({ a, b }) => `${a},${b},`).join('\n')}\n`,
    );
    expect(actual.map((cells) => cells[2])).toEqual(rows.map(({ y }) => (y === 'x' ? '0xx' : `0x${y}`)));
  });
  test('an expected x asks nothing and what came is kept; an expected u asks for an unknown bit', () => {
    const text = 'module t(input [3:0] a, output [3:0] y); assign y = a; endmodule';
    const { failures: failed, actual } = run(
      text,
      'a,=y\n5,x\n0b1x01,0b1u01\n0b1101,0b1u01\n0b1x01,u\nx,u\nz,u\n0b0x0x,0x5\n',
    );
    expect(actual.map((cells) => cells[1])).toEqual([
      '0b0101',
      '0b1x01',
      '0b1101',
      '0b1x01',
      '0bxxxx',
      '0bzzzz',
      '0b0x0x',
    ]);
    expect(failed.map(({ row, expected }) => [row, expected])).toEqual([
      [3, '0b1u01'],
      [4, 'u'],
      [6, 'u'],
      [7, '0x5'],
    ]);
    expect(problemOf(text, 'a,=y\n0b1u00,\n')?.message).toMatch(/only an expectation can/);
  });
  test('=== compares x and z, == gives x', () => {
    const table = 'a,b,=same,=eq\n0b1x0z,0b1x0z,1,x\n0b1x0z,0b1x00,0,x\n0b1100,0b1100,1,1\n';
    const { failures: bad, actual } = run(
      'module m(input [3:0] a, b, output same, eq); assign same = a === b; assign eq = a == b; endmodule',
      table,
    );
    expect(bad).toEqual([]);
    expect(actual.map((cells) => cells[3])).toEqual(['0bx', '0bx', '1']);
  });
  test('a conditional with an unknown selector merges bit by bit, an if takes its else', () => {
    const { actual } = run(
      'module m(input s, input [3:0] a, b, output [3:0] y, output reg [3:0] z); assign y = s ? a : b; always @* ' +
        'if (s) z = a; else z = b; endmodule',
      's,a,b,=y,=z\nx,0b1100,0b1010,0b0000,0b0000\n',
    );
    expect(actual[0]?.slice(3)).toEqual(['0b1xx0', '0b1010']);
  });
  test('case compares exactly, casez and casex leave z, and x and z, open', () => {
    const make = (word: string) =>
      `module m(input [1:0] s, output reg [1:0] y); always @* ${word} (s) 2'b1?: y = 1; 2'b0x: y = 2; default: y ` +
      '= 3; endcase endmodule';
    const at = (word: string) =>
      run(make(word), 's,=y\n0b10,\n0b1z,\n0b1x,\n0b0x,\n0b00,\n').actual.map((cells) => cells[1]?.at(-1));
    expect(at('case')).toEqual(['3', '1', '3', '2', '3']);
    expect(at('casez')).toEqual(['1', '1', '1', '2', '3']);
    expect(at('casex')).toEqual(['1', '1', '1', '2', '2']);
  });
  test('arithmetic and relations with an unknown bit are unknown; a variable index that is unknown reads x', () => {
    const { actual } = run(
      'module m(input [3:0] a, input [1:0] i, output [3:0] s, output lt, output b); assign s = a + 1; assign lt ' +
        '= a < 4; assign b = a[i]; endmodule',
      'a,i,=s,=lt,=b\n0b000x,0,,,\n3,0bx0,,,\n',
    );
    expect(actual[0]?.slice(2)).toEqual(['0xx', '0xx', '0xx']);
    expect(actual[1]?.slice(2)).toEqual(['0x4', '0x1', '0xx']);
  });
  test('registers are x until loaded, unless they have a power-up value', () => {
    const text =
      'module m(input clk, rst, output reg [3:0] q, output reg [3:0] n = 2); always @(posedge clk) begin if ' +
      '(rst) q <= 0; else q <= q + 1; n <= n + 1; end endmodule';
    expect(run(text, 'rst,cycles,=q,=n\n0,0,,2\n0,1,,3\n1,1,0,4\n0,5,5,9\n').actual.map((cells) => cells[2])).toEqual([
      '0xx',
      '0xx',
      '0',
      '5',
    ]);
    expect(run(text, 'rst,cycles,=q,=n\n0,0,,2\n0,1,,3\n1,1,0,4\n0,5,5,9\n').failed).toBe(0);
  });
  test('a pin that floats reads z', () => {
    expect(
      run("module m(input en, a, output y); assign y = en ? a : 1'bz; endmodule", 'en,a,=y\n1,1,1\n0,1,z\n').failed,
    ).toBe(0);
  });
});

describe('the table', () => {
  const adder =
    'module m(input [3:0] a, input signed [3:0] b, output [3:0] y, output signed [3:0] z); assign y = a + 1; ' +
    'assign z = -b; endmodule';
  test('notations, comments, cells that stay, answers in the notation asked in', () => {
    const table = '# first\na,b,=y,=z\n0b1010,3,11,-3\n# middle\n,-8,0xb,-8\n0xF,,0b0000,\n3,,5,\n';
    expect(run(adder, table)).toMatchObject({
      passed: 3,
      failed: 1,
      failures: [{ row: 4, port: 'y', expected: '5', actual: '4' }],
    });
  });
  test.each([
    ['a,c,=y\n1,1,1\n', 'no input "c"'],
    ['a,y\n1,1\n', '"=y"'],
    ['a,=a\n1,1\n', 'needs an output'],
    ['a,a\n1,1\n', 'twice'],
    ['a,=y\n16,1\n', 'line 2: a: 16 does not fit'],
    ['a,=y\n1,2\n1,zz9\n', 'line 3'],
    ['a,=y\n1,2,3\n', 'more cells'],
    ['a,cycles\n1,-1\n', 'no number of cycles'],
    ['', 'no header'],
  ])('%j is refused with its place', (table, message) => {
    expect(problemOf(adder, table)?.message).toContain(message);
  });
  test('several clocks ask for one; a clock that is no input is refused', () => {
    const two =
      'module m(input c1, c2, output reg a = 0, b = 0); always @(posedge c1) a <= ~a; always @(posedge c2) b <= ' +
      '~b; endmodule';
    expect(problemOf(two, '=a\n1\n')?.code).toBe('several-clocks');
    expect(run(two, 'c2,cycles,=a,=b\n0,3,1,0\n1,0,1,1\n', { clock: 'c1' }).failed).toBe(0);
    expect(problemOf(two, '=a\n1\n', { clock: 'c3' })?.code).toBe('no-clock');
  });
  test('loops and sources with errors are not run', () => {
    expect(
      problemOf('module m(input a, output y); wire w; assign w = ~(w & a); assign y = w; endmodule', 'a,=y\n1,0\n')
        ?.code,
    ).toBe('loop');
    expect(problemOf('module m(input a, output y); assign y = b; endmodule', 'a,=y\n1,0\n')?.code).toBe(
      'not-understood',
    );
  });
  test('words come back as they were written', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 70 }),
        fc.bigInt(0n, (1n << 70n) - 1n),
        fc.bigInt(0n, (1n << 70n) - 1n),
        (width, value, unknown) => {
          const word = { value: BigInt.asUintN(width, value | unknown), unknown: BigInt.asUintN(width, unknown) };
          const back = parseWord(formatWord(word, width, 'hex'), width);
          expect(back.ok && { value: back.value.value, unknown: back.value.unknown }).toEqual(word);
        },
      ),
    );
    expect(failures(adder, 'a,=y\n1,0b001x\n')).toEqual([]);
  });
  test('the waveform keeps every change', () => {
    const { trace } = run(
      'module m(input clk, output reg [1:0] q = 0); always @(posedge clk) q <= q + 1; endmodule',
      'cycles,=q\n3,3\n',
    );
    expect(trace.signals.find((s) => s.name === 'm.q')).toMatchObject({ times: [0, 1, 3, 5], width: 2 });
    expect(traceVcd(trace, 'today')).toContain('$var wire 2');
  });
});
