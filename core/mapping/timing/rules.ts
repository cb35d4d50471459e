import type { WayRule } from '../../constraints/index.ts';
import { item } from '../../lists.ts';

/** What a rule was found to be about. */
export interface RuleUse {
  readonly kind: WayRule['kind'];
  readonly line: number;
  readonly from: string;
  readonly to: string;
  readonly cycles: number;
  /** Ends of ways that it decides about. */
  readonly ways: number;
  /** Longest of them in nanoseconds. */
  readonly longest: number;
}

/** Which rules begin and end at what, by names; a rule counts where it does both. */
export class Rules {
  readonly #rules: readonly { readonly rule: WayRule; readonly from: RegExp; readonly to: RegExp }[];
  readonly #ways: number[];
  readonly #longest: number[];

  constructor(rules: readonly WayRule[]) {
    this.#rules = rules.map((rule) => ({ rule, from: patternOf(rule.from), to: patternOf(rule.to) }));
    this.#ways = rules.map(() => 0);
    this.#longest = rules.map(() => 0);
  }

  /** Places of the rules that begin at something of these names. */
  from(names: readonly string[]): readonly number[] {
    return this.#matching(names, 'from');
  }

  to(names: readonly string[]): readonly number[] {
    return this.#matching(names, 'to');
  }

  #matching(names: readonly string[], side: 'from' | 'to'): number[] {
    if (this.#rules.length === 0) return [];
    // The top module's name may be left out.
    const all = names.flatMap((name) => [name, name.slice(name.indexOf('.') + 1)]);
    return this.#rules.flatMap((one, i) => (all.some((name) => one[side].test(name)) ? [i] : []));
  }

  /** The rule of a way of so many nanoseconds, the last one of the table; it is counted. Null where there is none. */
  take(from: readonly number[], to: readonly number[], delay: number): WayRule | null {
    const last = from.reduce((most, one) => (one > most && to.includes(one) ? one : most), -1);
    if (last < 0) return null;
    this.#ways[last] = item(this.#ways, last) + 1;
    this.#longest[last] = Math.max(item(this.#longest, last), delay);
    return item(this.#rules, last).rule;
  }

  uses(): RuleUse[] {
    return this.#rules.map(({ rule: { kind, line, from, to, cycles } }, i) => ({
      ...{ kind, line, from, to, cycles },
      ways: item(this.#ways, i),
      longest: item(this.#longest, i),
    }));
  }
}

/** A name in which `*` is anything. */
const patternOf = (text: string): RegExp =>
  new RegExp(
    `^${text
      .split('*')
      .map((part) => part.replace(/[.+?^${}()|[\]\\]/g, '\\$&'))
      .join('.*')}$`,
  );
