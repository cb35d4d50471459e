// Every combination of inputs, against what is counted by hand.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { runVectors } from '../vectors/index.ts';
import { truthTable } from './truth-table.ts';

const files = (text: string) => [{ name: 't.v', text }];
const ADDER = 'module adder(input [2:0] a, b, output [3:0] s, output odd); assign s = a + b, odd = ^s; endmodule';
const table = (text: string, wanted: string, top = 'adder') => {
  const made = truthTable(files(text), { top, wanted });
  return made.ok ? made.value : `${made.error.code}: ${made.error.message}`;
};

describe('a truth table', () => {
  test('has a row for each combination, and expects what is wanted', () => {
    const [header, ...rows] = table(ADDER, 's = a + b').trim().split('\n');
    expect(header).toBe('a,b,=s,=odd');
    expect(rows).toEqual(Array.from({ length: 64 }, (_, i) => `${i >> 3},${i & 7},${(i >> 3) + (i & 7)},`));
  });

  test('a design passes its own expression, and fails where it is another one', () => {
    const run = (wanted: string) => {
      const ran = runVectors(files(ADDER), { name: 't.csv', text: table(ADDER, wanted) }, { top: 'adder' });
      return ran.ok ? ran.value.failures.map(({ row }) => row) : ran.error.message;
    };
    expect(run('s = a + b; odd = s_is_odd(0)')).toMatch(/expression/);
    expect(run('s = a + b; odd = (a + b) & 1')).not.toEqual([]);
    expect(run('s = a + b')).toEqual([]);
    // Where three bits of a sum are wanted, rows with a carry differ.
    const carries = Array.from({ length: 64 }, (_, i) => i).filter((i) => (i >> 3) + (i & 7) > 7);
    expect(run("s = (a + b) & 3'd7")).toEqual(carries.map((i) => i + 1));
  });

  test('the clock is no input, and each row is a cycle', () => {
    const text = 'module d(input clk, input [1:0] x, output reg [1:0] y = 0); always @(posedge clk) y <= ~x; endmodule';
    const made = table(text, 'y = ~x', 'd');
    expect(made).toBe('x,=y\n0,3\n1,2\n2,1\n3,0\n');
    const ran = runVectors(files(text), { name: 't.csv', text: made }, { top: 'd' });
    expect(ran.ok && ran.value.failures).toEqual([]);
  });

  test('what is no output, no expression, or has too many inputs is told', () => {
    expect(table(ADDER, 't = a')).toMatch(/^expression: .*t = a.*/);
    expect(table(ADDER, 's = a +')).toMatch(/^expression: .*s = a \+/);
    expect(table(ADDER, 's = c')).toMatch(/^expression: .*"c"/);
    expect(table('module m(input [16:0] a, output y); assign y = ^a; endmodule', '', 'm')).toMatch(
      /^truth-table: .*17/,
    );
  });

  test('any two words, any operator of both', () =>
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 4 }),
        fc.integer({ min: 1, max: 4 }),
        fc.constantFrom('&', '|', '^'),
        (x, y, op) => {
          const text = `module m(input [${x - 1}:0] a, input [${y - 1}:0] b, output [7:0] o); assign o = a; endmodule`;
          const rows = table(text, `o = a ${op} b`, 'm').trim().split('\n').slice(1);
          expect(rows).toHaveLength(2 ** (x + y));
          for (const [i, row] of rows.entries()) {
            const [a, b] = [i >> y, i & (2 ** y - 1)];
            expect(row).toBe(`${a},${b},${op === '&' ? a & b : op === '|' ? a | b : a ^ b}`);
          }
        },
      ),
      { numRuns: 20 },
    ));
});
