// What a design writes down of its outputs, against the same design without a log, looked at after every clock edge.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { madeFabric } from '../../tests/support/made-fabric.ts';
import type { Followed } from './edge-log.ts';

interface Heard {
  readonly part: number;
  readonly at: number;
  readonly levels: number;
}

/** A line that says something now and then, from a shift register behind a counter; most edges change nothing. */
const NOW_AND_THEN = (edge: string, output = 'line') => `
  reg [16:0] n = 0; reg [8:0] bits = 9'h1a5; reg line_r = 1; reg clear = 0;
  always @(${edge} clk) begin
    n <= n + 1;
    if (n[16:8] == 9'd77 && n[3:0] == 0) begin line_r <= bits[0]; bits <= {bits[0] ^ bits[4], bits[8:1]}; end
    clear <= n[15];
  end
  assign ${output} = line_r;`;

/** Everything that is told while time passes in steps of these lengths. */
function told(
  text: string,
  ports: readonly string[],
  hz: Record<string, number>,
  of: readonly Followed[],
  steps: readonly number[],
) {
  const heard: Heard[] = [];
  const moved = (part: number, at: number, levels: number) => void heard.push({ part, at, levels });
  const fabric = madeFabric(text, ports, hz, { followed: of, moved });
  let now = 0;
  for (const step of steps) fabric.runUntil((now += step));
  return heard;
}

/** The same by looking at the pins after every edge of a clock: levels at first, and each change with its edge's time. */
function looked(
  text: string,
  ports: readonly string[],
  hz: number,
  { moving, carried }: Followed,
  until: number,
): Heard[] {
  const fabric = madeFabric(text, ports, { clk: hz });
  const levels = () =>
    [...moving, ...carried].reduce((sum, pin, i) => (fabric.pin(pin) === false ? sum : sum | (1 << i)), 0);
  const heard: Heard[] = [{ part: 0, at: 0, levels: levels() }];
  const mask = 2 ** moving.length - 1;
  for (let edge = 1; edge / hz <= until / 1e6; edge++) {
    fabric.runUntil((edge * 1e6) / hz + 1e-4);
    const now = levels();
    const last = heard.at(-1)?.levels ?? 0;
    if ((now ^ last) & mask) heard.push({ part: 0, at: (edge * 1e6) / hz, levels: now });
  }
  return heard;
}

const rounded = (heard: readonly Heard[]) => heard.map(({ at, levels }) => `${at.toFixed(3)} ${levels}`);
const HZ = 12e6;
const steps = fc.array(fc.double({ min: 0.05, max: 700, noNaN: true }), { minLength: 1, maxLength: 40 });

describe('an edge log', () => {
  test('has every change of a line with the time of its edge, in whatever steps time passes', () => {
    const text = `module t(input clk, output line);${NOW_AND_THEN('posedge')}endmodule`;
    const of = { moving: ['line'], carried: [] };
    const expected = rounded(looked(text, ['clk', 'line'], HZ, of, 12_000));
    expect(expected.length).toBeGreaterThan(5);
    fc.assert(
      fc.property(steps, (lengths) => {
        const sum = lengths.reduce((all, one) => all + one, 0);
        const all = told(text, ['clk', 'line'], { clk: HZ }, [of], [...lengths, Math.max(1, 12_000 - sum)]);
        const until = Math.max(12_000, sum);
        const wanted = until > 12_000 ? rounded(looked(text, ['clk', 'line'], HZ, of, until)) : expected;
        // An edge is written down with the next one of the clock.
        expect(rounded(all)).toEqual(wanted.slice(0, all.length));
        expect(wanted.length - all.length).toBeLessThanOrEqual(1);
      }),
      { numRuns: 12 },
    );
  });

  test('follows pins of the falling edge, logic behind registers, and what floats as pulled up', () => {
    const one = `module t(input clk, output line);${NOW_AND_THEN('negedge')}endmodule`;
    const of = { moving: ['line'], carried: [] };
    expect(told(one, ['clk', 'line'], { clk: HZ }, [of], [6000]).length).toBeGreaterThan(3);
    const floating = `module t(input clk, output line);
      reg [9:0] n = 0; always @(posedge clk) n <= n + 1;
      assign line = n[9] ? 1'bz : n[7];
    endmodule`;
    const all = told(floating, ['clk', 'line'], { clk: HZ }, [of], [400]);
    expect(rounded(all)).toEqual(rounded(looked(floating, ['clk', 'line'], HZ, of, 400)).slice(0, all.length));
    expect(all.length).toBeGreaterThan(10);
  });

  test('tells carried pins with those that move it, and several parts each their own', () => {
    const text = `module t(input clk, output e, output d, output line);
      reg [11:0] n = 0; always @(posedge clk) n <= n + 1;
      assign e = n[11:4] == 8'd9; assign d = n[6]; assign line = n[10];
    endmodule`;
    const parts = [
      { moving: ['e'], carried: ['d'] },
      { moving: ['line'], carried: [] },
    ];
    const all = told(text, ['clk', 'e', 'd', 'line'], { clk: HZ }, parts, [1200]);
    const own = (part: number) => rounded(all.filter((one) => one.part === part));
    for (const [part, of] of parts.entries()) {
      const expected = rounded(looked(text, ['clk', 'e', 'd', 'line'], HZ, of, 1200));
      expect(own(part)).toEqual(expected.slice(0, own(part).length));
      expect(own(part).length).toBeGreaterThan(3);
    }
  });

  test('of two clocks in one pin the faster one keeps the time: no change is off by more than its cycle', () => {
    const text = `module t(input clk, input aux, output line);
      reg [9:0] n = 0; reg [6:0] m = 0;
      always @(posedge clk) n <= n + 1; always @(posedge aux) m <= m + 1;
      assign line = n[9] ^ m[6];
    endmodule`;
    const of = { moving: ['line'], carried: [] };
    const all = told(text, ['clk', 'aux', 'line'], { clk: HZ, aux: 1.7e6 }, [of], [2000]);
    const changes = (hz: number, period: number) =>
      Array.from({ length: Math.floor((2000 * hz) / 1e6 / period) }, (_, i) => ((i + 1) * period * 1e6) / hz);
    const expected = [...changes(HZ, 512), ...changes(1.7e6, 64)].sort((a, b) => a - b);
    for (const { at } of all.slice(1))
      expect(Math.min(...expected.map((one) => Math.abs(at - one)))).toBeLessThan(1e6 / HZ);
    // What goes and comes back within one cycle is not seen.
    const isAlone = (at: number) => expected.filter((one) => Math.abs(one - at) < 1.01e6 / HZ).length === 1;
    const alone = expected.filter(isAlone);
    expect(alone.length).toBeGreaterThan(80);
    for (const at of alone) expect(all.some((one) => Math.abs(one.at - at) < 1e6 / HZ)).toBe(true);
  });

  test('follows a clock that a generator makes, from its lock on', () => {
    const text = `module t(input clk, output line);
      wire fast;
      corvane_clock_generator #(.MULTIPLY(8), .DIVIDE(1), .DIVIDE_A(2)) g (
        .clock_in(clk), .clock_a(fast), .clock_b(), .clock_c(), .locked());
      reg [3:0] n = 0; always @(posedge fast) n <= n + 1;
      assign line = n[3];
    endmodule`;
    const all = told(text, ['clk', 'line'], { clk: HZ }, [{ moving: ['line'], carried: [] }], [3, 7, 11, 200]);
    const apart = all.slice(2).map(({ at }, i) => at - (all[i + 1]?.at ?? 0));
    // 48 MHz, a change every eight edges; the lock comes after 64 cycles of 12 MHz.
    for (const one of apart) expect(one).toBeCloseTo(8 / 48, 4);
    expect(all[1]?.at).toBeGreaterThan(64 / 12);
    expect(all.length).toBeGreaterThan(1000);
  });

  test('of more than it holds the newest is told, at the right times', () => {
    const text =
      'module t(input clk, output line); reg r = 0; always @(posedge clk) r <= ~r; assign line = r; endmodule';
    const all = told(text, ['clk', 'line'], { clk: HZ }, [{ moving: ['line'], carried: [] }], [2000]);
    expect(all.length).toBeLessThanOrEqual(4097);
    expect(all.at(-1)?.at).toBeGreaterThan(1999);
    expect(all.slice(-2).map(({ at }) => at * 12)).toEqual([23_998, 23_999].map((edge) => expect.closeTo(edge, 3)));
  });

  test('a clock that stands writes nothing, and goes on where it was', () => {
    const text = `module t(input clk, output line); reg [4:0] n = 0; always @(posedge clk) n <= n + 1; assign line = n[4]; endmodule`;
    const heard: Heard[] = [];
    const moved = (part: number, at: number, levels: number) => void heard.push({ part, at, levels });
    const fabric = madeFabric(
      text,
      ['clk', 'line'],
      { clk: HZ },
      { followed: [{ moving: ['line'], carried: [] }], moved },
    );
    fabric.runUntil(100);
    const before = heard.length;
    for (let now = 100; now <= 300; now += 10) fabric.runUntil(now, false);
    expect(heard.length).toBe(before);
    fabric.runUntil(400);
    const [last, next] = [heard[before - 1], heard[before]];
    // Sixteen edges of 12 MHz and the 200 µs in which it stood.
    expect((next?.at ?? 0) - (last?.at ?? 0)).toBeCloseTo(200 + 16 / 12, 0);
  });
});
