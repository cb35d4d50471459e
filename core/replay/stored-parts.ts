// Bits to be stored, as signals and parts of signals that a recorder can take.
import { item } from '../lists.ts';
import { partOf } from '../probes/index.ts';
import type { Vertex } from './bit-graph.ts';
import type { NamedSignal } from './design.ts';
import type { Region } from './region.ts';

/** A signal, or neighbouring bits of one: `a.count`, `a.count[3:0]`, `a.count[7]`. */
export interface StoredPart {
  readonly name: string;
  readonly width: number;
}

/**
 * The fewest names that hold all the bits: whole signals where all of their bits are wanted, else parts of them.
 * Signals of `insist` are taken whole.
 */
export function storedParts(region: Region, cut: readonly Vertex[], insist: readonly string[]): StoredPart[] {
  const { design, graph } = region;
  const open = new Set(cut);
  const parts: StoredPart[] = [];
  const whole = ({ name, width, node }: NamedSignal) => {
    parts.push({ name, width });
    for (const vertex of graph.bitsOf(node)) open.delete(vertex);
  };
  for (const signal of design.signals) if (insist.includes(signal.name)) whole(signal);
  for (const name of insist) {
    const part = partIn(region, name);
    if (!part) continue;
    parts.push({ name, width: part.length });
    for (const vertex of part) open.delete(vertex);
  }
  while (open.size > 0) {
    const best = widest(region, open);
    const bits = best.bits.filter(({ vertex }) => open.has(vertex));
    if (bits.length === best.signal.width || best.signal.lsb !== 0 || best.signal.bitNames) whole(best.signal);
    else
      for (const { from, to } of runs(bits.map(({ bit }) => bit))) {
        const range = from === to ? `[${from}]` : `[${to}:${from}]`;
        parts.push({ name: `${best.signal.name}${range}`, width: to - from + 1 });
      }
    for (const { vertex } of bits) open.delete(vertex);
  }
  return parts.sort((a, b) => (a.name < b.name ? -1 : 1));
}

/** The bits of a part such as `a.count[3:0]`; null for what is none. */
export function partIn({ design, graph }: Region, name: string): readonly Vertex[] | null {
  const part = partOf((one) => design.signals.find((signal) => signal.name === one), name);
  if (!part || part.of.name === name || part.of.lsb !== 0) return null;
  return graph.bitsOf(part.of.node).slice(part.lo, part.lo + part.width);
}

interface Held {
  readonly signal: NamedSignal;
  readonly bits: readonly { readonly bit: number; readonly vertex: Vertex }[];
}

/** The signal that holds most of the bits: of several one that all of its bits are wanted of, one that is seen, short. */
function widest(region: Region, open: ReadonlySet<Vertex>): Held {
  const held = new Map<NamedSignal, { bit: number; vertex: Vertex }[]>();
  for (const vertex of open)
    for (const { signal, bit } of region.namesOf(vertex)) {
      const bits = held.get(signal);
      if (bits) bits.push({ bit, vertex });
      else held.set(signal, [{ bit, vertex }]);
    }
  const all = [...held].map(([signal, bits]): Held => ({ signal, bits }));
  const rank = ({ signal, bits }: Held): number[] => [
    -bits.length,
    signal.width - bits.length,
    region.signals.includes(signal) ? 0 : 1,
    signal.name.split('.').length,
    signal.name.length,
  ];
  return item(
    all.sort((a, b) => compared(rank(a), rank(b))),
    0,
  );
}

function compared(a: readonly number[], b: readonly number[]): number {
  const i = a.findIndex((one, at) => one !== b[at]);
  return i < 0 ? 0 : item(a, i) - item(b, i);
}

/** Neighbouring numbers together. */
function runs(numbers: readonly number[]): { from: number; to: number }[] {
  const made: { from: number; to: number }[] = [];
  for (const n of [...new Set(numbers)].sort((a, b) => a - b)) {
    const last = made.at(-1);
    if (last && last.to === n - 1) last.to = n;
    else made.push({ from: n, to: n });
  }
  return made;
}
