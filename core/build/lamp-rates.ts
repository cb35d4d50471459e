import { item, own } from '../lists.ts';
import { clockNameOf, isInnerPort, nameOf, type Netlist, type NodeId } from '../netlist/index.ts';
import { Counters } from './counters.ts';

/** An output bit that a counter toggles. */
export interface LampRate {
  readonly port: string;
  readonly bit: number;
  readonly counter: string;
  /** Bit of the counter. */
  readonly n: number;
  readonly clock: string;
  /** States of the counter until it comes round, decimal: 2^width where it runs free, N where it wraps at N. */
  readonly period: string;
  /** Signals that have to be so for it to count, such as an enable; empty where it always does. */
  readonly while: readonly { readonly signal: string; readonly value: 0 | 1 }[];
  /** Blinks a second while it counts; null while the clock has no frequency. */
  readonly hertz: number | null;
}

/**
 * Which output bits are bits of counters, and how fast they blink. Bit n of a counter that runs free at f is a square
 * wave of f / 2^(n+1) (common practice); of one that wraps at N it rises as often as it does in N states.
 */
export function lampRates(netlist: Netlist, clocks: Readonly<Record<string, number>>): LampRate[] {
  const counters = new Counters(netlist);
  const names = new Map(netlist.signals.map(({ node, name }) => [node, name]));
  return netlist.outputs
    .filter((port) => !isInnerPort(port))
    .flatMap(({ name, node, width }) =>
      Array.from({ length: width }, (_, bit) => bit).flatMap((bit): LampRate[] => {
        const source = bitSource(netlist, node, bit);
        const counting = source ? counters.of(source.node) : null;
        if (!source || !counting) return [];
        const rises = counting.rises(source.bit);
        if (rises === 0) return [];
        const clock = clockNameOf(netlist.nodes[counting.register.clock]) ?? '';
        const f = own(clocks, clock);
        return [
          {
            port: name,
            bit,
            counter: names.get(source.node) ?? '',
            n: source.bit,
            clock,
            period: String(counting.period),
            while: counting.needs.map((need) => ({
              signal: names.get(need.node) ?? nameOf(netlist.nodes[need.node]) ?? 'a condition',
              value: need.value ? 1 : 0,
            })),
            hertz: f === undefined ? null : (f * counting.share * rises) / Number(counting.period),
          },
        ];
      }),
    );
}

/** The word a bit is taken from, seen through slices, concatenations and inversions. */
function bitSource(netlist: Netlist, id: NodeId, bit: number): { node: NodeId; bit: number } | null {
  const node = item(netlist.nodes, id);
  if (node.op === 'slice') return bitSource(netlist, node.args[0], bit + node.lo);
  if (node.op === 'not') return bitSource(netlist, node.args[0], bit);
  if (node.op === 'concat') {
    let at = 0;
    for (const part of node.args) {
      const { width } = item(netlist.nodes, part);
      if (bit < at + width) return bitSource(netlist, part, bit - at);
      at += width;
    }
    return null;
  }
  return node.op === 'reg' ? { node: id, bit } : null;
}
