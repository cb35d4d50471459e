import { item } from '../lists.ts';
import { nameOf, type Netlist, type NodeId, type Signal } from '../netlist/index.ts';
import type { Place } from '../result.ts';

/** A bit range of a register or input. */
interface Source {
  readonly node: NodeId;
  readonly lo: number;
  readonly width: number;
}

/** Names of registers and inputs: that of the signal declared where the register is written, else the shortest. */
export class NetNames {
  readonly #signals = new Map<NodeId, Signal>();
  readonly #netlist: Netlist;

  constructor(netlist: Netlist) {
    this.#netlist = netlist;
    for (const signal of netlist.signals)
      for (const { node } of piecesOf(netlist, signal.node)) {
        const known = this.#signals.get(node);
        if (!known || this.#rank(signal, node) > this.#rank(known, node)) this.#signals.set(node, signal);
      }
  }

  #rank(signal: Signal, node: NodeId): number {
    const own = this.#netlist.origins[node]?.path;
    const home = signal.name.slice(0, signal.name.lastIndexOf('.')) === own ? 4 : 0;
    const whole = signal.node === node ? 2 : 0;
    return home + whole + (signal.kind === 'reg' ? 1 : 0);
  }

  of(node: NodeId): string {
    return (
      this.#signals.get(node)?.name ??
      nameOf(item(this.#netlist.nodes, node)) ??
      this.#netlist.origins[node]?.path ??
      'logic'
    );
  }

  place(node: NodeId): Place {
    const origin = this.#netlist.origins[node];
    return this.#signals.get(node)?.at ?? { file: origin?.file ?? '', line: origin?.line ?? 1, column: 1 };
  }
}

/** The words a value is put together from, wherever it is put together without logic. */
export function piecesOf(netlist: Netlist, id: NodeId, lo = 0, width = item(netlist.nodes, id).width): Source[] {
  const word = item(netlist.nodes, id);
  if (word.op === 'slice') return piecesOf(netlist, word.args[0], lo + word.lo, width);
  if (word.op !== 'concat') return [{ node: id, lo, width }];
  const found: Source[] = [];
  let start = 0;
  for (const part of word.args) {
    const size = item(netlist.nodes, part).width;
    const from = Math.max(lo, start);
    const to = Math.min(lo + width, start + size);
    if (from < to) found.push(...piecesOf(netlist, part, from - start, to - from));
    start += size;
  }
  return found;
}
