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
  // Work that rests while what it depends on does, of two clocks and of the same word.
  reg [7:0] held = 0;
  reg [11:0] digits_a = 0, digits_c = 0;
  function [11:0] digits(input [7:0] x);
    integer i;
    begin
      digits = 0;
      for (i = 7; i >= 0; i = i - 1) begin
        if (digits[3:0] > 4) digits[3:0] = digits[3:0] + 3;
        if (digits[7:4] > 4) digits[7:4] = digits[7:4] + 3;
        digits = {digits[10:0], x[i]};
      end
    end
  endfunction
  always @(posedge clk) if (nk[1:0] == 0) held <= held + 37;
  always @(posedge ca) digits_a <= digits(held);
  always @(posedge cc) digits_c <= digits(held) + 1;
  assign y = {na ^ nk, nb ^ digits_a[7:0], nc ^ digits_c[7:0], from_a ^ from_k};
endmodule
`;

/** Rising edges of an oscillator up to a time; megahertz and microseconds. */
const edgesOf = (megahertz: number, of: string, until: number) =>
  Array.from({ length: Math.floor(until * megahertz + 1e-6) }, (_, i) => ({ at: (i + 1) / megahertz, of }));

const fabricOf = (text: string, hz: number, other?: number, third?: number): Fabric => {
  const { netlist, messages } = elaborate([{ name: 't.v', text }], { top: 't', cells: CELLS });
  if (!netlist) throw new Error(messages.list.map(({ line, message }) => `${line}: ${message}`).join('\n'));
  const pin = (port: string, bit: number, name: string) =>
    ({ port, bit, pin: name, standard: 'LVCMOS 3.3 V', drive: 4, pull: 'none', slew: 'slow' }) as const;
  const pins = [
    pin('clk', 0, 'C'),
    pin('locked', 0, 'L'),
    ...(other === undefined ? [] : [pin('aux', 0, 'X')]),
    ...(third === undefined ? [] : [pin('more', 0, 'Z')]),
    ...Array.from({ length: 32 }, (_, bit) => pin('y', bit, `Y${bit}`)),
  ];
  const payload = packNetlist({ netlist: optimise(netlist).netlist, pins });
  const frames = new Uint8Array(4 + payload.length);
  new DataView(frames.buffer).setUint32(0, payload.length);
  frames.set(payload, 4);
  const made = designIn(frames);
  if (!made) throw new Error('the part makes no design of its frames');
  const oscillators = [
    ['C', hz] as const,
    ...(other === undefined ? [] : [['X', other] as const]),
    ...(third === undefined ? [] : [['Z', third] as const]),
  ];
  return new Fabric(made, new Map(oscillators), () => 3.3, 0);
};

const seen = (fabric: Fabric): string => {
  const bits = Array.from({ length: 32 }, (_, bit) => (fabric.pin(`Y${31 - bit}`) ? '1' : '0')).join('');
  return `${fabric.pin('L') ? 1 : 0} ${BigInt(`0b${bits}`).toString(16)}`;
};

/** What stands at the outputs at given times, in picoseconds, of a clock of that cycle. */
function simulated(text: string, cycle: number, times: readonly number[], other?: number): string[] {
  const half = cycle / 2;
  const looks = times.map((time, i) => `#${time - (times[i - 1] ?? 0)} $display("%b %0h", locked, y);`).join(' ');
  const bench = `
\`timescale 1ps / 1ps
module bench;
  reg clk = 0;
  wire [31:0] y;
  wire locked;
  reg aux = 0;
  t dut(.clk(clk), ${other === undefined ? '' : '.aux(aux), '}.y(y), .locked(locked));
  ${other === undefined ? '' : `initial begin #${other / 2}; forever begin #${other / 2} aux = 1; #${other / 2} aux = 0; end end`}
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

  test('are the same however the time is cut: many edges in one go, or one by one', () =>
    fc.assert(
      fc.property(
        settings,
        fc.array(fc.integer({ min: 1, max: 60_000 }), { minLength: 1, maxLength: 12 }),
        (setting, stretches) => {
          const text = design(setting);
          const [atOnce, bit] = [fabricOf(text, 10e6), fabricOf(text, 10e6)];
          let now = (1 + LOCK * setting.divide) * 0.1 - 0.03;
          for (const stretch of stretches) {
            const end = now + stretch / 1e3;
            atOnce.runUntil(end);
            // So little at a time that no clock comes round in it.
            for (; now < end; now += 0.023) bit.runUntil(now);
            bit.runUntil(end);
            now = end;
            expect(seen(atOnce)).toBe(seen(bit));
          }
        },
      ),
      { numRuns: 40 },
    ));

  test('go on for ever: what ticks are counted from moves on with them', () => {
    const fabric = fabricOf(
      `
module t(input clk, output [31:0] y, output locked);
  wire a;
  corvane_clock_generator #(.MULTIPLY(127), .DIVIDE(1), .DIVIDE_A(128)) g (.clock_in(clk), .clock_a(a), .locked(locked));
  reg [31:0] n = 0;
  always @(posedge a) n <= n + 1;
  assign y = n;
endmodule
`,
      1e6,
    );
    // 254 ticks in a cycle: they are counted anew many times.
    const seconds = 3;
    for (let i = 1; i <= seconds * 10; i++) fabric.runUntil(i * 1e5);
    const cycles = seconds * 1e6 - LOCK;
    expect(Number.parseInt(seen(fabric).split(' ')[1] ?? '', 16)).toBe(Math.floor(((cycles - 1) * 127) / 128) + 1);
  });

  test('beside an oscillator that nothing is made of, each at its own times', () => {
    const text = `
module t(input clk, input aux, output [31:0] y, output locked);
  wire a;
  corvane_clock_generator #(.MULTIPLY(4), .DIVIDE(1), .DIVIDE_A(2)) g (.clock_in(clk), .clock_a(a), .locked(locked));
  reg [15:0] n = 0, m = 0;
  always @(posedge a) n <= n + 1;
  always @(posedge aux) m <= m + 1;
  assign y = {n, m};
endmodule
`;
    const fabric = fabricOf(text, 10e6, 3e6);
    fabric.runUntil(100);
    // 20 MHz from the 65th rise of 10 MHz on, at 6.5 microseconds; 3 MHz from its first cycle on.
    const [made, plain] = [Math.floor((100 - 6.5) * 20) + 1, 300];
    expect(seen(fabric)).toBe(`1 ${(made * 65536 + plain).toString(16)}`);
  });

  test.each([[[3, 0, 0]], [[3, 4, 0]], [[5, 0, 7]]] as const)(
    'beside an oscillator whose registers look at theirs, dividers %j: as in the event-driven simulation',
    (dividers) => {
      const text = design({ multiply: 9, divide: 2, dividers: [...dividers] })
        .replace('input clk,', 'input clk, input aux,')
        .replace('reg [7:0] na = 0', 'reg [7:0] nx = 1; always @(posedge aux) nx <= nx * 3 + na + nk; reg [7:0] na = 0')
        .replace('na <= na + 1', 'na <= na + 1 + nx[3]');
      // Edges of both never fall together within these times.
      const [cycle, other] = [100_000, 73_906];
      const lock = cycle * (1 + LOCK * 2);
      const times = [lock - 11, lock + 11, lock + 1_000_033, lock + 9_000_033];
      const fabric = fabricOf(text, 1e12 / cycle, 1e12 / other);
      const got = times.map((time) => {
        fabric.runUntil(time / 1e6);
        return seen(fabric);
      });
      expect(got).toEqual(simulated(text, cycle, times, other));
    },
  );

  test('three oscillators that nothing is made of, each at its own times and in their order', () => {
    const text = `
module t(input clk, input aux, input more, output [31:0] y, output locked);
  reg [7:0] n = 0, m = 0, k = 0, seen = 0;
  always @(posedge clk) n <= n + 1;
  always @(posedge aux) m <= m + 1;
  always @(posedge more) begin k <= k + 1; seen <= seen * 3 + n + m; end
  assign y = {n, m, k, seen}, locked = 0;
endmodule
`;
    const fabric = fabricOf(text, 10e6, 3e6, 0.73e6);
    let [n, m, k, seen8] = [0, 0, 0, 0];
    const edges = [...edgesOf(10, 'n', 30), ...edgesOf(3, 'm', 30), ...edgesOf(0.73, 'k', 30)].sort(
      (a, b) => a.at - b.at,
    );
    for (const { of } of edges)
      if (of === 'n') n++;
      else if (of === 'm') m++;
      else {
        k++;
        seen8 = (seen8 * 3 + n + m) & 255;
      }
    for (let now = 0; now <= 30; now += 1.7) fabric.runUntil(now);
    fabric.runUntil(30.01);
    const word = ((n & 255) * 2 ** 24 + (m & 255) * 2 ** 16 + (k & 255) * 2 ** 8 + seen8) >>> 0;
    expect(seen(fabric)).toBe(`0 ${word.toString(16)}`);
  });

  test('rest while the oscillator stands, and begin anew behind a new lock', () => {
    const setting: Setting = { multiply: 4, divide: 2, dividers: [2, 0, 0] };
    const fabric = fabricOf(design(setting), 10e6);
    const lock = (1 + LOCK * 2) / 10;
    fabric.runUntil(lock + 1.02);
    const before = seen(fabric);
    expect(before[0]).toBe('1');
    for (let now = lock + 1.02; now < lock + 50; now += 7) fabric.runUntil(now, false);
    expect(seen(fabric)).toBe(`0${before.slice(1)}`);
    const again = lock + 50;
    fabric.runUntil(again, false);
    fabric.runUntil(again + lock - 0.12);
    expect(seen(fabric)[0]).toBe('0');
    fabric.runUntil(again + lock + 0.01);
    expect(seen(fabric)[0]).toBe('1');
  });
});
