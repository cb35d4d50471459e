// What each bit of a design follows from, bit by bit and register by register.
import { intAt, item } from '../lists.ts';
import type { Netlist, NetNode, NodeId, Register } from '../netlist/index.ts';

/** A bit of a word, or a place where bits come together: a carry, a comparison, a word of a memory. */
export type Vertex = number;

/** Stands for a bit that is a constant. */
export const CONSTANT: Vertex = -1;

/** `delay` is 1 where a register or a memory lies between. */
type Visit = (from: Vertex, delay: 0 | 1) => void;

/** Words of which a bit follows from the bits below it and its own. */
const CARRIES: ReadonlySet<NetNode['op']> = new Set(['add', 'sub', 'mul']);
/** Words of which every bit follows from every bit of their arguments. */
const WHOLE: ReadonlySet<NetNode['op']> = new Set([
  ...(['eq', 'ltu', 'lts', 'redand', 'redor', 'redxor'] as const),
  ...(['divu', 'modu', 'divs', 'mods'] as const),
]);

/**
 * The bits of an optimised netlist as a graph. Bits that are only other names of a bit (slices, joined words, a choice
 * between equals, an operation with a constant that changes nothing) are that bit.
 */
export class BitGraph {
  readonly netlist: Netlist;
  readonly size: number;
  readonly #offsets: Int32Array;
  readonly #same: Int32Array;
  /** Node of each vertex; -1 for those of memories. */
  readonly #owner: Int32Array;
  readonly #bits: (readonly Vertex[] | undefined)[] = [];
  readonly #registers: ReadonlyMap<NodeId, Register>;
  /** First vertex of each memory: one a bit of its words. */
  readonly #memories: number[] = [];
  /** What each vertex follows from, one after another, and where each begins. */
  readonly #firstFeed: Int32Array;
  readonly #feeds: Int32Array;
  readonly #delays: Uint8Array;

  constructor(netlist: Netlist) {
    this.netlist = netlist;
    this.#registers = new Map(netlist.registers.map((register) => [register.node, register]));
    this.#offsets = new Int32Array(netlist.nodes.length);
    let size = 0;
    for (const [id, node] of netlist.nodes.entries()) {
      this.#offsets[id] = size;
      size += node.width + extraOf(netlist, node);
    }
    for (const { width } of netlist.memories) {
      this.#memories.push(size);
      size += width;
    }
    this.size = size;
    this.#owner = new Int32Array(size).fill(-1);
    for (const [id, node] of netlist.nodes.entries())
      this.#owner.fill(id, this.#at(id), this.#at(id) + node.width + extraOf(netlist, node));
    this.#same = Int32Array.from({ length: size }, (_, i) => i);
    for (const id of netlist.nodes.keys()) this.#alias(id);
    const [feeds, delays]: [number[], number[]] = [[], []];
    this.#firstFeed = new Int32Array(size + 1);
    const note: Visit = (from, delay) => {
      feeds.push(from);
      delays.push(delay);
    };
    for (let v = 0; v < size; v++) {
      this.#firstFeed[v] = feeds.length;
      this.#feedsOf(v, note);
    }
    this.#firstFeed[size] = feeds.length;
    this.#feeds = Int32Array.from(feeds);
    this.#delays = Uint8Array.from(delays);
  }

  /** The bit that bit `bit` of a word is, or `CONSTANT`. */
  bit(node: NodeId, bit: number): Vertex {
    return this.#same[this.#at(node) + bit] ?? CONSTANT;
  }

  bitsOf(node: NodeId): readonly Vertex[] {
    const known = this.#bits[node];
    if (known) return known;
    const bits = Array.from({ length: item(this.netlist.nodes, node).width }, (_, bit) => this.bit(node, bit));
    this.#bits[node] = bits;
    return bits;
  }

  /** The register a bit is of; null for all others. */
  registerOf(vertex: Vertex): Register | null {
    const owner = this.#owner[vertex] ?? -1;
    return owner < 0 ? null : (this.#registers.get(owner) ?? null);
  }

  /** The word a bit is of; null for a bit of a memory's words. */
  wordOf(vertex: Vertex): { readonly node: NodeId; readonly bit: number } | null {
    const node = this.#owner[vertex] ?? -1;
    return node < 0 ? null : { node, bit: vertex - this.#at(node) };
  }

  /** The vertices of a memory's words, one a bit. */
  bitsOfMemory(memory: number): Vertex[] {
    const first = item(this.#memories, memory);
    return Array.from({ length: item(this.netlist.memories, memory).width }, (_, bit) => first + bit);
  }

  /** The memory a vertex stands for a bit of the words of; null for all others. */
  memoryOf(vertex: Vertex): number | null {
    if ((this.#owner[vertex] ?? -1) >= 0) return null;
    return this.#memories.findLastIndex((first) => first <= vertex);
  }

  /** The input of the netlist a bit is of; null for all others. */
  inputOf(vertex: Vertex): string | null {
    const node = this.netlist.nodes[this.#owner[vertex] ?? -1];
    return node?.op === 'input' ? node.name : null;
  }

  /** Everything that a bit follows from at once; constants are left out. */
  feeds(vertex: Vertex, visit: Visit): void {
    const end = intAt(this.#firstFeed, vertex + 1);
    for (let i = intAt(this.#firstFeed, vertex); i < end; i++)
      visit(intAt(this.#feeds, i), this.#delays[i] === 1 ? 1 : 0);
  }

  /** The same as places of a list: `feedAt` of `firstFeed` up to that of the vertex behind it. */
  firstFeed(vertex: Vertex): number {
    return intAt(this.#firstFeed, vertex);
  }

  feedAt(place: number): Vertex {
    return intAt(this.#feeds, place);
  }

  #feedsOf(vertex: Vertex, visit: Visit): void {
    const word = this.wordOf(vertex);
    if (word === null) return this.#memoryFeeds(vertex, visit);
    const node = item(this.netlist.nodes, word.node);
    const see = (from: Vertex, delay: 0 | 1 = 0) => {
      if (from !== CONSTANT) visit(from, delay);
    };
    const seeAll = (id: NodeId) => {
      for (const from of this.bitsOf(id)) see(from);
    };
    const own = this.#at(word.node);
    const { bit } = word;
    switch (node.op) {
      case 'reg': {
        const register = this.#registers.get(word.node);
        if (!register) return;
        see(this.bit(register.d, bit), 1);
        if (register.reset !== null) seeAll(register.reset);
        if (register.load !== null) see(this.bit(register.load, bit));
        return;
      }
      case 'memread':
        if (bit === node.width) return seeAll(item(node.args, 0));
        see(own + node.width);
        if (item(this.netlist.memories, node.memory).writes.length > 0) see(item(this.#memories, node.memory) + bit);
        return;
      case 'mux':
        seeAll(node.args[0]);
        see(this.bit(node.args[1], bit));
        see(this.bit(node.args[2], bit));
        return;
      case 'shl':
      case 'shr':
      case 'sra':
        if (bit === node.width) {
          for (const arg of node.args) seeAll(arg);
          return;
        }
        return this.#shifted(node, own, bit, see);
      default:
    }
    if (WHOLE.has(node.op)) {
      if (bit < node.width) see(own + node.width);
      else for (const arg of node.args) seeAll(arg);
    } else if (CARRIES.has(node.op)) {
      // The vertex behind the bits stands for all bits up to its own.
      if (bit < node.width) see(own + node.width + bit);
      else {
        const place = bit - node.width;
        if (place > 0) see(own + node.width + place - 1);
        for (const arg of node.args) see(this.bit(arg, place));
      }
    } else for (const arg of node.args) see(this.bit(arg, bit));
  }

  /** By an amount that is known each bit is another bit; else every bit follows from all. */
  #shifted(node: NetNode, own: number, bit: number, see: (from: Vertex) => void): void {
    const by = this.#constant(item(node.args, 1));
    if (by === null) return see(own + node.width);
    const far = Number(by > BigInt(node.width) ? BigInt(node.width) : by);
    const place = node.op === 'shl' ? bit - far : bit + far;
    const inside = node.op === 'sra' ? Math.min(place, node.width - 1) : place;
    if (inside >= 0 && inside < node.width) see(this.bit(item(node.args, 0), inside));
  }

  #memoryFeeds(vertex: Vertex, visit: Visit): void {
    const memory = this.memoryOf(vertex) ?? 0;
    const bit = vertex - item(this.#memories, memory);
    for (const { enable, address, data } of item(this.netlist.memories, memory).writes)
      for (const from of [...this.bitsOf(enable), ...this.bitsOf(address), this.bit(data, bit)])
        if (from !== CONSTANT) visit(from, 1);
  }

  #at(id: NodeId): number {
    return this.#offsets[id] ?? 0;
  }

  #constant(id: NodeId): bigint | null {
    const node = item(this.netlist.nodes, id);
    return node.op === 'const' ? node.value : null;
  }

  #alias(id: NodeId): void {
    const { nodes } = this.netlist;
    const node = item(nodes, id);
    const at = this.#at(id);
    const set = (bit: number, same: Vertex) => {
      this.#same[at + bit] = same;
    };
    const of = (arg: number, bit: number) => this.bit(item(node.args, arg), bit);
    const isBit = (arg: number, bit: number, value: bigint) => {
      const constant = this.#constant(item(node.args, arg));
      return constant !== null && ((constant >> BigInt(bit)) & 1n) === value;
    };
    if (node.op === 'concat') {
      let start = 0;
      for (const part of node.args) {
        const { width } = item(nodes, part);
        for (let bit = 0; bit < width; bit++) set(start + bit, this.bit(part, bit));
        start += width;
      }
      return;
    }
    for (let bit = 0; bit < node.width; bit++)
      switch (node.op) {
        case 'const':
          set(bit, CONSTANT);
          break;
        case 'slice':
          set(bit, of(0, node.lo + bit));
          break;
        case 'sext':
          set(bit, of(0, Math.min(bit, item(nodes, node.args[0]).width - 1)));
          break;
        case 'mux':
          if (of(1, bit) !== CONSTANT && of(1, bit) === of(2, bit)) set(bit, of(1, bit));
          break;
        case 'and':
        case 'or':
        case 'xor':
          for (const [arg, other] of [
            [0, 1],
            [1, 0],
          ] as const) {
            if (node.op !== 'xor' && isBit(arg, bit, node.op === 'and' ? 0n : 1n)) set(bit, CONSTANT);
            else if (isBit(arg, bit, node.op === 'and' ? 1n : 0n)) set(bit, of(other, bit));
          }
          break;
        default:
      }
  }
}

/** Vertices that a word has beside its bits. */
function extraOf({ nodes }: Netlist, node: NetNode): number {
  if (CARRIES.has(node.op)) return node.width;
  const isByAmount = node.op === 'shl' || node.op === 'shr' || node.op === 'sra';
  if (isByAmount) return nodes[item(node.args, 1)]?.op === 'const' ? 0 : 1;
  return WHOLE.has(node.op) || node.op === 'memread' ? 1 : 0;
}
