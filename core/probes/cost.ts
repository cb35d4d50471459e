import { elaborate } from '../hdl/index.ts';
import { countResources, map as mapToLuts, type PieceMemory } from '../mapping/index.ts';
import { optimise } from '../netlist/index.ts';
import { type NamedWidth, layOutPlan } from './insert.ts';
import { mapOf } from './map.ts';
import { emptyPlan, type ProbePlan, type RecorderPlan } from './plan.ts';
import { DEFAULT_COMPARATORS } from './program.ts';
import { debugVerilog } from './verilog.ts';

export interface ProbeCost {
  readonly luts: number;
  readonly registers: number;
  readonly blockRams: number;
}

/** What a part has left for probes. */
export interface Room {
  readonly luts: number;
  readonly registers: number;
  readonly blockRams: number;
}

/** A change of a plan in words, and what is to be paid then, other plans included. */
export interface CheaperPlan {
  readonly change: string;
  readonly plan: ProbePlan;
  readonly cost: ProbeCost;
}

/**
 * What the cores of a plan take, by mapping them as a build would. Names the design does not have count as one bit. In the build a little is saved
 * where bits of probed signals are known.
 */
export function planCost(plan: ProbePlan, signals: ReadonlyMap<string, NamedWidth>, memory: PieceMemory): ProbeCost {
  if (plan.recorders.length + plan.panels.length === 0) return { luts: 0, registers: 0, blockRams: 0 };
  const cores = layOutPlan(plan, (name) => signals.get(name) ?? { width: 1, signed: false, free: false, names: [] });
  const { netlist } = elaborate([debugVerilog(mapOf('0'.repeat(32), cores.map((core, i) => ({ ...core, core: i + 1 }))))], { top: 'nimble_debug' });
  if (!netlist) throw new Error('the debug cores do not elaborate');
  const { total } = countResources(mapToLuts(optimise(netlist).netlist, memory));
  return { luts: total.luts, registers: total.registers, blockRams: total.blockRams };
}

export const fits = (cost: ProbeCost, room: Room): boolean => cost.luts <= room.luts && cost.registers <= room.registers && cost.blockRams <= room.blockRams;

const together = (a: ProbePlan, b: ProbePlan): ProbePlan => ({ recorders: [...a.recorders, ...b.recorders], panels: [...a.panels, ...b.panels] });

/**
 * The change of a plan that gives up least and fits: one setting of one recorder, tried in the order of how little it is missed, and, for each, as little of it as
 * will do; else a signal less; else several settings together. Null when all of that is not enough. `others` are built in beside the plan and stay as they are.
 */
export function cheapestFit(plan: ProbePlan, signals: ReadonlyMap<string, NamedWidth>, room: Room, memory: PieceMemory, others: ProbePlan = emptyPlan): CheaperPlan | null {
  const costOf = (of: ProbePlan) => planCost(together(of, others), signals, memory);
  const changed = (from: ProbePlan, at: number, next: RecorderPlan): ProbePlan => ({ ...from, recorders: from.recorders.map((one, i) => (i === at ? next : one)) });
  for (const lessOf of [...LESS, lessSignals(signals)]) {
    for (const [at, recorder] of plan.recorders.entries()) {
      for (const { change, next } of lessOf(recorder)) {
        const smaller = changed(plan, at, next);
        const cost = costOf(smaller);
        if (fits(cost, room)) return { change, plan: smaller, cost };
      }
    }
  }
  // As much as there is of one after another, until it is enough.
  let [small, changes]: [ProbePlan, string[]] = [plan, []];
  for (const lessOf of LESS) {
    for (const at of plan.recorders.keys()) {
      const most = lessOf(small.recorders[at] as RecorderPlan).at(-1);
      if (!most) continue;
      small = changed(small, at, most.next);
      changes = [...changes, most.change];
      const cost = costOf(small);
      if (fits(cost, room)) return { change: changes.join(', '), plan: small, cost };
    }
  }
  return null;
}

type Less = (recorder: RecorderPlan) => readonly { readonly change: string; readonly next: RecorderPlan }[];

const down = (from: number, least: number): number[] => Array.from({ length: Math.max(0, from - least) }, (_, i) => from - 1 - i);

/** Ways to ask for less, the least missed first. */
const LESS: readonly Less[] = [
  (one) => ((one.segments ?? 1) > 1 ? [{ change: `${one.name}: its buffer in one piece`, next: { ...one, segments: 1 } }] : []),
  (one) => ((one.stages ?? 1) > 1 ? down(one.stages ?? 1, 1).map((stages) => ({ change: `${one.name}: ${stages} ${stages === 1 ? 'stage' : 'stages'}`, next: { ...one, stages } })) : []),
  (one) => down(one.comparators ?? DEFAULT_COMPARATORS, 1).map((comparators) => ({ change: `${one.name}: ${comparators} ${comparators === 1 ? 'comparator' : 'comparators'}`, next: { ...one, comparators } })),
  (one) => [2, 4, 8, 16].flatMap((by) => (one.depth / by >= 64 ? [{ change: `${one.name}: ${(one.depth / by).toLocaleString('en')} samples deep`, next: { ...one, depth: one.depth / by } }] : [])),
  (one) => (one.qualifier ? [{ change: `${one.name}: without a qualifier`, next: { ...one, qualifier: false } }] : []),
];

/** One signal less, the widest first. */
const lessSignals =
  (known: ReadonlyMap<string, NamedWidth>): Less =>
  (one) =>
    one.signals.length < 2
      ? []
      : [...one.signals]
          .sort((a, b) => (known.get(b)?.width ?? 0) - (known.get(a)?.width ?? 0))
          .map((name) => ({ change: `${one.name}: without ${name.slice(name.indexOf('.') + 1)}`, next: { ...one, signals: one.signals.filter((other) => other !== name), ...(one.synchronised ? { synchronised: one.synchronised.filter((other) => other !== name) } : {}) } }));
