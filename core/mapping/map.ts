import type { MemoryCells } from '../families/index.ts';
import { entry, item, numberAt, wordAt } from '../lists.ts';
import type { Netlist } from '../netlist/index.ts';
import { type BitDesign, blast, withLiterals } from './blast.ts';
import { ALL_ONES, COLUMNS, isInverted, KIND, type Literal, type Network, nodeOf, TRUE } from './gates/index.ts';
import { mapInPieces, PieceMemory, type PlacedPiece } from './pieces.ts';
import { type RewrittenStates, withBestStates } from './encodings.ts';
import { tablesOf } from './piece.ts';
import { rootsOf } from './roots.ts';
import { chainInputs, NODE, TableNet } from './tables/index.ts';

/** A design mapped to tables and chains. */
export interface Mapped {
  /** Its literals are those of `logic`. */
  readonly design: BitDesign;
  /** Every node after those it depends on; `madeFor` is the word-level node that a node was made for. */
  readonly logic: TableNet;
  /** What its memories can be made of. */
  readonly memoryCells: MemoryCells;
  /** Tables on the longest way. */
  readonly depth: number;
  /** How many inputs each node reaches. */
  readonly fanout: Uint32Array;
  /** State machines whose states are written in another way than in the source. */
  readonly machines: readonly RewrittenStates[];
  /** Pieces of logic, and how many of them were known from an earlier build. */
  readonly pieces: number;
  readonly reused: number;
}

/**
 * Maps an optimised netlist to four-input tables and carry chains. `memory` carries over what earlier builds have done.
 */
export function map(netlist: Netlist, memoryCells: MemoryCells, memory: PieceMemory = new PieceMemory()): Mapped {
  memory.begin();
  const best = withBestStates(netlist, (part) => costOf(part, memory.trials));
  return { ...mapAsItIs(best.netlist, memoryCells, memory), machines: best.machines };
}

/** Tables and longest ways of a netlist by itself. */
function costOf(netlist: Netlist, memory: PieceMemory): { readonly tables: number; readonly ways: number } {
  const gates = blast(netlist);
  const { pieces } = mapInPieces(gates.network, rootsOf(gates), gates.facts, memory);
  return pieces.reduce(
    (sum, { mapped }) => ({ tables: sum.tables + tablesOf(mapped), ways: sum.ways + mapped.depth }),
    { tables: 0, ways: 0 },
  );
}

function mapAsItIs(netlist: Netlist, memoryCells: MemoryCells, memory: PieceMemory): Omit<Mapped, 'machines'> {
  const gates = blast(netlist);
  const { pieces, reused } = mapInPieces(gates.network, rootsOf(gates), gates.facts, memory);
  const logic = new TableNet();
  const number = leavesOf(gates.network, logic);
  const literals = new Map<Literal, Literal>();
  for (const piece of pieces) put(piece, gates.network, logic, number, literals);
  const moved = (from: Literal): Literal => {
    const leaf = number.get(nodeOf(from));
    return leaf === undefined ? entry(literals, from) : leaf * 2 + (from & 1);
  };
  const turned = new Map<Literal, Literal>();
  const design = withLiterals(gates, moved, (from, word) => {
    const at = moved(from);
    if (at <= TRUE || !isInverted(at) || logic.kind[nodeOf(at)] !== NODE.leaf) return at;
    // Nothing but a table turns a register or a pin round.
    const known = turned.get(at) ?? logic.put(NODE.table, [nodeOf(at)], ALL_ONES ^ COLUMNS[0], word) * 2;
    turned.set(at, known);
    return known;
  });
  logic.roots = rootsOf(design);
  const fanout = new Uint32Array(logic.kind.length);
  const use = (node: number) => {
    fanout[node] = wordAt(fanout, node) + 1;
  };
  for (const [node, kind] of logic.kind.entries())
    if (kind === NODE.table) for (const input of item(logic.inputs, node)) use(input);
  for (const chain of logic.chains) for (const input of chainInputs(chain)) use(input);
  for (const root of logic.roots) use(nodeOf(root));
  const depth = pieces.reduce((most, { mapped }) => Math.max(most, mapped.depth), 0);
  return { design, logic, memoryCells, depth, fanout, pieces: pieces.length, reused };
}

/** Leaves of the gates as those of the logic, and the number of each. */
function leavesOf({ kind, origin }: Network, logic: TableNet): Map<number, number> {
  const number = new Map([[0, 0]]);
  for (const [node, is] of kind.entries())
    if (is === KIND.leaf) number.set(node, logic.put(NODE.leaf, [], 0, numberAt(origin, node)));
  return number;
}

/** Puts the parts of a piece behind what is there. */
function put(
  { mapped, outer, roots, chains }: PlacedPiece,
  { origin, chains: gateChains }: Network,
  logic: TableNet,
  leaves: ReadonlyMap<number, number>,
  literals: Map<Literal, Literal>,
): void {
  const made: number[] = [];
  const moved = (node: number): number =>
    node < mapped.first ? entry(leaves, numberAt(outer, node)) : numberAt(made, node - mapped.first);
  const literal = (from: Literal): Literal => moved(nodeOf(from)) * 2 + (from & 1);
  for (const part of mapped.parts) {
    if (part.kind === 'table') {
      const word = numberAt(origin, numberAt(outer, part.madeFor));
      made.push(logic.put(NODE.table, part.inputs.map(moved), part.truth, word));
      continue;
    }
    const source = numberAt(chains, part.source);
    const index = logic.chains.length;
    const word = item(gateChains, source).origin;
    const output = (isThere: boolean): number => {
      if (!isThere) return -1;
      const node = logic.put(NODE.chain, [], 0, word, index);
      made.push(node);
      return node;
    };
    const cells = part.cells.map((cell) => ({ ...cell, inputs: cell.inputs.map(moved) }));
    const carryIn = literal(part.carryIn);
    logic.chains.push({ cells, carryIn, sums: part.sums.map(output), out: output(part.out), source });
  }
  for (const [i, root] of roots.entries()) literals.set(root, literal(numberAt(mapped.roots, i)));
}
