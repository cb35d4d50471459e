// Edges at which little changes, run by code of their own: what is run is the same as edge by edge without it.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { randomDesign } from '../../../tests/support/random-design.ts';
import { chanceFrom } from '../../../tests/fuzz/index.ts';
import { Both, netlistOf } from '../../../tests/support/calm-and-plain.ts';
import { elaborate } from '../../hdl/index.ts';
import { optimise } from '../../netlist/index.ts';

/** Designs as people write them, each with what makes it hard: inputs `i` (8 bits) and `e` are changed now and then. */
const DESIGNS: Readonly<Record<string, string>> = {
  'a prescaler and what it enables': `reg [9:0] p = 0; reg [15:0] slow = 0; wire tick = p == 999;
    always @(posedge clk) begin p <= tick ? 0 : p + 1; if (tick) slow <= slow * 3 + i; end assign o = slow;`,
  'a prescaler as long as an input says': `reg [9:0] p = 0; reg [31:0] n = 0;
    always @(posedge clk) if (p >= {i, 2'b11}) begin p <= 0; n <= n + 1; end else p <= p + 1; assign o = n;`,
  'registers that change places': `reg [7:0] a = 1, b = 2, c = 3;
    always @(posedge clk) begin a <= b; b <= c; c <= a; end assign o = {a, b, c};`,
  'a display: digits by turns, from slow values': `reg [13:0] s = 0; reg [15:0] v = 1234; reg [7:0] seg = 0; reg [3:0] common = 0;
    wire [3:0] d = s[13:12] == 0 ? v[3:0] : s[13:12] == 1 ? v[7:4] : s[13:12] == 2 ? v[11:8] : v[15:12];
    always @(posedge clk) begin s <= s + 5; if (s[3:0] == 0) begin seg <= d * 9; common <= 1 << s[13:12]; end
      if (e) v <= v + i; end assign o = {common, seg};`,
  'a ring of samples that is read back': `reg [7:0] m [0:63]; reg [5:0] w = 0; reg [7:0] r = 0; reg [19:0] t = 0;
    always @(posedge clk) begin t <= t + 1; m[w] <= i; w <= w + 1; if (t[9:0] == 77) r <= m[t[5:0]]; end
    assign o = {r, w};`,
  'a memory that is written seldom and read always': `reg [7:0] m [0:15]; reg [11:0] t = 0; reg [7:0] r = 0;
    always @(posedge clk) begin t <= t + 1; if (t == 1000) m[i[3:0]] <= i; r <= m[t[11:8]]; end assign o = r;`,
  'a shift register with feedback, compared': `reg [18:0] l = 1; reg [7:0] hits = 0;
    always @(posedge clk) begin l <= {l[17:0], l[18] ^ l[5] ^ l[1] ^ l[0]}; if (l[11:0] == {i, 4'd7}) hits <= hits + 1; end
    assign o = hits;`,
  'an asynchronous reset from outside': `reg [15:0] a = 0; reg [3:0] b = 7; wire r = &i[1:0];
    always @(posedge clk or posedge r) if (r) a <= 5; else a <= a + 1;
    always @(posedge clk) if (a[12]) b <= b + 1; assign o = {a, b};`,
  'an asynchronous reset that a counter gives': `reg [9:0] a = 0; reg [7:0] n = 0; wire r = a == 700;
    always @(posedge clk) a <= a + 1;
    always @(posedge clk or posedge r) if (r) n <= 0; else if (a[3:0] == 0) n <= n + 1; assign o = {a, n};`,
  'wide words': `reg [69:0] a = 1; reg [99:0] b = 0; reg [9:0] p = 0;
    always @(posedge clk) begin a <= a * 3 + i; p <= p + 1; if (&p) b <= {b, a} ^ 5; end assign o = {b, a};`,
  'a state machine that waits': `reg [2:0] s = 0; reg [7:0] n = 0; reg [10:0] t = 0;
    always @(posedge clk) begin t <= t + 1; case (s) 0: if (e) s <= 1; 1: begin n <= i; s <= 2; end
      2: if (n == 0) s <= t[10] ? 3 : 4; else n <= n - 1; 3: s <= 0; default: if (&t) s <= 0; endcase end assign o = {s, n};`,
  'nothing but what rests': `reg [7:0] a = 0, b = 0; always @(posedge clk) begin a <= i; b <= a; end assign o = {a, b};`,
  'everything moves': `reg [7:0] a = 0, b = 1; always @(posedge clk) begin a <= a * 5 + b; b <= b * 3 + i; end assign o = {a, b};`,
};

const moduleOf = (body: string) =>
  `module m(input clk, input clk2, input [7:0] i, input e, output [169:0] o); ${body} endmodule`;

describe('edges at which little changes', () => {
  test.each(Object.entries(DESIGNS))('%s', (_, body) => {
    const both = new Both(netlistOf(moduleOf(body)));
    const chance = chanceFrom(body.length);
    for (let run = 0; run < 160; run++) {
      if (chance.below(4) === 0) both.set('i', BigInt(chance.below(256)));
      if (chance.below(6) === 0) both.set('e', BigInt(chance.below(2)));
      both.step('clk', chance.pick([1, 3, 7, 50, 200, 900]));
    }
    expect(both.calm).toBeGreaterThan(20);
  });

  test('two clocks that look at each other', () => {
    const both = new Both(
      netlistOf(
        moduleOf(`reg [11:0] a = 0; reg [9:0] b = 0; reg [7:0] seen = 0, far = 0; reg s1 = 0, s2 = 0, s3 = 0;
          always @(posedge clk) begin a <= a + 1; s1 <= b[9]; s2 <= s1; s3 <= s2; if (s2 != s3) seen <= seen + 1; end
          always @(posedge clk2) begin b <= b + 1; if (a[11:4] == i && b[1:0] == 0) far <= far + 1; end
          assign o = {seen, far, a, b};`),
      ),
    );
    const chance = chanceFrom(77);
    for (let run = 0; run < 200; run++) {
      if (chance.below(5) === 0) both.set('i', BigInt(chance.below(256)));
      const kind = chance.below(5);
      if (kind === 0) both.step(chance.pick(['clk', 'clk2']), 1 + chance.below(300));
      else {
        const steps = chance.pick([
          [10, 12],
          [12, 10],
          [7, 7],
          [1, 40],
        ] as const);
        both.interleave('clk', 'clk2', [chance.below(600), chance.below(600)], steps);
      }
    }
    expect(both.calm).toBeGreaterThan(50);
  });

  test('a memory that one clock writes and the other reads', () => {
    const both = new Both(
      netlistOf(
        moduleOf(`reg [7:0] m [0:7]; reg [9:0] a = 0; reg [11:0] b = 0; reg [7:0] r = 0;
          always @(posedge clk) begin a <= a + 1; if (a == 513) m[i[2:0]] <= m[i[2:0]] + 1; end
          always @(posedge clk2) begin b <= b + 1; r <= m[i[5:3]] + 1; end assign o = {a, b, r};`),
      ),
    );
    const chance = chanceFrom(5);
    for (let run = 0; run < 200; run++) {
      if (chance.below(9) === 0) both.set('i', BigInt(chance.below(256)));
      both.interleave('clk', 'clk2', [chance.below(400), chance.below(500)], [10, 8]);
    }
    expect(both.calm).toBeGreaterThan(50);
  });

  test('what is computed from a counter alone, looked at by itself again after a whole turn', () => {
    const both = new Both(
      netlistOf(
        moduleOf(`reg [3:0] c = 0; reg [31:0] r = 0, q = 0, k = 77;
          wire [31:0] x = ({8{c}} ^ k) * 32'd2654435761, y = (x ^ (x >> 15)) * 32'd2246822519, z = (y ^ (y >> 13)) * 32'd3266489917;
          always @(posedge clk) begin c <= c + 1; r <= z ^ (z >> 16); if (e) begin q <= r; k <= q; end end assign o = {q, r};`),
      ),
    );
    for (let run = 0; run < 20; run++) both.step('clk', 96);
    for (let run = 0; run < 100; run++) {
      both.step('clk', 1);
      both.step('clk', 6 + run);
    }
    expect(both.calm).toBeGreaterThan(100);
  });

  test.each(
    Object.entries({
      'a bit of a counter': `reg [9:0] p = 0; wire c = p[6]; reg [15:0] n = 0, k = 0;
        always @(posedge clk) begin p <= p + 1; k <= k + n[0]; end always @(posedge c) n <= n * 3 + i; assign o = {k, n, p};`,
      'both edges of one that toggles': `reg [7:0] p = 0; reg c = 0; reg [7:0] n = 0, m = 9;
        always @(posedge clk) if (p == 99) begin p <= 0; c <= ~c; end else p <= p + 1;
        always @(posedge c) n <= n + i; always @(negedge c) m <= m ^ n; assign o = {m, n, p};`,
      'one behind the other': `reg [5:0] p = 0; reg [3:0] q = 0; reg [7:0] n = 0; wire c = p[5]; wire d = q[2];
        always @(posedge clk) p <= p + 1; always @(posedge c) q <= q + 1; always @(posedge d) n <= n + i; assign o = {n, q};`,
      'one that waits for an input': `reg [7:0] p = 0; reg g = 0; wire c = p[4] & g; reg [7:0] n = 0;
        always @(posedge clk) begin p <= p + 1; g <= e; end always @(posedge c) n <= n + 1; assign o = {n, p};`,
      'with a reset that a counter gives': `reg [8:0] p = 0; wire c = p[3]; wire r = p == 300; reg [7:0] n = 0;
        always @(posedge clk) p <= p + 1; always @(posedge c or posedge r) if (r) n <= 0; else n <= n + 1; assign o = {n, p};`,
    }),
  )('a clock that logic makes: %s', (_, body) => {
    const both = new Both(netlistOf(moduleOf(body)));
    const chance = chanceFrom(body.length);
    for (let run = 0; run < 120; run++) {
      if (chance.below(5) === 0) both.set('i', BigInt(chance.below(256)));
      if (chance.below(9) === 0) both.set('e', BigInt(chance.below(2)));
      both.step('clk', chance.pick([1, 5, 40, 100, 700]));
    }
    expect(both.calm).toBeGreaterThan(20);
  });

  test.each(
    Object.entries({
      'a bit of one’s counter': `reg [8:0] p = 0; reg [7:0] b = 0, n = 0, seen = 0; wire c = p[5];
        always @(posedge clk) p <= p + 1; always @(posedge c) n <= n * 5 + b; always @(posedge clk2) begin b <= b + 1;
        if (b == i) seen <= n; end assign o = {seen, n, b, p};`,
      'what both of them count': `reg [8:0] p = 0; reg [7:0] b = 0, n = 0, m = 3; wire c = p[5] ^ b[4];
        always @(posedge clk) p <= p + 1; always @(posedge clk2) b <= b + 1; always @(posedge c) n <= n * 3 + b + p;
        always @(negedge c) m <= m + n; assign o = {m, n, b, p};`,
      'a divider of each': `reg [8:0] p = 0; reg [7:0] b = 0, n = 0, m = 3; wire c = p[6]; wire d = b[5];
        always @(posedge clk) p <= p + 1; always @(posedge clk2) b <= b + 3; always @(posedge c) n <= n + m + i;
        always @(posedge d) m <= m ^ n; assign o = {m, n, b, p};`,
    }),
  )('two clocks by turns, and a clock that logic makes of %s', (_, body) => {
    const both = new Both(netlistOf(moduleOf(body)));
    const chance = chanceFrom(body.length);
    for (let run = 0; run < 150; run++) {
      if (chance.below(7) === 0) both.set('i', BigInt(chance.below(256)));
      if (chance.below(4) === 0) both.step(chance.pick(['clk', 'clk2']), 1 + chance.below(300));
      else
        both.interleave(
          'clk',
          'clk2',
          [chance.below(500), chance.below(500)],
          chance.pick([
            [10, 12],
            [7, 7],
            [1, 33],
          ]),
        );
    }
    expect(both.calm).toBeGreaterThan(20);
  });

  // What is remembered of registers, inputs and words that do not move lies side by side, whatever their numbers are.
  test.each([1, 2, 3, 4, 5, 6])('%i registers, and one to four inputs, beside words that are kept', (registers) => {
    for (let inputs = 1; inputs <= 4; inputs++) {
      const each = (count: number, text: (i: number) => string) => Array.from({ length: count }, (_, i) => text(i));
      const both = new Both(
        netlistOf(`module m(input clk, ${each(inputs, (i) => `input [7:0] i${i}`).join(', ')}, output [31:0] o, output [7:0] n);
          reg [31:0] c = 0; assign o = c; assign n = ${each(registers, (i) => `r${i}`).join(' ^ ')} ^ 8'h55;
          ${each(registers, (i) => `reg [7:0] r${i} = ${i + 3}; always @(posedge clk) if (c[9:0] == ${i * 7 + 1}) r${i} <= r${i} + i${i % inputs};`).join(' ')}
          always @(posedge clk) c <= c + ((i0 ^ r0) * 5 + 1); endmodule`),
      );
      const chance = chanceFrom(registers * 10 + inputs);
      for (let run = 0; run < 60; run++) {
        if (chance.below(6) === 0) both.set(`i${chance.below(inputs)}`, BigInt(chance.below(256)));
        both.step('clk', chance.pick([1, 40, 130]));
      }
      expect(both.calm).toBeGreaterThan(10);
    }
  });

  test('power comes back: everything begins anew', () => {
    const both = new Both(netlistOf(moduleOf(item0())));
    for (let run = 0; run < 40; run++) both.step('clk', 100);
    for (const sim of [both.watched, both.plain]) sim.powerUp();
    for (let run = 0; run < 40; run++) both.step('clk', 100);
    expect(both.calm).toBeGreaterThan(30);
  });

  test('random designs whose inputs rest most of the time', () => {
    let calm = 0;
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1_000_000 }), (seed) => {
        const { text, inputs } = randomDesign(seed);
        const { netlist } = elaborate([{ name: 't.v', text }], { top: 'd' });
        if (!netlist) return;
        const both = new Both(optimise(netlist).netlist);
        const clock = both.plain.domains.find(({ derived }) => derived === null)?.clock;
        if (clock === undefined) return;
        const chance = chanceFrom(seed);
        for (let run = 0; run < 30; run++) {
          const input = chance.below(3) === 0 ? chance.pick(inputs) : undefined;
          if (input) both.set(input.name, BigInt(chance.below(0x7fffffff)) * BigInt(chance.below(0x7fffffff)));
          both.step(clock, chance.pick([1, 9, 60, 150]));
        }
        calm += both.calm;
      }),
      { numRuns: 50, examples: [[977_097]] },
    );
    expect(calm).toBeGreaterThan(80);
  });
});

const item0 = (): string => Object.values(DESIGNS)[0] ?? '';
