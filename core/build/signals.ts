import { type Driver, driversOf, FREE_PREFIX, netNamesOf, type Removal, removalsOf } from '../checks/index.ts';
import type { PortNeed } from '../constraints/index.ts';
import { item } from '../lists.ts';
import {
  clockNameOf,
  clocksOf,
  isInnerPort,
  madeClocks,
  type Netlist,
  optimise,
  type Optimised,
} from '../netlist/index.ts';

/** A name inside the design. `domain` is its clock port, empty where there is none or several. */
export interface SignalInfo {
  readonly name: string;
  readonly width: number;
  readonly kind: 'input' | 'output' | 'wire' | 'reg';
  readonly signed: boolean;
  readonly domain: string;
  readonly free: boolean;
  /** Optimisation left it in. */
  readonly kept: boolean;
  /** Why it did not, where something drives it. */
  readonly removed: Removal | null;
  readonly driver: Driver;
  /**
   * The register or pin it is another name of, by the name that drivers are given with; its own otherwise. Absent in
   * older builds.
   */
  readonly net?: string;
  readonly names: readonly { readonly value: string; readonly name: string }[];
  readonly file: string;
  readonly line: number;
}

/** Names, widths and clocks of the design without its probes. */
export function describeSignals(
  netlist: Netlist,
  { netlist: small }: Optimised,
): { signals: SignalInfo[]; clocks: string[] } {
  const whole: Netlist = {
    ...netlist,
    outputs: [...netlist.outputs, ...netlist.signals.map(({ name, node, width }) => ({ name, node, width }))],
  };
  const { netlist: seen } = optimise(withFreeInputs(whole));
  const clocks = clocksOf(seen);
  const nodeOf = new Map(seen.outputs.map((port) => [port.name, port.node]));
  const kept = new Set(small.signals.map(({ name }) => name));
  const removal = removalsOf(netlist, small);
  const driver = driversOf(seen);
  const netName = netNamesOf(seen);
  const all = new Set(
    [...seen.registers.map(({ clock }) => clock), ...madeClocks(seen).values()].map(
      (clock) => clockNameOf(item(seen.nodes, clock)) ?? '',
    ),
  );
  all.delete('');
  const signals = netlist.signals.map((signal): SignalInfo => {
    const { name, width, kind, signed, free, names, at } = signal;
    const node = nodeOf.get(name);
    const domains = [...clocks(node ?? -1)];
    return {
      name,
      width,
      kind,
      signed,
      free,
      kept: kept.has(name),
      removed: removal(signal),
      driver: free || node === undefined ? { kind: 'nothing' } : driver(node),
      net: (node === undefined ? null : netName(node)) ?? name,
      names,
      domain: domains.length === 1 ? item(domains, 0) : '',
      file: at.file,
      line: at.line,
    };
  });
  return { signals, clocks: [...all].sort() };
}

/**
 * Wires that nothing drives are what a lever may drive: they are no constants to whoever asks what decides a signal.
 */
function withFreeInputs(netlist: Netlist): Netlist {
  const free = netlist.nodes.flatMap((wire, node) =>
    wire.op === 'wire' && wire.args.length === 0
      ? [{ node, width: wire.width, name: `${FREE_PREFIX}${wire.name}` }]
      : [],
  );
  const nodes = [...netlist.nodes];
  for (const { node, width, name } of free) nodes[node] = { op: 'input', width, args: [], name };
  return { ...netlist, nodes, inputs: [...netlist.inputs, ...free] };
}

/** The ports of a design that pins can carry. A port that is both is an inout. */
export function clockPorts(netlist: Netlist): PortNeed[] {
  const clocks = new Set([
    ...[...netlist.registers, ...netlist.memories.flatMap((memory) => memory.writes)].map(({ clock }) => clock),
    ...madeClocks(netlist).values(),
  ]);
  const inputs = netlist.inputs.filter((port) => !isInnerPort(port));
  const outputs = netlist.outputs.filter((port) => !isInnerPort(port));
  const both = new Set(inputs.map((port) => port.name).filter((name) => outputs.some((port) => port.name === name)));
  return [
    ...inputs.map(
      ({ name, width, node }): PortNeed => ({
        name,
        width,
        direction: both.has(name) ? 'inout' : 'input',
        clock: clocks.has(node),
      }),
    ),
    ...outputs
      .filter((port) => !both.has(port.name))
      .map(({ name, width }): PortNeed => ({ name, width, direction: 'output', clock: false })),
  ];
}
