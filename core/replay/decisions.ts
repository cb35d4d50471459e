// Functions of unknown bits, each in one form only, so that two of them are equal when they are the same node.
import { intAt } from '../lists.ts';

/** A function; 0 is false, 1 is true. */
export type Fn = number;

/** There are more nodes than were allowed: whoever asked has to do without. */
export class TooLarge extends Error {}

const START = 1 << 12;
/** Choices that are remembered, each in the one place that its hash gives it: a later one takes that of an earlier one. */
const REMEMBERED = 1 << 16;
const NONE = -1;

/**
 * Reduced ordered binary decision diagrams: variables are numbered in the order in which they are looked at.
 *
 * @source R. E. Bryant, Graph-based algorithms for Boolean function manipulation, 1986
 */
export class Decisions {
  readonly #mostEver: number;
  #most: number;
  #count = 2;
  #variable = new Int32Array(START);
  #low = new Int32Array(START);
  #high = new Int32Array(START);
  /** Nodes of one hash: the newest of each, and the one before it. */
  #newest = new Int32Array(START).fill(NONE);
  #before = new Int32Array(START);
  /** Condition, then, otherwise and what came of them. */
  readonly #remembered = new Int32Array(4 * REMEMBERED).fill(NONE);
  #work = 0;

  constructor(most: number) {
    this.#mostEver = most;
    this.#most = most;
    this.#variable[0] = this.#variable[1] = 2 ** 31 - 1;
  }

  /** Steps taken so far. */
  get work(): number {
    return this.#work;
  }

  /** What is made with so many nodes more at most; null where they are not enough. */
  within(nodes: number, make: () => Fn): Fn | null {
    this.#most = Math.min(this.#mostEver, this.#count + nodes);
    try {
      return make();
    } catch (error) {
      if (!(error instanceof TooLarge)) throw error;
      return null;
    } finally {
      this.#most = this.#mostEver;
    }
  }

  variable(index: number): Fn {
    return this.#node(index, 0, 1);
  }

  not(f: Fn): Fn {
    return this.choice(f, 0, 1);
  }

  and(f: Fn, g: Fn): Fn {
    return this.choice(f, g, 0);
  }

  or(f: Fn, g: Fn): Fn {
    return this.choice(f, 1, g);
  }

  xor(f: Fn, g: Fn): Fn {
    if (f <= 1) return f === 0 ? g : this.not(g);
    if (g <= 1) return g === 0 ? f : this.not(f);
    return this.choice(f, this.not(g), g);
  }

  /** `then` where `condition` is true, else `otherwise`. */
  choice(condition: Fn, then: Fn, otherwise: Fn): Fn {
    if (condition <= 1) return condition === 1 ? then : otherwise;
    if (then === otherwise) return then;
    if (then === 1 && otherwise === 0) return condition;
    const place = 4 * (hashOf(condition, then, otherwise) & (REMEMBERED - 1));
    const known = this.#remembered;
    if (known[place] === condition && known[place + 1] === then && known[place + 2] === otherwise)
      return intAt(known, place + 3);
    this.#work++;
    const top = Math.min(
      intAt(this.#variable, condition),
      intAt(this.#variable, then),
      intAt(this.#variable, otherwise),
    );
    const low = this.choice(
      this.#side(this.#low, condition, top),
      this.#side(this.#low, then, top),
      this.#side(this.#low, otherwise, top),
    );
    const high = this.choice(
      this.#side(this.#high, condition, top),
      this.#side(this.#high, then, top),
      this.#side(this.#high, otherwise, top),
    );
    const made = this.#node(top, low, high);
    known[place] = condition;
    known[place + 1] = then;
    known[place + 2] = otherwise;
    known[place + 3] = made;
    return made;
  }

  /** What a function is where a variable is 0, or 1, which is what `sides` says. */
  #side(sides: Int32Array, f: Fn, variable: number): Fn {
    return intAt(this.#variable, f) === variable ? intAt(sides, f) : f;
  }

  /** Values of variables for which a function is true; those left out may be anything. `prefers` says which is tried first. */
  example(f: Fn, prefers: (variable: number) => 0 | 1): ReadonlyMap<number, 0 | 1> | null {
    if (f === 0) return null;
    const values = new Map<number, 0 | 1>();
    for (let at = f; at > 1; ) {
      const variable = intAt(this.#variable, at);
      const wish = prefers(variable);
      const wished = intAt(wish === 1 ? this.#high : this.#low, at);
      const value = wished === 0 ? (wish === 1 ? 0 : 1) : wish;
      values.set(variable, value);
      at = intAt(value === 1 ? this.#high : this.#low, at);
    }
    return values;
  }

  /** What a function is for given values of all variables it depends on. */
  valueOf(f: Fn, value: (variable: number) => 0 | 1): 0 | 1 {
    let at = f;
    while (at > 1) at = intAt(value(intAt(this.#variable, at)) === 1 ? this.#high : this.#low, at);
    return at === 1 ? 1 : 0;
  }

  #node(variable: number, low: Fn, high: Fn): Fn {
    if (low === high) return low;
    const hash = hashOf(variable, low, high);
    for (let id = intAt(this.#newest, hash & (this.#newest.length - 1)); id !== NONE; id = intAt(this.#before, id))
      if (this.#variable[id] === variable && this.#low[id] === low && this.#high[id] === high) return id;
    if (this.#count >= this.#most) throw new TooLarge();
    if (this.#count === this.#variable.length) this.#grow();
    const id = this.#count++;
    this.#variable[id] = variable;
    this.#low[id] = low;
    this.#high[id] = high;
    this.#enter(id);
    return id;
  }

  #enter(id: number): void {
    const hash = hashOf(intAt(this.#variable, id), intAt(this.#low, id), intAt(this.#high, id));
    const place = hash & (this.#newest.length - 1);
    this.#before[id] = intAt(this.#newest, place);
    this.#newest[place] = id;
  }

  #grow(): void {
    const twice = (old: Int32Array) => {
      const grown = new Int32Array(old.length * 2);
      grown.set(old);
      return grown;
    };
    this.#variable = twice(this.#variable);
    this.#low = twice(this.#low);
    this.#high = twice(this.#high);
    this.#before = twice(this.#before);
    this.#newest = new Int32Array(this.#before.length).fill(NONE);
    for (let id = 2; id < this.#count; id++) this.#enter(id);
  }
}

function hashOf(a: number, b: number, c: number): number {
  const mixed = Math.imul(a, 0x9e3779b1) ^ Math.imul(b, 0x85ebca6b) ^ Math.imul(c, 0xc2b2ae35);
  return (mixed ^ (mixed >>> 15)) >>> 0;
}
