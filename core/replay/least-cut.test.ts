// The least to record, against trying every set of bits.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { netlistOf } from '../../tests/support/replayed.ts';
import { BitGraph, CONSTANT, type Vertex } from './bit-graph.ts';
import { coneOf } from './feedback.ts';
import { leastCut } from './least-cut.ts';
import { proposalsFor, regionOf, replayDesign } from './index.ts';

interface Small {
  readonly size: number;
  readonly edges: [number, number][];
  readonly costs: number[];
}

const SIZE = 8;
const small = fc.record({
  edges: fc.array(fc.tuple(fc.nat(SIZE - 1), fc.nat(SIZE - 1)), { maxLength: 18 }),
  costs: fc.array(fc.constantFrom(1, 1, 1, 2, Number.POSITIVE_INFINITY), { minLength: SIZE, maxLength: SIZE }),
});

/** Whether a way from vertex 0 or 1 to 6 or 7 avoids a set. */
function leaks({ edges }: Pick<Small, 'edges'>, cut: ReadonlySet<number>): boolean {
  const seen = new Set([0, 1].filter((v) => !cut.has(v)));
  const open = [...seen];
  for (let v = open.pop(); v !== undefined; v = open.pop())
    for (const [from, to] of edges)
      if (from === v && !cut.has(to) && !seen.has(to)) {
        seen.add(to);
        open.push(to);
      }
  return seen.has(6) || seen.has(7);
}

test('a least cut costs what the cheapest of all sets that cut costs (Ford and Fulkerson, 1956)', () => {
  fc.assert(
    fc.property(small, ({ edges, costs }) => {
      let least = Number.POSITIVE_INFINITY;
      for (let set = 0; set < 2 ** SIZE; set++) {
        const chosen = Array.from({ length: SIZE }, (_, v) => v).filter((v) => (set >> v) & 1);
        const price = chosen.reduce((sum, v) => sum + (costs[v] ?? 0), 0);
        if (price < least && !leaks({ edges }, new Set(chosen))) least = price;
      }
      const cut = leastCut({ size: SIZE, edges, costs, sources: [0, 1], targets: [6, 7] });
      expect(cut === null).toBe(least === Number.POSITIVE_INFINITY);
      if (cut === null) return;
      expect(leaks({ edges }, new Set(cut))).toBe(false);
      expect(cut.reduce((sum, v) => sum + (costs[v] ?? 0), 0)).toBe(least);
    }),
    { numRuns: 300, seed: 18 },
  );
});

/** Bits that are computed from a set: its own, and those all of whose feeds are, as far as nothing is at the edge. */
function computed(
  graph: BitGraph,
  stored: ReadonlySet<Vertex>,
  isEdge: (v: Vertex) => boolean,
): (v: Vertex) => boolean {
  const lost = new Set<Vertex>();
  for (let grown = true; grown; ) {
    grown = false;
    for (let v = 0; v < graph.size; v++) {
      if (lost.has(v) || stored.has(v)) continue;
      let isLost = isEdge(v);
      graph.feeds(v, (from) => {
        if (lost.has(from)) isLost = true;
      });
      if (!isLost) continue;
      lost.add(v);
      grown = true;
    }
  }
  return (v) => !lost.has(v);
}

const DESIGNS = [
  // A narrow place between wide inputs and what is to be seen.
  `module d(input clk, input [3:0] a, b, output q);
     wire same = a == b; inner u(.clk(clk), .go(same), .q(q)); endmodule
   module inner(input clk, go, output reg q); reg [1:0] way;
     always @(posedge clk) begin way <= {way[0], go}; q <= way[1] ^ go; end endmodule`,
  // Registers before the instance that are wider than what they come from.
  `module d(input clk, input [1:0] a, output q);
     reg [3:0] wide; always @(posedge clk) wide <= {a, ~a}; inner u(.clk(clk), .w(wide), .q(q)); endmodule
   module inner(input clk, input [3:0] w, output reg q); always @(posedge clk) q <= ^w; endmodule`,
  // A sum of which the lower bits alone are looked at.
  `module d(input clk, input [4:0] a, b, output q);
     wire [4:0] s = a + b; inner u(.clk(clk), .w(s[1:0]), .q(q)); endmodule
   module inner(input clk, input [1:0] w, output reg q); always @(posedge clk) q <= w[0] & w[1]; endmodule`,
];

describe('what is proposed for an instance', () => {
  test.each(DESIGNS.map((text, i) => ({ text, i })))(
    'is no bit more than any set of named bits that will do: $i',
    ({ text }) => {
      const region = regionOf(replayDesign(netlistOf(text, 'd')), { see: ['u'] });
      if (!region.ok) throw new Error(region.error.message);
      const { graph, targets } = region.value;
      const plans = proposalsFor(region.value);
      if (!plans.ok) throw new Error(plans.error.message);
      const isEdge = (v: Vertex) => region.value.reasonOf(v) !== null;
      const cone = coneOf(graph, targets, isEdge).vertices.filter((v) => region.value.namesOf(v).length > 0);
      expect(cone.length).toBeLessThan(20);
      let least = Number.POSITIVE_INFINITY;
      for (let set = 0; set < 2 ** cone.length; set++) {
        const chosen = cone.filter((_, i) => (set >> i) & 1);
        if (chosen.length >= least) continue;
        const isComputed = computed(graph, new Set(chosen), isEdge);
        if (targets.every(isComputed)) least = chosen.length;
      }
      expect(Math.min(...plans.value.map(({ storedBits }) => storedBits))).toBe(least);
    },
  );

  test('names parts of signals where parts will do, and keeps to what is insisted on and what is not to be touched', () => {
    const text = `module d(input clk, input [7:0] a, output q); inner u(.clk(clk), .w(a[3]), .q(q)); endmodule
      module inner(input clk, w, output reg q); always @(posedge clk) q <= w; endmodule`;
    const region = regionOf(replayDesign(netlistOf(text, 'd')), { see: ['u'] });
    if (!region.ok) throw new Error(region.error.message);
    const stored = (limits: Parameters<typeof proposalsFor>[1]) => {
      const plans = proposalsFor(region.value, limits);
      return plans.ok ? plans.value.at(-1)?.stored.map(({ name }) => name) : plans.error.code;
    };
    expect(stored({})).toEqual(['d.u.w']);
    expect(stored({ never: ['d.u.w', 'd.a'] })).toBe('cannot-be-stored');
    expect(stored({ insist: ['d.a[5:4]'] })).toEqual(['d.a[5:4]', 'd.u.w']);
    expect(stored({ insist: ['d.a'] })).toEqual(['d.a']);
  });

  test('names what keeps a signal unknown, and for how long', () => {
    const text = `module d(input clk, rst, en, input [3:0] a, output [3:0] f, l, output reg [3:0] r, output [3:0] n);
      reg [3:0] f1, f2, l1, n1;
      always @(posedge clk) begin f1 <= a; f2 <= f1; if (en) l1 <= a; n1 <= n1 + 1; end
      always @(posedge clk or posedge rst) if (rst) r <= 0; else r <= r + a;
      assign f = f2, l = l1, n = n1; endmodule`;
    const region = regionOf(replayDesign(netlistOf(text, 'd')), { see: ['d'] });
    if (!region.ok) throw new Error(region.error.message);
    const plans = proposalsFor(region.value);
    if (!plans.ok) throw new Error(plans.error.message);
    const least = plans.value.at(-1);
    const of = (name: string) => least?.unknown.find(({ signal }) => signal === `d.${name}`);
    expect([least?.trust, least?.storedBits]).toEqual(['all', 6]);
    expect(of('f2')).toMatchObject({ samples: 2, why: null });
    expect(of('l1')).toMatchObject({ samples: null, why: 'loaded', by: expect.stringMatching(/^d\.l/) });
    expect(of('r')).toMatchObject({ samples: null, why: 'reset', by: 'd.r' });
    expect(of('n1')).toMatchObject({ samples: null, why: 'never', by: expect.stringMatching(/^d\.n/) });
    const [most] = plans.value;
    expect(most).toMatchObject({ trust: 'none', unknown: [] });
  });
});

test('a bit that is only another name of a bit is that bit', () => {
  const netlist = replayDesign(
    netlistOf(
      "module d(input clk, input [3:0] a, output [3:0] y, z); assign y = {a[1:0], a[3:2]}, z = a & 4'b0011; endmodule",
      'd',
    ),
  );
  const graph = new BitGraph(netlist.netlist);
  const of = (name: string) => graph.bitsOf(netlist.signals.find((one) => one.name === name)?.node ?? 0);
  const [a0, a1, a2, a3] = of('d.a');
  expect(of('d.y')).toEqual([a2, a3, a0, a1]);
  expect(of('d.z')).toEqual([a0, a1, CONSTANT, CONSTANT]);
});
