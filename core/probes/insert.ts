import { elaborate } from '../hdl/index.ts';
import { entry } from '../lists.ts';
import { LINK, NetBuilder, type Netlist, type NodeId, type Signal, withArgs } from '../netlist/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { partOf } from './part.ts';
import { problem } from './problems.ts';
import { holdClock, rootOf } from './hold.ts';
import {
  BRIDGE_PORTS,
  type CoreMap,
  letThroughName,
  mapOf,
  onceBits,
  type PanelMap,
  type ProbedSignal,
  type ProbeMap,
  type RecorderMap,
  type StepperMap,
} from './map.ts';
import { DEFAULT_COMPARATORS, DEFAULT_STAGES } from './program.ts';
import type { PanelPlan, ProbePlan, RecorderPlan, StepperPlan } from './plan.ts';
import { debugVerilog } from './verilog.ts';

/** The recorder fetches its next sample while the last one leaves, which takes this many cycles. */
const LEAST_SAMPLE_BITS = 4;
const MOST_CORES = 15;

/**
 * Adds the debug cores of a plan to an elaborated design, in place. The cores are Verilog and pass through the same
 * front end; only the last connection, from a core's port to a name inside the design, is made in the netlist, where
 * every name of the hierarchy is at hand. Call before optimising: a probed signal is then kept, an overridden one keeps
 * its own driver.
 */
export function insertCores(netlist: Netlist, plan: ProbePlan, fingerprint: string): Result<ProbeMap> {
  const signals = new Map(netlist.signals.map((signal) => [signal.name, signal]));
  const problems: string[] = [];
  const find = (name: string): Signal | null => signals.get(name) ?? null;
  const isSame = (a: string, b: string): boolean => {
    const [one, other] = [signals.get(a), signals.get(b)];
    return one !== undefined && other !== undefined && rootOf(netlist, one.node) === rootOf(netlist, other.node);
  };
  const planned = layOutPlan(plan, find, { tell: (name) => void problems.push(name), isSame });
  if (problems.length > 0)
    return fail(
      problem('signal-gone', {
        problemsCountText: problems.length === 1 ? 'a signal' : 'signals',
        list: [...new Set(problems)].join(', '),
      }),
    );
  if (planned.length > MOST_CORES)
    return fail(problem('too-many-cores', { plannedCount: planned.length, mostCores: MOST_CORES }));
  const map = mapOf(
    fingerprint,
    planned.map((core, i) => ({ ...core, core: i + 1 })),
  );
  join(netlist, map, signals);
  return ok(map);
}

/** What a core has to know of a signal. */
export type NamedWidth = Pick<Signal, 'width' | 'signed' | 'free' | 'names'>;

type Found = (name: string) => NamedWidth | null;

interface LayingOut {
  /** Told the name of each signal that is not there. */
  readonly tell?: (name: string) => void;
  /** Whether two names are of one clock. */
  readonly isSame?: (a: string, b: string) => boolean;
}

/** The cores of a plan, with the place of each signal; what is not found is left out, and told. */
export const layOutPlan = (
  plan: ProbePlan,
  find: Found,
  { tell = () => {}, isSame = (a, b) => a === b }: LayingOut = {},
): CoreMap[] => {
  const whole: Found = (name) => {
    const signal = find(name);
    if (!signal) tell(name);
    return signal;
  };
  const part: Found = (name) => {
    const found = partOf(find, name);
    if (!found) tell(name);
    // A part is a number of its own: neither sign nor names of values are its.
    const isWhole = found?.width === found?.of.width;
    return found && (isWhole ? found.of : { ...found.of, width: found.width, signed: false, names: [] });
  };
  return [
    ...plan.recorders.map((r) =>
      layOutRecorder(r, whole, part, plan.steppers?.find(({ clock }) => isSame(clock, r.clock))?.name),
    ),
    ...plan.panels.map((p) => layOutPanel(p, whole, part)),
    ...(plan.steppers ?? []).map((s) => layOutStepper(s, whole, part)),
    ...(plan.bridge ? [{ kind: 'bridge' as const, core: 1, name: plan.bridge.name }] : []),
  ];
};

function layOut(names: readonly string[], find: Found): { list: ProbedSignal[]; bits: number } {
  let bits = 0;
  const list = names.flatMap((name) => {
    const signal = find(name);
    if (!signal) return [];
    const names =
      signal.names.length > 0 ? { names: Object.fromEntries(signal.names.map((one) => [one.name, one.value])) } : {};
    const at = { name, width: signal.width, lo: bits, signed: signal.signed, ...names };
    bits += signal.width;
    return [at];
  });
  return { list, bits };
}

/** A stepper's two bits are the upper ones of the word. */
const STEPPER_BITS = 2;

function layOutRecorder(plan: RecorderPlan, find: Found, part: Found, stepper: string | undefined): RecorderMap {
  const found = layOut(plan.signals, part);
  const width = Math.max(LEAST_SAMPLE_BITS, found.bits + (stepper === undefined ? 0 : STEPPER_BITS));
  const list = found.list.map(
    (signal): ProbedSignal => (plan.synchronised?.includes(signal.name) ? { ...signal, synchronised: true } : signal),
  );
  if (stepper !== undefined)
    list.push({
      ...{ name: letThroughName(plan.clock), width: 1, lo: width - STEPPER_BITS, signed: false },
      letThrough: true,
    });
  find(plan.clock);
  return {
    kind: 'recorder',
    core: 1,
    name: plan.name,
    clock: plan.clock,
    depth: plan.depth,
    width,
    signals: list,
    comparators: plan.comparators ?? DEFAULT_COMPARATORS,
    stages: plan.stages ?? DEFAULT_STAGES,
    qualifier: plan.qualifier ?? false,
    segments: plan.segments ?? 1,
    atTrigger: layOut(plan.atTrigger ?? [], part).list,
    ...(stepper === undefined ? {} : { stepper }),
  };
}

function layOutPanel(plan: PanelPlan, find: Found, part: Found): PanelMap {
  const levers = layOut(plan.levers, find);
  const gauges = layOut(plan.gauges, part);
  if (plan.clock !== '') find(plan.clock);
  let enables = 0;
  const withEnables = levers.list.map((lever) => ({ ...lever, enable: find(lever.name)?.free ? null : enables++ }));
  return {
    kind: 'panel',
    core: 1,
    name: plan.name,
    clock: plan.clock,
    leverBits: levers.bits,
    enableBits: enables,
    gaugeBits: gauges.bits,
    levers: withEnables,
    gauges: gauges.list,
    pulse: plan.pulse ?? false,
    activity: plan.activity ?? false,
  };
}

const LEAST_STEPPER_BITS = 2;

function layOutStepper(
  { name, clock, held, signals = [], comparators }: StepperPlan,
  find: Found,
  part: Found,
): StepperMap {
  const { list, bits } = layOut(signals, part);
  find(clock);
  return {
    ...{ kind: 'stepper', core: 1, name, clock, held: held ?? false, signals: list },
    width: Math.max(LEAST_STEPPER_BITS, bits),
    comparators: list.length === 0 ? 0 : (comparators ?? DEFAULT_COMPARATORS),
  };
}

function join(netlist: Netlist, map: ProbeMap, signals: ReadonlyMap<string, Signal>): void {
  const debug = elaborate([debugVerilog(map)], { top: 'nimble_debug' });
  if (!debug.netlist)
    throw new Error(`the debug cores do not elaborate: ${debug.messages.list.map((m) => m.message).join(' ')}`);
  const build = new NetBuilder(netlist);
  const nodeOf = (name: string): NodeId => entry(signals, name).node;
  const partNode = (name: string): NodeId => {
    const part = partOf((one) => signals.get(one), name);
    return part ? build.slice(part.of.node, part.lo, part.width) : nodeOf(name);
  };
  const word = (parts: readonly ProbedSignal[], width: number): NodeId => {
    const used = parts.reduce((sum, part) => sum + part.width, 0);
    const pad = width > used ? [build.constant(0n, width - used)] : [];
    return build.concat([...parts.map(({ name }) => partNode(name)), ...pad]);
  };
  const inputs = new Map<string, NodeId>([
    ['tck', build.input(LINK.tck, 1)],
    ['tdi', build.input(LINK.tdi, 1)],
    ['capture', build.input(LINK.capture, 1)],
    ['shift', build.input(LINK.shift, 1)],
  ]);
  build.input(LINK.update, 1);
  for (const core of map.cores) {
    if (core.kind === 'bridge') {
      inputs.set(`c${core.core}_miso`, build.input(BRIDGE_PORTS.miso, 1));
      continue;
    }
    inputs.set(`c${core.core}_clk`, core.clock === '' ? entry(inputs, 'tck') : nodeOf(core.clock));
    if (core.kind !== 'panel') inputs.set(`c${core.core}_probe`, word(ofDesign(core.signals), core.width));
    else inputs.set(`c${core.core}_gauge`, word(core.gauges, Math.max(1, core.gaugeBits)));
    if (core.kind === 'recorder' && core.atTrigger.length > 0)
      inputs.set(`c${core.core}_state`, word(core.atTrigger, onceBits(core)));
  }
  const own = { registers: netlist.registers.length, memories: netlist.memories.length };
  const outputs = graft(netlist, debug.netlist, inputs);
  netlist.outputs.push({ name: LINK.tdo, node: entry(outputs, 'tdo'), width: 1 });
  for (const core of map.cores)
    if (core.kind === 'bridge')
      for (const port of ['cs_n', 'sck', 'mosi'] as const)
        netlist.outputs.push({ name: BRIDGE_PORTS[port], node: entry(outputs, `c${core.core}_${port}`), width: 1 });
  for (const core of map.cores) if (core.kind === 'panel') connectLevers(netlist, core, outputs, nodeOf);
  for (const core of map.cores)
    if (core.kind === 'stepper')
      holdClock(netlist, own, nodeOf(core.clock), {
        go: entry(outputs, `c${core.core}_go`),
        goLate: entry(outputs, `c${core.core}_go_late`),
      });
}

/** Those of a word that are the design's, not the debug logic's own. */
const ofDesign = (signals: readonly ProbedSignal[]): ProbedSignal[] =>
  signals.filter(({ letThrough }) => letThrough !== true);

/** A lever takes the place of a signal's driver: always when there was none, while its enable is 1 when there was. */
function connectLevers(
  netlist: Netlist,
  core: PanelMap,
  outputs: ReadonlyMap<string, NodeId>,
  nodeOf: (name: string) => NodeId,
): void {
  const build = new NetBuilder(netlist);
  const levers = entry(outputs, `c${core.core}_lever`);
  const enables = entry(outputs, `c${core.core}_enable`);
  for (const lever of core.levers) {
    const id = nodeOf(lever.name);
    const value = build.slice(levers, lever.lo, lever.width);
    const wire = build.node(id);
    const [driver] = wire.args;
    const taken =
      lever.enable === null || driver === undefined
        ? value
        : build.mux(build.slice(enables, lever.enable, 1), value, driver);
    // Nodes are shared with the design as it was read.
    netlist.nodes[id] = withArgs(wire, [taken]);
  }
}

/** Copies another netlist in, its inputs connected; returns the nodes of its outputs. */
function graft(into: Netlist, from: Netlist, inputs: ReadonlyMap<string, NodeId>): Map<string, NodeId> {
  const offset = into.nodes.length;
  const memories = into.memories.length;
  for (const node of from.nodes) {
    const args = node.args.map((id) => id + offset);
    const driver = node.op === 'input' ? inputs.get(node.name) : undefined;
    const origin = from.origins[into.nodes.length - offset];
    into.origins[into.nodes.length] = { path: `probes${origin ? `.${origin.path}` : ''}`, file: '', line: 0 };
    if (node.op === 'input' && driver !== undefined)
      into.nodes.push({ op: 'wire', width: node.width, args: [driver], name: node.name });
    else {
      const copy = withArgs(node, args);
      into.nodes.push(copy.op === 'memread' ? { ...copy, memory: copy.memory + memories } : copy);
    }
  }
  const moved = (id: NodeId) => id + offset;
  for (const r of from.registers)
    into.registers.push({
      ...r,
      node: moved(r.node),
      clock: moved(r.clock),
      d: moved(r.d),
      reset: r.reset === null ? null : moved(r.reset),
      load: r.load === null ? null : moved(r.load),
    });
  for (const m of from.memories)
    into.memories.push({
      ...m,
      writes: m.writes.map((w) => ({
        ...w,
        clock: moved(w.clock),
        enable: moved(w.enable),
        address: moved(w.address),
        data: moved(w.data),
      })),
    });
  return new Map(from.outputs.map((port) => [port.name, moved(port.node)]));
}
