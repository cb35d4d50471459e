import { item, numberAt } from '../../lists.ts';
import { inverted, isInverted, type Literal, nodeOf } from '../gates/index.ts';

/** Levels, in tenths of a table with the wires before it; a step along a carry chain is far shorter. */
export const LEVEL = { table: 10, carry: 1, chainEnd: 3 } as const;

/**
 * Tables in a row that are no hindrance: a way through so few is faster than 150 MHz in every grade, and is not made
 * shorter at the price of more tables.
 */
export const SHORT_WAY = 3 * LEVEL.table;

/** What a cell of a chain generates where it does not propagate: a constant, or one of its inputs as it is or turned. */
export const GENERATE = { zero: -2, one: -1 } as const;

/**
 * One table of a carry chain. Where `propagate`, a function of at most three inputs, is 1, the carry passes; else
 * `generate` goes on, a constant or twice the number of an input, plus one where it is turned round. The sum is
 * `propagate` xor the carry. docs/silicon.md, section 1
 */
export interface Cell {
  readonly inputs: readonly number[];
  readonly propagate: number;
  readonly generate: number;
}

/** `sums[i]` and `out` are nodes; -1 where nobody asks. */
export interface TableChain {
  readonly cells: Cell[];
  carryIn: Literal;
  readonly sums: readonly number[];
  readonly out: number;
  /** Chain of the gates that it came from. */
  readonly source: number;
}

export const NODE = { none: 0, leaf: 1, table: 2, chain: 3 } as const;

/**
 * Tables and chains of one piece of logic. `inputs` and `truth` are those of a table, `chainOf` the chain of an output;
 * `madeFor` is the gate that a table was made for. Node 0 is the constant 0. Numbers say nothing about the order.
 */
export class TableNet {
  readonly kind: number[] = [NODE.leaf];
  /** One list a table, never changed in place. */
  readonly inputs: (readonly number[])[] = [[]];
  readonly truth: number[] = [0];
  readonly chainOf: number[] = [-1];
  readonly madeFor: number[] = [-1];
  readonly chains: TableChain[] = [];
  roots: Literal[] = [];

  put(kind: number, inputs: readonly number[], truth: number, madeFor: number, chainOf = -1): number {
    this.kind.push(kind);
    this.inputs.push(inputs);
    this.truth.push(truth);
    this.chainOf.push(chainOf);
    return this.madeFor.push(madeFor) - 1;
  }

  /** Nodes that a node is computed from. */
  sources(node: number): readonly number[] {
    if (this.kind[node] === NODE.table) return item(this.inputs, node);
    return this.kind[node] === NODE.chain ? chainInputs(item(this.chains, numberAt(this.chainOf, node))) : [];
  }

  /** Everything that the given nodes are computed from, themselves among it. */
  behind(nodes: readonly number[]): ReadonlySet<number> {
    const seen = new Set<number>();
    const chains = new Set<number>();
    const open = [...nodes];
    for (let node = open.pop(); node !== undefined; node = open.pop()) {
      if (seen.has(node)) continue;
      seen.add(node);
      // What one output of a chain depends on is what all do.
      const chain = numberAt(this.chainOf, node);
      if (chain >= 0 && chains.has(chain)) continue;
      chains.add(chain);
      for (const source of this.sources(node)) if (!seen.has(source)) open.push(source);
    }
    return seen;
  }

  /** Every table and chain output that a root needs, each after what it depends on. */
  ordered(): number[] {
    const state = new Uint8Array(this.kind.length);
    const order: number[] = [];
    const stack: number[] = [];
    const chains = new Set<number>();
    for (const root of this.roots) {
      stack.push(nodeOf(root));
      for (let node = stack.at(-1); node !== undefined; node = stack.at(-1)) {
        if (state[node] !== 0) {
          stack.pop();
          if (state[node] === 1) {
            state[node] = 2;
            if ((this.kind[node] ?? 0) >= NODE.table) order.push(node);
          }
          continue;
        }
        state[node] = 1;
        // What one output of a chain depends on is what all do.
        const chain = this.kind[node] === NODE.chain ? numberAt(this.chainOf, node) : -1;
        if (chain >= 0 && chains.has(chain)) continue;
        if (chain >= 0) chains.add(chain);
        for (const input of this.sources(node)) if (state[input] === 0) stack.push(input);
      }
    }
    return order;
  }

  /** Tables that are there for the roots; a chain's own bits are not among them. */
  get tables(): number {
    return this.ordered().filter((node) => this.kind[node] === NODE.table).length;
  }
}

export const chainInputs = ({ cells, carryIn }: TableChain): number[] => [
  nodeOf(carryIn),
  ...cells.flatMap(({ inputs }) => inputs),
];

/** A cell with one input in place of another one, turned round where `flip`. */
export function cellWith(cell: Cell, from: number, to: Literal): Cell {
  const at = cell.inputs.indexOf(from);
  const inputs = cell.inputs.map((input, i) => (i === at ? nodeOf(to) : input));
  if (!isInverted(to)) return { ...cell, inputs };
  const by = 1 << at;
  let propagate = 0;
  for (let i = 0; i < 16; i++) propagate |= ((cell.propagate >> (i ^ by)) & 1) << i;
  return {
    inputs,
    propagate,
    generate: cell.generate >> 1 === at && cell.generate >= 0 ? inverted(cell.generate) : cell.generate,
  };
}

/** When each node is there at the latest, in levels, leaves at 0. */
export function arrivalsOf(net: TableNet, order: readonly number[] = net.ordered()): Float64Array {
  const arrival = new Float64Array(net.kind.length);
  const known = new Set<number>();
  for (const node of order) {
    if (net.kind[node] === NODE.table) {
      let latest = 0;
      for (const input of item(net.inputs, node)) latest = Math.max(latest, item(arrival, input));
      arrival[node] = latest + LEVEL.table;
      continue;
    }
    const index = numberAt(net.chainOf, node);
    if (known.has(index)) continue;
    known.add(index);
    chainArrivals(item(net.chains, index), arrival);
  }
  return arrival;
}

/** The carry takes the latest input so far along. */
export function chainArrivals(
  { cells, carryIn, sums, out }: TableChain,
  arrival: { [node: number]: number } & ArrayLike<number>,
): void {
  let latest = item(arrival, nodeOf(carryIn)) + (carryIn > 1 ? LEVEL.table : 0);
  for (const [i, { inputs }] of cells.entries()) {
    latest += LEVEL.carry;
    for (const input of inputs) latest = Math.max(latest, item(arrival, input) + LEVEL.table);
    const sum = numberAt(sums, i);
    if (sum >= 0) arrival[sum] = latest + LEVEL.chainEnd;
  }
  if (out >= 0) arrival[out] = latest + LEVEL.chainEnd;
}
