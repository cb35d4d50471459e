// The mapped design against the word-level one, and counts that can be worked out by hand.
import { MEMORIES } from '../families/corvane/delays.ts';
import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { elaborate } from '../hdl/index.ts';
import { evaluateConstant, isLeaf, lowBitOf, type Netlist, type NetNode, optimise, reachableValues } from '../netlist/index.ts';
import { countResources } from './resources.ts';
import { map, type Mapped } from './map.ts';
import { rootsOf } from './roots.ts';
import { PieceMemory } from './pieces.ts';
import { item } from '../lists.ts';
import { isInverted, nodeOf, TRUE } from './gates/index.ts';
import { NODE } from './tables/index.ts';

function netlistOf(text: string, parameters: Record<string, bigint> = {}): Netlist {
  const { netlist, messages } = elaborate([{ name: 't.v', text }], { parameters });
  if (!netlist) throw new Error(JSON.stringify(messages.list));
  return optimise(netlist).netlist;
}

/** Values of all words, given those of inputs, registers and memory reads. */
function words(source: Netlist, given: (id: number, node: NetNode) => bigint): bigint[] {
  const values: bigint[] = [];
  for (const [id, node] of source.nodes.entries()) {
    if (node.op === 'const') values[id] = node.value;
    else if (isLeaf(node)) values[id] = BigInt.asUintN(node.width, given(id, node));
    else
      values[id] = evaluateConstant(
        node.op,
        node.width,
        node.args.map((arg) => values[arg] as bigint),
        node.args.map((arg) => (source.nodes[arg] as NetNode).width),
        lowBitOf(node),
      );
  }
  return values;
}

/** Values of mapped nodes: tables and chains only, no gates. */
function bits({ logic }: Mapped, leaves: ReadonlyMap<number, number>): (literal: number) => number {
  const values = new Map<number, number>([[0, 0], ...leaves]);
  const of = (literal: number): number => {
    const value = values.get(nodeOf(literal));
    if (value === undefined) throw new Error(`node ${nodeOf(literal)} is read but nothing gives it a value`);
    return value ^ (isInverted(literal) ? 1 : 0);
  };
  const looked = (truth: number, inputs: readonly number[]): number =>
    (truth >> inputs.reduce((index, input, i) => index | (of(input * 2) << i), 0)) & 1;
  for (const [node, kind] of logic.kind.entries()) {
    if (kind === NODE.table) values.set(node, looked(item(logic.truth, node), item(logic.inputs, node)));
    if (kind !== NODE.chain) continue;
    const { cells, carryIn, sums, out } = item(logic.chains, item(logic.chainOf, node));
    let carry = of(carryIn);
    for (const [i, { inputs, propagate, generate }] of cells.entries()) {
      const passes = looked(propagate, inputs);
      const sum = item(sums, i);
      if (sum >= 0) values.set(sum, passes ^ carry);
      const generated = generate < 0 ? generate + 2 : of(item(inputs, generate >> 1) * 2) ^ (generate & 1);
      carry = passes ? carry : generated;
    }
    if (out >= 0) values.set(out, carry);
  }
  return of;
}

/** Random states, both models, every root compared. */
function expectEqual(netlist: Netlist, rounds: number): Mapped {
  const mapped = map(netlist, MEMORIES);
  const { design } = mapped;
  const reachable = reachableValues(design.source);
  let seed = 12345;
  const random = () => {
    seed = (Math.imul(seed, 1103515245) + 12345) >>> 0;
    return BigInt(seed >>> 8);
  };
  for (let round = 0; round < rounds; round++) {
    const wide = (width: number) =>
      Array.from({ length: Math.ceil(width / 24) }, random).reduce((value, part) => (value << 24n) | part, 0n);
    const values = words(design.source, (id, node) => {
      const states = reachable.get(id);
      return states ? BigInt(item(states, Number(random() % BigInt(states.length)))) : wide(node.width);
    });
    const leaves = new Map<number, number>();
    const put = (list: readonly number[], value: bigint) => {
      for (const [i, bit] of list.entries())
        if (bit > TRUE) leaves.set(nodeOf(bit), Number((value >> BigInt(i)) & 1n) ^ (isInverted(bit) ? 1 : 0));
    };
    for (const { name, bits: list } of design.inputs)
      put(list, values[design.source.inputs.find((p) => p.name === name)?.node ?? -1] as bigint);
    for (const { register, q } of design.flipFlops) put(q, values[register.node] as bigint);
    for (const port of design.memoryPorts) if (port.kind === 'read') put(port.data, values[port.node] as bigint);
    const of = bits(mapped, leaves);
    const word = (list: readonly number[]) =>
      list.reduce((value, bit, i) => value | (BigInt(of(bit)) << BigInt(i)), 0n);
    for (const { name, bits: list } of design.outputs) {
      const port = design.source.outputs.find((p) => p.name === name);
      if (port) expect(word(list)).toBe(values[port.node]);
    }
    for (const { register, data, syncReset, syncValue, enable, q } of design.flipFlops) {
      const next =
        syncReset !== null && of(syncReset) ? syncValue : enable !== null && !of(enable) ? word(q) : word(data);
      expect(next).toBe(values[register.d]);
    }
  }
  return mapped;
}

const DESIGNS: Record<string, string> = {
  arithmetic:
    'module m(input [11:0] a, b, input signed [8:0] c, d, output [12:0] s, output [11:0] t, output [23:0] p, ' +
    'output lt, slt, eq, output [11:0] q, r, output signed [8:0] sq); assign s = a + b; assign t = a - b; assign ' +
    'p = a * b; assign lt = a < b; assign slt = c < d; assign eq = a == b; assign q = a / b; assign r = a % b; ' +
    'assign sq = c / d; endmodule',
  shifts:
    'module m(input [16:0] a, input [5:0] n, input signed [9:0] s, output [16:0] l, r, output signed [9:0] x, ' +
    'output [2:0] k); assign l = a << n; assign r = a >> n; assign x = s >>> n[3:0]; assign k = {&a, |a, ^a}; ' +
    'endmodule',
  registers:
    'module m(input clk, rst, en, up, input [7:0] d, output reg [7:0] q, output reg [3:0] z); always @(posedge ' +
    "clk) if (rst) q <= 8'h5a; else if (en) q <= up ? q + 1 : d ^ q; always @(posedge clk or posedge rst) if " +
    '(rst) z <= 0; else if (!en) z <= z + d[3:0]; endmodule',
  choices:
    "module m(input [2:0] s, input [7:0] a, b, c, d, output reg [7:0] y); always @* casez (s) 3'b1??: y = a; " +
    "3'b01?: y = b & c; 3'b001: y = d | a; default: y = ~c; endcase endmodule",
};

describe('the mapped design computes what the words compute', () => {
  test.each(Object.keys(DESIGNS))('%s', (name) => {
    expectEqual(netlistOf(DESIGNS[name] as string), 60);
  });
  test('SHA-256, a round of AES and the demo', () => {
    expectEqual(netlistOf(readFileSync('tests/designs/sha256.v', 'utf8')), 4);
    expectEqual(netlistOf(readFileSync('tests/designs/aes128.v', 'utf8')), 3);
  });
  test('random logic', () => {
    const leaf = fc.constantFrom('a', 'b', 'c', 'd', 'e');
    const tree = fc.letrec<{ e: string }>((tie) => ({
      e: fc.oneof(
        { maxDepth: 5 },
        leaf,
        fc.tuple(tie('e'), fc.constantFrom('&', '|', '^', '+'), tie('e')).map(([x, op, y]) => `(${x} ${op} ${y})`),
        fc.tuple(tie('e'), tie('e'), tie('e')).map(([x, y, z]) => `(${x} ? ${y} : ${z})`),
        tie('e').map((x) => `(~${x})`),
      ),
    })).e;
    fc.assert(
      fc.property(tree, (text) => {
        expectEqual(netlistOf(`module m(input [3:0] a, b, c, d, e, output [4:0] y); assign y = ${text}; endmodule`), 8);
      }),
      { numRuns: 150 },
    );
  });
});

describe('counts that can be worked out by hand', () => {
  const usage = (text: string) => countResources(map(netlistOf(text), MEMORIES));
  test('any function of four inputs is one table, of five at most three', () => {
    expect(
      usage('module m(input a, b, c, d, output y); assign y = (a ^ b) & (c | ~d) | a & d; endmodule').total.luts,
    ).toBe(1);
    expect(usage('module m(input a, b, c, d, e, output y); assign y = a & b & c & d & e; endmodule').total.luts).toBe(
      2,
    );
    expect(usage('module m(input [15:0] a, output y); assign y = ^a; endmodule').total).toMatchObject({
      luts: 5,
      depth: 2,
    });
  });
  test('an adder is one table a bit on a carry chain, a counter with reset and enable is no more', () => {
    expect(usage('module m(input [15:0] a, b, output [15:0] y); assign y = a + b; endmodule').total).toMatchObject({
      luts: 16,
      carryBits: 16,
    });
    expect(
      usage(
        'module m(input clk, rst, en, output reg [7:0] q); always @(posedge clk) if (rst) q <= 0; else if (en) q ' +
          '<= q + 1; endmodule',
      ).total,
    ).toMatchObject({ luts: 8, registers: 8, cells: 8 });
  });
  test('a two-way choice is a table a bit, four ways are two, one behind the other', () => {
    expect(
      usage('module m(input s, input [7:0] a, b, output [7:0] y); assign y = s ? a : b; endmodule').total.luts,
    ).toBe(8);
    expect(
      usage(
        'module m(input [1:0] s, input [7:0] a, b, c, d, output [7:0] y); assign y = s[1] ? (s[0] ? a : b) : ' +
          '(s[0] ? c : d); endmodule',
      ).total.luts,
    ).toBe(16);
  });
  test('a memory read at a clock edge is block RAM, one read without is tables, and says why', () => {
    const memory = (read: string) =>
      'module m(input clk, we, input [8:0] a, input [7:0] d, output reg [7:0] y); reg [7:0] t [0:511]; always ' +
      `@(posedge clk) if (we) t[a] <= d; ${read} endmodule`;
    expect(usage(memory('always @(posedge clk) y <= t[a];'))).toMatchObject({
      total: { blockRams: 1, memoryLuts: 0 },
      memories: [{ kind: 'block' }],
    });
    expect(usage(memory('always @* y = t[a];'))).toMatchObject({
      total: { blockRams: 0 },
      memories: [{ kind: 'tables', reason: expect.stringContaining('clock') }],
    });
  });
  test('byte lanes need no second port', () => {
    const text =
      'module m(input clk, input [1:0] we, input [7:0] a, input [15:0] d, output reg [15:0] y); reg [15:0] t ' +
      '[0:255]; always @(posedge clk) begin if (we[0]) t[a][7:0] <= d[7:0]; if (we[1]) t[a][15:8] <= d[15:8]; y ' +
      '<= t[a]; end endmodule';
    expect(usage(text).total.blockRams).toBe(1);
  });
  test('each instance is counted for itself', () => {
    const { instances } = usage(
      'module k(input [3:0] a, output [3:0] y); assign y = a + 3; endmodule module m(input clk, input [3:0] a, ' +
        'output reg [3:0] y); wire [3:0] w; k one(a, w); always @(posedge clk) y <= w; endmodule',
    );
    expect(instances).toEqual([
      { path: 'm', luts: 1, registers: 4, blockRams: 0 },
      { path: 'm.one', luts: 3, registers: 0, blockRams: 0 },
    ]);
  });
  test('every table has at most four inputs and every root has a value', () => {
    const mapped = map(netlistOf(readFileSync('tests/designs/sha256.v', 'utf8')), MEMORIES);
    expect(Math.max(...mapped.logic.inputs.map((inputs) => inputs.length))).toBeLessThanOrEqual(4);
    expect(rootsOf(mapped.design).length).toBeGreaterThan(700);
  });
});

describe('pieces of logic', () => {
  const text = (
    k: number,
  ) => `module part #(parameter K = 1) (input clk, input [7:0] a, output reg [7:0] q); always @(posedge clk) q <= (a ^ q) + K; endmodule
    module other(input clk, input [7:0] a, output reg [7:0] q); always @(posedge clk) q <= a * q ^ a; endmodule
    module m(input clk, input [7:0] a, output [7:0] x, y); part #(.K(${k})) u(clk, a, x); other v(clk, a, y); endmodule`;
  test('unchanged ones are not covered again, and the result is that of a build from nothing', () => {
    const memory = new PieceMemory();
    const first = map(netlistOf(text(1)), MEMORIES, memory);
    expect(first.reused).toBeLessThan(first.pieces);
    const again = map(netlistOf(text(1)), MEMORIES, memory);
    expect(again.reused).toBe(again.pieces);
    const changed = map(netlistOf(text(5)), MEMORIES, memory);
    expect(changed.reused).toBeGreaterThan(0);
    expect(changed.reused).toBeLessThan(changed.pieces);
    expect(changed.logic).toEqual(map(netlistOf(text(5)), MEMORIES).logic);
    expect(again.logic).toEqual(first.logic);
  });
});
