// What hardware takes of a netlist, and what is left of one when the rest goes.
import { describe, expect, test } from 'vitest';
import { compacted } from './compact.ts';
import { NetBuilder } from './index.ts';
import { takenBy, usesIn } from './uses.ts';

/** An output that floats, a register that is cleared, a memory, and a name for something that nothing takes. */
function small() {
  const build = new NetBuilder();
  const [clk, rst, a] = [build.input('clk', 1), build.input('rst', 1), build.input('a', 4)];
  const gone = build.xor(a, build.constant(5n, 4));
  const q = build.register(4);
  const sum = build.add(q, a);
  const named = build.not(a);
  const { netlist } = build;
  netlist.outputs.push({ name: 'y', node: q, width: 4, enable: rst });
  netlist.registers.push({
    ...{
      node: q,
      clock: clk,
      edge: 'posedge',
      d: sum,
      reset: rst,
      resetValue: 0n,
      load: null,
      init: 0n,
      initialised: true,
    },
  });
  netlist.signals.push({
    ...{
      name: 'm.named',
      node: named,
      width: 4,
      signed: false,
      lsb: 0,
      kind: 'wire',
      free: false,
      keep: false,
      names: [],
    },
    at: { file: 't.v', line: 1, column: 1 },
  });
  return { netlist, clk, rst, a, q, sum, named, gone };
}

describe('what is taken of a netlist', () => {
  test('pins with their enables, what registers are given; twice where it is taken twice', () => {
    const { netlist, clk, rst, q, sum } = small();
    expect(takenBy(netlist).sort((x, y) => x - y)).toEqual([clk, rst, rst, q, sum].sort((x, y) => x - y));
  });
  test('arguments of what is taken are taken, those of what has a name only are not', () => {
    const { netlist, a, q, sum, named, gone } = small();
    const uses = usesIn(netlist);
    // q by the pin and by the sum; a by the sum alone.
    expect([q, a, sum, named, gone].map((id) => uses[id])).toEqual([2, 1, 1, 0, 0]);
  });
  test('what nothing needs goes, names stay, and it is told where each went', () => {
    const { netlist, named, gone, sum } = small();
    const before = netlist.nodes.map((_, id) => id);
    const { netlist: left, moved } = compacted(netlist, before);
    expect(moved[gone]).toBe(-1);
    expect(left.nodes.length).toBe(netlist.nodes.length - 2);
    expect(left.nodes[moved[sum] ?? -1]?.op).toBe('add');
    expect(left.signals[0]?.node).toBe(moved[named]);
    // Nothing is left to go: the same is given back.
    expect(compacted(left, before).netlist).toBe(left);
  });
});
