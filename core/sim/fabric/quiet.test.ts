// Registers that rest while what they depend on does: what is run is the same as if nothing rested.
import { describe, expect, test } from 'vitest';
import { CLOCK } from '../../../tests/circuits/index.ts';
import { wordValues } from '../../../tests/support/word-values.ts';
import { elaborate } from '../../hdl/index.ts';
import { item } from '../../lists.ts';
import { type Netlist, optimise } from '../../netlist/index.ts';
import { type Backend, Simulator } from './index.ts';
import { quietGroups } from './quiet.ts';

function netlistOf(text: string): Netlist {
  const { netlist, messages } = elaborate([{ name: 't.v', text }], { top: 'm' });
  if (!netlist) throw new Error(JSON.stringify(messages.list));
  return optimise(netlist).netlist;
}

/** The netlist word by word, at every edge anew. */
class Plain {
  readonly #netlist: Netlist;
  readonly inputs = new Map<string, bigint>();
  readonly #registers: Map<number, bigint>;
  readonly #memories: bigint[][];

  constructor(netlist: Netlist) {
    this.#netlist = netlist;
    this.#registers = new Map(netlist.registers.map(({ node, init }) => [node, init]));
    this.#memories = netlist.memories.map(({ init, depth }) => Array.from({ length: depth }, (_, i) => init[i] ?? 0n));
  }

  #words(): bigint[] {
    return wordValues(this.#netlist, (id, node, values) => {
      if (node.op === 'input') return this.inputs.get(node.name) ?? 0n;
      if (node.op === 'memread') return this.#memories[node.memory]?.[Number(item(values, node.args[0]))] ?? 0n;
      return this.#registers.get(id) ?? 0n;
    });
  }

  edge(clock: string): void {
    const values = this.#words();
    const isOf = (id: number) => this.#netlist.inputs.some(({ node, name }) => node === id && name === clock);
    for (const { clock: of, node, d } of this.#netlist.registers)
      if (isOf(of)) this.#registers.set(node, item(values, d));
    for (const [memory, { writes }] of this.#netlist.memories.entries())
      for (const { clock: of, enable, address, data } of writes)
        if (isOf(of) && item(values, enable) === 1n)
          (this.#memories[memory] ?? [])[Number(item(values, address))] = item(values, data);
  }

  output(name: string): bigint {
    const port = this.#netlist.outputs.find((one) => one.name === name);
    return this.#words()[port?.node ?? -1] ?? -1n;
  }
}

const groupsOf = (netlist: Netlist) =>
  quietGroups(
    netlist,
    netlist.registers.map(({ node, d }) => ({ node, value: d })),
    () => true,
  );

/** A table that another clock writes, looked up by words that seldom move. */
const TABLES = `module m(input clk, input tck, input write, input [3:0] at, input [7:0] data, input go, input [7:0] in,
  output reg [15:0] y, output reg [7:0] z, output reg [15:0] w);
  reg [7:0] t [0:15], u [0:15];
  reg [7:0] a = 0, b = 0;
  integer i;
  always @(posedge tck) if (write) begin t[at] <= data; u[~at] <= data ^ in; end
  always @(posedge clk) begin
    if (go) begin a <= in; b <= a; end
    y <= {t[a[3:0]], u[a[7:4]]} * {t[b[3:0]], u[b[7:4]]} + t[a[7:4]];
    z <= t[a[3:0]] ^ u[a[7:4]] ^ (a * a) ^ (a << a[2:0]);
  end
  // The same words under another clock are another group.
  always @(posedge tck) w <= {a, b} * {b, a} + (a << b[3:0]);
endmodule`;

describe.each<Backend>(['wasm', 'javascript'])('registers that rest, %s', (backend) => {
  test('a table written meanwhile is seen, and so is each word that moves', () => {
    const netlist = netlistOf(TABLES);
    expect(groupsOf(netlist).size).toBeGreaterThanOrEqual(3);
    const [plain, sim] = [new Plain(netlist), new Simulator(netlist, backend)];
    let seed = 7;
    const random = (below: number) => {
      seed = (Math.imul(seed, 1103515245) + 12345) & 0x7fffffff;
      return (seed >>> 12) % below;
    };
    const set = (name: string, value: number) => {
      plain.inputs.set(name, BigInt(value));
      sim.setInput(name, BigInt(value));
    };
    for (let step = 0; step < 1500; step++) {
      // Most of the time nothing moves.
      set('go', random(8) === 0 ? 1 : 0);
      set('write', random(6) === 0 ? 1 : 0);
      set('in', random(256));
      set('at', random(16));
      set('data', random(256));
      const clock = random(3) === 0 ? 'tck' : 'clk';
      plain.edge(clock);
      sim.step(sim.domain(clock));
      for (const name of ['y', 'z', 'w']) expect(sim.getOutput(name)).toBe(plain.output(name));
    }
  });
  test('a clock on six digits shows what it should, from power-up on and after another one', () => {
    const fast = CLOCK.replace('11999999', '3');
    const netlist = netlistOf(fast);
    expect(groupsOf(netlist).size).toBeGreaterThan(0);
    const sim = new Simulator(netlist, backend);
    for (let again = 0; again < 2; again++) {
      const plain = new Plain(netlist);
      for (let step = 0; step < 1200; step++) {
        plain.edge('clk');
        sim.step(sim.domain('clk'));
        if (step % 7 === 0) expect(sim.getOutput('digits')).toBe(plain.output('digits'));
      }
      sim.powerUp();
    }
  });
});

test('what depends on itself is not looked at, and what is little work neither', () => {
  const netlist = netlistOf(
    'module m(input clk, input [7:0] a, output reg [31:0] q, output reg [7:0] r); always @(posedge clk) begin q <= q * q ' +
      '+ a; r <= a; end endmodule',
  );
  expect(groupsOf(netlist).size).toBe(0);
});

test('many words that move for long, rest, and move again are looked at as it pays', () => {
  const taps = Array.from({ length: 12 }, (_, i) => i);
  const netlist = netlistOf(`module m(input clk, input go, input [7:0] in, output reg [15:0] y);
      ${taps.map((i) => `reg [7:0] t${i} = 0;`).join(' ')}
      always @(posedge clk) begin
        if (go) begin ${taps.map((i) => `t${i} <= ${i === 0 ? 'in' : `t${i - 1}`};`).join(' ')} end
        y <= ${taps.map((i) => `t${i} * 8'd${i + 3}`).join(' + ')};
      end
    endmodule`);
  expect(groupsOf(netlist).size).toBe(1);
  for (const backend of ['wasm', 'javascript'] as const) {
    const [simulator, plain] = [new Simulator(netlist, backend), new Plain(netlist)];
    const clock = simulator.domain('clk');
    const set = (name: string, value: number) => {
      simulator.setInput(name, BigInt(value));
      plain.inputs.set(name, BigInt(value));
    };
    // Stretches of both kinds, long and short, around the numbers of edges after which it is looked at again.
    for (const [edges, go] of [
      [40, 1],
      [3, 0],
      [300, 1],
      [500, 0],
      [17, 1],
      [1, 0],
      [16, 1],
      [260, 0],
      [700, 1],
    ] as const)
      for (let i = 0; i < edges; i++) {
        set('go', go);
        set('in', (i * 37 + edges) & 0xff);
        simulator.step(clock);
        plain.edge('clk');
        expect(simulator.getOutput('y')).toBe(plain.output('y'));
      }
  }
});
