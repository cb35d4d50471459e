import { entry, intAt, item, numberAt } from '../lists.ts';
import { inputsOf, isChain, isGate, KIND, type Literal, Network, nodeOf } from './gates/index.ts';
import type { Fact } from './blast.ts';
import { mapPiece, type MappedPiece } from './piece.ts';
import type { KnownBits } from './tables/index.ts';

/** A piece of logic as it was mapped before, by its structure. Node numbers are the piece's own. */
interface Known {
  readonly signature: Int32Array;
  readonly mapped: MappedPiece;
  lastUse: number;
}

/** Pieces that no build has used for so many builds are forgotten. */
const FORGOTTEN_AFTER = 8;

/**
 * Remembers how pieces of logic were mapped, from one build to the next: what a change did not touch is not mapped
 * again. Results do not depend on what is remembered.
 */
export class PieceMemory {
  readonly #known = new Map<number, Known[]>();
  #trials: PieceMemory | null = null;
  #build = 0;

  /** The same for what is tried and not taken. */
  get trials(): PieceMemory {
    this.#trials ??= new PieceMemory();
    return this.#trials;
  }

  begin(): void {
    this.#trials?.begin();
    this.#build++;
    for (const [hash, list] of this.#known) {
      const fresh = list.filter((piece) => this.#build - piece.lastUse <= FORGOTTEN_AFTER);
      if (fresh.length === 0) this.#known.delete(hash);
      else if (fresh.length < list.length) this.#known.set(hash, fresh);
    }
  }

  find(signature: Int32Array): MappedPiece | null {
    const found = this.#known.get(hashOf(signature))?.find((piece) => same(piece.signature, signature)) ?? null;
    if (found) found.lastUse = this.#build;
    return found?.mapped ?? null;
  }

  add(signature: Int32Array, mapped: MappedPiece): void {
    const hash = hashOf(signature);
    this.#known.set(hash, [...(this.#known.get(hash) ?? []), { signature, mapped, lastUse: this.#build }]);
  }
}

/** A piece as it was mapped. `outer` gives the network's node for each of the piece's own. */
export interface PlacedPiece {
  readonly mapped: MappedPiece;
  readonly outer: readonly number[];
  /** The network's roots that it computes, beside the piece's own. */
  readonly roots: readonly Literal[];
  readonly chains: readonly number[];
}

/** Maps a network piece by piece; a piece is logic that hangs together between registers, memories and pins. */
export function mapInPieces(
  network: Network,
  roots: readonly Literal[],
  facts: readonly Fact[],
  memory: PieceMemory,
): { readonly pieces: readonly PlacedPiece[]; readonly reused: number } {
  const rootLiterals = new Map<number, Set<Literal>>();
  for (const root of roots) {
    const of = rootLiterals.get(nodeOf(root));
    if (of) of.add(root);
    else rootLiterals.set(nodeOf(root), new Set([root]));
  }
  const factOf = new Map(facts.flatMap((fact) => fact.bits.map((bit) => [nodeOf(bit), fact] as const)));
  let reused = 0;
  const pieces = piecesOf(network, roots).map((nodes): PlacedPiece => {
    const piece = extract(network, nodes, rootLiterals, factOf);
    const known = memory.find(piece.signature);
    const mapped = known ?? mapPiece(piece.local, piece.roots, piece.facts);
    if (known) reused++;
    else memory.add(piece.signature, mapped);
    return { mapped, outer: piece.outer, roots: piece.outerRoots, chains: piece.chains };
  });
  return { pieces, reused };
}

/** Groups of gates and chain outputs that are connected without a leaf between, each in order. */
function piecesOf(network: Network, roots: readonly Literal[]): number[][] {
  const parent = new Int32Array(network.kind.length).fill(-1);
  const find = (node: number): number => {
    let top = node;
    while (parent[top] !== top) top = intAt(parent, top);
    while (parent[node] !== top) {
      const next = intAt(parent, node);
      parent[node] = top;
      node = next;
    }
    return top;
  };
  const join = (a: number, b: number) => {
    parent[find(a)] = find(b);
  };
  const chainSeen = new Map<number, number>();
  const open = roots.map(nodeOf);
  const inner = (node: number) => isGate(network.kind[node]) || isChain(network.kind[node]);
  const enter = (node: number): boolean => {
    if (!inner(node) || parent[node] !== -1) return false;
    parent[node] = node;
    return true;
  };
  for (let node = open.pop(); node !== undefined; node = open.pop()) {
    if (!enter(node)) continue;
    const stack = [node];
    for (let at = stack.pop(); at !== undefined; at = stack.pop()) {
      if (isChain(network.kind[at])) {
        const index = numberAt(network.first, at);
        const before = chainSeen.get(index);
        if (before !== undefined) {
          join(at, before);
          continue;
        }
        chainSeen.set(index, at);
      }
      for (const input of inputsOf(network, at)) {
        if (!inner(input)) continue;
        if (enter(input)) stack.push(input);
        join(at, input);
      }
    }
  }
  const groups = new Map<number, number[]>();
  for (let node = 1; node < network.kind.length; node++) {
    if (parent[node] === -1) continue;
    const top = find(node);
    const group = groups.get(top);
    if (group) group.push(node);
    else groups.set(top, [node]);
  }
  return together(network, [...groups.values()]);
}

/** Gates that pieces looked at as one have at most. */
const MOST_TOGETHER = 400;
/** What very many pieces take, such as a reset, says nothing about them. */
const MOST_TAKERS = 12;

/** Small pieces of the same signals as one piece: what they have in common may be found in none of their gates. */
function together(network: Network, groups: readonly number[][]): number[][] {
  const leaves = groups.map((nodes) => (nodes.length > MOST_TOGETHER ? new Set<number>() : leavesOf(network, nodes)));
  const takers = new Map<number, number[]>();
  for (const [index, own] of leaves.entries())
    for (const leaf of own) {
      const known = takers.get(leaf);
      if (known) known.push(index);
      else takers.set(leaf, [index]);
    }
  const common = new Map<number, number>();
  for (const list of takers.values()) {
    if (list.length > MOST_TAKERS) continue;
    for (const [i, x] of list.entries())
      for (const y of list.slice(i + 1))
        common.set(x * groups.length + y, (common.get(x * groups.length + y) ?? 0) + 1);
  }
  /** The groups that each one is together with; all of them share one list. */
  const parts = groups.map((_, index) => ({ members: [index], nodes: item(groups, index).length }));
  for (const [pair, count] of common) {
    const [one, other] = [Math.floor(pair / groups.length), pair % groups.length];
    // More than half of what the smaller one takes.
    if (count < 2 || count * 2 <= Math.min(item(leaves, one).size, item(leaves, other).size)) continue;
    const [x, y] = [item(parts, one), item(parts, other)];
    if (x === y || x.nodes + y.nodes > MOST_TOGETHER) continue;
    x.members.push(...y.members);
    x.nodes += y.nodes;
    for (const member of y.members) parts[member] = x;
  }
  return [...new Set(parts)].map(({ members }) =>
    members.flatMap((member) => item(groups, member)).sort((x, y) => x - y),
  );
}

/** Leaves that nodes take; a chain's once, however many of its outputs there are. */
function leavesOf(network: Network, nodes: readonly number[]): Set<number> {
  const leaves = new Set<number>();
  const chains = new Set<number>();
  for (const node of nodes) {
    if (isChain(network.kind[node])) {
      const chain = numberAt(network.first, node);
      if (chains.has(chain)) continue;
      chains.add(chain);
    }
    for (const input of inputsOf(network, node)) if (network.kind[input] === KIND.leaf) leaves.add(input);
  }
  return leaves;
}

/** A piece as a network of its own, numbered anew, so that equal pieces look equal wherever they stand. */
function extract(
  network: Network,
  nodes: readonly number[],
  rootLiterals: ReadonlyMap<number, ReadonlySet<Literal>>,
  factOf: ReadonlyMap<number, Fact>,
): {
  local: Network;
  roots: Literal[];
  outerRoots: Literal[];
  facts: KnownBits[];
  outer: number[];
  chains: number[];
  signature: Int32Array;
} {
  const local = new Network();
  const outer = [0];
  const number = new Map<number, number>([[0, 0]]);
  const words: number[] = [];
  const put = (node: number, kind: number, first: number, second: number): number => {
    local.kind.push(kind);
    local.first.push(first);
    local.second.push(second);
    local.origin.push(local.kind.length - 1);
    outer.push(node);
    number.set(node, local.kind.length - 1);
    return local.kind.length - 1;
  };
  const literal = (outside: Literal): Literal => {
    const node = nodeOf(outside);
    let at = number.get(node);
    if (at === undefined) {
      at = put(node, KIND.leaf, 0, 0);
      words.push(KIND.leaf);
    }
    return at * 2 + (outside & 1);
  };
  const chains = new Map<number, number>();
  const roots: Literal[] = [];
  const outerRoots: Literal[] = [];
  const outerChains: number[] = [];
  for (const node of nodes) {
    const kind = numberAt(network.kind, node);
    if (isChain(kind)) {
      const index = numberAt(network.first, node);
      let at = chains.get(index);
      if (at === undefined) {
        const { bits, carryIn } = item(network.chains, index);
        const own = bits.map(({ a, b }) => ({ a: literal(a), b: literal(b) }));
        const carry = literal(carryIn);
        at =
          local.chains.push({
            bits: own,
            carryIn: carry,
            sums: bits.map(() => -1),
            out: -1,
            origin: local.chains.length,
          }) - 1;
        chains.set(index, at);
        words.push(-1, carry, own.length, ...own.flatMap(({ a, b }) => [a, b]));
        outerChains.push(index);
      }
      const bit = numberAt(network.second, node);
      const made = put(node, kind, at, bit);
      const chain = local.chains[at] as unknown as { sums: number[]; out: number };
      if (kind === KIND.sum) chain.sums[bit] = made;
      else chain.out = made;
      words.push(kind, at, bit);
    } else {
      const [first, second] = [literal(numberAt(network.first, node)), literal(numberAt(network.second, node))];
      put(node, kind, first, second);
      words.push(kind, first, second);
    }
    for (const root of rootLiterals.get(node) ?? []) {
      roots.push(entry(number, node) * 2 + (root & 1));
      outerRoots.push(root);
      words.push(-2 - (root & 1));
    }
  }
  const facts: KnownBits[] = [];
  for (const fact of new Set(outer.flatMap((node) => factOf.get(node) ?? []))) {
    const own = { nodes: fact.bits.map((bit) => number.get(nodeOf(bit)) ?? -1), values: fact.values };
    if (own.nodes.filter((node) => node >= 0).length < 2) continue;
    facts.push(own);
    words.push(-4, own.nodes.length, ...own.nodes, ...own.values);
  }
  return { local, roots, outerRoots, facts, outer, chains: outerChains, signature: Int32Array.from(words) };
}

function hashOf(words: Int32Array): number {
  let hash = 0x811c9dc5;
  for (const word of words) hash = Math.imul(hash ^ word, 0x01000193) ^ (hash >>> 15);
  return hash;
}

const same = (a: Int32Array, b: Int32Array): boolean => a.length === b.length && a.every((word, i) => word === b[i]);
