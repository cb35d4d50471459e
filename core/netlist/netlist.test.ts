import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { elaborate } from '../hdl/index.ts';
import { byBits } from './by-bits.ts';
import { roundsIn } from './components.ts';
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

describe('some bits of a word replaced', () => {
  test('is the rest with the value between, whatever it was made of', () => {
    const part = fc.record({ width: fc.integer({ min: 1, max: 9 }), known: fc.boolean() });
    fc.assert(
      fc.property(fc.array(part, { minLength: 1, maxLength: 12 }), fc.nat(), fc.nat(), fc.nat(), (parts, a, b, v) => {
        const build = new NetBuilder();
        const made = parts.map(({ width, known }, i) =>
          known ? build.constant(BigInt(i * 37), width) : build.input(`i${i}`, width),
        );
        const word = build.concat(made);
        const width = build.width(word);
        const lo = a % width;
        const size = 1 + (b % (width - lo));
        const value = v % 2 === 0 ? build.constant(BigInt(v), size) : build.input('v', size);
        const wanted = build.concat([
          ...(lo > 0 ? [build.slice(word, 0, lo)] : []),
          value,
          ...(lo + size < width ? [build.slice(word, lo + size, width - lo - size)] : []),
        ]);
        expect(build.withBits(word, lo, value)).toBe(wanted);
      }),
    );
  });
});

describe('words written bit by bit', () => {
  /** A word of which the upper half is computed from the lower one: it decides itself, none of its bits does. */
  function halves(op: ComputedOp, width: number, [x, y, z]: readonly [bigint, bigint, bigint]) {
    const build = new NetBuilder();
    const both = build.wire('both', 2 * width);
    const low = build.slice(both, 0, width);
    const inputs = [build.input('x', width), build.input('y', width), build.input('z', 1)] as const;
    const args = op === 'not' || op === 'sext' ? [low] : op === 'mux' ? [inputs[2], low, inputs[1]] : [low, inputs[1]];
    const made = build.make(op as Exclude<ComputedOp, 'slice'>, width, args);
    build.netlist.nodes[both] = {
      ...{ op: 'wire', name: 'both', width: 2 * width },
      args: [build.concat([inputs[0], made])],
    };
    build.netlist.outputs.push({ name: 'o', node: build.slice(both, width, width), width });
    const inBits = byBits(build.netlist);
    // Values in place of the inputs: what comes out is then a constant.
    for (const [i, value] of [x, y, z].entries()) {
      const id = inputs[i] as NodeId;
      inBits.nodes[id] = { op: 'const', width: build.width(id), args: [], value };
    }
    const { netlist, loops } = optimise({ ...inBits, inputs: [] });
    const out = netlist.nodes[netlist.outputs[0]?.node ?? -1];
    const values = op === 'mux' ? [z, x, y] : args.length === 1 ? [x] : [x, y];
    return {
      loops,
      written: inBits.nodes[made]?.op === 'concat',
      came: out?.op === 'const' ? out.value : null,
      wanted: evaluateConstant(op, width, values, op === 'mux' ? [1, width, width] : [width, width]),
    };
  }
  const ops = ['not', 'and', 'or', 'xor', 'mux', 'add', 'sub', 'mul', 'shl', 'shr', 'sra'] as const;
  test.each(ops)('%s is the same', (op) => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 12 }), fc.bigInt(0n, (1n << 24n) - 1n), fc.boolean(), (width, bits, z) => {
        const cut = (value: bigint) => BigInt.asUintN(width, value);
        const found = halves(op, width, [cut(bits), cut(bits >> 12n), z ? 1n : 0n]);
        expect(found).toMatchObject({ loops: [], written: true, came: found.wanted });
      }),
    );
  });
  test('what needs all bits for each of its own stays a word', () => {
    expect(halves('divu', 4, [13n, 3n, 0n])).toMatchObject({ written: false, came: 4n });
  });
});

describe('words that decide one another', () => {
  test('are found as a search from every word finds them', () => {
    const graph = fc.array(fc.array(fc.nat(11), { maxLength: 3 }), { minLength: 12, maxLength: 12 });
    fc.assert(
      fc.property(graph, (args) => {
        const build = new NetBuilder();
        const wires = args.map((_, i) => build.wire(`w${i}`, 1));
        const nodes = args.map((list) => ({ op: 'concat' as const, width: list.length, args: list }));
        const reaches = (from: number): Set<number> => {
          const seen = new Set<number>();
          const open = [...(args[from] as number[])];
          for (let next = open.pop(); next !== undefined; next = open.pop()) {
            if (seen.has(next)) continue;
            seen.add(next);
            open.push(...(args[next] as number[]));
          }
          return seen;
        };
        const all = wires.map(reaches);
        const wanted = wires.filter((id) => all[id]?.has(id));
        const found = roundsIn({ ...build.netlist, nodes });
        expect(found.flat().sort((a, b) => a - b)).toEqual(wanted);
        for (const round of found) for (const a of round) for (const b of round) expect(all[a]?.has(b)).toBe(true);
      }),
    );
  });
});
