import { byteAt, floatAt, intAt, numberAt } from '../../lists.ts';
import { ALL_ONES, COLUMNS, dependsOn, isInverted, KIND, type Network, nodeOf, swapped } from '../gates/index.ts';

/** Inputs of a table. */
export const INPUTS = 4;

/** A way to compute a node from at most four others: their numbers in rising order, and the function of them. */
interface Cut {
  readonly leaves: readonly number[];
  readonly truth: number;
}

interface Weighed extends Cut {
  readonly mark: number;
  readonly arrival: number;
  readonly area: number;
}

/** What cuts are weighed by. */
export interface Weights {
  readonly arrival: Float64Array;
  /** Tables that a node takes, shared among those that use it. */
  readonly flow: Float64Array;
  readonly uses: Float64Array;
  readonly level: number;
  /** What a function of so many inputs costs. */
  readonly costs: (truth: number, size: number) => number;
}

type Order = (x: Weighed, y: Weighed) => number;

/**
 * Cuts of every gate, a few of the best each. Inputs that the function does not depend on are left out, so that logic
 * that meets again is seen through.
 *
 * @source priority cuts, as in the literature on LUT mapping (common practice)
 */
export class Cuts {
  readonly #network: Network;
  /** Kept at each node, its own number as the only leaf beside them. */
  readonly #most: number;
  readonly #count: Uint8Array;
  readonly #leaves: Int32Array;
  readonly #size: Uint8Array;
  readonly #truth: Uint16Array;

  /** Most leaves of a cut. */
  readonly #inputs: number;

  constructor(network: Network, most: number, inputs = INPUTS) {
    this.#inputs = inputs;
    const nodes = network.kind.length;
    this.#network = network;
    this.#most = most;
    this.#count = new Uint8Array(nodes);
    this.#leaves = new Int32Array(nodes * (most + 1) * INPUTS);
    this.#size = new Uint8Array(nodes * (most + 1));
    this.#truth = new Uint16Array(nodes * (most + 1));
  }

  /** Cuts of a node, without the one that is the node itself. */
  count(node: number): number {
    return Math.max(0, byteAt(this.#count, node) - 1);
  }

  size(node: number, cut: number): number {
    return byteAt(this.#size, node * (this.#most + 1) + cut);
  }

  leaf(node: number, cut: number, i: number): number {
    return intAt(this.#leaves, (node * (this.#most + 1) + cut) * INPUTS + i);
  }

  truth(node: number, cut: number): number {
    return this.#truth[node * (this.#most + 1) + cut] ?? 0;
  }

  at(node: number, cut: number): Cut {
    return {
      leaves: Array.from({ length: this.size(node, cut) }, (_, i) => this.leaf(node, cut, i)),
      truth: this.truth(node, cut),
    };
  }

  /** What is a leaf to the gates: it has itself alone. */
  leafOnly(node: number): void {
    this.#count[node] = 0;
    this.#put(node, [node], COLUMNS[0]);
  }

  /** The cuts of a gate from those of its inputs, the best by `order` first; of those left out, a few small ones stay. */
  enumerate(node: number, weights: Weights, order: Order, keep: Cut | null): void {
    const found = this.#merge(node, weights);
    if (keep !== null && !found.some((cut) => cut.truth === keep.truth && sameLeaves(cut.leaves, keep.leaves)))
      found.push(weighed(keep, node, weights));
    found.sort(order);
    this.#count[node] = 0;
    const first = found.length > this.#most ? this.#most - (this.#most >> 2) : this.#most;
    for (const { leaves, truth } of found.slice(0, first)) this.#put(node, leaves, truth);
    if (found.length > first) {
      const rest = found.slice(first).sort((x, y) => x.area - y.area || x.arrival - y.arrival);
      for (const { leaves, truth } of rest.slice(0, this.#most - first)) this.#put(node, leaves, truth);
    }
    this.#put(node, [node], COLUMNS[0]);
  }

  #put(node: number, leaves: readonly number[], truth: number): void {
    const cut = byteAt(this.#count, node);
    const at = node * (this.#most + 1) + cut;
    this.#count[node] = cut + 1;
    this.#size[at] = leaves.length;
    this.#truth[at] = truth;
    for (let i = 0; i < leaves.length; i++) this.#leaves[at * INPUTS + i] = numberAt(leaves, i);
  }

  #merge(node: number, weights: Weights): Weighed[] {
    const { first, second, kind } = this.#network;
    const [x, y] = [numberAt(first, node), numberAt(second, node)];
    const [a, b] = [nodeOf(x), nodeOf(y)];
    const isAnd = kind[node] === KIND.and;
    const [flipX, flipY] = [isInverted(x) ? ALL_ONES : 0, isInverted(y) ? ALL_ONES : 0];
    const found: Weighed[] = [];
    const leaves: number[] = [];
    const [manyA, manyB] = [byteAt(this.#count, a), byteAt(this.#count, b)];
    for (let i = 0; i < manyA; i++)
      for (let j = 0; j < manyB; j++) {
        if (!this.#join(a, i, b, j, leaves)) continue;
        const tx = this.#stretched(a, i, leaves) ^ flipX;
        const ty = this.#stretched(b, j, leaves) ^ flipY;
        const cut = reduced(leaves, isAnd ? tx & ty : tx ^ ty);
        const mark = markOf(cut.leaves);
        if (found.some((other) => (other.mark & ~mark) === 0 && within(other.leaves, cut.leaves))) continue;
        found.push(weighed(cut, node, weights, mark));
      }
    return found;
  }

  /** Leaves of two cuts together, in rising order; false where they are too many. */
  #join(a: number, i: number, b: number, j: number, into: number[]): boolean {
    const [atA, atB] = [(a * (this.#most + 1) + i) * INPUTS, (b * (this.#most + 1) + j) * INPUTS];
    const [endA, endB] = [atA + this.size(a, i), atB + this.size(b, j)];
    into.length = 0;
    let [p, q] = [atA, atB];
    while (p < endA || q < endB) {
      if (into.length === this.#inputs) return false;
      const one = p < endA ? intAt(this.#leaves, p) : Number.MAX_SAFE_INTEGER;
      const other = q < endB ? intAt(this.#leaves, q) : Number.MAX_SAFE_INTEGER;
      if (one <= other) p++;
      if (other <= one) q++;
      into.push(Math.min(one, other));
    }
    return true;
  }

  /** The function of a cut over more leaves than its own. */
  #stretched(node: number, cut: number, leaves: readonly number[]): number {
    let truth = this.truth(node, cut);
    let at = leaves.length - 1;
    for (let i = this.size(node, cut) - 1; i >= 0; i--) {
      const leaf = this.leaf(node, cut, i);
      while (leaves[at] !== leaf) at--;
      if (at !== i) truth = swapped(truth, i, at);
    }
    return truth;
  }
}

/** A function without the leaves that it does not depend on. */
export function reduced(leaves: readonly number[], truth: number): Cut {
  const kept: number[] = [];
  let function_ = truth;
  for (let i = 0; i < leaves.length; i++) {
    if (!dependsOn(truth, i)) continue;
    if (kept.length !== i) function_ = swapped(function_, kept.length, i);
    kept.push(numberAt(leaves, i));
  }
  return { leaves: kept, truth: function_ };
}

function weighed(
  cut: Cut,
  node: number,
  { arrival, flow, uses, level, costs }: Weights,
  mark = markOf(cut.leaves),
): Weighed {
  let latest = 0;
  let area = costs(cut.truth, cut.leaves.length);
  for (const leaf of cut.leaves) {
    const at = floatAt(arrival, leaf);
    if (at > latest) latest = at;
    area += floatAt(flow, leaf);
  }
  return {
    leaves: cut.leaves,
    truth: cut.truth,
    mark,
    arrival: cut.leaves.length > 1 ? latest + level : latest,
    area: area / Math.max(1, floatAt(uses, node)),
  };
}

const markOf = (leaves: readonly number[]): number => {
  let mark = 0;
  for (const leaf of leaves) mark |= 1 << (leaf & 31);
  return mark;
};

const within = (few: readonly number[], many: readonly number[]): boolean => few.every((leaf) => many.includes(leaf));

const sameLeaves = (x: readonly number[], y: readonly number[]): boolean => x.length === y.length && within(x, y);
