// What goes into an instance and comes out of it.
import { item } from '../lists.ts';
import type { NamedSignal } from './design.ts';
import type { Replay } from './replay.ts';

/** A port of the instance: what it is called there, and the traces that say what it is. */
interface PortOf {
  readonly name: string;
  readonly signal: NamedSignal;
}

/** The ports of an instance, by what they are for. */
export interface Ports {
  /** `known`: place among the clocks that the record tells. */
  readonly clocks: readonly (PortOf & { readonly known: number })[];
  /** Clocks that the record does not tell. */
  readonly idle: readonly PortOf[];
  readonly inputs: readonly PortOf[];
  readonly outputs: readonly PortOf[];
}

export function portsOf({ prepared: { region, clocks } }: Replay, path: string): Ports {
  const { design, graph } = region;
  const { netlist } = design;
  const own = design.signals
    .filter(({ name, kind }) => (kind === 'input' || kind === 'output') && isDirectlyIn(name, path))
    .map((signal): PortOf => ({ name: signal.name.slice(path.length + 1), signal }));
  const clockBits = new Map<number, string>();
  for (const { clock } of [...netlist.registers, ...netlist.memories.flatMap(({ writes }) => writes)]) {
    const node = item(netlist.nodes, clock);
    clockBits.set(graph.bit(clock, 0), node.op === 'input' ? node.name : '');
  }
  const clockOf = ({ signal }: PortOf): string | undefined =>
    signal.width === 1 && signal.kind === 'input' ? clockBits.get(graph.bit(signal.node, 0)) : undefined;
  const knownOf = (port: PortOf) => clocks.findIndex(({ input }) => input === clockOf(port));
  const asClocks = own.filter((port) => clockOf(port) !== undefined);
  return {
    clocks: asClocks.map((port) => ({ ...port, known: knownOf(port) })).filter(({ known }) => known >= 0),
    idle: asClocks.filter((port) => knownOf(port) < 0),
    inputs: own.filter((port) => port.signal.kind === 'input' && clockOf(port) === undefined),
    outputs: own.filter(({ signal }) => signal.kind === 'output'),
  };
}

const isDirectlyIn = (name: string, path: string): boolean =>
  name.startsWith(`${path}.`) && !name.slice(path.length + 1).includes('.');
