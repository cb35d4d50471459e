import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { elaborate } from '../hdl/index.ts';
import { writtenOutDivision } from './divide.ts';
import { clocksOf, evaluateConstant, isLeaf, lowBitOf, NetBuilder, type NodeId, optimise } from './index.ts';
import type { ComputedOp } from './types.ts';

const WIDTH = 12;

/** Steps that each add a node from earlier ones; indexes are taken modulo what is there. */
const step = fc.record({
  op: fc.constantFrom<ComputedOp>('and', 'or', 'xor', 'add', 'sub', 'not', 'eq', 'mux', 'slice', 'concat', 'redor'),
  a: fc.nat(),
  b: fc.nat(),
  c: fc.nat(),
  lo: fc.nat(WIDTH - 1),
  size: fc.integer({ min: 1, max: WIDTH }),
});

/** Builds the same expression with the builder's shortcuts and, beside it, its plain value. */
function grow(
  steps: readonly (typeof step extends fc.Arbitrary<infer T> ? T : never)[],
  inputs: readonly bigint[],
  asConstants: boolean,
) {
  const build = new NetBuilder();
  const nodes: { id: NodeId; value: bigint; width: number }[] = inputs.map((value, i) => ({
    id: asConstants ? build.constant(value, WIDTH) : build.input(`i${i}`, WIDTH),
    value,
    width: WIDTH,
  }));
  const sized = (n: { id: NodeId; value: bigint; width: number }, width: number) => ({
    id: build.resize(n.id, width, false),
    value: BigInt.asUintN(width, n.value),
    width,
  });
  for (const { op, a, b, c, lo, size } of steps) {
    const pick = (k: number) => nodes[k % nodes.length] as (typeof nodes)[number];
    const [x, y, z] = [sized(pick(a), WIDTH), sized(pick(b), WIDTH), sized(pick(c), WIDTH)];
    const bit = sized(pick(c), 1);
    const from = Math.min(lo, WIDTH - 1);
    const width = Math.min(size, WIDTH - from);
    const add = (id: NodeId, w: number, values: bigint[], widths: number[], at = 0) =>
      nodes.push({ id, value: evaluateConstant(op, w, values, widths, at), width: w });
    switch (op) {
      case 'not':
        add(build.not(x.id), WIDTH, [x.value], [WIDTH]);
        break;
      case 'redor':
        add(build.reduce('redor', x.id), 1, [x.value], [WIDTH]);
        break;
      case 'mux':
        add(build.mux(bit.id, x.id, y.id), WIDTH, [bit.value, x.value, y.value], [1, WIDTH, WIDTH]);
        break;
      case 'slice':
        add(build.slice(x.id, from, width), width, [x.value], [WIDTH], from);
        break;
      case 'concat':
        add(build.concat([x.id, z.id]), 2 * WIDTH, [x.value, z.value], [WIDTH, WIDTH]);
        break;
      case 'eq':
        add(build.eq(x.id, y.id), 1, [x.value, y.value], [WIDTH, WIDTH]);
        break;
      default:
        add(build[op as 'and'](x.id, y.id), WIDTH, [x.value, y.value], [WIDTH, WIDTH]);
    }
  }
  return { build, nodes };
}

describe('the builder', () => {
  test('whatever is built of constants becomes the constant that it is', () => {
    fc.assert(
      fc.property(
        fc.array(step, { maxLength: 25 }),
        fc.array(fc.bigInt(0n, 4095n), { minLength: 3, maxLength: 3 }),
        (steps, values) => {
          const { build, nodes } = grow(steps, values, true);
          for (const { id, value, width } of nodes) {
            expect(build.constantOf(id)).toBe(value);
            expect(build.width(id)).toBe(width);
          }
        },
      ),
      { numRuns: 200 },
    );
  });

  test('its shortcuts never change a value', () => {
    fc.assert(
      fc.property(
        fc.array(step, { minLength: 1, maxLength: 25 }),
        fc.array(fc.bigInt(0n, 4095n), { minLength: 3, maxLength: 3 }),
        (steps, values) => {
          const { build, nodes } = grow(steps, values, false);
          const known: bigint[] = [];
          for (const [id, node] of build.netlist.nodes.entries()) {
            if (node.op === 'input') known[id] = values[Number(node.name.slice(1))] as bigint;
            else if (node.op === 'const') known[id] = node.value;
            else if (!isLeaf(node))
              known[id] = evaluateConstant(
                node.op,
                node.width,
                node.args.map((a) => known[a] as bigint),
                node.args.map((a) => build.width(a)),
                lowBitOf(node),
              );
          }
          for (const { id, value } of nodes) expect(known[id]).toBe(value);
        },
      ),
      { numRuns: 200 },
    );
  });

  test('equal logic is made once', () => {
    const build = new NetBuilder();
    const [a, b] = [build.input('a', 4), build.input('b', 4)];
    expect(build.add(a, b)).toBe(build.add(b, a));
    expect(build.not(build.not(a))).toBe(a);
    expect(build.concat([build.slice(a, 0, 2), build.slice(a, 2, 2)])).toBe(a);
  });
});

describe('optimising', () => {
  const netlist = (text: string) => {
    const made = elaborate([{ name: 't.v', text }]).netlist;
    if (!made) throw new Error('does not elaborate');
    return made;
  };

  test('drops what no output sees, and keeps the names of what is left', () => {
    const { netlist: small } = optimise(
      netlist(
        'module m(input clk, input [7:0] a, output y); reg [7:0] seen, unseen; always @(posedge clk) begin seen ' +
          '<= a; unseen <= a + 1; end assign y = ^seen; endmodule',
      ),
    );
    expect(small.registers).toHaveLength(1);
    expect(small.signals.map((s) => s.name).sort()).toEqual(['m.a', 'm.clk', 'm.seen', 'm.y']);
  });

  test('every argument stands before its user, whatever the source', () => {
    const { netlist: small } = optimise(
      netlist(
        'module m(input clk, input [3:0] a, output [3:0] y); wire [3:0] p, q; assign y = p; assign p = q ^ r; ' +
          'reg [3:0] r; assign q = a + r; always @(posedge clk) r <= y; endmodule',
      ),
    );
    for (const [id, node] of small.nodes.entries()) for (const arg of node.args) expect(arg).toBeLessThan(id);
  });

  test('names the signals of a combinational loop', () => {
    const { loops } = optimise(
      netlist('module m(input a, output y); wire p, q; assign p = q ^ a; assign q = ~p; assign y = p; endmodule'),
    );
    expect(loops).toHaveLength(1);
    expect([...(loops[0]?.names ?? [])].sort()).toEqual(expect.arrayContaining(['m.p']));
    expect(
      optimise(netlist('module m(output y); wire p, q; assign p = q; assign q = p; assign y = p; endmodule')).loops
        .length,
    ).toBeGreaterThan(0);
  });

  test('optimising twice changes nothing more', () => {
    const once = optimise(
      netlist(
        'module m(input clk, input [7:0] a, output reg [7:0] y); reg [7:0] mem [0:31]; always @(posedge clk) ' +
          'begin mem[a[4:0]] <= a; y <= mem[y[4:0]] + a; end endmodule',
      ),
    ).netlist;
    const twice = optimise(once).netlist;
    expect(twice.nodes.length).toBe(once.nodes.length);
    expect(twice.registers.length).toBe(once.registers.length);
  });
});

test('a node belongs to the clocks whose registers it depends on', () => {
  const made = elaborate([
    {
      name: 't.v',
      text:
        'module m(input a, input b, input d, output x, output y, output z, output w); reg p, q; always @(posedge ' +
        'a) p <= d; always @(posedge b) q <= p; assign x = ~p; assign y = q; assign z = p & q; assign w = d; ' +
        'endmodule',
    },
  ]).netlist;
  if (!made) throw new Error('does not elaborate');
  const { netlist } = optimise(made);
  const clocks = clocksOf(netlist);
  expect(netlist.outputs.map((port) => [...clocks(port.node)].sort().join())).toEqual(['a', 'b', 'a,b', '']);
});

test('a division written out gives what the single operation gives', () => {
  const words = fc.tuple(fc.bigInt(0n, (1n << 40n) - 1n), fc.oneof(fc.bigInt(0n, (1n << 40n) - 1n), fc.bigInt(0n, 9n)));
  fc.assert(
    fc.property(
      words,
      fc.constantFrom('divu' as const, 'modu' as const, 'divs' as const, 'mods' as const),
      ([a, b], op) => {
        const build = new NetBuilder();
        const node = writtenOutDivision(build, op, build.constant(a, 40), build.constant(b, 40));
        expect(build.constantOf(node)).toBe(evaluateConstant(op, 40, [a, b], [40, 40]));
      },
    ),
  );
});
