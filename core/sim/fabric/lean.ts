import { type BinaryOp, constant, type Emitter, foldBinary, type Value } from './emitter.ts';

const ALL = -1;

/** What was masked, and by what. */
interface Masked {
  readonly of: Value;
  readonly mask: number;
}

/** All bits up to the highest of a number. */
const filled = (bits: number): number => (bits === 0 ? 0 : ALL >>> Math.clz32(bits));

/**
 * Passes code on to another emitter without what changes nothing: masks of bits that are 0 anyway, masks of bits that
 * are shifted out right after, comparisons that give back what they compare.
 */
export class Lean implements Emitter {
  readonly #to: Emitter;
  /** Bits that may be 1; all of them where nothing is known. */
  readonly #ones = new WeakMap<Value, number>();
  readonly #masked = new WeakMap<Value, Masked>();

  constructor(to: Emitter) {
    this.#to = to;
  }

  #onesOf(value: Value): number {
    return 'constant' in value ? value.constant : (this.#ones.get(value) ?? ALL);
  }

  #known(value: Value, ones: number): Value {
    if (!('constant' in value) && !this.#ones.has(value)) this.#ones.set(value, ones);
    return value;
  }

  /** Bits of a value made elsewhere that may be 1. */
  knowOnes(value: Value, ones: number): void {
    this.#known(value, ones);
  }

  binary(op: BinaryOp, a: Value, b: Value): Value {
    const folded = foldBinary(op, a, b);
    if (folded) return folded;
    const [x, y] = [this.#onesOf(a), this.#onesOf(b)];
    const right = 'constant' in b ? b.constant : null;
    switch (op) {
      case 'and': {
        if (right !== null && (x & ~right) === 0) return a;
        if ('constant' in a && (y & ~a.constant) === 0) return b;
        if ((x & y) === 0) return constant(0);
        const made = this.#known(this.#to.binary('and', a, b), x & y);
        if (right !== null) this.#masked.set(made, { of: a, mask: right });
        return made;
      }
      case 'or':
      case 'xor':
        return this.#known(this.#to.binary(op, a, b), x | y);
      case 'add': {
        // A carry goes one bit higher than either.
        const top = filled(x | y);
        return this.#known(this.#to.binary('add', a, b), top < 0 || top > 0x3fffffff ? ALL : top * 2 + 1);
      }
      case 'shl':
        return right === null ? this.#to.binary(op, a, b) : this.#shiftedUp(a, right & 31);
      case 'shru':
        return this.#known(this.#to.binary(op, a, b), right === null ? filled(x) : x >>> (right & 31));
      case 'eq':
      case 'ne': {
        // A bit that is compared with a bit.
        if (right !== null && x >>> 0 <= 1 && (right === 0 || right === 1))
          return (op === 'eq') === (right === 1) ? a : this.#known(this.#to.binary('xor', a, constant(1)), 1);
        return this.#known(this.#to.binary(op, a, b), 1);
      }
      case 'ltu':
      case 'lts':
        return this.#known(this.#to.binary(op, a, b), 1);
      default:
        return this.#to.binary(op, a, b);
    }
  }

  #shiftedUp(a: Value, by: number): Value {
    const masked = this.#masked.get(a);
    const kept = ALL << by;
    // What the mask takes away would be shifted out.
    const from = masked && (this.#onesOf(masked.of) & ~masked.mask) << by === 0 ? masked.of : a;
    return this.#known(this.#to.binary('shl', from, constant(by)), (this.#onesOf(from) << by) & kept);
  }

  isZero(a: Value): Value {
    return this.#onesOf(a) >>> 0 === 1 ? this.binary('xor', a, constant(1)) : this.#known(this.#to.isZero(a), 1);
  }

  parity(a: Value): Value {
    return this.#onesOf(a) >>> 0 <= 1 ? a : this.#known(this.#to.parity(a), 1);
  }

  select(condition: Value, then: Value, otherwise: Value): Value {
    const ones = this.#onesOf(then) | this.#onesOf(otherwise);
    return this.#known(this.#to.select(condition, then, otherwise), ones);
  }

  load(address: number, ones = ALL): Value {
    return this.#known(this.#to.load(address), ones);
  }

  loadAt(base: number, index: Value, ones = ALL): Value {
    return this.#known(this.#to.loadAt(base, index), ones);
  }

  store(address: number, value: Value): void {
    this.#to.store(address, value);
  }

  storeAt(base: number, index: Value, value: Value): void {
    this.#to.storeAt(base, index, value);
  }

  if(condition: Value): void {
    this.#to.if(condition);
  }

  end(): void {
    this.#to.end();
  }

  stopIf(condition: Value): void {
    this.#to.stopIf(condition);
  }

  run(body: number, times: number): void {
    this.#to.run(body, times);
  }
}
