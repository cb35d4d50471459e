import { rootsOf } from './roots.ts';
import { numberAt, wordAt } from '../lists.ts';
import type { MemoryCells } from '../families/index.ts';
import type { Netlist } from '../netlist/index.ts';
import { type BitDesign, blast } from './blast.ts';
import type { Lut } from './cover.ts';
import { coverInPieces, PieceMemory } from './pieces.ts';
import { isInverted, KIND, type Literal, nodeOf, TRUE } from './network.ts';

/** A design mapped to tables and chains. */
export interface Mapped {
  readonly design: BitDesign;
  /** What its memories can be made of. */
  readonly memoryCells: MemoryCells;
  /** Every table after those it depends on. */
  readonly luts: readonly Lut[];
  /** Indexes of the chains that something uses. */
  readonly chains: readonly number[];
  /** Tables on the longest way. */
  readonly depth: number;
  /** How many inputs each network node reaches. */
  readonly fanout: Uint32Array;
  /** Roots that are inverted leaves: a table each that only inverts. */
  readonly inverters: number;
  /** Pieces of logic, and how many of them were known from an earlier build. */
  readonly pieces: number;
  readonly reused: number;
}

/**
 * Maps an optimised netlist to four-input tables and carry chains. `memory` carries over what earlier builds have done.
 */
export function map(netlist: Netlist, memoryCells: MemoryCells, memory: PieceMemory = new PieceMemory()): Mapped {
  const design = blast(netlist);
  const { network } = design;
  const roots = rootsOf(design);
  const { luts, depth, pieces, reused } = coverInPieces(network, roots, memory);
  const fanout = new Uint32Array(network.kind.length);
  const use = (node: number) => {
    fanout[node] = wordAt(fanout, node) + 1;
  };
  for (const { inputs } of luts) for (const input of inputs) use(input);
  for (const root of roots) use(nodeOf(root));
  const chains = liveChains(design, luts, roots);
  for (const index of chains) {
    const chain = network.chains[index];
    for (const { a, a2, b } of chain?.bits ?? [])
      for (const literal of a2 === TRUE ? [a, b] : [a, a2, b]) use(nodeOf(literal));
  }
  const inverters = new Set(
    design.flipFlops
      .flatMap(({ data }) => data)
      .filter((bit) => bit > TRUE && isInverted(bit) && network.kind[nodeOf(bit)] === KIND.leaf),
  ).size;
  return { design, memoryCells, luts, chains, depth, fanout, inverters, pieces, reused };
}

function liveChains({ network }: BitDesign, luts: readonly Lut[], roots: readonly Literal[]): number[] {
  const found = new Set<number>();
  const look = (open: number[]) => {
    for (let node = open.pop(); node !== undefined; node = open.pop()) {
      const kind = network.kind[node];
      if (kind !== KIND.sum && kind !== KIND.carry) continue;
      const index = numberAt(network.first, node);
      if (found.has(index)) continue;
      found.add(index);
      const chain = network.chains[index];
      for (const { a, a2, b } of chain?.bits ?? []) open.push(nodeOf(a), nodeOf(a2), nodeOf(b));
      if (chain) open.push(nodeOf(chain.carryIn));
    }
  };
  look([...roots.map(nodeOf), ...luts.flatMap(({ inputs }) => inputs)]);
  return [...found].sort((x, y) => x - y);
}
