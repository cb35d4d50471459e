import { entry, intAt, item, numberAt } from '../lists.ts';
import { type Cover, cover, type Lut } from './cover.ts';
import { KIND, type Literal, Network, nodeOf } from './network.ts';

/** A piece of logic as it was covered before, by its structure. Node numbers are the piece's own. */
interface Known {
  readonly signature: Int32Array;
  readonly luts: readonly Lut[];
  readonly depth: number;
  lastUse: number;
}

/** Pieces that no build has used for so many builds are forgotten. */
const FORGOTTEN_AFTER = 8;

/**
 * Remembers how pieces of logic were covered, from one build to the next: what a change did not touch is not covered
 * again. Results do not depend on what is remembered.
 */
export class PieceMemory {
  readonly #known = new Map<number, Known[]>();
  #build = 0;

  begin(): void {
    this.#build++;
    for (const [hash, list] of this.#known) {
      const fresh = list.filter((piece) => this.#build - piece.lastUse <= FORGOTTEN_AFTER);
      if (fresh.length === 0) this.#known.delete(hash);
      else if (fresh.length < list.length) this.#known.set(hash, fresh);
    }
  }

  find(signature: Int32Array): Known | null {
    const found = this.#known.get(hashOf(signature))?.find((piece) => same(piece.signature, signature)) ?? null;
    if (found) found.lastUse = this.#build;
    return found;
  }

  add(signature: Int32Array, { luts, depth }: Cover): void {
    const hash = hashOf(signature);
    this.#known.set(hash, [...(this.#known.get(hash) ?? []), { signature, luts, depth, lastUse: this.#build }]);
  }
}

interface PiecewiseCover extends Cover {
  readonly pieces: number;
  readonly reused: number;
}

/** Covers a network piece by piece; a piece is logic that hangs together between registers, memories and pins. */
export function coverInPieces(network: Network, roots: readonly Literal[], memory: PieceMemory): PiecewiseCover {
  memory.begin();
  const rootNodes = new Set(roots.map(nodeOf));
  const luts: Lut[] = [];
  let depth = 0;
  let reused = 0;
  const pieces = piecesOf(network, roots);
  for (const nodes of pieces) {
    const piece = extract(network, nodes, rootNodes);
    const known = memory.find(piece.signature);
    const done: Cover = known ?? cover(piece.local, piece.roots);
    if (known) reused++;
    else memory.add(piece.signature, done);
    depth = Math.max(depth, done.depth);
    for (const lut of done.luts)
      luts.push({
        node: numberAt(piece.outer, lut.node),
        inputs: lut.inputs.map((input) => numberAt(piece.outer, input)),
        truth: lut.truth,
      });
  }
  return { luts: luts.sort((a, b) => a.node - b.node), depth, pieces: pieces.length, reused };
}

const isGate = (kind: number | undefined): boolean => kind === KIND.and || kind === KIND.xor;
const isChain = (kind: number | undefined): boolean => kind === KIND.sum || kind === KIND.carry;

function inputsOf(network: Network, node: number): number[] {
  const kind = network.kind[node];
  if (isGate(kind)) return [nodeOf(numberAt(network.first, node)), nodeOf(numberAt(network.second, node))];
  if (!isChain(kind)) return [];
  const { bits, carryIn } = item(network.chains, numberAt(network.first, node));
  return [nodeOf(carryIn), ...bits.flatMap(({ a, a2, b }) => [nodeOf(a), nodeOf(a2), nodeOf(b)])];
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
  return [...groups.values()];
}

/** A piece as a network of its own, numbered anew, so that equal pieces look equal wherever they stand. */
function extract(
  network: Network,
  nodes: readonly number[],
  rootNodes: ReadonlySet<number>,
): { local: Network; roots: Literal[]; outer: number[]; signature: Int32Array } {
  const local = new Network();
  const outer = [0];
  const number = new Map<number, number>([[0, 0]]);
  const words: number[] = [];
  const put = (node: number, kind: number, first: number, second: number): number => {
    local.kind.push(kind);
    local.first.push(first);
    local.second.push(second);
    local.origin.push(-1);
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
  for (const node of nodes) {
    const kind = numberAt(network.kind, node);
    if (isChain(kind)) {
      const index = numberAt(network.first, node);
      let at = chains.get(index);
      if (at === undefined) {
        const { bits, carryIn, origin } = item(network.chains, index);
        const own = bits.map(({ a, a2, b }) => ({ a: literal(a), a2: literal(a2), b: literal(b) }));
        const carry = literal(carryIn);
        at = local.chains.push({ bits: own, carryIn: carry, sums: bits.map(() => -1), out: -1, origin }) - 1;
        chains.set(index, at);
        words.push(-1, carry, own.length, ...own.flatMap(({ a, a2, b }) => [a, a2, b]));
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
    if (rootNodes.has(node)) {
      roots.push(entry(number, node) * 2);
      words.push(-2);
    }
  }
  return { local, roots, outer, signature: Int32Array.from(words) };
}

function hashOf(words: Int32Array): number {
  let hash = 0x811c9dc5;
  for (const word of words) hash = Math.imul(hash ^ word, 0x01000193) ^ (hash >>> 15);
  return hash;
}

const same = (a: Int32Array, b: Int32Array): boolean => a.length === b.length && a.every((word, i) => word === b[i]);
