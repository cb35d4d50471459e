import { floatAt, item, numberAt } from '../lists.ts';
import { type Chain, isInverted, KIND, type Literal, type Network, nodeOf } from './network.ts';

/** Inputs of a look-up table. */
const INPUTS = 4;
/** Cuts kept at each gate. */
const MOST_CUTS = 8;
/** Levels, in tenths of a table's delay; a step along a carry chain is far shorter. */
const LUT_LEVEL = 10;
const CARRY_LEVEL = 1;
const AREA_PASSES = 2;

/**
 * A table that covers a group of gates. `truth` bit i is the output where input k has bit k of i; `inputs` are network
 * nodes.
 */
export interface Lut {
  readonly node: number;
  readonly inputs: readonly number[];
  readonly truth: number;
}

export interface Cover {
  /** The tables, every one after those it depends on. */
  readonly luts: readonly Lut[];
  /** Tables from a leaf to the deepest root. */
  readonly depth: number;
}

interface Cut {
  readonly leaves: readonly number[];
  /** Bloom signature of the leaves. */
  readonly mark: number;
  arrival: number;
  area: number;
}

/**
 * Covers the gates with four-input tables: first so that the longest way is as short as it can be, then, where there is
 * time left, with as few tables as possible.
 *
 * @source cut enumeration with priority cuts and area flow, as in the literature on LUT mapping (common practice)
 */
export function cover(network: Network, roots: readonly Literal[]): Cover {
  const count = network.kind.length;
  const uses = countUses(network, roots);
  const arrival = new Float64Array(count);
  const flow = new Float64Array(count);
  const best: (Cut | null)[] = Array<Cut | null>(count).fill(null);
  const required = new Float64Array(count).fill(Number.POSITIVE_INFINITY);
  const cuts: (readonly Cut[])[] = Array<readonly Cut[]>(count).fill([]);
  const trivial = (node: number): Cut => ({
    leaves: [node],
    mark: 1 << (node & 31),
    arrival: floatAt(arrival, node),
    area: floatAt(flow, node),
  });

  const enumerate = (node: number): Cut[] => {
    const [a, b] = [nodeOf(numberAt(network.first, node)), nodeOf(numberAt(network.second, node))];
    const found: Cut[] = [];
    for (const x of item(cuts, a))
      for (const y of item(cuts, b)) {
        if (popCount(x.mark | y.mark) > INPUTS) continue;
        const leaves = merged(x.leaves, y.leaves);
        if (
          leaves &&
          !found.some((cut) => cut.leaves.length <= leaves.length && cut.leaves.every((leaf) => leaves.includes(leaf)))
        )
          found.push({ leaves, mark: x.mark | y.mark, arrival: 0, area: 0 });
      }
    return found;
  };
  const weigh = (cut: Cut, node: number): void => {
    let latest = 0;
    let area = 1;
    for (const leaf of cut.leaves) {
      latest = Math.max(latest, floatAt(arrival, leaf));
      area += floatAt(flow, leaf);
    }
    cut.arrival = latest + LUT_LEVEL;
    cut.area = area / Math.max(1, floatAt(uses, node));
  };
  const pass = (byArea: boolean): void => {
    const chains = new ChainArrivals(network, arrival);
    for (let node = 1; node < count; node++) {
      const kind = network.kind[node];
      if (kind === KIND.leaf) cuts[node] = [trivial(node)];
      else if (kind === KIND.sum || kind === KIND.carry) {
        arrival[node] = chains.of(node);
        cuts[node] = [trivial(node)];
      } else {
        const found = byArea ? [...item(cuts, node)].slice(0, -1) : enumerate(node);
        for (const cut of found) weigh(cut, node);
        found.sort((x, y) =>
          byArea
            ? order(x, y, floatAt(required, node))
            : x.arrival - y.arrival || x.area - y.area || x.leaves.length - y.leaves.length,
        );
        const kept = found.slice(0, MOST_CUTS);
        const chosen = item(kept, 0);
        best[node] = chosen;
        arrival[node] = chosen.arrival;
        flow[node] = chosen.area;
        cuts[node] = [...kept, trivial(node)];
      }
    }
  };
  pass(false);
  for (let i = 0; i < AREA_PASSES; i++) {
    requiredTimes(network, roots, best, arrival, required);
    pass(true);
  }
  return {
    luts: chosenTables(network, roots, best),
    depth: Math.ceil(Math.max(0, ...roots.map((root) => floatAt(arrival, nodeOf(root)))) / LUT_LEVEL),
  };
}

/** A cut that comes too late is the last choice; among the others the smaller one. */
function order(x: Cut, y: Cut, required: number): number {
  const late = Number(x.arrival > required) - Number(y.arrival > required);
  return late || x.area - y.area || x.arrival - y.arrival;
}

function merged(x: readonly number[], y: readonly number[]): number[] | null {
  const out: number[] = [];
  let i = 0;
  let j = 0;
  while (i < x.length || j < y.length) {
    if (out.length === INPUTS) return null;
    const a = x[i] ?? Number.POSITIVE_INFINITY;
    const b = y[j] ?? Number.POSITIVE_INFINITY;
    if (a <= b) i++;
    if (b <= a) j++;
    out.push(Math.min(a, b));
  }
  return out;
}

function popCount(word: number): number {
  let bits = word - ((word >>> 1) & 0x55555555);
  bits = (bits & 0x33333333) + ((bits >>> 2) & 0x33333333);
  return (((bits + (bits >>> 4)) & 0x0f0f0f0f) * 0x01010101) >>> 24;
}

/** Arrival at chain outputs, which are visited from the lowest bit up. */
class ChainArrivals {
  readonly #network: Network;
  readonly #arrival: Float64Array;
  readonly #at = new Map<number, { bit: number; latest: number }>();

  constructor(network: Network, arrival: Float64Array) {
    this.#network = network;
    this.#arrival = arrival;
  }

  of(node: number): number {
    const index = numberAt(this.#network.first, node);
    const { bits, carryIn } = item(this.#network.chains, index);
    const state = this.#at.get(index) ?? { bit: -1, latest: floatAt(this.#arrival, nodeOf(carryIn)) };
    const upTo = numberAt(this.#network.second, node);
    while (state.bit < upTo) {
      const { a, a2, b } = item(bits, ++state.bit);
      const own = Math.max(
        floatAt(this.#arrival, nodeOf(a)),
        floatAt(this.#arrival, nodeOf(a2)),
        floatAt(this.#arrival, nodeOf(b)),
      );
      state.latest = Math.max(state.latest + CARRY_LEVEL, own + LUT_LEVEL);
    }
    this.#at.set(index, state);
    return state.latest;
  }
}

function countUses(network: Network, roots: readonly Literal[]): Float64Array {
  const uses = new Float64Array(network.kind.length);
  const seen = new Uint8Array(network.kind.length);
  const chains = new Set<number>();
  const open = roots.map(nodeOf);
  for (const node of open) uses[node] = floatAt(uses, node) + 1;
  for (let node = open.pop(); node !== undefined; node = open.pop()) {
    if (seen[node]) continue;
    seen[node] = 1;
    const kind = network.kind[node];
    const inputs: number[] = [];
    if (kind === KIND.and || kind === KIND.xor)
      inputs.push(nodeOf(numberAt(network.first, node)), nodeOf(numberAt(network.second, node)));
    else if ((kind === KIND.sum || kind === KIND.carry) && !chains.has(numberAt(network.first, node))) {
      chains.add(numberAt(network.first, node));
      const chain = network.chains[numberAt(network.first, node)];
      for (const { a, a2, b } of chain?.bits ?? []) inputs.push(nodeOf(a), nodeOf(a2), nodeOf(b));
      if (chain) inputs.push(nodeOf(chain.carryIn));
    }
    for (const input of inputs) {
      uses[input] = floatAt(uses, input) + 1;
      open.push(input);
    }
  }
  return uses;
}

/** Latest moment each node may arrive without making the longest way longer. */
function requiredTimes(
  network: Network,
  roots: readonly Literal[],
  best: readonly (Cut | null)[],
  arrival: Float64Array,
  required: Float64Array,
): void {
  let latest = 0;
  for (const root of roots) latest = Math.max(latest, floatAt(arrival, nodeOf(root)));
  required.fill(Number.POSITIVE_INFINITY);
  const ask = (node: number, time: number) => {
    if (floatAt(required, node) > time) required[node] = time;
  };
  for (const root of roots) ask(nodeOf(root), latest);
  for (let node = network.kind.length - 1; node > 0; node--) {
    const time = floatAt(required, node);
    if (time === Number.POSITIVE_INFINITY) continue;
    const kind = network.kind[node];
    if (kind === KIND.and || kind === KIND.xor)
      for (const leaf of best[node]?.leaves ?? []) ask(leaf, time - LUT_LEVEL);
    else if (kind === KIND.sum || kind === KIND.carry) {
      const chain = item(network.chains, numberAt(network.first, node));
      if (node === lowestOutput(chain)) askChain(chain, required, ask);
    }
  }
}

const lowestOutput = ({ sums, out }: Chain): number => ((sums[0] ?? -1) >= 0 ? numberAt(sums, 0) : out);

/** From the top of a chain down, once all its outputs are asked. */
function askChain(chain: Chain, required: Float64Array, ask: (node: number, time: number) => void): void {
  let time = chain.out < 0 ? Number.POSITIVE_INFINITY : floatAt(required, chain.out);
  for (let i = chain.bits.length - 1; i >= 0; i--) {
    const sum = numberAt(chain.sums, i);
    if (sum >= 0) time = Math.min(time, floatAt(required, sum));
    if (time === Number.POSITIVE_INFINITY) continue;
    const { a, a2, b } = item(chain.bits, i);
    for (const input of [a, a2, b]) ask(nodeOf(input), time - LUT_LEVEL);
    time -= CARRY_LEVEL;
  }
  if (time !== Number.POSITIVE_INFINITY) ask(nodeOf(chain.carryIn), time);
}

/** The tables that the roots need, with what each computes. */
function chosenTables(network: Network, roots: readonly Literal[], best: readonly (Cut | null)[]): Lut[] {
  const luts = new Map<number, Lut>();
  const seen = new Set<number>();
  const chains = new Set<number>();
  const open = roots.map(nodeOf);
  for (let node = open.pop(); node !== undefined; node = open.pop()) {
    if (seen.has(node)) continue;
    seen.add(node);
    const kind = network.kind[node];
    if (kind === KIND.and || kind === KIND.xor) {
      const { leaves } = best[node] as Cut;
      luts.set(node, { node, inputs: leaves, truth: truthOf(network, node, leaves) });
      open.push(...leaves);
    } else if ((kind === KIND.sum || kind === KIND.carry) && !chains.has(numberAt(network.first, node))) {
      chains.add(numberAt(network.first, node));
      const chain = network.chains[numberAt(network.first, node)];
      for (const { a, a2, b } of chain?.bits ?? []) open.push(nodeOf(a), nodeOf(a2), nodeOf(b));
      if (chain) open.push(nodeOf(chain.carryIn));
    }
  }
  return [...luts.values()].sort((x, y) => x.node - y.node);
}

/** Columns of a truth table of four inputs. */
const COLUMNS = [0xaaaa, 0xcccc, 0xf0f0, 0xff00];
const ALL = 0xffff;

function truthOf(network: Network, root: number, leaves: readonly number[]): number {
  const known = new Map<number, number>([[0, 0], ...leaves.map((leaf, i) => [leaf, numberAt(COLUMNS, i)] as const)]);
  const at = (node: number): number => {
    const before = known.get(node);
    if (before !== undefined) return before;
    const side = (literal: number) => (isInverted(literal) ? ~at(nodeOf(literal)) & ALL : at(nodeOf(literal)));
    const [x, y] = [side(numberAt(network.first, node)), side(numberAt(network.second, node))];
    const value = network.kind[node] === KIND.and ? x & y : x ^ y;
    known.set(node, value);
    return value;
  };
  return at(root);
}
