import { floatAt, intAt, item, numberAt } from '../../lists.ts';
import {
  ALL_ONES,
  build,
  type Chain,
  gatesFor,
  inputsOf,
  isChain,
  isGate,
  type Literal,
  type Network,
  nodeOf,
  Rebuilt,
} from '../gates/index.ts';
import { cellsFor } from './cells.ts';
import { Cuts, INPUTS, type Weights } from './cuts.ts';
import { type Cell, LEVEL, NODE, SHORT_WAY, type TableChain, TableNet } from './net.ts';

/** Cuts kept at each gate, of large pieces and of small ones. */
const MOST_CUTS = { large: 8, small: 16 } as const;
/** Gates of a piece that has all the time it wants. */
const SMALL = 3000;
const EXACT_PASSES = 2;
/** Nodes that a trial looks at on each side. */
const MOST_TRIED = 50;

/** How nodes are chosen in one pass. */
type Mode = 'depth' | 'flow' | 'exact';

/**
 * Covers gates with tables of four inputs: first so that the longest way is as short as it can be, then, where there is
 * time left, with as few tables as possible: by area flow, then by counting what each choice adds and frees. The
 * operands of a chain are covered like gates; what fits into the chain's own tables costs nothing.
 *
 * @source depth-optimal cut mapping with area flow and exact local area, as in the literature on LUT mapping (common
 * practice)
 */
export function cover(network: Network, roots: readonly Literal[], inputs = INPUTS): TableNet {
  return chosen(network, roots, { inputs, costs: (_, size) => (size > 1 ? 1 : 0), takesIntoChains: true }).done();
}

/**
 * The gates made anew from functions of four inputs, each by the fewest gates that it can have.
 *
 * @source rewriting with precomputed structures for NPN classes, as in the literature on and-inverter graphs (common
 * practice); which functions are taken is found by covering
 */
export function rewritten(network: Network, roots: readonly Literal[]): { network: Network; roots: Literal[] } {
  return chosen(network, roots, {
    inputs: INPUTS,
    costs: (truth, size) => (size > 1 ? gatesFor(truth) : 0),
    takesIntoChains: false,
  }).asGates();
}

function chosen(network: Network, roots: readonly Literal[], rules: Rules): Covering {
  const work = new Covering(network, roots, rules);
  work.pass('depth');
  if (network.kind.length < SMALL) work.pass('flow');
  for (let i = 0; i < EXACT_PASSES; i++) work.pass('exact');
  return work;
}

interface Rules {
  /** Most inputs of what is chosen. */
  readonly inputs: number;
  /** What a function of so many inputs costs. */
  readonly costs: (truth: number, size: number) => number;
  /** The tables of chains may take the logic before them. */
  readonly takesIntoChains: boolean;
}

class Covering {
  readonly #network: Network;
  readonly #roots: readonly Literal[];
  readonly #cuts: Cuts;
  readonly #arrival: Float64Array;
  readonly #flow: Float64Array;
  readonly #uses: Float64Array;
  readonly #required: Float64Array;
  /** Chosen cut of each gate. */
  readonly #best: Int32Array;
  /** Chosen cells of each chain. */
  readonly #cells: Cell[][];
  /** Tables and roots that take a node, as chosen so far. */
  readonly #refs: Int32Array;

  readonly #rules: Rules;
  /** What a trial has counted, to be taken back: a node, or less than nothing where it was dropped. */
  #trial: number[] | null = null;

  constructor(network: Network, roots: readonly Literal[], rules: Rules) {
    this.#rules = rules;
    const count = network.kind.length;
    this.#network = network;
    this.#roots = roots;
    this.#cuts = new Cuts(network, count < SMALL ? MOST_CUTS.small : MOST_CUTS.large, rules.inputs);
    this.#arrival = new Float64Array(count);
    this.#flow = new Float64Array(count);
    this.#uses = countUses(network, roots);
    this.#required = new Float64Array(count).fill(Number.POSITIVE_INFINITY);
    this.#best = new Int32Array(count);
    this.#cells = network.chains.map(() => []);
    this.#refs = new Int32Array(count);
  }

  pass(mode: Mode): void {
    const { kind, first } = this.#network;
    if (mode !== 'depth') this.#require();
    if (mode === 'exact') this.#count();
    for (let node = 1; node < kind.length; node++) {
      if (isGate(kind[node])) this.#choose(node, mode);
      else if (isChain(kind[node])) {
        const index = numberAt(first, node);
        const chain = item(this.#network.chains, index);
        if (node === lowestOutput(chain)) this.#chooseCells(chain, index, mode);
        if (mode === 'depth') this.#cuts.leafOnly(node);
      } else if (mode === 'depth') this.#cuts.leafOnly(node);
    }
  }

  #weights(): Weights {
    return { arrival: this.#arrival, flow: this.#flow, uses: this.#uses, level: LEVEL.table, costs: this.#rules.costs };
  }

  #choose(node: number, mode: Mode): void {
    const required = floatAt(this.#required, node);
    if (mode === 'depth')
      this.#cuts.enumerate(
        node,
        this.#weights(),
        (x, y) => x.arrival - y.arrival || x.area - y.area || x.leaves.length - y.leaves.length,
        null,
      );
    else if (mode === 'flow')
      this.#cuts.enumerate(
        node,
        this.#weights(),
        (x, y) =>
          Number(x.arrival > required) - Number(y.arrival > required) || x.area - y.area || x.arrival - y.arrival,
        this.#cuts.at(node, intAt(this.#best, node)),
      );
    const chosen =
      mode === 'exact' && intAt(this.#refs, node) > 0 ? this.#exact(node, required) : this.#first(node, mode);
    this.#best[node] = chosen;
    this.#arrival[node] = this.#arrivalOf(node, chosen);
    this.#flow[node] = this.#flowOf(node, chosen);
  }

  /** In the order that they were weighed in, or, where nothing takes the node now, by what it would add. */
  #first(node: number, mode: Mode): number {
    if (mode !== 'exact') return 0;
    let best = intAt(this.#best, node);
    for (let cut = 0; cut < this.#cuts.count(node); cut++)
      if (
        this.#arrivalOf(node, cut) <= floatAt(this.#required, node) &&
        this.#flowOf(node, cut) < this.#flowOf(node, best)
      )
        best = cut;
    return best;
  }

  /** The cut that adds the fewest tables to those that are there for others; looked at as far as that goes quickly. */
  #exact(node: number, required: number): number {
    const now = intAt(this.#best, node);
    let [best, least, soonest] = [now, 0, this.#arrivalOf(node, now)];
    for (let cut = 0; cut < this.#cuts.count(node); cut++) {
      const arrival = this.#arrivalOf(node, cut);
      if (cut === now || arrival > required) continue;
      this.#trial = [];
      const added = this.#exchange(node, now, cut);
      this.#undo();
      if (added < least || (added === least && arrival < soonest)) [best, least, soonest] = [cut, added, arrival];
    }
    if (best !== now) this.#exchange(node, now, best);
    return best;
  }

  /** Takes one cut for another; gives what that adds. The new one first: what both are made of stays as it is. */
  #exchange(node: number, from: number, to: number): number {
    const taken = this.#cost(node, to) + this.#use(this.#leaves(node, to));
    return taken - this.#cost(node, from) - this.#drop(this.#leaves(node, from));
  }

  #leaves(node: number, cut: number): number[] {
    const leaves: number[] = [];
    const size = this.#cuts.size(node, cut);
    for (let i = 0; i < size; i++) leaves.push(this.#cuts.leaf(node, cut, i));
    return leaves;
  }

  #cost(node: number, cut: number): number {
    return this.#rules.costs(this.#cuts.truth(node, cut), this.#cuts.size(node, cut));
  }

  /** Takes nodes, and what those take that were not there before; gives what that adds. */
  #use(nodes: number[]): number {
    const end = (this.#trial?.length ?? 0) + MOST_TRIED;
    let area = 0;
    for (let node = nodes.pop(); node !== undefined; node = nodes.pop()) {
      const before = intAt(this.#refs, node);
      this.#refs[node] = before + 1;
      this.#trial?.push(node);
      if (before > 0 || !isGate(this.#network.kind[node]) || (this.#trial?.length ?? 0) >= end) continue;
      const cut = intAt(this.#best, node);
      area += this.#cost(node, cut);
      const size = this.#cuts.size(node, cut);
      for (let i = 0; i < size; i++) nodes.push(this.#cuts.leaf(node, cut, i));
    }
    return area;
  }

  /** Drops nodes, and what is there for those alone; gives what that frees. */
  #drop(nodes: number[]): number {
    const end = (this.#trial?.length ?? 0) + MOST_TRIED;
    let area = 0;
    for (let node = nodes.pop(); node !== undefined; node = nodes.pop()) {
      const left = intAt(this.#refs, node) - 1;
      this.#refs[node] = left;
      this.#trial?.push(-node);
      if (left > 0 || !isGate(this.#network.kind[node]) || (this.#trial?.length ?? 0) >= end) continue;
      const cut = intAt(this.#best, node);
      area += this.#cost(node, cut);
      const size = this.#cuts.size(node, cut);
      for (let i = 0; i < size; i++) nodes.push(this.#cuts.leaf(node, cut, i));
    }
    return area;
  }

  /** Takes back what a trial has done. */
  #undo(): void {
    for (const step of this.#trial ?? []) {
      const node = Math.abs(step);
      this.#refs[node] = intAt(this.#refs, node) - Math.sign(step);
    }
    this.#trial = null;
  }

  #arrivalOf(node: number, cut: number): number {
    let latest = 0;
    const size = this.#cuts.size(node, cut);
    for (let i = 0; i < size; i++) latest = Math.max(latest, floatAt(this.#arrival, this.#cuts.leaf(node, cut, i)));
    return size > 1 ? latest + LEVEL.table : latest;
  }

  #flowOf(node: number, cut: number): number {
    const size = this.#cuts.size(node, cut);
    let area = this.#cost(node, cut);
    for (let i = 0; i < size; i++) area += floatAt(this.#flow, this.#cuts.leaf(node, cut, i));
    return area / Math.max(1, floatAt(this.#uses, node));
  }

  #chooseCells(chain: Chain, index: number, mode: Mode): void {
    const gate = (node: number) => this.#rules.takesIntoChains && isGate(this.#network.kind[node]);
    const chosen = item(this.#cells, index);
    const { carryIn } = chain;
    let latest = floatAt(this.#arrival, nodeOf(carryIn)) + (carryIn > 1 ? LEVEL.table : 0);
    const limits = this.#limits(chain);
    for (const [i, bit] of chain.bits.entries()) {
      const old = mode === 'exact' ? chosen[i] : undefined;
      if (old) this.#drop([...old.inputs]);
      const best = this.#bestCell(cellsFor(bit, this.#cuts, gate), mode, Math.max(latest, numberAt(limits, i)));
      if (old) this.#use([...best.inputs]);
      chosen[i] = best;
      latest = Math.max(latest + LEVEL.carry, this.#entry(best));
      const sum = numberAt(chain.sums, i);
      if (sum >= 0) this.#arrival[sum] = latest + LEVEL.chainEnd;
    }
    if (chain.out >= 0) this.#arrival[chain.out] = latest + LEVEL.chainEnd;
  }

  #bestCell(cells: readonly Cell[], mode: Mode, limit: number): Cell {
    let best = item(cells, 0);
    let [bestLate, bestArea] = [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY];
    for (const cell of cells) {
      const late = Math.max(limit, this.#entry(cell)) - limit;
      let area = 0;
      if (mode === 'exact') {
        this.#trial = [];
        area = this.#use([...cell.inputs]);
        this.#undo();
      } else for (const input of cell.inputs) area += floatAt(this.#flow, input);
      if (late < bestLate || (late === bestLate && area < bestArea)) [best, bestLate, bestArea] = [cell, late, area];
    }
    return best;
  }

  #entry({ inputs }: Cell): number {
    let latest = 0;
    for (const input of inputs) latest = Math.max(latest, floatAt(this.#arrival, input) + LEVEL.table);
    return latest;
  }

  /** Latest moment that the inputs of each bit may enter. */
  #limits({ bits, sums, out }: Chain): number[] {
    let time = out < 0 ? Number.POSITIVE_INFINITY : floatAt(this.#required, out) - LEVEL.chainEnd;
    const limits: number[] = [];
    for (let i = bits.length - 1; i >= 0; i--) {
      const sum = numberAt(sums, i);
      if (sum >= 0) time = Math.min(time, floatAt(this.#required, sum) - LEVEL.chainEnd);
      limits[i] = time;
      time -= LEVEL.carry;
    }
    // Before there are required times every moment counts.
    return limits.map((limit) => (limit === Number.POSITIVE_INFINITY ? 0 : limit));
  }

  /** Latest moment each node may arrive without making the longest way longer. */
  #require(): void {
    const required = this.#required;
    const { kind, first, chains } = this.#network;
    let latest = SHORT_WAY;
    for (const root of this.#roots) latest = Math.max(latest, floatAt(this.#arrival, nodeOf(root)));
    required.fill(Number.POSITIVE_INFINITY);
    const ask = (node: number, time: number) => {
      if (floatAt(required, node) > time) required[node] = time;
    };
    for (const root of this.#roots) ask(nodeOf(root), latest);
    for (let node = kind.length - 1; node > 0; node--) {
      const time = floatAt(required, node);
      if (isGate(kind[node])) {
        if (time === Number.POSITIVE_INFINITY) continue;
        const cut = intAt(this.#best, node);
        const size = this.#cuts.size(node, cut);
        for (let i = 0; i < size; i++) ask(this.#cuts.leaf(node, cut, i), time - (size > 1 ? LEVEL.table : 0));
      } else if (isChain(kind[node])) {
        const index = numberAt(first, node);
        const chain = item(chains, index);
        if (node === lowestOutput(chain)) this.#askChain(chain, index, ask);
      }
    }
  }

  #askChain(chain: Chain, index: number, ask: (node: number, time: number) => void): void {
    const limits = this.#limits(chain);
    for (const [i, cell] of item(this.#cells, index).entries())
      for (const input of cell.inputs) ask(input, numberAt(limits, i) - LEVEL.table);
    ask(nodeOf(chain.carryIn), numberAt(limits, 0) - LEVEL.table);
  }

  /** Who takes each node, for the choice as it stands. */
  #count(): void {
    this.#refs.fill(0);
    const chains = new Set<number>();
    const { kind, first } = this.#network;
    const open = this.#roots.map(nodeOf);
    const use = (node: number) => {
      const before = intAt(this.#refs, node);
      this.#refs[node] = before + 1;
      if (before === 0) open.push(node);
    };
    for (const node of open.splice(0)) use(node);
    for (let node = open.pop(); node !== undefined; node = open.pop()) {
      if (isGate(kind[node])) {
        const cut = intAt(this.#best, node);
        for (let i = 0; i < this.#cuts.size(node, cut); i++) use(this.#cuts.leaf(node, cut, i));
      } else if (isChain(kind[node]) && !chains.has(numberAt(first, node))) {
        const index = numberAt(first, node);
        chains.add(index);
        use(nodeOf(item(this.#network.chains, index).carryIn));
        for (const { inputs } of item(this.#cells, index)) for (const input of inputs) use(input);
      }
    }
  }

  /** The chosen functions as gates. */
  asGates(): { network: Network; roots: Literal[] } {
    const copy = new Rebuilt(this.#network);
    for (let node = 1; node < this.#network.kind.length; node++) {
      if (!isGate(this.#network.kind[node])) copy.keep(node);
      else if (intAt(this.#refs, node) > 0) {
        const { leaves, truth } = this.#cuts.at(node, intAt(this.#best, node));
        copy.put(node, (network) =>
          build(
            network,
            truth,
            leaves.map((leaf) => copy.at(leaf * 2)),
          ),
        );
      }
    }
    return { network: copy.network, roots: this.#roots.map((root) => copy.at(root)) };
  }

  /** The tables and chains that the roots need; nodes keep their numbers. */
  done(): TableNet {
    const { kind, first, chains, origin } = this.#network;
    const net = new TableNet();
    const alias = new Map<number, Literal>([[0, 0]]);
    const literal = (node: number): Literal => alias.get(node) ?? node * 2;
    const made = new Map<number, number>();
    for (let node = 1; node < kind.length; node++) {
      const index = numberAt(first, node);
      if (isGate(kind[node])) {
        const { leaves, truth } = this.#cuts.at(node, intAt(this.#best, node));
        const { inputs, seen } = resolved(leaves, truth, literal);
        net.put(NODE.table, inputs, seen, numberAt(origin, node));
        if (inputs.length === 0) alias.set(node, seen & 1);
        else if (inputs.length === 1) alias.set(node, numberAt(inputs, 0) * 2 + ((seen & 1) === 1 ? 1 : 0));
      } else if (isChain(kind[node])) {
        let at = made.get(index);
        if (at === undefined) {
          const { carryIn, sums, out, origin: source } = item(chains, index);
          const cells = item(this.#cells, index).map((cell) => resolvedCell(cell, literal));
          const carry = literal(nodeOf(carryIn)) ^ (carryIn & 1);
          const chain: TableChain = { cells, carryIn: carry, sums, out, source };
          at = net.chains.push(chain) - 1;
          made.set(index, at);
        }
        net.put(NODE.chain, [], 0, -1, at);
      } else net.put(NODE.leaf, [], 0, numberAt(origin, node));
    }
    net.roots = this.#roots.map((root) => literal(nodeOf(root)) ^ (root & 1));
    return net;
  }
}

/** A function with its leaves seen through to what they are. */
function resolved(
  leaves: readonly number[],
  truth: number,
  literal: (node: number) => Literal,
): { inputs: number[]; seen: number } {
  const literals = leaves.map(literal);
  const inputs = [...new Set(literals.filter((one) => one > 1).map(nodeOf))];
  if (literals.every((one, i) => one === numberAt(leaves, i) * 2)) return { inputs, seen: truth };
  let seen = 0;
  for (let i = 0; i < 16; i++) {
    let index = 0;
    for (const [k, one] of literals.entries()) {
      const value = one <= 1 ? one : ((i >> inputs.indexOf(nodeOf(one))) & 1) ^ (one & 1);
      index |= value << k;
    }
    seen |= ((truth >> index) & 1) << i;
  }
  return { inputs, seen: seen & ALL_ONES };
}

function resolvedCell(cell: Cell, literal: (node: number) => Literal): Cell {
  const { inputs, seen } = resolved(cell.inputs, cell.propagate, literal);
  if (cell.generate < 0) return { inputs, propagate: seen, generate: cell.generate };
  const from = literal(numberAt(cell.inputs, cell.generate >> 1)) ^ (cell.generate & 1);
  const generate = from <= 1 ? from - 2 : inputs.indexOf(nodeOf(from)) * 2 + (from & 1);
  return { inputs, propagate: seen, generate };
}

const lowestOutput = ({ sums, out }: Chain): number => sums.find((sum) => sum >= 0) ?? out;

function countUses(network: Network, roots: readonly Literal[]): Float64Array {
  const uses = new Float64Array(network.kind.length);
  const seen = new Uint8Array(network.kind.length);
  const chains = new Set<number>();
  const open = roots.map(nodeOf);
  for (const node of open) uses[node] = floatAt(uses, node) + 1;
  for (let node = open.pop(); node !== undefined; node = open.pop()) {
    if (seen[node]) continue;
    seen[node] = 1;
    if (isChain(network.kind[node])) {
      const index = numberAt(network.first, node);
      if (chains.has(index)) continue;
      chains.add(index);
    }
    for (const input of inputsOf(network, node)) {
      uses[input] = floatAt(uses, input) + 1;
      open.push(input);
    }
  }
  return uses;
}
