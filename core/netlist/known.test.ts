// What is said of words holds for them: ranges of operations, of registers, and what is made narrower by it.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { elaborate } from '../hdl/index.ts';
import { item } from '../lists.ts';
import { evaluateConstant, NetBuilder, type Netlist, optimise, reachableValues, forMapping, inBits } from './index.ts';
import { between, knownOf, signedBits, unsignedBits } from './known.ts';
import { registerRanges } from './ranges.ts';

const OPS = ['add', 'sub', 'mul', 'divu', 'modu', 'and', 'or', 'xor', 'shl', 'shr', 'sra'] as const;
const COMPARISONS = ['eq', 'ltu', 'lts'] as const;

const range = fc.tuple(fc.nat(255), fc.nat(255)).map(([x, y]) => ({ min: Math.min(x, y), max: Math.max(x, y) }));

function netlistOf(text: string): Netlist {
  const { netlist, messages } = elaborate([{ name: 't.v', text }], {});
  if (!netlist) throw new Error(JSON.stringify(messages.list));
  return netlist;
}

describe('what is known of a word', () => {
  test('holds for every value of its arguments', () => {
    fc.assert(
      fc.property(fc.constantFrom(...OPS, ...COMPARISONS), range, range, fc.nat(), fc.nat(), (op, a, b, x, y) => {
        const width = OPS.some((one) => one === op) ? 8 : 1;
        const build = new NetBuilder();
        const ids = [build.input('a', 8), build.input('b', 8)];
        const id = build.make(op, width, ids);
        const ranges = [a, b].map(({ min, max }) => between(8, BigInt(min), BigInt(max)));
        const known = knownOf(build.node(id), (arg) => item(ranges, ids.indexOf(arg)));
        const values = [a.min + (x % (a.max - a.min + 1)), b.min + (y % (b.max - b.min + 1))].map(BigInt);
        const value = evaluateConstant(op, width, values, [8, 8]);
        expect(value >= known.min && value <= known.max).toBe(true);
        // The bits at the top that are said to be alike are.
        const top = BigInt.asIntN(width, value);
        expect(BigInt.asIntN(signedBits(known), top)).toBe(top);
        expect(value < 1n << BigInt(Math.max(1, unsignedBits(known)))).toBe(true);
      }),
      { numRuns: 4000 },
    );
  });
});

describe('ranges of registers', () => {
  const rangeIn = (text: string, name = 'm.q') => {
    const netlist = inBits(optimise(netlistOf(text)).netlist);
    const signal = netlist.signals.find((one) => one.name === name);
    return { width: netlist.registers.map(({ node }) => item(netlist.nodes, node).width), signal };
  };
  test('a counter that wraps has the bits of its highest value, whatever it was declared with', () => {
    const counter = (wrap: string) =>
      `module m(input clk, output reg [31:0] q); initial q = 0; always @(posedge clk) if (${wrap}) q <= 0; else q <= q + ` +
      '1; endmodule';
    expect(rangeIn(counter('q == 59')).width).toEqual([6]);
    expect(rangeIn(counter('q >= 99')).width).toEqual([7]);
    expect(rangeIn(counter('q > 4999')).width).toEqual([13]);
    // Past 59 it would never come if it began above.
    expect(rangeIn(counter('q == 59').replace('q = 0', 'q = 60')).width).toEqual([32]);
  });
  test('downwards, by steps, and with a load that is narrower', () => {
    expect(
      rangeIn(
        'module m(input clk, output reg [15:0] q); initial q = 9; always @(posedge clk) q <= q == 0 ? 9 : q - 1; endmodule',
      ).width,
    ).toEqual([4]);
    expect(
      rangeIn(
        'module m(input clk, load, input [3:0] d, output reg [15:0] q); initial q = 0; always @(posedge clk) if (load) q ' +
          '<= d; else if (q < 100) q <= q + 5; endmodule',
      ).width,
    ).toEqual([7]);
  });
  test('a word taken over from another clock may be torn: its bits are known, its range is not', () => {
    const { netlist } = optimise(
      netlistOf(
        'module m(input c1, c2, output reg [5:0] b); reg [31:0] a = 0; initial b = 0; always @(posedge c1) a <= a == 40 ? ' +
          '0 : a + 1; always @(posedge c2) b <= a; endmodule',
      ),
    );
    const torn = netlist.registers.find(({ node }) => netlist.signals.some((s) => s.name === 'm.b' && s.node === node));
    expect(torn).toBeDefined();
    const known = registerRanges(netlist).get(torn?.node ?? -1);
    // 31 and 32 taken over together may read as 63.
    expect(known?.max ?? 63n).toBe(63n);
  });
  test('values that are never reached are known one by one', () => {
    const source = optimise(
      netlistOf(
        'module m(input clk, go, output reg [3:0] s); initial s = 1; always @(posedge clk) case (s) 1: if (go) s <= 2; 2: s ' +
          '<= 4; 4: s <= go ? 8 : 1; default: s <= 1; endcase endmodule',
      ),
    ).netlist;
    expect([...reachableValues(source).values()]).toEqual([[1, 2, 4, 8]]);
  });
  test('an asynchronous set and what it loads are no limits', () => {
    expect(
      rangeIn(
        'module m(input clk, rst, output reg [7:0] q); initial q = 0; always @(posedge clk or posedge rst) if (rst) q <= ' +
          "8'd200; else if (q < 10) q <= q + 1; endmodule",
      ).width,
    ).toEqual([8]);
  });
});

describe('words made narrower or shared', () => {
  const count = (text: string, op: string) =>
    forMapping(optimise(netlistOf(text)).netlist).nodes.filter((node) => node.op === op).length;
  test('a comparison with a constant of 32 bits is as wide as what is compared', () => {
    const netlist = inBits(
      optimise(netlistOf('module m(input [3:0] x, output y); assign y = x >= 5; endmodule')).netlist,
    );
    const less = netlist.nodes.find((node) => node.op === 'ltu');
    expect(less?.args.map((arg) => item(netlist.nodes, arg).width)).toEqual([4, 4]);
  });
  test('signed ones keep one sign', () => {
    const netlist = inBits(
      optimise(netlistOf('module m(input signed [5:0] x, input signed [7:0] y, output z); assign z = x < y; endmodule'))
        .netlist,
    );
    const less = netlist.nodes.find((node) => node.op === 'lts');
    expect(less?.args.map((arg) => item(netlist.nodes, arg).width)).toEqual([8, 8]);
  });
  test('to be run, words go by machine words: no bits are cut off within one, whole ones that nobody needs are', () => {
    const { nodes } = optimise(
      netlistOf(
        'module m(input [9:0] a, b, output [63:0] p, output [19:0] q); assign p = a * b; assign q = a * b; endmodule',
      ),
    ).netlist;
    const products = nodes.filter(({ op }) => op === 'mul').map(({ width }) => width);
    expect(products.length).toBeGreaterThan(0);
    expect(products.every((width) => width === 32 || width === 20)).toBe(true);
    expect(nodes.filter(({ op }) => op === 'sext')).toEqual([]);
  });
  test('one adder does for a choice between sums', () => {
    const sums = (expression: string) =>
      count(`module m(input s, input [7:0] a, b, c, output [7:0] y); assign y = ${expression}; endmodule`, 'add');
    expect(sums('s ? a + b : a + c')).toBe(1);
    expect(sums('s ? b + a : a')).toBe(1);
    // A sum that is there for others too stays.
    const shared =
      'module m(input s, input [7:0] a, b, c, output [7:0] y, z); wire [7:0] t = a + b; assign z = t; assign y = s ? t : a ' +
      '+ c; endmodule';
    expect(count(shared, 'add')).toBe(2);
  });
  test('a rotation has no subtraction and one shift', () => {
    const text =
      'module m(input [7:0] a, input [2:0] n, output [7:0] y); assign y = (a << n) | (a >> (8 - n)); endmodule';
    expect([count(text, 'sub'), count(text, 'shl') + count(text, 'shr')]).toEqual([0, 1]);
    // By more than the width nothing is left of it, so this is none.
    const wider = text.replace('[2:0] n', '[3:0] n');
    expect(count(wider, 'shl') + count(wider, 'shr')).toBe(2);
  });
  test('a register that holds in several places has one enable', () => {
    const netlist = forMapping(
      optimise(
        netlistOf(
          'module m(input clk, load, en, input [7:0] d, output reg [7:0] q); always @(posedge clk) if (load) q <= d; else if ' +
            '(en) q <= q ^ d; endmodule',
        ),
      ).netlist,
    );
    const next = item(netlist.nodes, item(netlist.registers, 0).d);
    expect(next.op).toBe('mux');
    expect(next.args).toContain(item(netlist.registers, 0).node);
  });
});
