import { item } from '../../lists.ts';
import { clockNameOf, LINK, lowOf, nameOf, type Netlist, type NodeId } from '../../netlist/index.ts';

/** Name of the debug link's own clock. */
const LINK_CLOCK = 'TCK (debug link)';

/** A name that a word has, or has some bits of, from `lo` on, counted from 0 as everywhere. */
interface Named {
  readonly name: string;
  readonly isReg: boolean;
  readonly lo: number;
  readonly isWhole: boolean;
  readonly bitNames?: readonly string[];
}

/** Names of a mapped design's words: those that its sources gave them, or the instance they stand in. */
export class WordNames {
  readonly #source: Netlist;
  readonly #names = new Map<NodeId, Named[]>();

  constructor(source: Netlist) {
    this.#source = source;
    for (const { node, name, kind, bitNames } of source.signals) {
      const isReg = kind === 'reg';
      this.#add(node, { name, isReg, lo: 0, isWhole: true, ...(bitNames ? { bitNames } : {}) });
      const { op, args } = item(source.nodes, node);
      if (op !== 'concat') continue;
      // A register that was made narrower has zeros above it; one that was taken apart lies there in parts.
      const isWhole = lowOf(source.nodes, node) !== null;
      let lo = 0;
      for (const part of args) {
        if (source.nodes[part]?.op !== 'const') this.#add(part, { name, isReg, lo, isWhole });
        lo += item(source.nodes, part).width;
      }
    }
  }

  #add(node: NodeId, named: Named): void {
    const known = this.#names.get(node);
    if (!known) this.#names.set(node, [named]);
    else if (this.#rank(named, node) > this.#rank(item(known, 0), node)) known.unshift(named);
    else known.push(named);
  }

  /** A name in the instance that the logic is written in comes first, then that of a whole word, of a register, the deeper. */
  #rank({ name, isWhole, isReg }: Named, node: NodeId): number {
    const home = this.#source.origins[node]?.path;
    const isHome = name.slice(0, name.lastIndexOf('.')) === home;
    return name.split('.').length + (isHome ? 4000 : 0) + (isWhole ? 2000 : 0) + (isReg ? 1000 : 0);
  }

  #best(word: NodeId): Named | undefined {
    return this.#names.get(word)?.[0];
  }

  /** The best name, else the instance. */
  of(word: NodeId): string {
    const best = this.#best(word);
    if (!best) return `logic in ${this.#source.origins[word]?.path || 'the design'}`;
    const { width } = item(this.#source.nodes, word);
    const { name, lo, isWhole } = best;
    return isWhole ? name : width === 1 ? `${name}[${lo}]` : `${name}[${lo + width - 1}:${lo}]`;
  }

  /** Name of one bit of a word. */
  bit(word: NodeId, bit: number): string {
    const best = this.#best(word);
    const isAlone = (this.#source.nodes[word]?.width ?? 1) === 1;
    if (best?.bitNames) return best.bitNames[bit] ?? best.name;
    return !best || (best.isWhole && isAlone) ? this.of(word) : `${best.name}[${best.lo + bit}]`;
  }

  /** Names that the sources gave to it, or to something of which it is a part. */
  all(word: NodeId): readonly string[] {
    return this.#names.get(word)?.map(({ name }) => name) ?? [];
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
          : ((node?.op === 'input' ? clockNameOf(node) : undefined) ?? signal?.name ?? `logic ${clock}`),
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
