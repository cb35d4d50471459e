import { describe, expect, test } from 'vitest';
import { MEMORIES } from '../families/corvane/delays.ts';
import { PieceMemory } from '../mapping/index.ts';
import {
  activePlan,
  cheapestFit,
  fits,
  missingNames,
  type PlanShelf,
  planCost,
  type ProbePlan,
  readPlanFile,
  readShelf,
  writePlanFile,
} from './index.ts';

const recorder = { name: 'r', clock: 't.clk', depth: 256, signals: ['t.a'] };
const plan: ProbePlan = {
  recorders: [recorder],
  panels: [{ name: 'p', clock: 't.clk', levers: [], gauges: ['t.a', 't.b'] }],
};

describe('plans on a shelf', () => {
  test('those in the build are built in together, without what is switched off, under names of their own', () => {
    const shelf: PlanShelf = [
      { name: 'one', inBuild: true, plan },
      {
        name: 'two',
        inBuild: true,
        plan: { recorders: [recorder, { ...recorder, name: 'quiet', off: true }], panels: [] },
      },
      { name: 'three', inBuild: false, plan },
    ];
    expect(activePlan(shelf)).toEqual({ recorders: [recorder, { ...recorder, name: 'r (two)' }], panels: plan.panels });
    expect(activePlan([])).toEqual({ recorders: [], panels: [] });
  });

  test('a plan from before there were several is the only one', () => {
    expect(readShelf(plan)).toEqual([{ name: 'plan', inBuild: true, plan }]);
    expect([
      readShelf({ recorders: [], panels: [] }),
      readShelf({}),
      readShelf([{ name: 'x', inBuild: false, plan }]),
    ]).toEqual([[], [], [{ name: 'x', inBuild: false, plan }]]);
  });

  test('a file comes back as it went; a map and other files are told from it', () => {
    const back = readPlanFile(writePlanFile('mine', plan), 'whatever.json');
    expect(back).toEqual({ ok: true, value: { name: 'mine', plan } });
    expect(readPlanFile(JSON.stringify(plan), 'levels.plan.json')).toMatchObject({
      ok: true,
      value: { name: 'levels' },
    });
    const wrong = (text: string) => {
      const read = readPlanFile(text, 'x.json');
      return read.ok ? null : read.error.message;
    };
    expect(wrong('{')).toMatch(/is no JSON/);
    expect(wrong('{"format":"nimble-probes"}')).toMatch(/map of a build/);
    expect(wrong(JSON.stringify({ recorders: [{ ...recorder, depth: 100 }], panels: [] }))).toMatch(/power of two/);
  });

  test('names that a design does not have are listed once', () => {
    expect(missingNames(plan, new Set(['t.clk', 't.b']))).toEqual(['t.a']);
  });
});

describe('what a plan takes', () => {
  const signals = new Map([
    ['t.a', { width: 24, signed: false, free: false, names: [] }],
    ['t.b', { width: 8, signed: false, free: false, names: [] }],
  ]);
  const on = { cells: MEMORIES, pieces: new PieceMemory() };

  test('grows with what is asked for', () => {
    const cost = (over: Partial<typeof recorder> & { comparators?: number; stages?: number; qualifier?: boolean }) =>
      planCost({ recorders: [{ ...recorder, ...over }], panels: [] }, signals, on);
    const least = cost({ comparators: 1 });
    expect(least.luts).toBeGreaterThan(200);
    expect(cost({ comparators: 3 }).luts).toBeGreaterThan(least.luts + 100);
    expect(cost({ comparators: 1, stages: 2 }).luts).toBeGreaterThan(least.luts);
    expect([
      least.blockRams,
      cost({ comparators: 1, depth: 1024 }).blockRams,
      cost({ comparators: 1, qualifier: true }).blockRams,
    ]).toEqual([2, 6, 4]);
    expect(planCost({ recorders: [], panels: [] }, signals, on)).toEqual({ luts: 0, registers: 0, blockRams: 0 });
  });

  test('the first change that fits is the one that is least missed', () => {
    const wanted: ProbePlan = { recorders: [{ ...recorder, comparators: 3, stages: 2, segments: 4 }], panels: [] };
    const whole = planCost(wanted, signals, on);
    const tight = cheapestFit(wanted, signals, { luts: whole.luts - 20, registers: 2500, blockRams: 24 }, on);
    expect(tight?.change).toBe('r: its buffer in one piece');
    expect(tight?.cost.luts).toBeLessThan(whole.luts - 19);
    const deep = { ...wanted, recorders: [{ ...recorder, comparators: 3, stages: 2, segments: 4, depth: 1024 }] };
    expect(cheapestFit(deep, signals, { luts: whole.luts + 500, registers: 2500, blockRams: 4 }, on)?.change).toBe(
      'r: 512 samples deep',
    );
    expect(cheapestFit(wanted, signals, { luts: 50, registers: 2500, blockRams: 0 }, on)).toBeNull();
  });

  test('what is read once costs a register a bit, and is given up before a signal is', () => {
    const plain = { ...recorder, comparators: 1 };
    const read = { ...plain, atTrigger: ['t.a', 't.b'] };
    const costOf = (one: typeof plain) => planCost({ recorders: [one], panels: [] }, signals, on);
    const [without, with32] = [costOf(plain), costOf(read)];
    expect(with32.registers - without.registers).toBeGreaterThanOrEqual(32);
    expect(with32.registers - without.registers).toBeLessThan(38);
    expect(with32.luts - without.luts).toBeLessThan(90);
    const tight = cheapestFit(
      { recorders: [read], panels: [] },
      signals,
      { luts: 2500, registers: without.registers, blockRams: without.blockRams },
      on,
    );
    expect(tight?.change).toBe('r: nothing read at the trigger');
  });

  test('where no one setting is enough, a signal is left out, or several settings give way together', () => {
    const both: ProbePlan = { recorders: [{ ...recorder, signals: ['t.a', 't.b'], comparators: 1 }], panels: [] };
    const without = planCost(
      { recorders: [{ ...recorder, signals: ['t.b'], comparators: 1 }], panels: [] },
      signals,
      on,
    );
    expect(cheapestFit(both, signals, { luts: without.luts, registers: 2500, blockRams: 24 }, on)?.change).toBe(
      'r: without a',
    );
    const rich: ProbePlan = {
      recorders: [{ ...recorder, comparators: 4, stages: 3, segments: 8, qualifier: true }],
      panels: [],
    };
    const least = planCost({ recorders: [{ ...recorder, comparators: 1, depth: 64 }], panels: [] }, signals, on);
    const several = cheapestFit(rich, signals, { luts: least.luts + 60, registers: 2500, blockRams: 4 }, on);
    expect(several?.change.split(', ').length).toBeGreaterThan(2);
    expect(several?.cost.luts).toBeLessThanOrEqual(least.luts + 60);
  });

  test('flip-flops count too, and so do the other plans in the build', () => {
    const room = { luts: 2500, registers: 2500, blockRams: 24 };
    const alone = planCost(plan, signals, on);
    expect(fits(alone, room)).toBe(true);
    expect(fits(alone, { ...room, registers: alone.registers - 1 })).toBe(false);
    const other: ProbePlan = { recorders: [{ ...recorder, name: 'other' }], panels: [] };
    const together = planCost({ recorders: [...plan.recorders, ...other.recorders], panels: plan.panels }, signals, on);
    const cheaper = cheapestFit(plan, signals, { ...room, luts: together.luts - 20 }, on, other);
    expect(cheaper?.change).toBe('r: 1 comparator');
    expect(cheaper?.cost.luts).toBeGreaterThan(alone.luts);
  });
});

describe('a bridge to a flash', () => {
  const withBridge = { recorders: [], panels: [], bridge: { name: 'flash' } };

  test('is read from a plan file, written to one, and goes into the build once, unless it is switched off', () => {
    const read = readPlanFile(writePlanFile('mine', withBridge), 'mine.plan.json');
    expect(read.ok && read.value.plan).toEqual(withBridge);
    const shelf = [
      { name: 'a', inBuild: true, plan: { ...withBridge, bridge: { name: 'off', off: true } } },
      { name: 'b', inBuild: true, plan: withBridge },
      { name: 'c', inBuild: true, plan: { ...withBridge, bridge: { name: 'second' } } },
    ];
    expect(activePlan(shelf)).toEqual(withBridge);
    expect(activePlan(shelf.slice(0, 1)).bridge).toBeUndefined();
  });
});
