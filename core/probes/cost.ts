import { elaborate } from '../hdl/index.ts';
import { countResources, map as mapToLuts, type PieceMemory } from '../mapping/index.ts';
import { optimise } from '../netlist/index.ts';
import { type NamedWidth, layOutPlan } from './insert.ts';
import { mapOf } from './map.ts';
import type { ProbePlan, RecorderPlan } from './plan.ts';
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
  readonly blockRams: number;
}

/** A change of a plan in words, and what is left to pay. */
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

const fits = (cost: ProbeCost, room: Room): boolean => cost.luts <= room.luts && cost.blockRams <= room.blockRams;

/**
 * The change that gives up least and fits: one setting of one recorder, tried in the order of how little it is missed, and, for each, as little of it as
 * will do. Null when no single change is enough.
 */
export function cheapestFit(plan: ProbePlan, signals: ReadonlyMap<string, NamedWidth>, room: Room, memory: PieceMemory): CheaperPlan | null {
  for (const lessOf of LESS) {
    for (const [at, recorder] of plan.recorders.entries()) {
      for (const { change, next } of lessOf(recorder)) {
        const changed = { ...plan, recorders: plan.recorders.map((one, i) => (i === at ? next : one)) };
        const cost = planCost(changed, signals, memory);
        if (fits(cost, room)) return { change, plan: changed, cost };
      }
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
  (one) => (one.qualifier || (one.stages ?? 1) > 1 || (one.comparators ?? DEFAULT_COMPARATORS) > 1 ? [{ change: `${one.name}: one comparator, one stage, no qualifier, one piece`, next: { ...one, qualifier: false, stages: 1, comparators: 1, segments: 1 } }] : []),
];
