import type { PortNeed } from '../constraints/index.ts';
import { clocksOf, type Netlist, type NetNode, type Optimised, optimise } from '../netlist/index.ts';

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
  readonly names: readonly { readonly value: string; readonly name: string }[];
  readonly file: string;
  readonly line: number;
}

/** Names, widths and clocks of the design without its probes. */
export function describeSignals(netlist: Netlist, { netlist: small }: Optimised): { signals: SignalInfo[]; clocks: string[] } {
  const whole: Netlist = { ...netlist, outputs: [...netlist.outputs, ...netlist.signals.map(({ name, node, width }) => ({ name, node, width }))] };
  const { netlist: seen } = optimise(whole);
  const clocks = clocksOf(seen);
  const nodeOf = new Map(seen.outputs.map((port) => [port.name, port.node]));
  const kept = new Set(small.signals.map((signal) => signal.name));
  const all = new Set(seen.registers.map((r) => (seen.nodes[r.clock] as NetNode).name ?? ''));
  all.delete('');
  const signals = netlist.signals.map(({ name, width, kind, signed, free, names, at }): SignalInfo => {
    const domains = [...clocks(nodeOf.get(name) ?? -1)];
    return { name, width, kind, signed, free, kept: kept.has(name), names, domain: domains.length === 1 ? (domains[0] as string) : '', file: at.file, line: at.line };
  });
  return { signals, clocks: [...all].sort() };
}

/** The ports of a design that pins can carry. A port that is both is an inout. */
export function clockPorts(netlist: Netlist): PortNeed[] {
  const clocks = new Set([...netlist.registers, ...netlist.memories.flatMap((memory) => memory.writes)].map(({ clock }) => clock));
  const inputs = netlist.inputs.filter((port) => !port.name.startsWith('$'));
  const outputs = netlist.outputs.filter((port) => !port.name.startsWith('$'));
  const both = new Set(inputs.map((port) => port.name).filter((name) => outputs.some((port) => port.name === name)));
  return [
    ...inputs.map(({ name, width, node }): PortNeed => ({ name, width, direction: both.has(name) ? 'inout' : 'input', clock: clocks.has(node) })),
    ...outputs.filter((port) => !both.has(port.name)).map(({ name, width }): PortNeed => ({ name, width, direction: 'output', clock: false })),
  ];
}
