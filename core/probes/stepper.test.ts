// The stepper core alone, bit by bit, and designs that it holds beside the same designs left alone.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { BareHub, READ, WRITE } from '../../tests/support/bare-hub.ts';
import { randomDesign } from '../../tests/support/random-design.ts';
import { chanceFrom } from '../../tests/fuzz/index.ts';
import { elaborate } from '../hdl/index.ts';
import { LINK, NetBuilder, type Netlist, optimise } from '../netlist/index.ts';
import { Simulator } from '../sim/fabric/index.ts';
import { holdClock, standstillOf } from './hold.ts';
import { insertCores } from './insert.ts';
import { mapOf, type StepperMap } from './map.ts';
import { comparatorRows, comparatorSigns, rowWords } from './recorder-words.ts';
import type { ComparatorSetting } from './program.ts';

const RUN = 1n;
const STEP = 2n;
const UNTIL = 3n;
const order = (way: bigint) => [(way << 1n) | 1n];

/** A stepper that holds a counter, which is the word its condition looks at; `word` gives it. */
function stepper(ratio: number, over: Partial<StepperMap> = {}) {
  const width = over.width ?? 8;
  const map: StepperMap = {
    ...{ kind: 'stepper', core: 1, name: 's', clock: 'clk', held: true, width, comparators: 0 },
    signals: [{ name: 'n', width, lo: 0, signed: false }],
    ...over,
  };
  let [word, late] = [0n, 0n];
  const hub: BareHub = new BareHub(mapOf('00'.repeat(16), [map]), ratio, () => {
    // What is held takes part in this edge while it is let; both registers are set behind it, the late one half a cycle.
    const [go, goLate] = [hub.sim.getOutput('c1_go'), hub.sim.getOutput('c1_go_late')];
    hub.sim.setInput('c1_probe', BigInt.asUintN(width, word));
    word += go;
    late += goLate;
  });
  const state = () => {
    const told = hub.scan(READ, 1, [], 64);
    const bit = (at: bigint) => Number((told >> at) & 1n);
    return { heard: bit(0n) === bit(4n), running: bit(1n), stepping: bit(2n), holds: bit(3n), left: told >> 32n };
  };
  const rest = () => {
    for (let i = 0; i < 400; i++) hub.sample();
    for (let i = 0; i < 6; i++) hub.edge({});
    return state();
  };
  return { hub, state, rest, steps: () => word, lateSteps: () => late };
}

/** What a condition of one comparator is told in, and its table. */
function condition(hub: BareHub, setting: ComparatorSetting, width: number): void {
  const { carry, turned } = comparatorSigns([setting]);
  hub.scan(WRITE, 1, [1n | (carry << 1n) | (turned << 2n)]);
  for (const [at, row] of comparatorRows(setting, width).entries()) hub.scan(WRITE, 2 | (at << 4), rowWords(row));
  hub.scan(WRITE, 5, [0n, 1n | 256n]);
}

describe('the stepper', () => {
  test('says who it is, stands from the first edge on, and makes exactly the steps that it is told to', () =>
    fc.assert(
      fc.property(
        fc.constantFrom(0.02, 0.3, 1, 3.7, 50),
        fc.array(fc.integer({ min: 0, max: 300 }), { minLength: 1, maxLength: 5 }),
        (ratio, counts) => {
          const { hub, rest, steps, lateSteps } = stepper(ratio);
          expect(hub.scan(READ, 0, [], 32)).toBe(0x53540001n);
          let all = 0n;
          for (const count of counts) {
            hub.scan(WRITE, 0, [BigInt(count)]);
            expect(steps(), 'nothing moves before it is told to').toBe(all);
            hub.scan(WRITE, 3, order(STEP));
            expect(rest()).toEqual({ heard: true, running: 0, stepping: 0, holds: 0, left: 0n });
            all += BigInt(count);
            expect([steps(), lateSteps()]).toEqual([all, all]);
          }
        },
      ),
      { numRuns: 30 },
    ));

  test('runs until it is held, and says how many steps were left where steps are broken off', () => {
    const { hub, rest, state, steps } = stepper(1);
    hub.scan(WRITE, 3, order(RUN));
    expect(rest().running).toBe(1);
    const before = steps();
    for (let i = 0; i < 50; i++) hub.sample();
    expect(steps() - before, 'every edge counts').toBe(50n);
    hub.scan(WRITE, 3, order(0n));
    expect(rest()).toMatchObject({ running: 0, stepping: 0 });
    const from = steps();
    hub.scan(WRITE, 0, [1_000_000n]);
    hub.scan(WRITE, 3, order(STEP));
    for (let i = 0; i < 200; i++) hub.sample();
    expect(state().stepping).toBe(1);
    hub.scan(WRITE, 3, order(0n));
    expect(steps() - from + rest().left, 'made and left').toBe(1_000_000n);
  });

  test('a stepper that is not to hold lets everything through from the first edge on', () => {
    const { hub, steps, lateSteps } = stepper(1, { held: false });
    for (let i = 0; i < 20; i++) hub.sample();
    expect([steps(), lateSteps()]).toEqual([20n, 20n]);
  });

  test.each([8, 70, 140])('until a word of %i bits is as wanted: not one step further', (width) =>
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 60 }), fc.constantFrom(0.3, 1, 8), (wanted, ratio) => {
        const { hub, rest, steps } = stepper(ratio, { width, comparators: 1 });
        condition(hub, { relation: 'equal', value: BigInt(wanted), mask: (1n << BigInt(width)) - 1n }, width);
        hub.scan(WRITE, 0, [1000n]);
        hub.scan(WRITE, 3, order(UNTIL));
        expect(rest()).toMatchObject({ stepping: 0, holds: 1, left: BigInt(1000 - wanted) });
        expect(steps()).toBe(BigInt(wanted));
        hub.scan(WRITE, 3, order(UNTIL));
        expect(rest(), 'it holds already').toMatchObject({ stepping: 0, holds: 1 });
        expect(steps()).toBe(BigInt(wanted));
      }),
      { numRuns: 12 },
    ),
  );

  test('until something rises, of the state before the last step and behind it; and no longer than is allowed', () => {
    const { hub, rest, steps } = stepper(1, { comparators: 1 });
    condition(hub, { relation: 'rises', value: 0n, mask: 8n }, 8);
    hub.scan(WRITE, 0, [1000n]);
    hub.scan(WRITE, 3, order(UNTIL));
    expect(rest()).toMatchObject({ stepping: 0, holds: 1 });
    expect(steps(), 'bit 3 rises as 7 becomes 8').toBe(8n);
    condition(hub, { relation: 'equal', value: 3n, mask: 255n }, 8);
    hub.scan(WRITE, 0, [30n]);
    hub.scan(WRITE, 3, order(UNTIL));
    expect(rest()).toMatchObject({ stepping: 0, holds: 0, left: 0n });
    expect(steps()).toBe(38n);
  });
});

const netlistOf = (text: string, top: string): Netlist => {
  const { netlist } = elaborate([{ name: 't.v', text }], { top });
  if (!netlist) throw new Error('the design does not elaborate');
  return netlist;
};

/** A design whose clock takes part by two inputs, rising and falling edges. */
function held(text: string, top: string, clock: string): Simulator {
  const netlist = netlistOf(text, top);
  const own = { registers: netlist.registers.length, memories: netlist.memories.length };
  const node = netlist.inputs.find(({ name }) => name === clock)?.node ?? 0;
  const build = new NetBuilder(netlist);
  holdClock(netlist, own, node, { go: build.input('$go', 1), goLate: build.input('$late', 1) });
  return new Simulator(optimise(netlist).netlist);
}

describe('a design whose clock is held', () => {
  test('is as its unheld twin after as many steps, whatever the schedule', () => {
    let compared = 0;
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1_000_000 }), (seed) => {
        const { text, inputs } = randomDesign(seed);
        const twin = new Simulator(optimise(netlistOf(text, 'd')).netlist);
        const clock = twin.domains.find(({ derived }) => derived === null)?.clock;
        if (clock === undefined) return;
        const sim = held(text, 'd', clock);
        const chance = chanceFrom(seed);
        const outputs = netlistOf(text, 'd').outputs.map(({ name }) => name);
        for (let turn = 0; turn < 60; turn++) {
          const input = chance.below(3) === 0 ? chance.pick(inputs) : undefined;
          if (input)
            for (const one of [sim, twin])
              one.setInput(input.name, BigInt(chance.below(1) + ((turn * 2654435761) % 65536)));
          const isLet = chance.below(3) === 0 ? 0n : 1n;
          sim.setInput('$go', isLet);
          sim.step(sim.domain(clock));
          sim.setInput('$late', isLet);
          sim.step(sim.domain(clock, 'negedge'));
          if (isLet) {
            twin.step(twin.domain(clock));
            twin.step(twin.domain(clock, 'negedge'));
          }
          for (const name of outputs) expect(sim.getOutput(name), `${name} in turn ${turn}`).toBe(twin.getOutput(name));
          compared += outputs.length;
        }
      }),
      { numRuns: 60 },
    );
    expect(compared).toBeGreaterThan(5000);
  });

  test('with the core in it and never held it runs exactly as without', () => {
    const text = `module d(input clk, input [7:0] i, output [15:0] o); reg [15:0] r = 1; reg [7:0] m [0:3]; reg [7:0] k = 0;
      always @(posedge clk) begin r <= r * 5 + i + k; m[r[1:0]] <= i; end always @(negedge clk) k <= k ^ m[r[3:2]];
      assign o = r ^ k; endmodule`;
    const netlist = netlistOf(text, 'd');
    const map = insertCores(
      netlist,
      { recorders: [], panels: [], steppers: [{ name: 's', clock: 'd.clk' }] },
      '0'.repeat(32),
    );
    expect(map.ok).toBe(true);
    const [sim, twin] = [optimise(netlist).netlist, optimise(netlistOf(text, 'd')).netlist].map(
      (one) => new Simulator(one),
    );
    if (!sim || !twin) throw new Error('nothing to compare');
    sim.setInput(LINK.tck, 0n);
    for (let edge = 0; edge < 400; edge++)
      for (const one of [sim, twin]) {
        one.setInput('i', BigInt((edge * 77) & 255));
        one.step(one.domain('clk'));
        one.step(one.domain('clk', 'negedge'));
        expect(sim === one || sim.getOutput('o') === twin.getOutput('o')).toBe(true);
      }
  });

  test('what stands and what goes on is told', () => {
    const netlist = netlistOf(
      `module d(input clk, other, rst, output [3:0] o); reg [1:0] a = 0, b = 0, c = 0, e = 0; reg [3:0] m [0:3];
        always @(posedge clk or posedge rst) if (rst) a <= 0; else a <= a + 1; always @(negedge clk) b <= b + a;
        always @(posedge other) c <= c + 1; always @(posedge a[1]) e <= e + 1; always @(posedge clk) m[a] <= {b, c};
        assign o = m[e]; endmodule`,
      'd',
    );
    expect(standstillOf(netlist, 'd.nothing')).toBeNull();
    expect(standstillOf(netlist, 'd.clk')).toEqual({
      ...{ registers: 2, memories: 1, resets: 1 },
      others: [
        { clock: 'd.other', count: 1 },
        { clock: null, count: 1 },
      ],
    });
  });
});
