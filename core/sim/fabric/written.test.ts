// What is written down of a run against the same run looked at edge by edge.
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { chanceFrom } from '../../../tests/fuzz/index.ts';
import { randomDesign } from '../../../tests/support/random-design.ts';
import { netlistOf } from '../../../tests/support/replayed.ts';
import { optimise } from '../../netlist/index.ts';
import { Simulator } from './index.ts';

interface Change {
  readonly moment: number;
  readonly name: string;
  readonly value: number;
}

/** Every change of a word of an output, edge by edge. */
function lookedAt(sim: Simulator, outputs: readonly string[], each: (moment: number) => void, count: number): Change[] {
  const found: Change[] = [];
  const last = new Map<string, number>();
  for (let moment = 0; moment < count; moment++) {
    each(moment);
    sim.touched();
    sim.settle();
    for (const name of outputs) {
      const value = sim.words[sim.outputAddress(name)] ?? 0;
      if (moment > 0 && last.get(name) !== value) found.push({ moment, name, value });
      last.set(name, value);
    }
  }
  return found;
}

test('every change of every output, whatever comes in and however often the list is emptied', () => {
  let changes = 0;
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 100_000 }), fc.constantFrom(40, 100_000), (seed, room) => {
      const whole = netlistOf(randomDesign(seed).text, 'd');
      const outputs = whole.signals.flatMap(({ name, node, width }) =>
        width <= 32 ? [{ name: `see ${name}`, node, width }] : [],
      );
      const { netlist } = optimise({
        ...whole,
        outputs,
        registers: whole.registers.map((r) => ({ ...r, reset: null })),
      });
      const [sim, twin] = [new Simulator(netlist, 'wasm', null), new Simulator(netlist, 'javascript', null)];
      const clock = sim.domains.find(({ derived, edge }) => derived === null && edge === 'posedge')?.clock;
      if (clock === undefined) return;
      const run = sim.written(sim.domain(clock), { inputs: 400, changes: room });
      if (!run) return;
      const chance = chanceFrom(seed);
      const inputs = netlist.inputs.filter(({ name, width }) => name !== clock && width <= 32);
      // Calm stretches between: what rests is passed over. Some moments are without an edge.
      const given = new Map<number, { name: string; width: number; value: number }[]>();
      for (let moment = 3; moment < 400; moment += 1 + chance.below(chance.below(4) === 0 ? 90 : 3))
        if (inputs.length > 0) {
          const { name, width } = chance.pick(inputs);
          given.set(moment, [{ name, width, value: chance.below(2 ** Math.min(30, width)) }]);
        }
      const held = { from: 150 + chance.below(20), end: 200 };
      const isStepping = (moment: number) => moment < held.from || moment >= held.end;
      const expected = lookedAt(
        twin,
        outputs.map(({ name }) => name),
        (moment) => {
          if (moment > 0 && isStepping(moment)) twin.step(twin.domain(clock));
          for (const { name, value } of given.get(moment) ?? []) twin.setInput(name, BigInt(value));
        },
        400,
      );
      run.begin();
      for (const [moment, all] of given)
        for (const { name, value } of all) expect(run.addInput(moment, sim.inputAddress(name), value)).toBe(true);
      const nameAt = new Map(outputs.map(({ name }) => [sim.outputAddress(name) - run.from, name]));
      const found: Change[] = [];
      for (const [from, end] of [
        [1, held.from],
        [held.from, held.end],
        [held.end, 400],
      ] as const)
        for (let at = from; at < end; )
          at = run.run(at, end, isStepping(from), (moment, place, value) => {
            const name = nameAt.get(place);
            if (name !== undefined) found.push({ moment, name, value });
          });
      const sorted = (list: readonly Change[]) =>
        [...list].sort((a, b) => a.moment - b.moment || (a.name < b.name ? -1 : 1));
      expect({ seed, found: sorted(found) }).toEqual({ seed, found: sorted(expected) });
      changes += found.length;
    }),
    { numRuns: 60 },
  );
  expect(changes).toBeGreaterThan(500);
});
