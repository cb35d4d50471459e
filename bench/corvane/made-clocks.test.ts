// Clock generators as the fabric runs them, against the same design in the event-driven simulation, which knows their
// behaviour as Verilog and nothing of ticks (docs/silicon.md, section 10).
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { cellsOf } from '../../core/families/index.ts';
import { packNetlist } from '../../core/families/corvane/pack.ts';
import { elaborate } from '../../core/hdl/index.ts';
import { optimise } from '../../core/netlist/index.ts';
import { simulate } from '../../core/sim/events/index.ts';
import { designIn } from './frames.ts';
import { Fabric } from './fabric.ts';

const CELLS = cellsOf('CV25');
const LOCK = 64;

interface Setting {
  readonly multiply: number;
  readonly divide: number;
  readonly dividers: readonly [number, number, number];
}

/** Registers of every clock, on both edges, and such that take what another clock's hold. */
const design = ({ multiply, divide, dividers: [a, b, c] }: Setting) => `
module t(input clk, output [31:0] y, output locked);
  wire ca, cb, cc;
  corvane_clock_generator #(.MULTIPLY(${multiply}), .DIVIDE(${divide}), .DIVIDE_A(${a}), .DIVIDE_B(${b}), .DIVIDE_C(${c})) g (
    .clock_in(clk), .clock_a(ca), .clock_b(cb), .clock_c(cc), .locked(locked));
  reg [7:0] na = 0, nb = 0, nc = 0, nk = 0;
  reg [7:0] from_a = 1, from_k = 2;
  always @(posedge ca) begin na <= na + 1; from_k <= from_k * 3 + nk; end
  // From unknown to 0 is a falling edge too, as a simulation begins.
  always @(negedge cb) if (locked) nb <= nb + na + 1;
  always @(posedge cc) nc <= nc + nb + 3;
  always @(posedge clk) begin nk <= nk + 1; from_a <= from_a * 5 + na + nc; end
  assign y = {na ^ nk, nb, nc, from_a ^ from_k};
endmodule
`;

const fabricOf = (text: string, hz: number): Fabric => {
  const { netlist, messages } = elaborate([{ name: 't.v', text }], { top: 't', cells: CELLS });
  if (!netlist) throw new Error(messages.list.map(({ line, message }) => `${line}: ${message}`).join('\n'));
  const pin = (port: string, bit: number, name: string) =>
    ({ port, bit, pin: name, standard: 'LVCMOS 3.3 V', drive: 4, pull: 'none', slew: 'slow' }) as const;
  const pins = [
    pin('clk', 0, 'C'),
    pin('locked', 0, 'L'),
    ...Array.from({ length: 32 }, (_, bit) => pin('y', bit, `Y${bit}`)),
  ];
  const payload = packNetlist({ netlist: optimise(netlist).netlist, pins });
  const frames = new Uint8Array(4 + payload.length);
  new DataView(frames.buffer).setUint32(0, payload.length);
  frames.set(payload, 4);
  const made = designIn(frames);
  if (!made) throw new Error('the part makes no design of its frames');
  return new Fabric(made, new Map([['C', hz]]), () => 3.3, 0);
};

const seen = (fabric: Fabric): string => {
  const bits = Array.from({ length: 32 }, (_, bit) => (fabric.pin(`Y${31 - bit}`) ? '1' : '0')).join('');
  return `${fabric.pin('L') ? 1 : 0} ${BigInt(`0b${bits}`).toString(16)}`;
};

/** What stands at the outputs at given times, in picoseconds, of a clock of that cycle. */
function simulated(text: string, cycle: number, times: readonly number[]): string[] {
  const half = cycle / 2;
  const looks = times.map((time, i) => `#${time - (times[i - 1] ?? 0)} $display("%b %0h", locked, y);`).join(' ');
  const bench = `
\`timescale 1ps / 1ps
module bench;
  reg clk = 0;
  wire [31:0] y;
  wire locked;
  t dut(.clk(clk), .y(y), .locked(locked));
  initial begin #${half}; forever begin #${half} clk = 1; #${half} clk = 0; end end
  initial begin ${looks} $finish; end
endmodule
`;
  const printed: string[] = [];
  const { run, messages } = simulate(
    [
      { name: 't.v', text },
      { name: 'bench.v', text: bench },
    ],
    { top: 'bench', cells: CELLS, host: { read: () => null, print: (line: string) => printed.push(line) } },
  );
  if (!run) throw new Error(messages.map(({ line, message }) => `${line}: ${message}`).join('\n'));
  return printed.join('').trim().split('\n');
}

const settings = fc.record({
  multiply: fc.integer({ min: 2, max: 20 }),
  divide: fc.integer({ min: 1, max: 4 }),
  dividers: fc.tuple(fc.integer({ min: 2, max: 24 }), fc.integer({ min: 0, max: 24 }), fc.integer({ min: 0, max: 24 })),
});

describe('clocks made of an oscillator', () => {
  test('rise when the event-driven simulation has them rise, also where several do at once', () =>
    fc.assert(
      fc.property(settings, fc.integer({ min: 1, max: 6_000_000 }), (setting, more) => {
        const cycle = 100_000;
        const text = design(setting);
        const lock = cycle * (1 + LOCK * setting.divide);
        const times = [lock - 11, lock + 11, lock + 1_000_033, lock + 1_000_033 + more];
        const fabric = fabricOf(text, 1e12 / cycle);
        const got = times.map((time) => {
          fabric.runUntil(time / 1e6);
          return seen(fabric);
        });
        expect(got).toEqual(simulated(text, cycle, times));
      }),
      { numRuns: 40 },
    ));
});
