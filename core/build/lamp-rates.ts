import type { Netlist, NetNode, NodeId } from '../netlist/index.ts';

/** An output bit that a free-running counter toggles. */
export interface LampRate {
  readonly port: string;
  readonly bit: number;
  readonly counter: string;
  /** Bit of the counter. */
  readonly n: number;
  readonly clock: string;
  /** Blinks a second; null while the clock has no frequency. */
  readonly hertz: number | null;
}

/** Bit n of a counter that counts by one at every edge of a clock f is a square wave of f / 2^(n+1) (common practice). */
export function lampRates(netlist: Netlist, clocks: Readonly<Record<string, number>>): LampRate[] {
  const counters = new Map(netlist.registers.filter((register) => countsByOne(netlist, register.node, register.d)).map((register) => [register.node, netlist.nodes[register.clock]?.name ?? '']));
  return netlist.outputs.filter((port) => !port.name.startsWith('$')).flatMap(({ name, node, width }) =>
    Array.from({ length: width }, (_, bit) => bit).flatMap((bit): LampRate[] => {
      const source = bitSource(netlist, node, bit);
      const clock = source ? counters.get(source.node) : undefined;
      if (!source || clock === undefined) return [];
      const signal = netlist.signals.find((s) => s.node === source.node);
      const f = clocks[clock];
      return [{ port: name, bit, counter: signal?.name ?? '', n: source.bit, clock, hertz: f === undefined ? null : f / 2 ** (source.bit + 1) }];
    }),
  );
}

function countsByOne(netlist: Netlist, register: NodeId, d: NodeId): boolean {
  const { op, args } = netlist.nodes[d] as NetNode;
  return op === 'add' && args.includes(register) && args.some((arg) => netlist.nodes[arg]?.op === 'const' && netlist.nodes[arg]?.value === 1n);
}

/** The word a bit is taken from, seen through slices, concatenations and inversions. */
function bitSource(netlist: Netlist, id: NodeId, bit: number): { node: NodeId; bit: number } | null {
  const { op, args, lo = 0 } = netlist.nodes[id] as NetNode;
  if (op === 'slice') return bitSource(netlist, args[0] as NodeId, bit + lo);
  if (op === 'not') return bitSource(netlist, args[0] as NodeId, bit);
  if (op === 'concat') {
    let at = 0;
    for (const part of args) {
      const { width } = netlist.nodes[part] as NetNode;
      if (bit < at + width) return bitSource(netlist, part, bit - at);
      at += width;
    }
    return null;
  }
  return op === 'reg' ? { node: id, bit } : null;
}
