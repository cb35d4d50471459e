import { entry, item, last } from '../../lists.ts';
import type { MemReadNode, Netlist, NodeId } from '../../netlist/index.ts';
import { constant, type Emitter, type Value } from './emitter.ts';
import { type Layout, limbsOf } from './layout.ts';

/** A word in generated code: its 32-bit limbs, low one first; bits past the width are 0. */
export type Limbs = readonly Value[];

const ZERO = constant(0);
const maskOf = (width: number): number => ((width & 31) === 0 ? -1 : (1 << (width & 31)) - 1);

/** Bits of one limb of a word that may be 1. */
export const onesOf = (width: number, limb: number): number => (limb === limbsOf(width) - 1 ? maskOf(width) : -1);

/** Writes the code of single netlist nodes, words of any width broken into 32-bit limbs. */
export class Lowering {
  readonly #netlist: Netlist;
  readonly #layout: Layout;
  readonly #e: Emitter;

  constructor(netlist: Netlist, layout: Layout, emitter: Emitter) {
    this.#netlist = netlist;
    this.#layout = layout;
    this.#e = emitter;
  }

  constantLimbs(value: bigint, width: number): Limbs {
    return Array.from({ length: limbsOf(width) }, (_, i) =>
      constant(Number(BigInt.asIntN(32, value >> BigInt(32 * i)))),
    );
  }

  loadWord(address: number, width: number): Limbs {
    return Array.from({ length: limbsOf(width) }, (_, i) => this.#e.load(address + i, onesOf(width, i)));
  }

  storeWord(address: number, limbs: Limbs): void {
    for (const [i, limb] of limbs.entries()) this.#e.store(address + i, limb);
  }

  /** The code of one node whose arguments `get` knows. */
  node(id: NodeId, get: (id: NodeId) => Limbs): Limbs {
    const node = item(this.#netlist.nodes, id);
    const e = this.#e;
    const { width } = node;
    const args: readonly NodeId[] = node.args;
    const a = args[0] === undefined ? [] : node.op === 'concat' ? [] : get(args[0]);
    const b = args[1] === undefined || node.op === 'concat' ? [] : get(args[1]);
    const first = args[0] === undefined ? 0 : item(this.#netlist.nodes, args[0]).width;
    switch (node.op) {
      case 'const':
        return this.constantLimbs(node.value, width);
      case 'input':
        return this.loadWord(entry(this.#layout.inputNodes, id), width);
      case 'reg':
        return this.loadWord(entry(this.#layout.registers, id), width);
      case 'memread':
        return this.#memoryRead(node, a);
      case 'not':
        return a.map((x, i) => e.binary('xor', x, constant(i === a.length - 1 ? maskOf(width) : -1)));
      case 'and':
      case 'or':
      case 'xor': {
        const { op } = node;
        return a.map((x, i) => e.binary(op, x, item(b, i)));
      }
      case 'redand':
        return [this.#all(a.map((x, i) => e.binary('eq', x, constant(i === a.length - 1 ? maskOf(first) : -1))))];
      case 'redor':
        return [first === 1 ? item(a, 0) : e.binary('ne', this.#any(a), ZERO)];
      case 'redxor':
        return [e.parity(a.reduce((x, y) => e.binary('xor', x, y)))];
      case 'add':
        return this.#masked(this.#add(a, b), width);
      case 'sub':
        return this.#masked(this.#sub(a, b), width);
      case 'mul':
        return this.#masked(this.#multiply(a, b), width);
      case 'divu':
      case 'modu':
      case 'divs':
      case 'mods':
        return this.#divide(node.op, a, b, width);
      case 'eq':
        return [
          a.length === 1
            ? e.binary('eq', item(a, 0), item(b, 0))
            : e.isZero(this.#any(a.map((x, i) => e.binary('xor', x, item(b, i))))),
        ];
      case 'ltu':
        return [this.#less(a, b)];
      case 'lts':
        return [this.#lessSigned(a, b, first)];
      case 'shl':
        return this.#masked(this.#shiftLeft(a, b, width), width);
      case 'shr':
        return this.#shiftRight(a, b, width, null);
      case 'sra': {
        const extended = this.#signExtend(a, width, a.length);
        const sign = e.binary('shrs', last(extended), constant(31));
        return this.#masked(this.#shiftRight(extended, b, width, sign), width);
      }
      case 'mux': {
        const c = get(node.args[2]);
        return b.map((x, i) => e.select(item(a, 0), x, item(c, i)));
      }
      case 'concat':
        return this.#concat(args, width, get);
      case 'slice':
        return this.#slice(a, node.lo, width);
      case 'sext':
        return this.#masked(this.#signExtend(a, first, limbsOf(width)), width);
      case 'wire':
        throw new RangeError('wires are gone once a netlist is optimised');
    }
  }

  /** Runs `work` only where the address is inside; writes one memory word. */
  memoryWrite(memory: number, address: Limbs, addressWidth: number, data: Limbs): void {
    const { depth } = this.#netlist.memories[memory] ?? { depth: 0 };
    const base = item(this.#layout.memories, memory);
    const inside = this.#inside(address, addressWidth, depth);
    if (inside) this.#e.if(inside);
    const index = this.#scaled(item(address, 0), data.length);
    for (const [i, limb] of data.entries()) this.#e.storeAt(base + i, index, limb);
    const written = this.#layout.written[memory] ?? null;
    if (written !== null) this.#e.store(written, this.#e.binary('add', this.#e.load(written), constant(1)));
    if (inside) this.#e.end();
  }

  #memoryRead({ memory, width, args }: MemReadNode, address: Limbs): Limbs {
    const { depth } = this.#netlist.memories[memory] ?? { depth: 0 };
    const base = item(this.#layout.memories, memory);
    const addressWidth = item(this.#netlist.nodes, args[0]).width;
    const inside = this.#inside(address, addressWidth, depth);
    const safe = inside ? this.#e.select(inside, item(address, 0), ZERO) : item(address, 0);
    const index = this.#scaled(safe, limbsOf(width));
    const words = Array.from({ length: limbsOf(width) }, (_, i) => this.#e.loadAt(base + i, index, onesOf(width, i)));
    return inside ? words.map((word) => this.#e.select(inside, word, ZERO)) : words;
  }

  /** Null when every address of that width exists. */
  #inside(address: Limbs, width: number, depth: number): Value | null {
    if (width < 32 && 2 ** width <= depth) return null;
    const low = this.#e.binary('ltu', item(address, 0), constant(depth));
    return address.length === 1 ? low : this.#e.binary('and', low, this.#e.isZero(this.#any(address.slice(1))));
  }

  #scaled(index: Value, limbs: number): Value {
    return limbs === 1 ? index : this.#e.binary('mul', index, constant(limbs));
  }

  #masked(limbs: Limbs, width: number): Limbs {
    const mask = maskOf(width);
    return mask === -1 ? limbs : [...limbs.slice(0, -1), this.#e.binary('and', last(limbs), constant(mask))];
  }

  #any(limbs: Limbs): Value {
    return limbs.reduce((x, y) => this.#e.binary('or', x, y));
  }

  #all(bits: Limbs): Value {
    return bits.reduce((x, y) => this.#e.binary('and', x, y));
  }

  #add(a: Limbs, b: Limbs): Limbs {
    const e = this.#e;
    const out: Value[] = [];
    let carry: Value = ZERO;
    for (const [i, x] of a.entries()) {
      const sum = e.binary('add', x, item(b, i));
      const total = e.binary('add', sum, carry);
      if (i + 1 < a.length) carry = e.binary('or', e.binary('ltu', sum, x), e.binary('ltu', total, sum));
      out.push(total);
    }
    return out;
  }

  #sub(a: Limbs, b: Limbs): Limbs {
    const e = this.#e;
    const out: Value[] = [];
    let borrow: Value = ZERO;
    for (const [i, x] of a.entries()) {
      const difference = e.binary('sub', x, item(b, i));
      out.push(e.binary('sub', difference, borrow));
      if (i + 1 < a.length)
        borrow = e.binary('or', e.binary('ltu', x, item(b, i)), e.binary('ltu', difference, borrow));
    }
    return out;
  }

  #multiply(a: Limbs, b: Limbs): Limbs {
    const e = this.#e;
    const n = a.length;
    let total: Limbs = Array<Value>(n).fill(ZERO);
    for (const [i, x] of a.entries())
      for (let j = 0; i + j < n; j++) {
        const product = Array<Value>(n).fill(ZERO);
        product[i + j] = e.binary('mul', x, item(b, j));
        if (i + j + 1 < n) product[i + j + 1] = e.binary('mulhi', x, item(b, j));
        total = n === 1 ? product : this.#add(total, product);
      }
    return total;
  }

  /** One-limb division; the builder of a design refuses wider ones. Division by zero as the netlist defines it. */
  #divide(op: 'divu' | 'modu' | 'divs' | 'mods', a: Limbs, b: Limbs, width: number): Limbs {
    const e = this.#e;
    const signedOp = op === 'divs' || op === 'mods';
    const x = signedOp ? item(this.#signExtend(a, width, 1), 0) : item(a, 0);
    const y = signedOp ? item(this.#signExtend(b, width, 1), 0) : item(b, 0);
    const none = e.isZero(y);
    // Minus one would overflow for the most negative dividend: its quotient is the negated dividend, its remainder 0.
    const minusOne = signedOp ? e.binary('eq', y, constant(-1)) : ZERO;
    const safe = e.select(e.binary('or', none, minusOne), constant(1), y);
    if (op === 'divu' || op === 'divs') {
      const quotient = e.binary(op, x, safe);
      const adjusted = signedOp ? e.select(minusOne, e.binary('sub', ZERO, x), quotient) : quotient;
      return this.#masked([e.select(none, constant(-1), adjusted)], width);
    }
    const rest = e.binary(op === 'modu' ? 'remu' : 'rems', x, safe);
    return this.#masked([e.select(none, x, rest)], width);
  }

  #less(a: Limbs, b: Limbs): Value {
    const e = this.#e;
    let less = e.binary('ltu', item(a, 0), item(b, 0));
    for (let i = 1; i < a.length; i++)
      less = e.binary(
        'or',
        e.binary('ltu', item(a, i), item(b, i)),
        e.binary('and', e.binary('eq', item(a, i), item(b, i)), less),
      );
    return less;
  }

  #lessSigned(a: Limbs, b: Limbs, width: number): Value {
    const e = this.#e;
    // Adding the sign bit's weight turns signed order into unsigned order.
    const flip = constant(1 << ((width - 1) & 31));
    const flipped = (limbs: Limbs): Limbs => [...limbs.slice(0, -1), e.binary('xor', last(limbs), flip)];
    return this.#less(flipped(a), flipped(b));
  }

  /** From a word of `width` bits to `limbs` whole limbs. */
  #signExtend(a: Limbs, width: number, limbs: number): Limbs {
    const e = this.#e;
    const free = constant((32 - (width & 31)) & 31);
    const top = e.binary('shrs', e.binary('shl', last(a), free), free);
    if (limbs <= a.length) return [...a.slice(0, -1), top];
    return [...a.slice(0, -1), top, ...Array<Value>(limbs - a.length).fill(e.binary('shrs', top, constant(31)))];
  }

  /** Splits a run-time amount: whole limbs as single bits to test, and the rest of 0 to 31. */
  #amount(b: Limbs, width: number): { over: Value; bits: Value; low: Value } {
    const e = this.#e;
    const low = item(b, 0);
    const big = e.isZero(e.binary('ltu', low, constant(width)));
    const over = b.length === 1 ? big : e.binary('or', big, e.binary('ne', this.#any(b.slice(1)), ZERO));
    return { over, bits: e.binary('and', low, constant(31)), low };
  }

  #shiftLeft(a: Limbs, b: Limbs, width: number): Limbs {
    const e = this.#e;
    const { over, bits, low } = this.#amount(b, width);
    let limbs: Limbs = a;
    for (let step = 1; step < a.length; step <<= 1) {
      const test = e.binary('and', low, constant(step << 5));
      const from: Limbs = limbs;
      limbs = from.map((x, i) => e.select(test, i - step >= 0 ? item(from, i - step) : ZERO, x));
    }
    const rest = e.binary('sub', constant(31), bits);
    const moved = limbs.map((x, i) => {
      const up = e.binary('shl', x, bits);
      return i === 0
        ? up
        : e.binary('or', up, e.binary('shru', e.binary('shru', item(limbs, i - 1), constant(1)), rest));
    });
    return moved.map((x) => e.select(over, ZERO, x));
  }

  /** `sign` fills from above for an arithmetic shift; null fills with zeros. */
  #shiftRight(a: Limbs, b: Limbs, width: number, sign: Value | null): Limbs {
    const e = this.#e;
    const fill = sign ?? ZERO;
    const { over, bits, low } = this.#amount(b, width);
    let limbs: Limbs = a;
    for (let step = 1; step < a.length; step <<= 1) {
      const test = e.binary('and', low, constant(step << 5));
      const from: Limbs = limbs;
      limbs = from.map((x, i) => e.select(test, from[i + step] ?? fill, x));
    }
    const rest = e.binary('sub', constant(31), bits);
    const moved = limbs.map((x, i) => {
      const above = limbs[i + 1];
      if (!above) return e.binary(sign ? 'shrs' : 'shru', x, bits);
      return e.binary('or', e.binary('shru', x, bits), e.binary('shl', e.binary('shl', above, constant(1)), rest));
    });
    return moved.map((x) => e.select(over, fill, x));
  }

  #concat(args: readonly NodeId[], width: number, get: (id: NodeId) => Limbs): Limbs {
    const e = this.#e;
    const out: Value[] = Array<Value>(limbsOf(width)).fill(ZERO);
    let at = 0;
    for (const id of args) {
      const size = item(this.#netlist.nodes, id).width;
      for (const [i, limb] of get(id).entries()) {
        const bit = at + 32 * i;
        const to = bit >>> 5;
        const shift = bit & 31;
        out[to] = e.binary('or', item(out, to), e.binary('shl', limb, constant(shift)));
        if (shift && to + 1 < out.length && shift + Math.min(32, size - 32 * i) > 32)
          out[to + 1] = e.binary('or', item(out, to + 1), e.binary('shru', limb, constant(32 - shift)));
      }
      at += size;
    }
    return out;
  }

  #slice(a: Limbs, lo: number, width: number): Limbs {
    const e = this.#e;
    const shift = lo & 31;
    const from = lo >>> 5;
    const out = Array.from({ length: limbsOf(width) }, (_, i) => {
      const low = e.binary('shru', a[from + i] ?? ZERO, constant(shift));
      const above = a[from + i + 1];
      const needed = shift > 0 && above !== undefined && Math.min(32, width - 32 * i) > 32 - shift;
      return needed ? e.binary('or', low, e.binary('shl', above, constant(32 - shift))) : low;
    });
    return lo + width === a.length * 32 && shift === 0 ? out : this.#masked(out, width);
  }
}
