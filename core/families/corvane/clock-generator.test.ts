// The clock generator as its Verilog has it, against the data sheet (docs/silicon.md, section 10), and on its way into
// the frames.
import { describe, expect, test } from 'vitest';
import { elaborate } from '../../hdl/index.ts';
import { optimise } from '../../netlist/index.ts';
import { simulate } from '../../sim/events/index.ts';
import { cellsOf } from '../index.ts';
import { packNetlist, unpackNetlist } from './pack.ts';

const CELLS = cellsOf('CV25');

/** Runs a testbench around one generator of a clock that \`drive\` moves; gives what it printed, line by line. */
function bench(settings: string, body: string): string[] {
  const text = `
\`timescale 1ns / 1ps
module bench;
  reg clk = 0;
  wire a, b, locked;
  corvane_clock_generator #(${settings}) g (.clock_in(clk), .clock_a(a), .clock_b(b), .clock_c(), .locked(locked));
  integer rises = 0, falls = 0;
  always @(posedge a) rises = rises + 1;
  always @(posedge locked or negedge locked) if (locked !== 1'bx && $realtime > 0)
    $display("%0d %0d", locked, $rtoi($realtime));
  task cycles(input integer n, input real half);
    repeat (n) begin #half clk = 1; #half clk = 0; end
  endtask
  initial begin
    ${body}
    $finish;
  end
endmodule
`;
  const printed: string[] = [];
  const { run, messages } = simulate([{ name: 'bench.v', text }], {
    top: 'bench',
    cells: CELLS,
    host: { read: () => null, print: (line: string) => printed.push(line) },
  });
  if (!run) throw new Error(messages.map(({ line, message }) => `${line}: ${message}`).join('\n'));
  return printed.join('').trim().split('\n');
}

describe('a clock generator', () => {
  const SETTINGS = '.MULTIPLY(4), .DIVIDE(1), .DIVIDE_A(2), .DIVIDE_B(0)';

  test('locks with the rise that comes 64 cycles after the first one', () => {
    // 100 ns: rises at 50, 150, …; the 65th at 6450.
    expect(bench(SETTINGS, 'cycles(80, 50.0);')).toEqual(['1 6450']);
    // Of a divided clock 64 × 3 cycles.
    expect(bench('.MULTIPLY(12), .DIVIDE(3), .DIVIDE_A(2)', 'cycles(220, 50.0);')).toEqual(['1 19250']);
  });

  test('rises with its clock when it locks, and then at twice its rate', () => {
    expect(
      bench(
        SETTINGS,
        'cycles(64, 50.0); $display("%0d", rises); cycles(1, 50.0); #1 $display("%0d", rises); cycles(100, 50.0); $display("%0d", rises);',
      ),
    ).toEqual(['0', '1 6450', '2', '202']);
  });

  test('an output whose divider is 0 rests', () => {
    expect(
      bench(SETTINGS, 'cycles(80, 50.0); $display("%b", b); cycles(3, 50.0); $display("%b", b);').slice(1),
    ).toEqual(['0', '0']);
  });

  test('loses its lock within two cycles of a clock that stops, rests at 0, and locks anew', () => {
    const [locked = '', lost = '', rests = '', again = ''] = bench(
      SETTINGS,
      'cycles(100, 50.0); #3000 $display("%b", a); cycles(80, 50.0);',
    );
    expect(locked).toBe('1 6450');
    // Its last rise was at 9950.
    expect(Number(lost.slice(2))).toBeGreaterThan(9950);
    expect(Number(lost.slice(2))).toBeLessThanOrEqual(10_150);
    expect(rests).toBe('0');
    expect(again).toBe(`1 ${10_000 + 3000 + 50 + 6400}`);
  });

  test('loses it when the cycle changes by more than a tenth, and keeps it when by less', () => {
    expect(bench(SETTINGS, 'cycles(80, 50.0); cycles(40, 52.0);')).toEqual(['1 6450']);
    const told = bench(SETTINGS, 'cycles(80, 50.0); cycles(80, 60.0);');
    expect(told.map((line) => line[0])).toEqual(['1', '0', '1']);
  });
});

describe('in the frames', () => {
  const text = `module t(input clk, output reg [3:0] q, output ok);
    wire f;
    corvane_clock_generator #(.MULTIPLY(32), .DIVIDE(1), .DIVIDE_A(8), .DIVIDE_C(16)) u_g (.clock_in(clk), .clock_a(f), .locked(ok));
    always @(posedge f) q <= q + 1;
  endmodule`;
  const { netlist } = elaborate([{ name: 't.v', text }], { top: 't', cells: CELLS });
  if (!netlist) throw new Error('does not elaborate');
  const small = optimise(netlist).netlist;

  test('a generator comes back with its factors and its ports; a design without one is packed as ever', () => {
    const packed = packNetlist({ netlist: small, pins: [] });
    expect(packed[0]).toBe(3);
    const back = unpackNetlist(packed);
    expect(back?.netlist.cells.map(({ path, parameters }) => [path, parameters])).toEqual([
      ['u_g', { MULTIPLY: 32, DIVIDE: 1, DIVIDE_A: 8, DIVIDE_B: 0, DIVIDE_C: 16 }],
    ]);
    expect(back?.netlist.inputs.map(({ name }) => name)).toEqual(small.inputs.map(({ name }) => name));
    expect(back?.netlist.outputs.map(({ name }) => name)).toContain('$u_g.clock_in');
    expect(packNetlist({ netlist: { ...small, cells: [] }, pins: [] })[0]).toBe(2);
  });

  test('a parameter that is no whole number is told at the instance', () => {
    const wrong = elaborate([{ name: 't.v', text: text.replace('.MULTIPLY(32)', '.MULTIPLY(2.5)') }], {
      top: 't',
      cells: CELLS,
    });
    expect(wrong.netlist).toBeNull();
    expect(wrong.messages.list.find(({ severity }) => severity === 'error')).toMatchObject({
      code: 'part-cell',
      line: 3,
    });
  });
});
