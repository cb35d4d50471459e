// Clocks that logic makes: many edges at once against a model that follows each one.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { elaborate } from '../../hdl/index.ts';
import { optimise } from '../../netlist/index.ts';
import { Simulator } from './index.ts';

/** A divider, counters on both of its edges, and one on an edge of a counter. */
const DIVIDED = `module m(input clk, rst, pick, output [3:0] d, output [7:0] n, output [3:0] h, output [7:0] deep);
  reg [3:0] div = 0; reg [7:0] up = 0; reg [3:0] half = 0; reg [7:0] far = 0;
  wire slow = pick ? div[3] : div[1];
  always @(posedge clk or posedge rst) if (rst) div <= 0; else div <= div + 1;
  always @(posedge slow or posedge rst) if (rst) up <= 0; else up <= up + 3;
  always @(negedge slow) half <= up;
  always @(posedge up[1]) far <= far + half;
  assign d = div, n = up, h = half, deep = far;
endmodule`;

/** The same, edge by edge. */
class Model {
  div = 0;
  up = 0;
  half = 0;
  far = 0;
  rst = 0;
  pick = 0;
  #slow = 0;
  #bit = 0;

  clock(): void {
    this.div = this.rst ? 0 : (this.div + 1) & 15;
    this.follow();
  }

  /** Sets off what moves, until nothing does. */
  follow(): void {
    if (this.rst) this.div = this.up = 0;
    for (let moved = true; moved; ) {
      moved = false;
      const slow = (this.div >> (this.pick ? 3 : 1)) & 1;
      if (slow !== this.#slow) {
        this.#slow = slow;
        moved = true;
        if (!slow) this.half = this.up & 15;
        else this.up = this.rst ? 0 : (this.up + 3) & 255;
      }
      const bit = (this.up >> 1) & 1;
      if (bit !== this.#bit) {
        this.#bit = bit;
        moved = true;
        if (bit) this.far = (this.far + this.half) & 255;
      }
    }
  }
}

const simulated = (text: string, backend: 'wasm' | 'javascript') => {
  const { netlist, messages } = elaborate([{ name: 't.v', text }], { top: 'm' });
  if (!netlist) throw new Error(JSON.stringify(messages.list));
  return new Simulator(optimise(netlist).netlist, backend);
};

describe('clocks that logic makes', () => {
  test.each(['wasm', 'javascript'] as const)('many edges at once are as each alone (%s)', (backend) => {
    const steps = fc.array(
      fc.record({
        edges: fc.integer({ min: 0, max: 90 }),
        rst: fc.constantFrom(0, 0, 0, 1),
        pick: fc.constantFrom(0, 0, 1),
      }),
      { minLength: 1, maxLength: 12 },
    );
    const sim = simulated(DIVIDED, backend);
    fc.assert(
      fc.property(steps, (list) => {
        sim.powerUp();
        const model = new Model();
        for (const { edges, rst, pick } of list) {
          for (const [name, value] of Object.entries({ rst, pick })) sim.setInput(name, BigInt(value));
          sim.settle();
          Object.assign(model, { rst, pick });
          model.follow();
          sim.step(sim.domain('clk'), edges);
          for (let i = 0; i < edges; i++) model.clock();
          const { div, up, half, far } = model;
          expect(['d', 'n', 'h', 'deep'].map((name) => Number(sim.getOutput(name)))).toEqual([div, up, half, far]);
        }
      }),
      { numRuns: 120 },
    );
  });

  test.each(['wasm', 'javascript'] as const)('two clocks by turns set off what each of them moves (%s)', (backend) => {
    // Two dividers, and a count on the edges of both at once: of two that are due together the first clock's comes first.
    const sim = simulated(
      `module m(input clk, other, output [7:0] n); reg [2:0] p = 0; reg [3:0] q = 0; reg [7:0] c = 1; wire d = p[2] ^ q[3];
        always @(posedge clk) p <= p + 1; always @(posedge other) q <= q + 1;
        always @(posedge d) c <= c * 3 + {p, q}; assign n = c; endmodule`,
      backend,
    );
    const model = { p: 0, q: 0, c: 1, d: 0 };
    const follow = () => {
      const d = (model.p >> 2) ^ (model.q >> 3);
      if (d > model.d) model.c = (model.c * 3 + model.p * 16 + model.q) & 255;
      model.d = d;
    };
    let [dueA, dueB] = [3, 4];
    for (const [a, b] of [
      [40, 30],
      [7, 0],
      [0, 9],
      [400, 300],
    ] as const) {
      const due = [
        ...Array.from({ length: a }, (_, i) => ({ at: dueA + 3 * i, isFirst: true })),
        ...Array.from({ length: b }, (_, i) => ({ at: dueB + 4 * i, isFirst: false })),
      ].sort((x, y) => x.at - y.at || Number(y.isFirst) - Number(x.isFirst));
      for (const { isFirst } of due) {
        if (isFirst) model.p = (model.p + 1) & 7;
        else model.q = (model.q + 1) & 15;
        follow();
      }
      sim.interleave(
        { domain: sim.domain('clk'), count: a, next: dueA, step: 3 },
        { domain: sim.domain('other'), count: b, next: dueB, step: 4 },
      );
      [dueA, dueB] = [dueA + 3 * a, dueB + 4 * b];
      expect(Number(sim.getOutput('n'))).toBe(model.c);
    }
  });

  test.each(['wasm', 'javascript'] as const)(
    'a row of edges that come together or alone, each followed (%s)',
    (backend) => {
      // The divider falls and rises; both clocks at once take what stood before either.
      const sim = simulated(
        `module m(input clk, other, output [7:0] n, output [7:0] k); reg [1:0] p = 0; reg [7:0] c = 0, w = 0; wire d = p[1];
        always @(posedge clk) p <= p + 1; always @(posedge d) c <= c + 1; always @(posedge other) w <= w + p + c;
        assign n = c, k = w; endmodule`,
        backend,
      );
      const [clk, other] = [sim.domain('clk'), sim.domain('other')];
      const run = sim.row([
        { domains: [clk], times: 3 },
        { domains: [clk, other], times: 1 },
      ]);
      run(50);
      let [p, c, w] = [0, 0, 0];
      const clock = () => {
        p = (p + 1) & 3;
        if (p === 2) c++;
      };
      for (let turn = 0; turn < 50; turn++) {
        for (let i = 0; i < 3; i++) clock();
        w = (w + p + c) & 255;
        clock();
      }
      expect([sim.getOutput('n'), sim.getOutput('k')]).toEqual([BigInt(c), BigInt(w)]);
    },
  );

  test.each(['wasm', 'javascript'] as const)(
    'many edges of a clock that is gated, each with its rise and fall (%s)',
    (backend) => {
      const sim = simulated(
        `module m(input clk, input e, input [3:0] i, output [7:0] n, f, t); reg [7:0] p = 0, c = 0, l = 0; wire g = clk & e;
        always @(posedge clk) p <= p + 1; always @(posedge g) c <= c + 1; always @(negedge g) l <= l + i;
        assign n = c, f = l, t = p; endmodule`,
        backend,
      );
      sim.setInput('i', 5n);
      for (const e of [1n, 0n, 1n]) {
        sim.setInput('e', e);
        sim.step(sim.domain('clk'), 40);
      }
      expect(['n', 'f', 't'].map((name) => Number(sim.getOutput(name)))).toEqual([80, (80 * 5) & 255, 120]);
    },
  );

  test('a gated clock has its edges within one of its clock’s', () => {
    const sim = simulated(
      'module m(input clk, output [3:0] n, output [7:0] all); reg en = 0; reg [3:0] c = 0; reg [7:0] t = 0; wire g = clk & en; ' +
        'always @(negedge clk) en <= ~en; always @(posedge g) c <= c + 1; always @(posedge clk) t <= t + 1; assign n = c, all = t; endmodule',
      'wasm',
    );
    for (let i = 0; i < 20; i++) {
      sim.step(sim.domain('clk'));
      sim.step(sim.domain('clk', 'negedge'));
    }
    expect([sim.getOutput('n'), sim.getOutput('all')]).toEqual([10n, 20n]);
  });

  test('a reset that lasts for one cycle clears what another clock drives', () => {
    const sim = simulated(
      'module m(input clk, output [7:0] n); reg [5:0] t = 0; wire now = t == 40; wire slow = t[1]; reg [7:0] c = 0; always @(posedge clk) ' +
        't <= t + 1; always @(posedge slow or posedge now) if (now) c <= 0; else c <= c + 1; assign n = c; endmodule',
      'wasm',
    );
    sim.step(sim.domain('clk'), 39);
    expect(sim.getOutput('n')).toBe(10n);
    sim.step(sim.domain('clk'), 3);
    expect(sim.getOutput('n')).toBe(1n);
  });
});
