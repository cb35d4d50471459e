// A thread for heavy work on designs: builds, schematics, vectors. One request in, progress and an answer out. What
// builds leave for the next one stays here.
import { allCells, memoriesOf } from '../../../core/families/index.ts';
import {
  build,
  type BuildMemory,
  DesignPrices,
  designSettings,
  filesForHardware,
  readPorts,
  warmUp,
} from '../../../core/build/index.ts';
import { elaborate, type HierarchyNode, offeredModules } from '../../../core/hdl/index.ts';
import { PieceMemory } from '../../../core/mapping/index.ts';
import { type Netlist, optimise } from '../../../core/netlist/index.ts';
import { ProblemError, problem as plainProblem, taken } from '../../../core/result.ts';
import { problem } from './problems.ts';
import { drawCone, drawInstance, type Schematic } from '../../../core/schematic/index.ts';
import { runVectors } from '../../../core/vectors/index.ts';
import {
  cheapestFit,
  type CheaperPlan,
  fits,
  planCost,
  planForTable,
  truthTable,
  type ProbeCost,
  type ProbePlan,
  type Room,
  takeAlong,
  emptyPlan,
  standstillOf,
  joinedPlans,
} from '../../../core/probes/index.ts';
import type { DesignWork, DrawRequest, PlanCost, PricedPlan } from '../design-thread.ts';
import { answering } from './answering.ts';

const memory: BuildMemory = { sources: new Map(), pieces: new PieceMemory() };
/** What was priced before, by plan. */
const priced = new Map<string, ProbeCost>();
const MOST_PRICED = 500;
/** The design last drawn. */
let drawn: { key: string; netlist: Netlist; small: Netlist; hierarchy: HierarchyNode } | null = null;

const works: DesignWork = {
  warmUp: () => {
    warmUp();
  },
  build: (inputs, watch) => build(inputs, watch, memory),
  draw,
  vectors: ({ files, table, options }, watch) =>
    taken(runVectors(files, table, { ...options, cells: allCells() }, watch)),
  tablePlan: ({ files, table, options }) => taken(planForTable(files, table, { ...options, cells: allCells() })),
  truthTable: ({ project, wanted, clock }) =>
    taken(
      truthTable(filesForHardware(project), {
        ...designSettings(project.file),
        ...(clock === undefined ? {} : { clock }),
        wanted,
      }),
    ),
  takeAlong: ({ project, plan, fingerprint }) =>
    taken(takeAlong(filesForHardware(project), designSettings(project.file), plan, fingerprint)).verilog,
  standstill: ({ project, clock }) => {
    const { netlist } = elaborate(filesForHardware(project), designSettings(project.file));
    return netlist && standstillOf(netlist, clock);
  },
  ports: (project) => readPorts(project, memory),
  modules: (files) => offeredModules(files),
  cost: costOf,
  cheaper: cheaperIn,
};

export default answering(works);

const known = ({ signals }: PricedPlan) =>
  new Map(
    signals.map((signal) => [
      signal.name,
      { ...signal, names: signal.names.map(({ name, value }) => ({ name, value })) },
    ]),
  );

/** The design that plans are priced in, while its sources stay as they are. */
let prices: { readonly key: string; readonly of: DesignPrices } | null = null;

function pricesOf({ key, project }: PricedPlan): DesignPrices {
  if (prices?.key !== key) {
    prices = { key, of: new DesignPrices(project, memory) };
    priced.clear();
  }
  return prices.of;
}

/** What is left of the part, and what a plan takes there: in the design as it stands, or else of the cores alone. */
function priceIn(request: PricedPlan): {
  readonly room: Room;
  readonly isExact: boolean;
  readonly price: (plan: ProbePlan) => ProbeCost;
} {
  const names = known(request);
  const design = pricesOf(request);
  const on = mappedOn(request);
  const plain = design.plain();
  const { whole } = request;
  const price = (of: ProbePlan) => {
    const key = JSON.stringify(of);
    let cost = priced.get(key);
    if (!cost) {
      if (priced.size > MOST_PRICED) priced.clear();
      priced.set(key, (cost = design.cost(of) ?? planCost(of, names, on)));
    }
    return cost;
  };
  const isExact = plain !== null && design.cost(joinedPlans(request.plan, request.others)) !== null;
  return {
    room: plain
      ? {
          luts: whole.luts - plain.luts,
          registers: whole.registers - plain.registers,
          blockRams: whole.blockRams - plain.blockRams,
        }
      : request.room,
    isExact,
    price,
  };
}

/** The cells of the project's part, and what was mapped before. */
const mappedOn = ({ project }: PricedPlan) => ({ cells: memoriesOf(project.file.part), pieces: memory.pieces });

const both = ({ plan, others }: PricedPlan): ProbePlan => joinedPlans(plan, others);

function costOf(request: PricedPlan): PlanCost {
  const { plan } = request;
  const { room, isExact, price } = priceIn(request);
  const cores = [
    ...plan.recorders.map((one) => ({ name: one.name, cost: price({ recorders: [one], panels: [] }) })),
    ...plan.panels.map((one) => ({ name: one.name, cost: price({ recorders: [], panels: [one] }) })),
    ...(plan.steppers ?? []).map((one) => ({ name: one.name, cost: price({ ...emptyPlan, steppers: [one] }) })),
  ];
  return { total: price(both(request)), isExact, room, cores };
}

/**
 * Searched among the cores alone, which is quick, made larger by what the whole plan takes more in the design; what
 * comes of it is counted in the design, and where that does not fit after all, the search is done there.
 */
function cheaperIn(request: PricedPlan): CheaperPlan | null {
  const names = known(request);
  const { room, price } = priceIn(request);
  const on = mappedOn(request);
  const [inDesign, alone] = [price(both(request)), planCost(both(request), names, on)];
  const scaled = (of: ProbePlan): ProbeCost => {
    const { luts, registers, blockRams } = planCost(of, names, on);
    return {
      luts: Math.ceil(luts * Math.max(1, inDesign.luts / Math.max(1, alone.luts))),
      registers: Math.ceil(registers * Math.max(1, inDesign.registers / Math.max(1, alone.registers))),
      blockRams,
    };
  };
  const found = cheapestFit(request.plan, names, room, on, request.others, scaled);
  const cost = found && price(both({ ...request, plan: found.plan }));
  if (found && cost && fits(cost, room)) return { ...found, cost };
  return cheapestFit(request.plan, names, room, on, request.others, price);
}

function draw({ key, project, view }: DrawRequest): Schematic {
  if (drawn?.key !== key) {
    const { netlist, hierarchy } = elaborate(filesForHardware(project), {
      ...designSettings(project.file),
      memory: memory.sources,
    });
    if (!netlist || !hierarchy) throw new ProblemError(problem('not-understood'));
    drawn = { key, netlist, hierarchy, small: optimise(netlist).netlist };
  }
  const found =
    view.kind === 'instance'
      ? drawInstance(drawn.netlist, drawn.hierarchy, view.path || drawn.hierarchy.path, new Set(view.expanded))
      : drawCone(drawn.small, view.signal);
  if (!found)
    throw new ProblemError(
      plainProblem(
        'no-name',
        view.kind === 'instance'
          ? `The design has no instance "${view.path}".`
          : `"${view.signal}" is not in the design any more: optimisation removed it, or the sources changed.`,
        'Choose another one.',
      ),
    );
  return found;
}
