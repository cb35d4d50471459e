// States written in another way: the design does the same, edge by edge, and what is told of its states is true.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { chanceFrom } from '../../tests/fuzz/index.ts';
import { netlistOf } from '../../tests/support/mapped-equals.ts';
import { wordValues } from '../../tests/support/word-values.ts';
import { type Codes, randomMachine } from '../../tests/support/random-machine.ts';
import { item } from '../lists.ts';
import { Simulator } from '../sim/fabric/index.ts';
import { apart, type Encoding, inBits, type Netlist, optimise, recoded, stateMachines } from './index.ts';

/** Both run with the same inputs from power-up on; every output is compared at every edge, and between. */
function expectSame(one: Netlist, other: Netlist, seed: number, edges: number): void {
  const [a, b] = [one, other].map((netlist) => new Simulator(netlist, 'javascript'));
  if (!a || !b) throw new Error('two netlists');
  const chance = chanceFrom(seed);
  for (let edge = 0; edge < edges; edge++) {
    for (const { name, width } of one.inputs) {
      if (name === 'clk') continue;
      const value = name === 'rst' ? BigInt(chance.below(40) === 0 ? 1 : 0) : BigInt(chance.below(2 ** width));
      for (const sim of [a, b]) sim.setInput(name, value);
    }
    for (const { name } of one.outputs)
      if (a.getOutput(name) !== b.getOutput(name))
        expect.fail(`${name} at edge ${edge} is ${b.getOutput(name)}, not ${a.getOutput(name)}`);
    for (const sim of [a, b]) sim.step(sim.domain('clk'));
  }
}

const only = (netlist: Netlist) => {
  const [found, another] = stateMachines(netlist);
  if (!found || another) throw new Error('one machine is expected');
  return found;
};

describe('states written in another way', () => {
  test.each(['one-hot', 'binary'] as const)('%s: random machines in all codes do what they did', (encoding) => {
    fc.assert(
      fc.property(
        fc.integer({ min: 5, max: 20 }),
        fc.constantFrom<Codes>('counted', 'gray', 'one-hot', 'scattered'),
        fc.integer({ min: 1, max: 1_000_000 }),
        fc.boolean(),
        (states, codes, seed, shown) => {
          const netlist = netlistOf(randomMachine(states, codes, seed, shown));
          // Some states of some machines are never reached.
          const [found] = stateMachines(netlist);
          if (!found) return;
          const done = recoded(netlist, found.machine, encoding);
          expect(done).not.toBeNull();
          if (done) expectSame(netlist, done.netlist, seed, 400);
        },
      ),
      { numRuns: 60 },
    );
  });

  test('a machine in the middle of other logic, its state counted, stored and compared', () => {
    const netlist = inBits(
      netlistOf(`module m(input clk, rst, input [7:0] i, output reg [15:0] n, output [7:0] r, output lt);
      reg [2:0] s = 3; reg [7:0] m [0:7];
      always @(posedge clk) begin
        if (rst) s <= 3;
        else case (s) 3: if (i[0]) s <= 5; 5: s <= i[1] ? 6 : 0; 6: if (n[3]) s <= 7; 7: s <= 0; 0: if (i > 40) s <= 3;
          default: s <= 3; endcase
        n <= n + s;
        if (i[2]) m[s] <= i;
      end
      assign r = m[s]; assign lt = s < i[2:0];
      endmodule`),
    );
    const { machine } = only(netlist);
    expect([...machine.states].sort()).toEqual([0n, 3n, 5n, 6n, 7n]);
    for (const way of ['one-hot', 'binary'] as const) {
      const done = recoded(netlist, machine, way);
      if (done) expectSame(netlist, done.netlist, 7, 3000);
    }
  });

  test.each(['one-hot', 'binary'] as const)(
    '%s: in every state, for every input, the outputs and what comes next are the same',
    (way) => {
      const source = inBits(
        netlistOf(`module m(input clk, input [3:0] i, output reg [2:0] o, output [4:0] seen);
      reg [4:0] s = 17; assign seen = s;
      always @(posedge clk) case (s) 17: s <= i[0] ? 4 : 9; 4: if (i[2:1] == 2) s <= 30; 9: if (^i) s <= 17; 30: s <= i > 6 ? 1 : 4;
        1: s <= 22; 22: if (~i[3]) s <= 17; default: s <= 17; endcase
      always @* o = {s == 4 && i[0], s > 9, s[0] ^ i[1]};
      endmodule`),
      );
      const { machine } = only(source);
      const done = recoded(source, machine, way)?.netlist;
      if (!done) throw new Error('it is written anew');
      const code = (state: bigint) => {
        const at = BigInt(machine.states.indexOf(state));
        return way === 'one-hot' ? 1n << at : at;
      };
      const [one, other] = [source, done].map((of) => of.registers.find(({ node }) => item(of.nodes, node).width > 1));
      for (const state of machine.states)
        for (let input = 0n; input < 16n; input++) {
          const values = (of: Netlist, register: number | undefined, value: bigint) =>
            wordValues(of, (id) =>
              id === register ? value : of.inputs.find(({ node }) => node === id)?.name === 'i' ? input : 0n,
            );
          const [before, after] = [values(source, one?.node, state), values(done, other?.node, code(state))];
          for (const { name, node } of source.outputs)
            expect(after[done.outputs.find((port) => port.name === name)?.node ?? -1], `${name} in ${state}`).toBe(
              before[node],
            );
          expect(after[other?.d ?? -1], `after ${state} with ${input}`).toBe(code(before[one?.d ?? -1] ?? -1n));
        }
    },
  );

  test('has a bit for each state, or the fewest that there can be', () => {
    const netlist = netlistOf(randomMachine(11, 'counted', 3));
    const { machine, ways } = only(netlist);
    expect(ways).toEqual(['one-hot']);
    const bitsOf = (way: Encoding) =>
      recoded(netlist, machine, way)?.netlist.registers.map(({ node }) => {
        const done = recoded(netlist, machine, way)?.netlist;
        return done && item(done.nodes, node).width;
      });
    expect(bitsOf('one-hot')).toEqual([machine.states.length]);
    expect(bitsOf('binary')).toEqual([Math.ceil(Math.log2(machine.states.length))]);
    expect(only(netlistOf(randomMachine(11, 'one-hot', 3))).ways).toEqual(['one-hot', 'binary']);
  });

  test('states that a reset alone brings about, and those of a set and a reset, are told from what comes after', () => {
    const netlist = netlistOf(`module m(input clk, rst, input [7:0] i, output reg [5:0] o, output busy);
      reg [2:0] s = 1; assign busy = s == 6;
      always @(posedge clk or posedge rst) if (rst) s <= 6; else case (s) 1: s <= 3; 3: if (i[0]) s <= 4; 4: s <= 0;
        0: s <= 1; 6: if (i[1]) s <= 1; default: s <= 1; endcase
      always @(posedge clk) o <= o + s;
      endmodule`);
    const { machine } = only(netlist);
    expect([...machine.states].sort()).toEqual([0n, 1n, 3n, 4n, 6n]);
    for (const way of ['one-hot', 'binary'] as const) {
      const done = recoded(netlist, machine, way);
      const [register] = done?.netlist.registers.filter(({ reset }) => reset !== null) ?? [];
      expect(register?.resetValue).toBe(
        way === 'one-hot' ? 1n << BigInt(machine.states.indexOf(6n)) : BigInt(machine.states.indexOf(6n)),
      );
      if (done) expectSame(netlist, done.netlist, 11, 2000);
    }
  });

  test('of several machines each is found, and can be written anew after another one was', () => {
    const part = randomMachine(7, 'counted', 4).replace('module m(', 'module part(');
    const netlist = netlistOf(`${part}
      module m(input clk, rst, input [7:0] i, output [5:0] o, p, output [3:0] b);
        part u(clk, rst, i, o, b[0], b[1], ); part v(clk, rst, i ^ 8'h5a, p, b[2], b[3], );
      endmodule`);
    const found = stateMachines(netlist);
    expect(found).toHaveLength(2);
    const [first, second] = found;
    const once = first && recoded(netlist, first.machine, 'one-hot');
    const node = second && once?.moved.get(second.machine.register.node);
    const register = once?.netlist.registers.find((one) => one.node === node);
    const twice = once && second && register && recoded(once.netlist, { ...second.machine, register }, 'binary');
    expect(twice).toBeTruthy();
    if (twice) expectSame(netlist, twice.netlist, 5, 1500);
  });

  test('counters, shift registers and what is loaded are no state machines', () => {
    const netlist = netlistOf(`module m(input clk, input [3:0] i, output reg [3:0] a, b, c, d);
      always @(posedge clk) begin a <= a == 9 ? 0 : a + 1; b <= {b[2:0], ~b[3]}; c <= i[0] ? i : 5;
        case (i) 0: d <= 1; 1: d <= 2; 2: d <= 4; 3: d <= 8; 4: d <= d ^ 3; default: d <= 0; endcase end
      endmodule`);
    expect(stateMachines(netlist)).toEqual([]);
  });

  test('apart from the rest it has what it decides, and takes the rest from outside', () => {
    const netlist = netlistOf(`module m(input clk, input [7:0] x, y, output reg [2:0] s, output [15:0] p);
      wire go = x * y > 1000; assign p = x * y;
      always @(posedge clk) case (s) 0: if (go) s <= 1; 1: s <= 2; 2: s <= 3; 3: s <= 4; default: s <= 0; endcase
      endmodule`);
    const part = optimise(apart(netlist, only(netlist).machine)).netlist;
    expect(part.nodes.some(({ op }) => op === 'mul')).toBe(false);
    expect(part.registers).toHaveLength(1);
    expect(part.outputs.map(({ width }) => width)).toEqual([3]);
  });
});
