import { item } from '../../lists.ts';
import { LINK, lowOf, nameOf, type Netlist, type NodeId } from '../../netlist/index.ts';

/** Name of the debug link's own clock. */
export const LINK_CLOCK = 'TCK (debug link)';

/** Names of a mapped design's words: those that its sources gave them, or the instance they stand in. */
export class WordNames {
  readonly #source: Netlist;
  readonly #names = new Map<NodeId, string[]>();

  constructor(source: Netlist) {
    this.#source = source;
    // A register that was made narrower has its old name with zeros above it.
    for (const { node, name } of source.signals)
      for (let at: NodeId | null = node; at !== null; at = lowOf(source.nodes, at)) this.#add(at, name);
  }

  #add(node: NodeId, name: string): void {
    const known = this.#names.get(node);
    if (!known) this.#names.set(node, [name]);
    else if (this.#rank(name, node) > this.#rank(item(known, 0), node)) known.unshift(name);
    else known.push(name);
  }

  /** A name in the instance that the logic is written in comes first, then the deeper one. */
  #rank(name: string, node: NodeId): number {
    const home = this.#source.origins[node]?.path;
    return name.split('.').length + (name.slice(0, name.lastIndexOf('.')) === home ? 1000 : 0);
  }

  /** The best name of a word; undefined for one that has none. */
  given(word: NodeId): string | undefined {
    return this.#names.get(word)?.[0];
  }

  /** The best name, else the instance. */
  of(word: NodeId): string {
    return this.given(word) ?? this.#source.origins[word]?.path ?? '';
  }

  all(word: NodeId): readonly string[] {
    return this.#names.get(word) ?? [];
  }
}

/** Names of clocks: a port's own, else that of the signal that carries it. */
export class ClockNames {
  readonly #names = new Map<NodeId, string>();

  constructor(source: Netlist) {
    for (const { clock } of [...source.registers, ...source.memories.flatMap((memory) => memory.writes)]) {
      if (this.#names.has(clock)) continue;
      const node = source.nodes[clock];
      const signal = source.signals.find((s) => s.node === clock);
      this.#names.set(
        clock,
        nameOf(node) === LINK.tck
          ? LINK_CLOCK
          : ((node?.op === 'input' ? node.name : undefined) ?? signal?.name ?? `logic ${clock}`),
      );
    }
  }

  of(clock: NodeId): string {
    return this.#names.get(clock) ?? '?';
  }

  /** The design's own first. */
  all(): string[] {
    const names = [...new Set(this.#names.values())].sort();
    return [...names.filter((name) => name !== LINK_CLOCK), ...names.filter((name) => name === LINK_CLOCK)];
  }
}
