// Functions of unknown bits, each in one form only, so that two of them are equal when they are the same node.
import { intAt } from '../lists.ts';

/** A function; 0 is false, 1 is true. */
export type Fn = number;

/** There are more nodes than were allowed: whoever asked has to do without. */
export class TooLarge extends Error {}

const START = 1 << 12;

/**
 * Reduced ordered binary decision diagrams: variables are numbered in the order in which they are looked at.
 *
 * @source R. E. Bryant, Graph-based algorithms for Boolean function manipulation, 1986
 */
export class Decisions {
  readonly #most: number;
  #count = 2;
  #variable = new Int32Array(START);
  #low = new Int32Array(START);
  #high = new Int32Array(START);
  readonly #unique = new Map<number, number[]>();
  readonly #known = new Map<number, Map<number, number>>();
  #work = 0;

  constructor(most: number) {
    this.#most = most;
    this.#variable[0] = this.#variable[1] = 2 ** 31 - 1;
  }

  /** Steps taken so far. */
  get work(): number {
    return this.#work;
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
    const pair = then * this.#most * 2 + otherwise;
    const known = this.#known.get(condition);
    const found = known?.get(pair);
    if (found !== undefined) return found;
    this.#work++;
    const top = Math.min(
      intAt(this.#variable, condition),
      intAt(this.#variable, then),
      intAt(this.#variable, otherwise),
    );
    const side = (f: Fn, isHigh: boolean): Fn =>
      intAt(this.#variable, f) === top ? intAt(isHigh ? this.#high : this.#low, f) : f;
    const low = this.choice(side(condition, false), side(then, false), side(otherwise, false));
    const high = this.choice(side(condition, true), side(then, true), side(otherwise, true));
    const made = this.#node(top, low, high);
    const of = this.#known.get(condition);
    if (of) of.set(pair, made);
    else this.#known.set(condition, new Map([[pair, made]]));
    return made;
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
    const key = (variable * 31 + low) * 8191 + high;
    const row = this.#unique.get(key);
    for (const id of row ?? [])
      if (this.#variable[id] === variable && this.#low[id] === low && this.#high[id] === high) return id;
    if (this.#count >= this.#most) throw new TooLarge();
    if (this.#count === this.#variable.length) this.#grow();
    const id = this.#count++;
    this.#variable[id] = variable;
    this.#low[id] = low;
    this.#high[id] = high;
    if (row) row.push(id);
    else this.#unique.set(key, [id]);
    return id;
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
  }
}
