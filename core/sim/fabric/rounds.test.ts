// Edges of several clocks in one go, against a list of them that is sorted by time.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { netlistOf } from '../../../tests/support/calm-and-plain.ts';
import { Simulator } from './index.ts';

/** Every clock mixes its own number into one word through its own register, so that the order of all edges tells. */
const TEXT = `module m(input a, b, c, d, output [31:0] x);
  reg [31:0] ra = 1, rb = 2, rc = 3, rd = 4;
  always @(posedge a) ra <= ra * 5 + rb + rc + rd;
  always @(posedge b) rb <= rb * 3 + (ra ^ rc);
  always @(posedge c) rc <= rc * 7 + (ra ^ rd);
  always @(posedge d) rd <= rd * 9 + (rb ^ rc);
  assign x = ra ^ (rb << 1) ^ (rc << 2) ^ (rd << 3); endmodule`;

/** The same by hand, registers of one moment from what stood before. */
class Model {
  readonly #now = [1, 2, 3, 4];

  at(due: readonly number[]): void {
    const [a = 0, b = 0, c = 0, d = 0] = this.#now;
    const next = [
      Math.imul(a, 5) + b + c + d,
      Math.imul(b, 3) + (a ^ c),
      Math.imul(c, 7) + (a ^ d),
      Math.imul(d, 9) + (b ^ c),
    ];
    for (const i of due) this.#now[i] = (next[i] ?? 0) | 0;
  }

  get x(): number {
    const [a = 0, b = 0, c = 0, d = 0] = this.#now;
    return (a ^ (b << 1) ^ (c << 2) ^ (d << 3)) >>> 0;
  }
}

describe('rounds', () => {
  test.each(['wasm', 'javascript'] as const)('two clocks that keep time, two that do not (%s)', (backend) => {
    const sim = new Simulator(netlistOf(TEXT), backend);
    const domains = ['a', 'b', 'c', 'd'].map((name) => sim.domain(name));
    const run = sim.rounds(domains, [[0], [1], [0, 1]], [2, 3]);
    const period = fc.double({ min: 1.5, max: 9, noNaN: true });
    fc.assert(
      fc.property(
        period,
        period,
        fc.array(fc.double({ min: 0, max: 60, noNaN: true }), { maxLength: 6 }),
        (c, d, ends) => {
          sim.powerUp();
          const model = new Model();
          // Whole numbers of ticks for the first two; the others begin beside any of them.
          const step = [4, 6, c, d];
          const next = [4, 6, 0.25 + c, 0.125 + d];
          const due = [...next];
          let now = 0;
          for (const more of ends) {
            now += more;
            run(next, step, now);
            for (;;) {
              const at = Math.min(...due);
              if (at > now) break;
              const timed = [0, 1].filter((i) => due[i] === at);
              const other = [2, 3].filter((i) => due[i] === at);
              // What keeps time comes first where both are due, and of others the first one.
              const these = timed.length > 0 ? timed : other.slice(0, 1);
              model.at(these);
              for (const i of these) due[i] = (due[i] ?? 0) + (step[i] ?? 0);
            }
            expect(next).toEqual(due);
            expect(Number(sim.getOutput('x'))).toBe(model.x);
          }
        },
      ),
      { numRuns: 80 },
    );
  });

  test('two clocks alone are as two that take turns', () => {
    const [rounds, turns] = [new Simulator(netlistOf(TEXT)), new Simulator(netlistOf(TEXT))];
    const [a, b] = [rounds.domain('a'), rounds.domain('b')];
    const next = [2, 3.5];
    rounds.rounds([a, b], [[0]], [1])(next, [2, 3.5], 7000);
    turns.interleave({ domain: a, count: 3500, next: 2, step: 2 }, { domain: b, count: 2000, next: 3.5, step: 3.5 });
    expect(next).toEqual([7002, 7003.5]);
    expect(rounds.getOutput('x')).toBe(turns.getOutput('x'));
  });
});
