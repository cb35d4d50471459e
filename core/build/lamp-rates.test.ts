// Lamps on counters in many styles; every rate is held against counting rises in a simulation of the same source.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { elaborate } from '../hdl/index.ts';
import { optimise } from '../netlist/index.ts';
import { Simulator } from '../sim/fabric/index.ts';
import { lampRates } from './lamp-rates.ts';

const F = 12e6;

function read(body: string, ports = '') {
  const { netlist, messages } = elaborate([
    { name: 't.v', text: `module t(input clk, input rst, input en${ports}, output [7:0] y);\n${body}\nendmodule` },
  ]);
  if (!netlist) throw new Error(messages.list.map(({ message }) => message).join(' '));
  return optimise(netlist).netlist;
}

const rates = (body: string) => lampRates(read(body), { clk: F });

/** Rises of each output bit a clock, over whole periods of the design. */
function measured(body: string, cycles: number): number[] {
  const simulator = new Simulator(read(body));
  simulator.setInput('rst', 0n);
  simulator.setInput('en', 1n);
  const domain = simulator.domain('clk');
  const rises = Array<number>(8).fill(0);
  // What comes before the first time round may be of another kind.
  for (let i = 0; i < cycles; i++) simulator.step(domain);
  let before = simulator.getOutput('y');
  for (let i = 0; i < cycles; i++) {
    simulator.step(domain);
    const now = simulator.getOutput('y');
    for (let bit = 0; bit < 8; bit++)
      if (((now >> BigInt(bit)) & 1n) === 1n && ((before >> BigInt(bit)) & 1n) === 0n)
        rises[bit] = (rises[bit] as number) + 1;
    before = now;
  }
  return rises.map((count) => count / cycles);
}

const STYLES: readonly (readonly [name: string, body: (n: number) => string])[] = [
  ['free running', () => 'reg [7:0] c = 0; always @(posedge clk) c <= c + 1; assign y = c;'],
  [
    'with a synchronous reset',
    () => 'reg [7:0] c = 0; always @(posedge clk) if (rst) c <= 0; else c <= c + 1; assign y = c;',
  ],
  [
    'with an asynchronous reset and an enable',
    () =>
      'reg [7:0] c = 0; always @(posedge clk or posedge rst) if (rst) c <= 0; else if (en) c <= c + 1; assign y = c;',
  ],
  ['that adds its enable', () => 'reg [7:0] c = 0; always @(posedge clk) c <= c + en; assign y = c;'],
  [
    'that wraps at N',
    (n) => `reg [7:0] c = 0; always @(posedge clk) if (c == ${n - 1}) c <= 0; else c <= c + 1; assign y = c;`,
  ],
  [
    'that wraps by less-than, reset first',
    (n) => `reg [7:0] c = 0; always @(posedge clk) if (rst) c <= 0; else c <= c < ${n - 1} ? c + 1 : 0; assign y = c;`,
  ],
  [
    'that wraps by a last assignment',
    (n) => `reg [7:0] c = 0; always @(posedge clk) begin c <= c + 1; if (c >= ${n - 1}) c <= 0; end assign y = c;`,
  ],
  [
    'that counts down and reloads',
    (n) => `reg [7:0] c = 0; always @(posedge clk) if (c == 0) c <= ${n - 1}; else c <= c - 1; assign y = c;`,
  ],
  [
    'a divider that toggles a lamp',
    (n) =>
      `reg [7:0] c = 0; reg led = 0; always @(posedge clk) if (c == ${n - 1}) begin c <= 0; led <= ~led; end ` +
      "else c <= c + 1; assign y = {7'b0, led};",
  ],
  [
    'a counter behind a prescaler',
    (n) =>
      `reg [7:0] p = 0; reg [2:0] c = 0; wire tick = p == ${n - 1}; always @(posedge clk) begin p <= tick ? 0 : ` +
      "p + 1; if (tick) c <= c + 1; end assign y = {5'b0, c};",
  ],
  [
    'a counter behind a tick kept in a register',
    (n) =>
      `reg [7:0] p = 0; reg tick = 0; reg [2:0] c = 0; always @(posedge clk) begin p <= p == ${n - 1} ? 0 : p + ` +
      `1; tick <= p == ${n - 1}; if (tick) c <= c + 1; end assign y = {5'b0, c};`,
  ],
];

describe('lamps on counters', () => {
  test.each(STYLES)('a counter %s blinks as its simulation does', (_, body) => {
    fc.assert(
      fc.property(fc.integer({ min: 3, max: 200 }), (n) => {
        const found = rates(body(n));
        const counted = measured(body(n), 256 * 8 * n);
        for (let bit = 0; bit < 8; bit++)
          expect((found.find((rate) => rate.bit === bit)?.hertz ?? 0) / F).toBeCloseTo(counted[bit] as number, 3);
      }),
      { numRuns: 6 },
    );
  });

  test('a wide divider is not counted state by state: 12 MHz wrapped at 6 000 000 toggles a lamp once a second (common practice)', () => {
    const [rate] = rates(
      'reg [22:0] c = 0; reg led = 0; always @(posedge clk) if (rst) begin c <= 0; led <= 0; end else if (c == ' +
        "23'd5999999) begin c <= 0; led <= ~led; end else c <= c + 1; assign y = {7'b0, led};",
    );
    expect(rate).toMatchObject({ bit: 0, clock: 'clk', hertz: expect.closeTo(1, 9), while: [] });
  });

  test('bit n of a wide free-running counter is f / 2^(n+1), with an enable too, which is named', () => {
    const found = rates(
      'reg [25:0] c = 0; always @(posedge clk) if (rst) c <= 0; else if (en) c <= c + 1; assign y = c[25:18];',
    );
    expect(found.map(({ n, hertz }) => [n, hertz])).toEqual(
      Array.from({ length: 8 }, (_, i) => [18 + i, F / 2 ** (19 + i)]),
    );
    expect(found[0]?.while).toEqual([{ signal: 't.en', value: 1 }]);
    expect(found[0]?.period).toBe(String(2 ** 26));
  });

  test('what is no counter is not called one', () => {
    expect(rates('reg [7:0] c = 0; always @(posedge clk) c <= {c[6:0], en}; assign y = c;')).toEqual([]);
    expect(
      rates(
        'reg [15:0] c = 1; always @(posedge clk) c <= {c[14:0], c[15] ^ c[13] ^ c[12] ^ c[10]}; assign y = c[7:0];',
      ),
    ).toEqual([]);
  });
});
