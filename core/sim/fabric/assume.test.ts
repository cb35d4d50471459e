// What has to hold so that an edge changes the movers alone: as little as makes it so, and nothing that may change for long.
import { describe, expect, test } from 'vitest';
import { netlistOf } from '../../../tests/support/calm-and-plain.ts';
import { wordValues } from '../../../tests/support/word-values.ts';
import { item } from '../../lists.ts';
import type { Netlist, NodeId } from '../../netlist/index.ts';
import { assume, type Calm, coneOfEdge, nodesOf, writesIn } from './assume.ts';
import { compile } from './compile.ts';

/** What is assumed of a design while its registers and inputs are as given, and `movers` go through some values. */
function assumed(
  body: string,
  movers: readonly string[],
  values: Readonly<Record<string, readonly number[]>> = {},
): { calm: Calm | null; netlist: Netlist; of: (name: string) => NodeId } {
  const program = compile(netlistOf(`module m(input clk, input [7:0] i, input e, output [63:0] o); ${body} endmodule`));
  const { netlist } = program;
  const of = (name: string) => netlist.signals.find((signal) => signal.name === `m.${name}`)?.node ?? -1;
  const rounds = Math.max(1, ...Object.values(values).map(({ length }) => length));
  const seen = Array.from({ length: rounds }, (_, round) =>
    wordValues(netlist, (id) => {
      const [name] = Object.keys(values).filter((one) => of(one) === id);
      const list = name === undefined ? [0] : (values[name] ?? [0]);
      return BigInt(list[round % list.length] ?? 0);
    }),
  );
  const knownOf = (id: NodeId) => {
    if (item(netlist.nodes, id).width !== 1) return null;
    const all = new Set(seen.map((one) => Number(one[id])));
    const [only] = all;
    return all.size === 1 && only !== undefined ? only : null;
  };
  const members = item(program.members, 0);
  const written = new Set(writesIn(netlist, members, knownOf).map(({ memory }) => memory));
  const calm = assume({ netlist, members, movers: new Set(movers.map(of)), derived: [], written, knownOf });
  return { calm, netlist, of };
}

const movingFacts = (calm: Calm | null) => [...(calm?.checked ?? [])].filter((id) => calm?.moving.has(id));

describe('what is assumed of calm edges', () => {
  test('a counter begins anew: one fact, its comparison, and nothing to compare', () => {
    const { calm, netlist } = assumed(
      'reg [9:0] c = 0; always @(posedge clk) c <= c == 999 ? 0 : c + 1; assign o = c;',
      ['c'],
      { c: [5, 6, 7] },
    );
    expect(movingFacts(calm).map((id) => item(netlist.nodes, id).op)).toEqual(['eq']);
    expect(calm && nodesOf(calm.rest)).toEqual([]);
  });

  test('what a tick enables rests by the tick: a choice with nothing on its other side', () => {
    const { calm, of } = assumed(
      'reg [9:0] c = 0; reg [7:0] n = 0; always @(posedge clk) begin c <= c + 1; if (c == 9) n <= n + i; end assign o = {c, n};',
      ['c'],
      { c: [100, 101] },
    );
    expect(movingFacts(calm)).toEqual([]);
    const [choice] = calm?.rest.choices.values() ?? [];
    expect(calm?.rest.choices.size).toBe(1);
    expect(choice?.yes.same.map(([, register]) => register)).toEqual([of('n')]);
    expect(choice?.no).toEqual({ same: [], choices: new Map() });
  });

  test('a bit that stands still decides: nothing that moves is looked at', () => {
    const { calm } = assumed(
      'reg [9:0] c = 0; reg [7:0] n = 0; reg on = 0; always @(posedge clk) begin c <= c + 1; on <= e; if (on && c[3:0] == 9) n <= n + i; end assign o = {c, n, on};',
      ['c'],
      { c: [1, 2, 3] },
    );
    expect(movingFacts(calm)).toEqual([]);
    expect(calm?.rest).toEqual({ same: [], choices: new Map() });
    expect(calm?.checked.size).toBeGreaterThan(0);
  });

  test('a register that follows a high part is compared with it', () => {
    const { calm, of } = assumed(
      'reg [15:0] c = 0; reg [3:0] v = 0; always @(posedge clk) begin c <= c + 1; v <= c[15:12]; end assign o = v;',
      ['c'],
      { c: [3, 4] },
    );
    expect(calm?.rest.same.map(([, register]) => register)).toEqual([of('v')]);
  });

  test('writes that are off are facts; those that are on are made, and what is read there moves', () => {
    const text = (
      enable: string,
    ) => `reg [3:0] w = 0; reg [7:0] m [0:15]; reg [7:0] r = 0; reg on = 0; always @(posedge clk) begin w <= w + 1; on <= e;
      if (${enable}) m[w] <= i; r <= m[3]; end assign o = {r, w, on};`;
    const off = assumed(text('on'), ['w'], { w: [1, 2] });
    expect(off.calm?.writes).toEqual([]);
    expect(off.calm?.rest.same).toEqual([]);
    const on = assumed(text('~on'), ['w'], { w: [1, 2] });
    expect(on.calm?.writes).toHaveLength(1);
    expect(on.calm?.rest.same.map(([, register]) => register)).toEqual([on.of('r')]);
  });

  test('a reset that comes and goes is no calm matter', () => {
    const text =
      'reg [3:0] c = 0; reg [7:0] n = 0; wire r = c[1]; always @(posedge clk) c <= c + 1; always @(posedge clk or posedge r) if (r) n <= 0; else n <= n + 1; assign o = {n, c};';
    expect(assumed(text, ['c', 'n'], { c: [0, 1, 2, 3] }).calm).toBeNull();
    expect(assumed(text, ['c', 'n'], { c: [4, 5] }).calm).not.toBeNull();
  });

  test('all that an edge depends on is watched, clocks that logic makes among it', () => {
    const program = compile(
      netlistOf(
        'module m(input clk, input [7:0] i, output [7:0] o); reg [3:0] p = 0; reg [7:0] n = 0; wire c = p[3] ^ i[0]; always @(posedge clk) p <= p + i; always @(posedge c) n <= n + 1; assign o = n; endmodule',
      ),
    );
    const at = program.domains.findIndex(({ derived }) => derived === null);
    const cone = coneOfEdge(program.netlist, item(program.members, at), [...program.layout.derived.keys()]);
    for (const clock of program.layout.derived.keys()) expect(cone).toContain(clock);
  });
});
