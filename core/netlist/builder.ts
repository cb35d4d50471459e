import { item } from '../lists.ts';
import { evaluateConstant } from './fold.ts';
import {
  type BinaryOp,
  type ComputedOp,
  emptyNetlist,
  type Netlist,
  type NetNode,
  type NodeId,
  type Origin,
  withArgs,
} from './types.ts';

/** Parts of a concatenation that is looked for among those made before. */
const MOST_SOUGHT = 256;

/**
 * Adds nodes to a netlist. Equal nodes are made once, constants are folded, and the simplest identities are applied on
 * the way, so that loops and parameters of a source have become plain constants by the time they are used.
 */
export class NetBuilder {
  readonly netlist: Netlist;
  /** What new nodes are made for. */
  origin: Origin | undefined = undefined;
  /** Parts of concatenations made so far: what work on very wide words costs. */
  parts = 0;
  readonly #known = new Map<string, NodeId>();
  /** By width and value. */
  readonly #constants = new Map<number, Map<bigint, NodeId>>();
  /** Widths of the nodes side by side: words of many parts are walked often. */
  readonly #widths: number[];

  constructor(netlist: Netlist = emptyNetlist()) {
    this.netlist = netlist;
    this.#widths = netlist.nodes.map(({ width }) => width);
  }

  node(id: NodeId): NetNode {
    return item(this.netlist.nodes, id);
  }

  width(id: NodeId): number {
    return this.#widths[id] ?? this.node(id).width;
  }

  constantOf(id: NodeId): bigint | null {
    const node = this.node(id);
    return node.op === 'const' ? node.value : null;
  }

  constant(value: bigint, width: number): NodeId {
    const cut = BigInt.asUintN(width, value);
    let ofWidth = this.#constants.get(width);
    if (!ofWidth) this.#constants.set(width, (ofWidth = new Map()));
    let id = ofWidth.get(cut);
    if (id === undefined) ofWidth.set(cut, (id = this.#add({ op: 'const', width, args: [], value: cut })));
    return id;
  }

  input(name: string, width: number): NodeId {
    const node = this.#add({ op: 'input', width, args: [], name });
    this.netlist.inputs.push({ name, node, width });
    return node;
  }

  /** A named point that gets its driver later, by setting the node's `args`. */
  wire(name: string, width: number, driver?: NodeId): NodeId {
    return this.#add({ op: 'wire', width, args: driver === undefined ? [] : [driver], name });
  }

  register(width: number): NodeId {
    return this.#add({ op: 'reg', width, args: [] });
  }

  memoryRead(memory: number, width: number, address: NodeId): NodeId {
    return this.#unique(`m${memory}:${address}`, { op: 'memread', width, args: [address], memory });
  }

  not(a: NodeId): NodeId {
    const node = this.node(a);
    return node.op === 'not' ? item(node.args, 0) : this.make('not', node.width, [a]);
  }

  and(a: NodeId, b: NodeId): NodeId {
    if (a === b) return a;
    const width = this.width(a);
    for (const [x, y] of [
      [a, b],
      [b, a],
    ] as const) {
      const value = this.constantOf(x);
      if (value === 0n) return x;
      if (value === (1n << BigInt(width)) - 1n) return y;
    }
    return this.#commutative('and', width, a, b);
  }

  or(a: NodeId, b: NodeId): NodeId {
    if (a === b) return a;
    const width = this.width(a);
    for (const [x, y] of [
      [a, b],
      [b, a],
    ] as const) {
      const value = this.constantOf(x);
      if (value === 0n) return y;
      if (value === (1n << BigInt(width)) - 1n) return x;
    }
    return this.#commutative('or', width, a, b);
  }

  xor(a: NodeId, b: NodeId): NodeId {
    const width = this.width(a);
    if (a === b) return this.constant(0n, width);
    if (this.constantOf(a) === 0n) return b;
    if (this.constantOf(b) === 0n) return a;
    return this.#commutative('xor', width, a, b);
  }

  add(a: NodeId, b: NodeId): NodeId {
    if (this.constantOf(a) === 0n) return b;
    if (this.constantOf(b) === 0n) return a;
    return this.#commutative('add', this.width(a), a, b);
  }

  sub(a: NodeId, b: NodeId): NodeId {
    return this.constantOf(b) === 0n ? a : this.make('sub', this.width(a), [a, b]);
  }

  eq(a: NodeId, b: NodeId): NodeId {
    if (a === b) return this.constant(1n, 1);
    if (this.width(a) === 1) {
      for (const [x, y] of [
        [a, b],
        [b, a],
      ] as const) {
        const value = this.constantOf(x);
        if (value !== null) return value === 1n ? y : this.not(y);
      }
    }
    return this.#commutative('eq', 1, a, b);
  }

  mux(condition: NodeId, then: NodeId, otherwise: NodeId): NodeId {
    if (then === otherwise) return then;
    const known = this.constantOf(condition);
    if (known !== null) return known === 1n ? then : otherwise;
    const node = this.node(condition);
    if (node.op === 'not') return this.mux(item(node.args, 0), otherwise, then);
    const width = this.width(then);
    if (width === 1) {
      const t = this.constantOf(then);
      const o = this.constantOf(otherwise);
      if (t === 1n && o === 0n) return condition;
      if (t === 0n && o === 1n) return this.not(condition);
      if (t === 0n) return this.and(this.not(condition), otherwise);
      if (o === 0n) return this.and(condition, then);
      if (t === 1n) return this.or(condition, otherwise);
    }
    const below = this.node(otherwise);
    if (below.op === 'mux' && below.args[0] === condition) return this.mux(condition, then, item(below.args, 2));
    const above = this.node(then);
    if (above.op === 'mux' && above.args[0] === condition) return this.mux(condition, item(above.args, 1), otherwise);
    return this.make('mux', width, [condition, then, otherwise]);
  }

  reduce(op: 'redand' | 'redor' | 'redxor', a: NodeId): NodeId {
    return this.width(a) === 1 ? a : this.make(op, 1, [a]);
  }

  /** `width` bits of `a` from bit `lo` up; the caller keeps inside the word. */
  slice(a: NodeId, lo: number, width: number): NodeId {
    const node = this.node(a);
    if (lo === 0 && width === node.width) return a;
    if (node.op === 'slice') return this.slice(item(node.args, 0), lo + (node.lo ?? 0), width);
    if (node.op === 'concat') {
      const parts: NodeId[] = [];
      let at = 0;
      for (const part of node.args) {
        const size = this.width(part);
        const from = Math.max(lo, at);
        const to = Math.min(lo + width, at + size);
        if (from < to) parts.push(this.slice(part, from - at, to - from));
        at += size;
      }
      return this.concat(parts);
    }
    const value = this.constantOf(a);
    if (value !== null) return this.constant(value >> BigInt(lo), width);
    return this.#unique(`slice${width}:${a}:${lo}`, { op: 'slice', width, args: [a], lo });
  }

  /** Lowest part first. Neighbouring constants and neighbouring slices of one word grow together. */
  concat(parts: readonly NodeId[]): NodeId {
    const flat: NodeId[] = [];
    let width = 0;
    for (const part of parts) {
      const node = this.node(part);
      width += node.width;
      if (node.op === 'concat') for (const inner of node.args) this.#append(flat, inner);
      else this.#append(flat, part);
    }
    return this.#concatOf(flat, width);
  }

  /** A word with the bits from `lo` up replaced; the caller keeps inside the word. */
  withBits(word: NodeId, lo: number, value: NodeId): NodeId {
    const { op, width, args } = this.node(word);
    const hi = lo + this.width(value);
    if (op !== 'concat') return this.concat([this.#cut(word, 0, lo), value, this.#cut(word, hi, width)].flat());
    // What lies apart from the bits is as it was, neighbours and all: one look at each, and no more.
    const flat: NodeId[] = [];
    let at = 0;
    let isIn = false;
    for (const part of args) {
      const from = at;
      at += this.width(part);
      if (at < lo || from > hi) {
        flat.push(part);
        continue;
      }
      for (const piece of this.#cut(part, 0, Math.min(at, lo) - from)) this.#append(flat, piece);
      if (!isIn && at > lo) {
        isIn = true;
        for (const piece of this.#piecesOf(value)) this.#append(flat, piece);
      }
      for (const piece of this.#cut(part, Math.max(from, hi) - from, at - from)) this.#append(flat, piece);
    }
    return this.#concatOf(flat, width);
  }

  #piecesOf(id: NodeId): readonly NodeId[] {
    const { op, args } = this.node(id);
    return op === 'concat' ? args : [id];
  }

  /** Bits from `from` up to `to` of a word; nothing where there are none. */
  #cut(id: NodeId, from: number, to: number): readonly NodeId[] {
    return to > from ? this.#piecesOf(this.slice(id, from, to - from)) : [];
  }

  #append(flat: NodeId[], part: NodeId): void {
    const last = flat.at(-1);
    const joined = last === undefined ? null : this.#joined(last, part);
    if (joined === null) flat.push(part);
    else flat[flat.length - 1] = joined;
  }

  #concatOf(flat: readonly NodeId[], width: number): NodeId {
    if (flat.length === 1) return item(flat, 0);
    this.parts += flat.length;
    // Long ones are hardly ever made twice, and would be long to look for.
    return flat.length > MOST_SOUGHT
      ? this.#add({ op: 'concat', width, args: flat })
      : this.make('concat', width, flat);
  }

  /** Zero- or sign-extends, or cuts. */
  resize(a: NodeId, width: number, signed: boolean): NodeId {
    const have = this.width(a);
    if (have === width) return a;
    if (have > width) return this.slice(a, 0, width);
    return signed ? this.make('sext', width, [a]) : this.concat([a, this.constant(0n, width - have)]);
  }

  /** Any other operation, folded when all arguments are constants. */
  make(op: Exclude<ComputedOp, 'slice'>, width: number, args: readonly NodeId[]): NodeId {
    const values = args.map((id) => this.constantOf(id));
    if (values.every((value) => value !== null))
      return this.constant(
        evaluateConstant(
          op,
          width,
          values as bigint[],
          args.map((id) => this.width(id)),
        ),
        width,
      );
    return this.#unique(`${op}${width}:${args.join(',')}`, withArgs({ op, width }, args));
  }

  #commutative(op: BinaryOp, width: number, a: NodeId, b: NodeId): NodeId {
    return this.make(op, width, a < b ? [a, b] : [b, a]);
  }

  #joined(low: NodeId, high: NodeId): NodeId | null {
    const l = this.node(low);
    const h = this.node(high);
    if (l.op === 'const' && h.op === 'const')
      return this.constant(l.value | (h.value << BigInt(l.width)), l.width + h.width);
    if (l.op === 'slice' && h.op === 'slice' && l.args[0] === h.args[0] && l.lo + l.width === h.lo)
      return this.slice(l.args[0], l.lo, l.width + h.width);
    return null;
  }

  #unique(key: string, node: NetNode): NodeId {
    const known = this.#known.get(key);
    if (known !== undefined) return known;
    const id = this.#add(node);
    this.#known.set(key, id);
    return id;
  }

  #add(node: NetNode): NodeId {
    const id = this.netlist.nodes.push(node) - 1;
    this.#widths[id] = node.width;
    this.netlist.origins[id] = this.origin;
    return id;
  }
}
