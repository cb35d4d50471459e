import { describe, expect, test } from 'vitest';
import { demoProject } from '../../tests/support/demo.ts';
import { elaborate } from '../hdl/index.ts';
import { optimise } from '../netlist/index.ts';
import { drawCone, drawInstance, type Schematic } from './index.ts';

const read = (files: Parameters<typeof elaborate>[0], top?: string) => {
  const { netlist, hierarchy } = elaborate(files, top === undefined ? {} : { top });
  if (!netlist || !hierarchy) throw new Error('does not elaborate');
  return { netlist, hierarchy, small: optimise(netlist).netlist };
};
const lines = ({ nodes, edges }: Schematic): string[] => {
  const owner = new Map(
    nodes
      .flatMap((node) => [node, ...(node.inside?.nodes ?? [])])
      .flatMap((node) => node.ports.map((port) => [port.id, node.label] as const)),
  );
  return edges.map((edge) => `${owner.get(edge.from)} > ${owner.get(edge.to)}`).sort();
};

describe('an instance', () => {
  const text =
    'module inner(input clk, input [3:0] a, output reg [3:0] q); always @(posedge clk) q <= a; endmodule module ' +
    'm(input clk, input [3:0] a, b, output [3:0] y); wire [3:0] w; inner u(.clk(clk), .a(a + b), .q(w)); inner ' +
    'v(.clk(clk), .a(w), .q(y)); endmodule';
  const { netlist, hierarchy } = read([{ name: 't.v', text }]);
  test('shows ports, instances, and logic between as one box', () => {
    const drawn = drawInstance(netlist, hierarchy, 'm', new Set());
    expect(drawn?.nodes.map((n) => `${n.kind} ${n.label}`).sort()).toEqual([
      'input a',
      'input b',
      'input clk',
      'instance u',
      'instance v',
      'logic 1 operation',
      'output y',
    ]);
    expect(drawn && lines(drawn)).toEqual([
      '1 operation > u',
      'a > 1 operation',
      'b > 1 operation',
      'clk > u',
      'clk > v',
      'u > v',
      'v > y',
    ]);
  });
  test('an expanded one has its contents inside, joined to its own ports', () => {
    const drawn = drawInstance(netlist, hierarchy, 'm', new Set(['m.u']));
    const inside = drawn?.nodes.find((n) => n.path === 'm.u')?.inside;
    expect(inside?.nodes.map((n) => `${n.kind} ${n.label}`)).toEqual(['register q']);
    expect(inside?.edges.map((e) => `${e.from}>${e.to}`).sort()).toEqual([
      'm.u.a!in>register m.u.q!in',
      'register m.u.q!out>m.u.q!out',
    ]);
  });
  test('a box of logic opens where it stands, down to its operators with their statements', () => {
    const text =
      'module m(input clk, input [7:0] a, b, input s, output reg [7:0] q, output y);\n' +
      '  wire [7:0] w = a ^ b;\n' +
      "  always @(posedge clk)\n    if (s) q <= w + 8'd3;\n    else q <= a - b;\n" +
      '  assign y = &w;\nendmodule';
    const { netlist, hierarchy } = read([{ name: 't.v', text }]);
    const closed = drawInstance(netlist, hierarchy, 'm', new Set());
    const lump = closed?.nodes.find(({ label, detail }) => label.endsWith('operations') && detail === 'for q');
    expect(lump?.kind).toBe('logic');
    const drawn = drawInstance(netlist, hierarchy, 'm', new Set([lump?.id ?? '', 'm.w~logic']));
    const opened = drawn?.nodes.find(({ id }) => id === lump?.id);
    expect(opened?.inside?.nodes.map(({ label, line }) => `${label}@${line}`).sort()).toEqual([
      '+@4',
      '3@4',
      '? :@5',
      '−@5',
    ]);
    expect(opened?.ports.map(({ name, side, width }) => `${side} ${name} ${width}`).sort()).toEqual(
      ['in a 8', 'in b 8', 'in s 1', 'in w 8', 'out  8'].sort(),
    );
    // Inside and outside meet at the frame, and every end of a line is there.
    const inner = drawn?.nodes.find(({ id }) => id === 'm.w~logic');
    expect(inner?.inside?.nodes.map(({ label }) => label)).toEqual(['^']);
    const ports = (of: Schematic): string[] =>
      of.nodes.flatMap((node) => [...node.ports.map(({ id }) => id), ...(node.inside ? ports(node.inside) : [])]);
    const known = new Set(drawn ? ports(drawn) : []);
    const edges = [...(drawn?.edges ?? []), ...(opened?.inside?.edges ?? []), ...(inner?.inside?.edges ?? [])];
    expect(edges.filter(({ from, to }) => !known.has(from) || !known.has(to))).toEqual([]);
    expect(opened?.inside?.edges.some(({ to }) => to === `${lump?.id}!out`)).toBe(true);
    expect(drawn && lines(drawn)).toEqual(closed && lines(closed));
  });
  test('a named wire that several read is drawn once', () => {
    const text =
      'module r(input n, d, output reg q); always @(posedge d or negedge n) if (!n) q <= 0; else q <= ~q; ' +
      'endmodule module m(input rst, d, output x, y); wire n = ~rst; r a(n, d, x); r b(n, d, y); endmodule';
    const read2 = read([{ name: 't.v', text }]);
    const drawn = drawInstance(read2.netlist, read2.hierarchy, 'm', new Set());
    expect(drawn?.nodes.filter((n) => n.kind === 'logic').map((n) => n.label)).toEqual(['n']);
    expect(drawn && lines(drawn).filter((line) => line.startsWith('n >'))).toEqual(['n > a', 'n > b']);
  });
  test('logic without a name shows none: what it is for is said, and its id stays inside', () => {
    const boxes = drawInstance(netlist, hierarchy, 'm', new Set(['m.u']))?.nodes ?? [];
    expect(boxes.filter(({ kind }) => kind === 'logic').map(({ path, detail }) => [path, detail])).toEqual([
      ['', 'for a'],
    ]);
    for (const { path, label, detail } of boxes) expect(`${path}${label}${detail}`).not.toContain('~');
  });
  test('one that is not there is none', () =>
    expect(drawInstance(netlist, hierarchy, 'm.nobody', new Set())).toBeNull());
});

describe('a cone', () => {
  test('goes back to registers and inputs and no further', () => {
    const { small } = read([
      {
        name: 't.v',
        text:
          'module m(input clk, input [3:0] a, output reg [3:0] q, output y); reg [3:0] p; always @(posedge clk) ' +
          "begin p <= a; q <= p + 4'd3; end assign y = q == 4'd7; endmodule",
      },
    ]);
    const cone = drawCone(small, 'm.q');
    expect(cone && lines(cone)).toEqual(['+ > q', '3 > +', 'p > +']);
    expect(
      drawCone(small, 'm.y')
        ?.nodes.map((n) => n.label)
        .sort(),
    ).toEqual(['7', '==', 'q', 'y']);
    expect(drawCone(small, 'm.none')).toBeNull();
  });
  test('every box of the demo knows its line of source', () => {
    const { files } = demoProject();
    const { netlist, hierarchy, small } = read(files, 'lockhouse');
    for (const node of drawInstance(netlist, hierarchy, 'lockhouse', new Set(['lockhouse.u_chamber']))?.nodes ?? [])
      expect(node.file).toMatch(/\.v$/);
    const cone = drawCone(small, 'lockhouse.u_sequencer.state');
    expect(cone?.nodes.length).toBeGreaterThan(10);
    for (const node of cone?.nodes ?? []) if (node.kind === 'operation') expect(node.file).toMatch(/^rtl\/.*\.v$/);
  });
});
