// Words of a memory written in parts by several blocks, against a model of what IEEE 1364-2005, clause 9.2.2, makes of
// the statements.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { optimise } from '../netlist/index.ts';
import { Stepped } from '../sim/events/index.ts';
import { Simulator } from '../sim/fabric/index.ts';
import { elaborate, readDesign } from './index.ts';

const WIDTH = 16;
const DEPTH = 4;

/** A store of `width` bits from `lo`, while bit `enable` of `we` is 1, at one of two addresses. */
interface Store {
  readonly enable: number;
  readonly lo: number;
  readonly width: number;
  readonly address: 'a' | 'b';
  readonly data: 'd' | 'e';
}

const store: fc.Arbitrary<Store> = fc
  .record({
    enable: fc.nat(5),
    lo: fc.integer({ min: 0, max: WIDTH - 1 }),
    width: fc.integer({ min: 1, max: WIDTH }),
    address: fc.constantFrom<'a' | 'b'>('a', 'b'),
    data: fc.constantFrom<'d' | 'e'>('d', 'e'),
  })
  .map((one) => ({ ...one, width: Math.min(one.width, WIDTH - one.lo) }));

const statement = ({ enable, lo, width, address, data }: Store): string =>
  `if (we[${enable}]) m[${address}]${width === WIDTH ? '' : `[${lo + width - 1}:${lo}]`} <= ` +
  `${data}${width === WIDTH ? '' : `[${lo + width - 1}:${lo}]`};`;

function design(blocks: readonly (readonly Store[])[]): string {
  return `module t(input clk, input [5:0] we, input [1:0] a, input [1:0] b, input [15:0] d, input [15:0] e, input [1:0] r, output [15:0] y);
reg [15:0] m [0:3];
initial begin m[0] = 0; m[1] = 0; m[2] = 0; m[3] = 0; end
${blocks.map((stores) => `always @(posedge clk) begin\n${stores.map((one) => `  ${statement(one)}`).join('\n')}\nend`).join('\n')}
assign y = m[r];
endmodule`;
}

interface Cycle {
  readonly we: number;
  readonly a: number;
  readonly b: number;
  readonly d: number;
  readonly e: number;
}

/** Statement after statement, block after block, each bit for itself. */
function model(blocks: readonly (readonly Store[])[], cycles: readonly Cycle[]): number[] {
  const memory = Array<number>(DEPTH).fill(0);
  for (const cycle of cycles) {
    const next = [...memory];
    for (const { enable, lo, width, address, data } of blocks.flat()) {
      if (((cycle.we >> enable) & 1) === 0) continue;
      const mask = (2 ** width - 1) << lo;
      const at = cycle[address];
      next[at] = ((next[at] as number) & ~mask) | (cycle[data] & mask);
    }
    memory.splice(0, DEPTH, ...next);
  }
  return memory;
}

const read = (text: string) => {
  const { netlist, messages } = elaborate([{ name: 't.v', text }]);
  if (!netlist) throw new Error(messages.list.map(({ message }) => message).join(' '));
  return { netlist, codes: messages.list.map(({ code }) => code) };
};

const cycle = fc.record({ we: fc.nat(63), a: fc.nat(3), b: fc.nat(3), d: fc.nat(0xffff), e: fc.nat(0xffff) });
const someBlocks = fc.array(fc.array(store, { minLength: 1, maxLength: 3 }), { minLength: 1, maxLength: 4 });

describe('a memory whose words are written in parts', () => {
  test('keeps every part, whichever blocks they stand in, in the simulation of the fabric', () => {
    fc.assert(
      fc.property(someBlocks, fc.array(cycle, { minLength: 1, maxLength: 8 }), (blocks, cycles) => {
        const simulator = new Simulator(optimise(read(design(blocks)).netlist).netlist);
        for (const one of cycles) {
          for (const name of ['we', 'a', 'b', 'd', 'e'] as const) simulator.setInput(name, BigInt(one[name]));
          simulator.step(simulator.domain('clk'));
        }
        const words = Array.from({ length: DEPTH }, (_, at) => {
          simulator.setInput('r', BigInt(at));
          return Number(simulator.getOutput('y'));
        });
        expect(words).toEqual(model(blocks, cycles));
      }),
      { numRuns: 150 },
    );
  });

  test('and in the event simulator', () => {
    fc.assert(
      fc.property(someBlocks, fc.array(cycle, { minLength: 1, maxLength: 5 }), (blocks, cycles) => {
        const simulator = Stepped.of(readDesign([{ name: 't.v', text: design(blocks) }]));
        if (!simulator) throw new Error('does not elaborate');
        const set = (values: Record<string, number>) =>
          simulator.set(new Map(Object.entries(values).map(([name, value]) => [name, { v: BigInt(value), x: 0n }])));
        set({ clk: 0 });
        for (const { we, a, b, d, e } of cycles) {
          set({ we, a, b, d, e });
          set({ clk: 1 });
          set({ clk: 0 });
        }
        const words = Array.from({ length: DEPTH }, (_, at) => {
          set({ r: at });
          return simulator.get('y');
        });
        expect(words).toEqual(model(blocks, cycles).map((word) => ({ v: BigInt(word), x: 0n })));
      }),
      { numRuns: 60 },
    );
  });

  const lane = (enable: number, lo: number, width: number, address: 'a' | 'b' = 'a'): Store => ({
    enable,
    lo,
    width,
    address,
    data: 'd',
  });

  test('lanes of one word in blocks of their own share one write port, as one block would', () => {
    const apart = read(design([[lane(0, 0, 8)], [lane(1, 8, 8)]]));
    expect(apart.netlist.memories[0]?.writes).toHaveLength(1);
    expect(apart.codes).not.toContain('memory-order');
  });

  test('where the order between blocks decides, it is said; where they can never meet, it is not', () => {
    expect(read(design([[lane(0, 0, 8)], [lane(1, 4, 8)]])).codes).toContain('memory-order');
    expect(read(design([[lane(0, 0, 16)], [lane(1, 0, 16, 'b')]])).codes).toContain('memory-order');
    const choice = design([]).replace(
      'assign y',
      'always @(posedge clk) if (we[0]) m[a] <= d;\nalways @(posedge clk) if (!we[0]) m[a] <= e;\nassign y',
    );
    expect(read(choice).codes).not.toContain('memory-order');
  });

  test('parts under two clocks are warned of', () => {
    const clocks = design([[lane(0, 0, 8)]])
      .replace('input clk,', 'input clk, input clk2,')
      .replace('assign y', 'always @(posedge clk2) if (we[1]) m[a][15:8] <= d[15:8];\nassign y');
    expect(read(clocks).codes).toContain('memory-clocks');
  });
});
