import { describe, expect, test } from 'vitest';
import { describeSignals } from './signals.ts';
import { elaborate } from '../hdl/index.ts';
import { optimise } from '../netlist/index.ts';

function signals(text: string) {
  const { netlist } = elaborate([{ name: 't.v', text }]);
  if (!netlist) throw new Error('does not elaborate');
  return new Map(describeSignals(netlist, optimise(netlist)).signals.map((signal) => [signal.name, signal]));
}

describe('what drives a signal', () => {
  const found =
    signals(`module t(input clk, input rst, input en, input [3:0] d, output reg [3:0] q, output [3:0] sum, output zero);
reg [1:0] step = 0;
wire [3:0] loose;
reg [3:0] memory [0:15];
wire [3:0] read = memory[d];
reg lost;
reg unread;
wire never = 1'b0;
assign sum = q + step + loose + read;
assign zero = never;
always @(posedge clk) begin
  step <= step + 1;
  lost <= d[0] & lost;
  unread <= en;
  if (en) memory[d] <= d;
  if (rst) q <= 0;
  else if (step == 2) q <= d;
end
endmodule`);
  const driver = (name: string) => found.get(`t.${name}`)?.driver;

  test('a register: what enables and resets it comes first, then what it takes; and where it is set', () => {
    expect(driver('q')).toEqual({
      kind: 'register',
      from: ['t.rst', 't.step', 't.d'],
      file: 't.v',
      line: expect.any(Number),
      holds: expect.any(Array),
    });
    expect(driver('step')).toMatchObject({ kind: 'register', from: [] });
  });
  test('logic, a pin, a memory, a constant, nothing at all', () => {
    expect(driver('sum')).toMatchObject({ kind: 'logic', from: expect.arrayContaining(['t.q', 't.step']) });
    expect(driver('d')).toEqual({ kind: 'pin', port: 'd' });
    expect(driver('read')).toMatchObject({ kind: 'memory', from: ['t.d'] });
    expect(driver('never')).toEqual({ kind: 'constant', value: '0' });
    expect(driver('loose')).toEqual({ kind: 'nothing' });
  });
  test('what optimisation removed is told apart: nobody reads it, or its readers reach no output', () => {
    expect(
      [found.get('t.unread'), found.get('t.lost'), found.get('t.q'), found.get('t.loose')].map(
        (signal) => signal?.removed,
      ),
    ).toEqual(['unread', 'unseen', null, null]);
  });
  test('many sources are named up to a bound', () => {
    const wide = signals(
      `module w(input clk, ${Array.from({ length: 20 }, (_, i) => `input i${i}`).join(', ')}, output reg q); ` +
        `always @(posedge clk) q <= ${Array.from({ length: 20 }, (_, i) => `i${i}`).join(' ^ ')}; endmodule`,
    );
    const of = wide.get('w.q')?.driver;
    expect(of?.kind === 'register' && of.from.length).toBe(8);
  });
});
