import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { run } from '../../../tests/support/fabric.ts';
import { elaborate } from '../../hdl/index.ts';
import { evaluateConstant, NetBuilder, optimise } from '../../netlist/index.ts';
import type { BinaryOp, ComputedOp } from '../../netlist/types.ts';
import { Simulator } from './index.ts';

const BINARY: readonly BinaryOp[] = ['and', 'or', 'xor', 'add', 'sub', 'mul', 'eq', 'ltu', 'lts', 'shl', 'shr', 'sra'];
const ONE_BIT = new Set<ComputedOp>(['eq', 'ltu', 'lts', 'redand', 'redor', 'redxor']);

function built(op: ComputedOp, width: number, widths: readonly number[], lo = 0): Simulator[] {
  const build = new NetBuilder();
  const args = widths.map((w, i) => build.input(`i${i}`, w));
  const node =
    op === 'slice'
      ? build.slice(args[0] as number, lo, width)
      : op === 'concat'
        ? build.concat(args)
        : build.make(op, width, args);
  build.netlist.outputs.push({ name: 'out', node, width });
  const { netlist } = optimise(build.netlist);
  return [new Simulator(netlist, 'wasm'), new Simulator(netlist, 'javascript')];
}

function agrees(op: ComputedOp, width: number, widths: readonly number[], values: readonly bigint[], lo = 0): void {
  const cut = values.map((value, i) => BigInt.asUintN(widths[i] as number, value));
  const expected = evaluateConstant(op, width, cut, widths, lo);
  for (const simulator of built(op, width, widths, lo)) {
    for (const [i, value] of cut.entries()) simulator.setInput(`i${i}`, value);
    expect(simulator.getOutput('out')).toBe(expected);
  }
}

const word = fc.bigInt({ min: 0n, max: (1n << 130n) - 1n });
const width = fc.oneof(fc.integer({ min: 1, max: 130 }), fc.constantFrom(1, 31, 32, 33, 64, 65, 96));

describe('compiled code computes what the operator means, whatever the width', () => {
  test.each(BINARY)('%s', (op) => {
    fc.assert(
      fc.property(width, word, word, (w, a, b) => agrees(op, ONE_BIT.has(op) ? 1 : w, [w, w], [a, b])),
      { numRuns: 150 },
    );
  });

  test.each(['shl', 'shr', 'sra'] as const)('%s by a narrow amount', (op) => {
    fc.assert(
      fc.property(width, fc.integer({ min: 1, max: 8 }), word, word, (w, s, a, b) => agrees(op, w, [w, s], [a, b])),
      { numRuns: 150 },
    );
  });

  test.each(['not', 'redand', 'redor', 'redxor'] as const)('%s', (op) => {
    fc.assert(
      fc.property(width, fc.oneof(word, fc.constant((1n << 130n) - 1n)), (w, a) =>
        agrees(op, op === 'not' ? w : 1, [w], [a]),
      ),
      { numRuns: 100 },
    );
  });

  test.each(['divu', 'modu', 'divs', 'mods'] as const)('%s up to 32 bits', (op) => {
    const few = fc.oneof(word, fc.constantFrom(0n, 1n, 0x80000000n, 0xffffffffn));
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 32 }), few, few, (w, a, b) => agrees(op, w, [w, w], [a, b])),
      { numRuns: 200 },
    );
  });

  test('mux, concat, slice and sign extension', () => {
    fc.assert(
      fc.property(width, word, word, word, (w, s, a, b) => agrees('mux', w, [1, w, w], [s, a, b])),
      { numRuns: 60 },
    );
    fc.assert(
      fc.property(width, width, width, word, (a, b, c, v) =>
        agrees('concat', a + b + c, [a, b, c], [v, v >> 3n, v >> 7n]),
      ),
      { numRuns: 100 },
    );
    fc.assert(
      fc.property(width, width, fc.nat(129), word, (a, b, lo, v) =>
        lo + b <= a ? agrees('slice', b, [a], [v], lo) : undefined,
      ),
      { numRuns: 300 },
    );
    fc.assert(
      fc.property(width, width, word, (a, b, v) => (a < b ? agrees('sext', b, [a], [v]) : undefined)),
      { numRuns: 150 },
    );
  });
});

describe('registers and memories', () => {
  test('a swap of two registers needs no third: both read before either changes', () => {
    const text = `module m(input clk, input en, output [7:0] x, output [7:0] y);
      reg [7:0] a = 8'd1, b = 8'd2;
      always @(posedge clk) if (en) a <= b;
      always @(posedge clk) b <= a;
      assign x = a; assign y = b; endmodule`;
    for (const backend of ['wasm', 'javascript'] as const) {
      const sim = run(text, backend);
      sim.setInput('en', 1n);
      sim.step(sim.domain('clk'), 3);
      expect([sim.getOutput('x'), sim.getOutput('y')]).toEqual([2n, 1n]);
      sim.setInput('en', 0n);
      sim.step(sim.domain('clk'), 1);
      expect([sim.getOutput('x'), sim.getOutput('y')]).toEqual([2n, 2n]);
    }
  });

  test('an asynchronous reset acts without a clock and wins over it', () => {
    const sim = run(`module m(input clk, input rst_n, output reg [3:0] q);
      always @(posedge clk or negedge rst_n) if (!rst_n) q <= 4'd9; else q <= q + 1; endmodule`);
    expect(sim.getOutput('q')).toBe(9n);
    sim.step(sim.domain('clk'), 3);
    expect(sim.getOutput('q')).toBe(9n);
    sim.setInput('rst_n', 1n);
    sim.step(sim.domain('clk'), 3);
    expect(sim.getOutput('q')).toBe(12n);
  });

  test('a memory read in the cycle of a write gives the old word', () => {
    const sim = run(`module m(input clk, input we, input [3:0] a, input [39:0] d, output reg [39:0] q);
      reg [39:0] mem [0:15];
      always @(posedge clk) begin if (we) mem[a] <= d; q <= mem[a]; end endmodule`);
    sim.setInput('we', 1n);
    sim.setInput('a', 5n);
    sim.setInput('d', 0xabcdef1234n);
    sim.step(sim.domain('clk'));
    expect(sim.getOutput('q')).toBe(0n);
    sim.setInput('we', 0n);
    sim.step(sim.domain('clk'));
    expect(sim.getOutput('q')).toBe(0xabcdef1234n);
  });

  test('two clocks step their own registers only', () => {
    const sim = run(`module m(input a, input b, output reg [7:0] x, output reg [7:0] y);
      always @(posedge a) x <= x + 1; always @(negedge b) y <= y + x; endmodule`);
    sim.step(sim.domain('a'), 3);
    sim.step(sim.domain('b', 'negedge'), 2);
    expect([sim.getOutput('x'), sim.getOutput('y')]).toEqual([3n, 6n]);
  });

  test('edges of two clocks by turns come in the order in which they are due, whatever their rates', () => {
    // The order shows: each clock mixes what the other left.
    const text = `module m(input a, input b, output reg [31:0] x, output reg [31:0] y);
      initial begin x = 1; y = 2; end always @(posedge a) x <= x * 5 + y; always @(posedge b) y <= y * 3 + x; endmodule`;
    const { netlist } = elaborate([{ name: 'm.v', text }]);
    if (!netlist) throw new Error('does not elaborate');
    const small = optimise(netlist).netlist;
    fc.assert(
      fc.property(
        fc.nat(60),
        fc.nat(60),
        fc.integer({ min: 1, max: 90 }),
        fc.integer({ min: 1, max: 90 }),
        fc.nat(50),
        (countA, countB, stepA, stepB, firstB) => {
          const due = [
            ...Array.from({ length: countA }, (_, i) => ({ clock: 'a', at: 1 + i * stepA })),
            ...Array.from({ length: countB }, (_, i) => ({ clock: 'b', at: firstB + i * stepB })),
          ].sort((p, q) => p.at - q.at || (p.clock < q.clock ? -1 : 1));
          let [x, y] = [1n, 2n];
          for (const { clock } of due) {
            if (clock === 'a') x = BigInt.asUintN(32, x * 5n + y);
            else y = BigInt.asUintN(32, y * 3n + x);
          }
          for (const backend of ['wasm', 'javascript'] as const) {
            const sim = new Simulator(small, backend);
            sim.interleave(
              { domain: sim.domain('a'), count: countA, next: 1, step: stepA },
              { domain: sim.domain('b'), count: countB, next: firstB, step: stepB },
            );
            expect([sim.getOutput('x'), sim.getOutput('y')], backend).toEqual([x, y]);
          }
        },
      ),
    );
  });

  // ITU-T O.150: x^7+x^6+1 has period 127, x^15+x^14+1 has period 32767 (values from memory).
  test.each([
    [7, 6, 127],
    [15, 14, 32767],
  ])('x^%i+x^%i+1 comes back after %i steps and not before', (n, tap, period) => {
    const sim = run(`module m(input clk, output [${n - 1}:0] q);
      reg [${n - 1}:0] s = 1; always @(posedge clk) s <= {s[${n - 2}:0], s[${n - 1}] ^ s[${tap - 1}]}; assign q = s; endmodule`);
    const clock = sim.domain('clk');
    let steps = 0;
    do {
      sim.step(clock);
      steps++;
    } while (sim.getOutput('q') !== 1n && steps <= period);
    expect(steps).toBe(period);
  });

  // Common practice: bit n of a free-running counter at f is a square wave of f / 2^(n+1).
  test('bit n of a counter toggles every 2^n clocks', () => {
    const sim = run(
      'module m(input clk, output [7:0] q); reg [7:0] c = 0; always @(posedge clk) c <= c + 1; assign q = c; endmodule',
    );
    for (let n = 0; n < 8; n++) {
      sim.powerUp();
      let toggles = 0;
      let last = 0n;
      for (let i = 0; i < 256; i++) {
        sim.step(sim.domain('clk'));
        const bit = (sim.getOutput('q') >> BigInt(n)) & 1n;
        if (bit !== last) toggles++;
        last = bit;
      }
      expect(toggles).toBe(256 / 2 ** n);
    }
  });
});
