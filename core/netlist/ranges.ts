import { item } from '../lists.ts';
import { anything, between, hull, type Known, knownOf, larger, smaller, unsignedBits } from './known.ts';
import { isLeaf, lowOf, type Netlist, type NodeId, type Register } from './types.ts';

/** Nodes looked at for one register, one way through its next value. */
const MOST_STEPS = 400;
/** Parts of conditions looked at on that way; nothing is learned of further ones. */
const MOST_TESTS = 400;
/** Times that a range may grow until it is given up. */
const MOST_ROUNDS = 24;
/** Constants on the way that bounds are made of. */
const MOST_LIMITS = 12;
/** Cases of a condition that are looked at apart. */
const MOST_CASES = 8;
/** Rounds after which a range grows to the next number that the design compares with. */
const PLAIN_ROUNDS = 3;

/**
 * Ranges that registers never leave, proven: they hold at power-up and after a reset, and from each value in them the
 * next one is in them too. Only registers of which something is known are given. A register is looked at by itself;
 * others may hold anything that is proven of them so far.
 *
 * @source interval analysis with widening, as in the literature on abstract interpretation (common practice)
 */
export function registerRanges(source: Netlist): Map<NodeId, Known> {
  const proven = new Map<NodeId, Known>();
  const clocks = new Map(source.registers.map(({ node, clock }) => [node, clock]));
  for (const register of source.registers) {
    const range = rangeOf(source, register, {
      of: (node) => {
        const known = proven.get(node);
        // A word of another clock may be taken over torn: only its bits that are always 0 are so then too.
        return known && clocks.get(node) !== register.clock
          ? between(known.width, 0n, (1n << BigInt(unsignedBits(known))) - 1n)
          : known;
      },
    });
    if (range !== null) proven.set(register.node, range);
  }
  return proven;
}

/** What is proven of registers, as one of them may rely on it. */
interface Proven {
  of(register: NodeId): Known | undefined;
}

function rangeOf(source: Netlist, register: Register, proven: Proven): Known | null {
  const { width } = item(source.nodes, register.node);
  if (register.load !== null) return null;
  const full = anything(width).max;
  let range = between(width, register.init, register.init);
  if (register.reset !== null) range = hull(range, between(width, register.resetValue, register.resetValue));
  let limits: readonly bigint[] | null = null;
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const next = hull(
      range,
      new Ranges(source, proven).under(register.d, { id: register.node, known: range, older: null }),
    );
    if (next.min === range.min && next.max === range.max) return range.max < full ? range : null;
    if (round >= PLAIN_ROUNDS) limits ??= limitsFor(source, register);
    const max = next.max === range.max ? next.max : ((limits ?? [next.max]).find((one) => one >= next.max) ?? full);
    const min = next.min === range.min || round < PLAIN_ROUNDS ? next.min : 0n;
    if (max === full && min === 0n) return null;
    range = between(width, min, max);
  }
  return null;
}

/** What the constants on the way to the next value come to, alone and two together: where a range may stop to grow. */
function limitsFor(source: Netlist, register: Register): bigint[] {
  const { width } = item(source.nodes, register.node);
  const constants = new Set<bigint>();
  const seen = new Set<NodeId>();
  const open = [register.d];
  for (const id of open) {
    if (seen.size > MOST_STEPS) break;
    if (seen.has(id)) continue;
    seen.add(id);
    const node = item(source.nodes, id);
    if (node.op === 'const') constants.add(node.value);
    if (!isLeaf(node)) open.push(...node.args);
  }
  const list = [...constants].slice(0, MOST_LIMITS);
  // A step over a bound ends no farther than both together.
  const limits = new Set([0n, ...list].flatMap((x) => list.flatMap((y) => [x + y - 1n, x + y, y + 1n])));
  return [...limits].filter((one) => one >= 0n && one < 1n << BigInt(width)).sort((x, y) => (x < y ? -1 : 1));
}

/** What is known on one way, the newest first: a few words, of which each case shares the older ones. */
interface Env {
  readonly id: NodeId;
  readonly known: Known;
  readonly older: Env | null;
}

function inEnv(env: Env | null, id: NodeId): Known | undefined {
  for (let at = env; at !== null; at = at.older) if (at.id === id) return at.known;
  return undefined;
}

/** Ranges of words, each choice looked at under what its condition says. */
class Ranges {
  readonly #source: Netlist;
  readonly #proven: Proven;
  #steps = 0;
  #tests = 0;

  constructor(source: Netlist, proven: Proven) {
    this.#source = source;
    this.#proven = proven;
  }

  under(id: NodeId, env: Env): Known {
    const given = inEnv(env, id) ?? this.#proven.of(id);
    if (given) return given;
    const node = item(this.#source.nodes, id);
    if (isLeaf(node) && node.op !== 'const') return anything(node.width);
    if (++this.#steps > MOST_STEPS) return anything(node.width);
    if (node.op !== 'mux') return knownOf(node, (arg) => this.under(arg, env));
    const [condition, then, otherwise] = node.args;
    const taken = this.under(condition, env);
    const yes = taken.max === 0n ? [] : this.#cases(condition, true, env);
    const no = taken.min > 0n ? [] : this.#cases(condition, false, env);
    const ranges = [...yes.map((one) => this.under(then, one)), ...no.map((one) => this.under(otherwise, one))];
    return ranges.length === 0 ? anything(node.width) : ranges.reduce(hull);
  }

  /** What is known where a condition holds or does not, case by case; nothing where it cannot be so. */
  #cases(id: NodeId, holds: boolean, env: Env): readonly Env[] {
    if (++this.#tests > MOST_TESTS) return [env];
    const node = item(this.#source.nodes, id);
    if (node.op === 'not') return this.#cases(node.args[0], !holds, env);
    const isBit = node.width === 1 && (node.op === 'and' || node.op === 'or');
    if (isBit && (node.op === 'and') === holds)
      return notTooMany(
        this.#cases(node.args[0], holds, env).flatMap((one) => this.#cases(node.args[1], holds, one)),
        env,
      );
    if (isBit) {
      const [first, second] = node.args;
      const rest = this.#cases(first, !holds, env).flatMap((one) => this.#cases(second, holds, one));
      return notTooMany([...this.#cases(first, holds, env), ...rest], env);
    }
    const bit = holds ? 1n : 0n;
    let next = node.op === 'const' ? env : { id, known: between(node.width, bit, bit), older: env };
    if (node.op !== 'eq' && node.op !== 'ltu') return [next];
    const [x, y] = [this.under(node.args[0], env), this.under(node.args[1], env)];
    const narrowed = node.op === 'eq' ? equal(x, y, holds) : less(x, y, holds);
    if (narrowed === null) return [];
    for (const [i, range] of narrowed.entries()) next = this.#learn(item<NodeId>(node.args, i), range, next);
    return [next];
  }

  /** A word and, where it is another one with zeros at the top, that one. */
  #learn(id: NodeId, range: Known, env: Env): Env {
    const node = item(this.#source.nodes, id);
    if (node.op === 'const') return env;
    const next = { id, known: range, older: env };
    const low = lowOf(this.#source.nodes, id);
    if (low === null) return next;
    const { width } = item(this.#source.nodes, low);
    return range.max < 1n << BigInt(width) ? this.#learn(low, between(width, range.min, range.max), next) : next;
  }
}

/** Too many cases are one of which nothing is known. */
const notTooMany = (cases: readonly Env[], env: Env): readonly Env[] => (cases.length > MOST_CASES ? [env] : cases);

function within(of: Known, min: bigint, max: bigint): Known | null {
  return min > max ? null : between(of.width, min, max, of.alike);
}

const both = (x: Known | null, y: Known | null): [Known, Known] | null => (x && y ? [x, y] : null);

function equal(x: Known, y: Known, holds: boolean): [Known, Known] | null {
  const [min, max] = [larger(x.min, y.min), smaller(x.max, y.max)];
  if (holds) return both(within(x, min, max), within(y, min, max));
  return both(unlike(x, y), unlike(y, x));
}

/** A range without the one value of another, where it begins or ends with it. */
function unlike(x: Known, { min, max }: Known): Known | null {
  if (min !== max) return x;
  return within(x, x.min === min ? x.min + 1n : x.min, x.max === max ? x.max - 1n : x.max);
}

function less(x: Known, y: Known, holds: boolean): [Known, Known] | null {
  return holds
    ? both(within(x, x.min, smaller(x.max, y.max - 1n)), within(y, larger(y.min, x.min + 1n), y.max))
    : both(within(x, larger(x.min, y.min), x.max), within(y, y.min, smaller(y.max, x.max)));
}
