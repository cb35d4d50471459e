// Many edges at once: counters of all kinds, looked at in all ways, stand where they would stand after single edges.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { Both, netlistOf } from '../../../tests/support/calm-and-plain.ts';
import { chanceFrom } from '../../../tests/fuzz/index.ts';

/** A counter: its width, what it goes on by, and where it begins anew. */
interface Counter {
  readonly width: number;
  readonly step: string;
  readonly wraps: number | null;
}

/** A look at a counter, `c` its name: bits that are true now and then. */
type Look = (c: string, width: number, value: number) => string;

const LOOKS: readonly Look[] = [
  (c, _, value) => `${c} == ${value}`,
  (c, _, value) => `${value} == ${c}`,
  (c, _, value) => `${c} < ${value}`,
  (c, _, value) => `${c} > ${value}`,
  (c, _, value) => `${c} >= ${value}`,
  (c, _, value) => `${value} >= ${c}`,
  (c, width) => `&${c}[${Math.min(width - 1, 4)}:0]`,
  (c, width) => `~|${c}[${Math.min(width - 1, 6)}:0]`,
  (c, width) => `${c}[${width - 1}]`,
  (c, width, value) => `${c}[${width - 1}:${width >> 1}] == ${value % 7}`,
  (c, width, value) => `${c}[${width >> 1}:0] == ${value % 19}`,
  (c, _, value) => `{4'd0, ${c}} == ${value} && i[0]`,
  (c, _, value) => `(${c} == ${value} || i[1])`,
  (c, _, value) => `${c} == i * ${(value % 5) + 1}`,
  (c, _, value) => `${c} < {i, 3'd${value % 8}}`,
];

const counter = fc.record({
  width: fc.integer({ min: 2, max: 32 }),
  step: fc.constantFrom('+ 1', '- 1', '+ 2', '+ 8', '+ 3', '+ 64', '- 4'),
  wraps: fc.option(fc.integer({ min: 3, max: 5000 })),
});
const event = fc.record({
  of: fc.nat(3),
  look: fc.nat(LOOKS.length - 1),
  value: fc.integer({ min: 0, max: 4000 }),
  also: fc.option(
    fc.record({ of: fc.nat(3), look: fc.nat(LOOKS.length - 1), value: fc.integer({ min: 0, max: 4000 }) }),
  ),
});

const within = (value: number, width: number) => value % 2 ** Math.min(width, 20);

function designOf(
  counters: readonly Counter[],
  events: readonly {
    of: number;
    look: number;
    value: number;
    also: { of: number; look: number; value: number } | null;
  }[],
): string {
  const lookAt = ({ of, look, value }: { of: number; look: number; value: number }) => {
    const at = of % counters.length;
    const width = counters[at]?.width ?? 2;
    return `(${LOOKS[look]?.(`c${at}`, width, within(value, width))})`;
  };
  const lines = counters.map(({ width, step, wraps }, i) => {
    const next = `c${i} ${step}`;
    const last = wraps === null ? null : within(wraps, width);
    return `reg [${width - 1}:0] c${i} = ${i}; always @(posedge clk) c${i} <= ${last === null ? next : `c${i} == ${last} ? 0 : ${next}`};`;
  });
  const seen = events.map(({ also, ...first }, i) => {
    const when = also ? `${lookAt(first)} ${i % 2 ? '&&' : '||'} ${lookAt(also)}` : lookAt(first);
    return `reg [7:0] r${i} = 0; always @(posedge clk) if (${when}) r${i} <= r${i} * 3 + ${i + 1};`;
  });
  return `module m(input clk, input [7:0] i, output [${8 * events.length - 1}:0] o); ${lines.join(' ')} ${seen.join(' ')}
    assign o = {${events.map((_, i) => `r${i}`).join(', ')}}; endmodule`;
}

describe('many edges at once', () => {
  test('counters up and down, by all steps, looked at in all ways', () => {
    let calm = 0;
    fc.assert(
      fc.property(
        fc.array(counter, { minLength: 1, maxLength: 3 }),
        fc.array(event, { minLength: 1, maxLength: 4 }),
        fc.integer({ min: 1, max: 1_000_000 }),
        (counters, events, seed) => {
          const both = new Both(netlistOf(designOf(counters, events)));
          const chance = chanceFrom(seed);
          for (let run = 0; run < 24; run++) {
            if (chance.below(4) === 0) both.set('i', BigInt(chance.below(256)));
            both.step('clk', chance.pick([1, 30, 100, 700, 3000]));
          }
          calm += both.calm;
        },
      ),
      { numRuns: 60 },
    );
    expect(calm).toBeGreaterThan(200);
  });

  test.each([
    [
      'a shift register and a buffer go on beside it',
      'reg [12:0] l = 1; reg [7:0] b [0:15]; reg [3:0] w = 0; reg [7:0] v = 3;',
      'l <= {l[11:0], l[12] ^ l[3] ^ l[2] ^ l[0]}; b[w] <= v; w <= w + 1; if (c == 900) v <= b[l[3:0]] + 1;',
      'v',
    ],
    [
      'a counter that only counts while something holds',
      'reg [7:0] n = 0; reg h = 0;',
      'if (h) n <= n + 1; if (c[8:0] == 77) h <= ~h;',
      '{n, h}',
    ],
    ['a register that copies a high part', 'reg [3:0] v = 0;', 'v <= c[15:12];', 'v'],
    ['a choice of which neither side is what is there', 'reg [7:0] v = 0;', "v <= c[9] ? 8'd17 : i;", 'v'],
    [
      'one that counts another one',
      'reg [7:0] n = 0; reg [15:0] k = 0;',
      'if (&c[5:0]) n <= n + 1; if (n == 9 && c[6:0] == 3) k <= k + 1;',
      '{k, n}',
    ],
  ])('%s', (_, declared, body, out) => {
    const both = new Both(
      netlistOf(`module m(input clk, input [7:0] i, output [31:0] o); reg [15:0] c = 0; ${declared}
        always @(posedge clk) begin c <= c + 1; ${body} end assign o = ${out}; endmodule`),
    );
    const chance = chanceFrom(body.length);
    for (let run = 0; run < 100; run++) {
      if (chance.below(6) === 0) both.set('i', BigInt(chance.below(256)));
      both.step('clk', chance.pick([1, 2, 17, 250, 1500]));
    }
    expect(both.calm).toBeGreaterThan(40);
  });

  test('two clocks leap together only where neither looks at the other', () => {
    for (const look of ['a[3:0] == b[3:0]', 'b[7:0] == 40', 'a[7:0] == 40']) {
      const both = new Both(
        netlistOf(`module m(input clk, input clk2, input [7:0] i, output [31:0] o); reg [11:0] a = 0, b = 0; reg [7:0] n = 0, k = 0;
          always @(posedge clk) begin a <= a + 1; if (${look}) n <= n + 1; end
          always @(posedge clk2) begin b <= b + 1; if (b == 1000) k <= k + i; end assign o = {n, k}; endmodule`),
      );
      const chance = chanceFrom(look.length);
      for (let run = 0; run < 120; run++) {
        if (chance.below(7) === 0) both.set('i', BigInt(chance.below(256)));
        both.interleave(
          'clk',
          'clk2',
          [chance.below(500), chance.below(500)],
          chance.pick([
            [10, 12],
            [12, 10],
            [3, 100],
            [5, 5],
          ] as const),
        );
      }
      expect(both.calm).toBeGreaterThan(40);
    }
  });
});
