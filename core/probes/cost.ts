import { item } from '../lists.ts';
import type { MemoryCells } from '../families/index.ts';
import { elaborate } from '../hdl/index.ts';
import { last } from '../lists.ts';
import { countResources, map as mapToLuts, type PieceMemory } from '../mapping/index.ts';
import { optimise } from '../netlist/index.ts';
import { type NamedWidth, layOutPlan } from './insert.ts';
import { mapOf } from './map.ts';
import { signalPart } from './part.ts';
import { coresIn, emptyPlan, joinedPlans, type ProbePlan, type RecorderPlan } from './plan.ts';
import { DEFAULT_COMPARATORS } from './program.ts';
import { debugVerilog } from './verilog.ts';

export interface ProbeCost {
  readonly luts: number;
  readonly registers: number;
  readonly blockRams: number;
}

/** What the cores are mapped to: the cells of a part, and the logic that was mapped before. */
interface MappedOn {
  readonly cells: MemoryCells;
  readonly pieces: PieceMemory;
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
 * What the cores of a plan take by themselves, away from any design. Names the design does not have count as one bit.
 * In a design a little is saved where bits of probed signals are known, and logic is kept that is there for the probes
 * alone.
 */
export function planCost(plan: ProbePlan, signals: ReadonlyMap<string, NamedWidth>, on: MappedOn): ProbeCost {
  if (coresIn(plan) === 0) return { luts: 0, registers: 0, blockRams: 0 };
  const unnamed = (name: string): NamedWidth => ({
    ...{ width: signalPart(name)?.width ?? 1, signed: false, free: false, names: [] },
  });
  const cores = layOutPlan(plan, (name) => signals.get(name) ?? unnamed(name));
  const { netlist } = elaborate(
    [
      debugVerilog(
        mapOf(
          '0'.repeat(32),
          cores.map((core, i) => ({ ...core, core: i + 1 })),
        ),
      ),
    ],
    { top: 'nimble_debug' },
  );
  if (!netlist) throw new Error('the debug cores do not elaborate');
  const { total } = countResources(mapToLuts(optimise(netlist).netlist, on.cells, on.pieces));
  return { luts: total.luts, registers: total.registers, blockRams: total.blockRams };
}

export const fits = (cost: ProbeCost, room: Room): boolean =>
  cost.luts <= room.luts && cost.registers <= room.registers && cost.blockRams <= room.blockRams;

/**
 * The change of a plan that gives up least and fits: one setting of one recorder, tried in the order of how little it
 * is missed, and, for each, as little of it as will do; else a signal less; else several settings together. Null when
 * all of that is not enough. `others` are built in beside the plan and stay as they are; `price` says what a plan takes
 * where that is better known.
 */
export function cheapestFit(
  plan: ProbePlan,
  signals: ReadonlyMap<string, NamedWidth>,
  room: Room,
  on: MappedOn,
  others: ProbePlan = emptyPlan,
  price = (one: ProbePlan): ProbeCost => planCost(one, signals, on),
): CheaperPlan | null {
  const tried = (changes: readonly Less[]): CheaperPlan | null => {
    const smaller = {
      ...plan,
      recorders: plan.recorders.map(
        (one, at): RecorderPlan =>
          Object.assign({}, one, ...changes.filter((less) => less.at === at).map(({ patch }) => patch)),
      ),
    };
    const cost = price(joinedPlans(smaller, others));
    return fits(cost, room) ? { change: changes.map(({ change }) => change).join(', '), plan: smaller, cost } : null;
  };
  const settings = WAYS.flatMap((way) =>
    plan.recorders.map((recorder, at) =>
      way(recorder).map((less): Less => ({ at, ...less, change: `${recorder.name}: ${less.change}` })),
    ),
  ).filter((way) => way.length > 0);
  const signalsLess = plan.recorders
    .map((recorder, at) =>
      withoutOne(recorder, signals).map((less): Less => ({ at, ...less, change: `${recorder.name}: ${less.change}` })),
    )
    .filter((way) => way.length > 0);
  for (const way of [...settings, ...signalsLess]) {
    // Where the strongest of a way is not enough, no milder one is.
    if (tried([last(way)]) === null) continue;
    for (const less of way) {
      const found = tried([less]);
      if (found) return found;
    }
  }
  return several(settings, tried);
}

/**
 * As much as there is of one way after another until it is enough; then, from the most missed on, as little of each as
 * will do.
 */
function several(
  ways: readonly (readonly Less[])[],
  tried: (changes: readonly Less[]) => CheaperPlan | null,
): CheaperPlan | null {
  const most = ways.map((way) => last(way));
  const count = most.findIndex((_, i) => tried(most.slice(0, i + 1)) !== null) + 1;
  if (count === 0) return null;
  const chosen: (Less | null)[] = most.slice(0, count);
  const now = () => chosen.filter((less) => less !== null);
  for (let i = count - 1; i >= 0; i--)
    for (const milder of [null, ...item(ways, i)]) {
      chosen[i] = milder;
      if (tried(now()) !== null) break;
    }
  return tried(now());
}

/** A setting of one recorder that asks for less. */
interface Less {
  /** Place of the recorder in its plan. */
  readonly at: number;
  readonly change: string;
  readonly patch: Partial<RecorderPlan>;
}

type Way = (recorder: RecorderPlan) => readonly Omit<Less, 'at'>[];

const down = (from: number, least: number): number[] =>
  Array.from({ length: Math.max(0, from - least) }, (_, i) => from - 1 - i);
const counted = (count: number, what: string): string => `${count} ${count === 1 ? what : `${what}s`}`;

/** Ways to ask for less, the least missed first; each begins with the mildest. */
const WAYS: readonly Way[] = [
  ({ segments = 1 }) => (segments > 1 ? [{ change: 'its buffer in one piece', patch: { segments: 1 } }] : []),
  ({ stages = 1 }) => down(stages, 1).map((fewer) => ({ change: counted(fewer, 'stage'), patch: { stages: fewer } })),
  ({ comparators = DEFAULT_COMPARATORS }) =>
    down(comparators, 1).map((fewer) => ({ change: counted(fewer, 'comparator'), patch: { comparators: fewer } })),
  ({ depth }) =>
    [2, 4, 8, 16].flatMap((by) =>
      depth / by >= LEAST_DEPTH
        ? [{ change: `${(depth / by).toLocaleString('en')} samples deep`, patch: { depth: depth / by } }]
        : [],
    ),
  ({ qualifier }) => (qualifier ? [{ change: 'without a qualifier', patch: { qualifier: false } }] : []),
  ({ atTrigger = [] }) =>
    atTrigger.length > 0 ? [{ change: 'nothing read at the trigger', patch: { atTrigger: [] } }] : [],
];

const LEAST_DEPTH = 64;

/** One signal less, the widest last: it is what helps most. */
function withoutOne(
  { signals, synchronised }: RecorderPlan,
  known: ReadonlyMap<string, NamedWidth>,
): Omit<Less, 'at'>[] {
  if (signals.length < 2) return [];
  const without = (list: readonly string[], name: string) => list.filter((other) => other !== name);
  return [...signals]
    .sort((a, b) => widthOf(known, a) - widthOf(known, b))
    .map((name) => ({
      change: `without ${name.slice(name.indexOf('.') + 1)}`,
      patch: {
        signals: without(signals, name),
        ...(synchronised ? { synchronised: without(synchronised, name) } : {}),
      },
    }));
}

const widthOf = (known: ReadonlyMap<string, NamedWidth>, name: string): number =>
  known.get(name)?.width ?? signalPart(name)?.width ?? 0;
