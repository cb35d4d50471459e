// A thread for heavy work on designs: builds, schematics, vectors. One request in, progress and an answer out. What builds leave for the
// next one stays here.
import { parentPort } from 'node:worker_threads';
import { build, type BuildMemory } from '../../core/build/index.ts';
import { elaborate, type HierarchyNode } from '../../core/hdl/index.ts';
import { PieceMemory } from '../../core/mapping/index.ts';
import { type Netlist, optimise } from '../../core/netlist/index.ts';
import { ProblemError, problem } from '../../core/result.ts';
import { drawCone, drawInstance, type Schematic } from '../../core/schematic/index.ts';
import { runVectors } from '../../core/vectors/index.ts';
import { cheapestFit, planCost, type ProbeCost, type ProbePlan, takeAlong } from '../../core/probes/index.ts';
import type { DesignAnswer, DesignRequest, PlanCost, PricedPlan } from '../design-thread.ts';

const memory: BuildMemory = { sources: new Map(), pieces: new PieceMemory() };
/** What was priced before, by plan. */
const priced = new Map<string, ProbeCost>();
const MOST_PRICED = 500;
/** The design last drawn. */
let drawn: { key: string; netlist: Netlist; small: Netlist; hierarchy: HierarchyNode } | null = null;

parentPort?.on('message', (request: DesignRequest) => {
  const watch = { cancelled: () => false, report: (progress: unknown) => parentPort?.postMessage({ progress }) };
  try {
    parentPort?.postMessage({ answer: answerTo(request, watch) });
  } catch (error) {
    if (error instanceof ProblemError) parentPort?.postMessage({ problem: error.problem });
    else throw error;
  }
});

function answerTo(request: DesignRequest, watch: Parameters<typeof build>[1]): DesignAnswer {
  switch (request.kind) {
    case 'build':
      return { kind: 'build', result: build(request.inputs, watch, memory) };
    case 'schematic':
      return { kind: 'schematic', drawing: draw(request) };
    case 'take-along': {
      const taken = takeAlong(request.project.files, request.project.file.top, request.plan, request.fingerprint);
      if (!taken.ok) throw new ProblemError(taken.error);
      return { kind: 'take-along', verilog: taken.value.verilog };
    }
    case 'cost':
      return { kind: 'cost', cost: costOf(request) };
    case 'cheaper':
      return { kind: 'cheaper', cheaper: cheapestFit(request.plan, known(request), request.room, memory.pieces, request.others) };
    case 'vectors': {
      const run = runVectors(request.files, request.table, request.options, watch);
      if (!run.ok) throw new ProblemError(run.error);
      return { kind: 'vectors', run: run.value };
    }
  }
}

const known = ({ signals }: PricedPlan) => new Map(signals.map((signal) => [signal.name, { ...signal, names: signal.names.map(({ name, value }) => ({ name, value })) }]));

function costOf(request: PricedPlan): PlanCost {
  const { plan, others, room } = request;
  const names = known(request);
  const costs = (of: ProbePlan) => {
    const key = JSON.stringify([of, [...of.recorders, ...of.panels].flatMap((core) => ('signals' in core ? core.signals : [...core.levers, ...core.gauges]).map((name) => names.get(name)?.width))]);
    let cost = priced.get(key);
    if (!cost) {
      if (priced.size > MOST_PRICED) priced.clear();
      priced.set(key, (cost = planCost(of, names, memory.pieces)));
    }
    return cost;
  };
  const cores = [...plan.recorders.map((one) => ({ name: one.name, cost: costs({ recorders: [one], panels: [] }) })), ...plan.panels.map((one) => ({ name: one.name, cost: costs({ recorders: [], panels: [one] }) }))];
  return { total: costs({ recorders: [...plan.recorders, ...others.recorders], panels: [...plan.panels, ...others.panels] }), room, cores };
}

function draw({ key, project, view }: DesignRequest & { kind: 'schematic' }): Schematic {
  if (drawn?.key !== key) {
    const { netlist, hierarchy } = elaborate(project.files, { ...(project.file.top === undefined ? {} : { top: project.file.top }), memory: memory.sources });
    if (!netlist || !hierarchy) throw new ProblemError(problem('not-understood', 'The sources have errors, so there is nothing to draw.', 'Build, and mend what the messages point at.'));
    drawn = { key, netlist, hierarchy, small: optimise(netlist).netlist };
  }
  const found = view.kind === 'instance' ? drawInstance(drawn.netlist, drawn.hierarchy, view.path || drawn.hierarchy.path, new Set(view.expanded)) : drawCone(drawn.small, view.signal);
  if (!found) throw new ProblemError(problem('no-name', view.kind === 'instance' ? `The design has no instance "${view.path}".` : `"${view.signal}" is not in the design any more: optimisation removed it, or the sources changed.`, 'Choose another one.'));
  return found;
}
