import { item } from '../lists.ts';
import {
  evaluateConstant,
  isLeaf,
  lowBitOf,
  type Netlist,
  type NetNode,
  type NodeId,
  type Register,
} from '../netlist/index.ts';

/**
 * How a register counts while nothing holds it back: the states it goes through again and again, and how often it goes
 * on.
 */
interface Counting {
  readonly register: Register;
  /** States until it comes round. */
  readonly period: bigint;
  /** Steps to each edge of its clock: 1, or less where another counter lets it go on now and then. */
  readonly share: number;
  /** One-bit nodes from outside that have to be so for it to count; resets are not among them. */
  readonly needs: readonly { readonly node: NodeId; readonly value: boolean }[];
  /** How often bit n rises in one period. */
  readonly rises: (bit: number) => number;
}

/** Logic in front of a register that is followed; what has more is no counter. */
const MOST_NODES = 400;
/** Conditions from outside that are tried both ways. */
const MOST_CONTROLS = 6;
/** Counters up to this width are followed state by state. */
const FOLLOWED_BITS = 10;
/** Straight stretches of one period. */
const MOST_STRETCHES = 64;
const DEEPEST = 6;

/** States from `from` on, `count` of them, each `step` more than the one before, within the width. */
interface Stretch {
  readonly from: bigint;
  readonly count: bigint;
  readonly step: bigint;
}

/**
 * Finds counters, however they are written: by what they do from one state to the next, not by the operators that say
 * it.
 */
export class Counters {
  readonly #netlist: Netlist;
  readonly #registers: ReadonlyMap<NodeId, Register>;
  readonly #known = new Map<NodeId, Counting | null>();

  constructor(netlist: Netlist) {
    this.#netlist = netlist;
    this.#registers = new Map(netlist.registers.map((register) => [register.node, register]));
  }

  /** Null for a register that is none, or that nobody can tell to be one. */
  of(node: NodeId, depth = 0): Counting | null {
    const known = this.#known.get(node);
    if (known !== undefined) return known;
    this.#known.set(node, null);
    const register = this.#registers.get(node);
    const found = register && depth < DEEPEST ? this.#count(register, depth) : null;
    this.#known.set(node, found);
    return found;
  }

  #count(register: Register, depth: number): Counting | null {
    const cone = coneOf(this.#netlist, register.d, register.node);
    if (!cone) return null;
    const controls = cone.cuts.filter((id) => this.#width(id) === 1);
    if (controls.length > MOST_CONTROLS) return null;
    let best: { readonly stretches: readonly Stretch[]; readonly period: bigint; readonly setting: number } | null =
      null;
    for (let setting = 0; setting < 2 ** controls.length; setting++) {
      const orbit = this.#orbit(register, this.#nextOf(register, cone.inner, controls, setting), cone.constants);
      if (orbit && (!best || orbit.period > best.period)) best = { ...orbit, setting };
    }
    if (!best || best.period < 2n) return null;
    const { stretches, setting } = best;
    const width = this.#width(register.node);
    let share = 1;
    const needs: { node: NodeId; value: boolean }[] = [];
    for (const [i, node] of controls.entries()) {
      const value = ((setting >> i) & 1) === 1;
      if (!this.#holds(register, this.#nextOf(register, cone.inner, controls, setting ^ (1 << i)), stretches)) continue;
      const part = this.#shareOf(node, value, register, depth);
      if (part === null) needs.push({ node, value });
      else share *= part;
    }
    return {
      register,
      period: best.period,
      share,
      needs,
      rises: (bit) =>
        stretches.reduce((sum, stretch, i) => sum + risesIn(stretch, bit, width, firstOf(stretches, i + 1)), 0),
    };
  }

  #width(id: NodeId): number {
    return item(this.#netlist.nodes, id).width;
  }

  /**
   * The state after a state, while the controls stand as the bits of `setting` say and other words from outside are 0.
   */
  #nextOf(
    register: Register,
    inner: readonly NodeId[],
    controls: readonly NodeId[],
    setting: number,
  ): (state: bigint) => bigint {
    const { nodes } = this.#netlist;
    const fixed = new Map(controls.map((id, i) => [id, BigInt((setting >> i) & 1)]));
    return (state) => {
      const values = new Map<NodeId, bigint>(fixed);
      values.set(register.node, state);
      const wordOf = (id: NodeId): bigint => values.get(id) ?? constantOf(item(nodes, id));
      for (const id of inner) {
        const node = item(nodes, id);
        if (isLeaf(node)) continue;
        const widths = node.args.map((arg) => this.#width(arg));
        values.set(id, evaluateConstant(node.op, node.width, node.args.map(wordOf), widths, lowBitOf(node)));
      }
      return wordOf(register.d);
    };
  }

  /** Follows the states until one comes round. */
  #orbit(
    register: Register,
    next: (state: bigint) => bigint,
    constants: readonly bigint[],
  ): { stretches: readonly Stretch[]; period: bigint } | null {
    const width = this.#width(register.node);
    const limit = 1n << BigInt(width);
    if (width <= FOLLOWED_BITS) return followed(register.init, next, limit);
    const marks = marksOf(constants, width);
    const stretches: Stretch[] = [];
    let state = register.init;
    for (;;) {
      const seen = stretches.findIndex(({ from }) => from === state);
      if (seen >= 0) {
        const cycle = stretches.slice(seen);
        return { stretches: cycle, period: cycle.reduce((sum, { count }) => sum + count, 0n) };
      }
      if (stretches.length >= MOST_STRETCHES) return null;
      const stretch = straightFrom(state, next, marks, limit);
      if (!stretch) return null;
      stretches.push(stretch);
      state = next(BigInt.asUintN(width, stretch.from + (stretch.count - 1n) * stretch.step));
    }
  }

  /**
   * Whether a register stays what it is in all states, as without its enable; a reset takes it to one of them instead.
   */
  #holds(register: Register, next: (state: bigint) => bigint, stretches: readonly Stretch[]): boolean {
    const width = this.#width(register.node);
    return stretches.every(({ from, count, step }) =>
      [from, BigInt.asUintN(width, from + (count / 2n) * step)].every((state) => next(state) === state),
    );
  }

  /**
   * Share of the edges of a register's clock at which a control is so, where another counter of that clock decides it;
   * null where something else does.
   */
  #shareOf(node: NodeId, value: boolean, user: Register, depth: number): number | null {
    const source = this.#registers.get(node);
    // A tick that is kept in a register for one edge comes as often as what it is made from.
    const decided = source && !dependsOn(this.#netlist, source.d, source.node) ? source.d : node;
    const cone = sourcesOf(this.#netlist, decided);
    const [only, more] = cone ?? [];
    if (only === undefined || more !== undefined) return null;
    const counter = only === user.node ? null : this.of(only, depth + 1);
    if (
      !counter ||
      counter.register.clock !== user.clock ||
      counter.register.edge !== user.edge ||
      counter.needs.length > 0
    )
      return null;
    const whole = coneOf(this.#netlist, decided, only);
    if (!whole || whole.cuts.length > 0) return null;
    const count = this.#statesWhere(counter, decided, whole, value);
    return count === null ? null : (count / Number(counter.period)) * counter.share;
  }

  /** In how many states of a counter's period a one-bit node has a value. */
  #statesWhere(counter: Counting, node: NodeId, cone: Cone, value: boolean): number | null {
    const { register } = counter;
    const width = this.#width(register.node);
    const own = coneOf(this.#netlist, register.d, register.node);
    if (!own) return null;
    const controls = own.cuts.filter((id) => this.#width(id) === 1);
    const is = this.#nextOf({ ...register, d: node }, cone.inner, [], 0);
    // The setting that counts is found again by its period.
    for (let setting = 0; setting < 2 ** controls.length; setting++) {
      const orbit = this.#orbit(register, this.#nextOf(register, own.inner, controls, setting), [
        ...own.constants,
        ...cone.constants,
      ]);
      if (!orbit || orbit.period !== counter.period) continue;
      let count = 0;
      for (const stretch of orbit.stretches)
        count += countIn(stretch, (state) => (is(state) === 1n) === value, marksOf(cone.constants, width), width);
      return count;
    }
    return null;
  }
}

interface Cone {
  /** Nodes that depend on the register, arguments first. */
  readonly inner: readonly NodeId[];
  /** Where what does not depend on it comes in. */
  readonly cuts: readonly NodeId[];
  readonly constants: readonly bigint[];
}

/** The logic between a register's output and a node, cut where it no longer depends on the register. */
function coneOf(netlist: Netlist, target: NodeId, register: NodeId): Cone | null {
  const depends = new Map<NodeId, boolean>();
  const order: NodeId[] = [];
  const visit = (id: NodeId): boolean => {
    const known = depends.get(id);
    if (known !== undefined) return known;
    if (depends.size > MOST_NODES) throw TOO_MUCH;
    depends.set(id, id === register);
    const { op, args } = item(netlist.nodes, id);
    const own =
      id === register ||
      (op !== 'reg' && op !== 'input' && op !== 'memread' && op !== 'const' && args.map(visit).includes(true));
    depends.set(id, own);
    if (own && id !== register) order.push(id);
    return own;
  };
  try {
    visit(target);
  } catch (error) {
    if (error === TOO_MUCH) return null;
    throw error;
  }
  const cuts = new Set<NodeId>();
  const constants = new Set<bigint>();
  const widened: NodeId[] = [];
  const cut = (id: NodeId): void => {
    const node = item(netlist.nodes, id);
    const { op, width, args } = node;
    if (op === 'const') constants.add(constantOf(node));
    else if (depends.get(id) === true || cuts.has(id) || widened.includes(id)) return;
    // A single bit made as wide as the counter, as in "count + enable", is a condition still.
    else if (width > 1 && (op === 'concat' || op === 'sext')) {
      for (const arg of args) cut(arg);
      widened.push(id);
    } else cuts.add(id);
  };
  for (const id of order) for (const arg of item(netlist.nodes, id).args) cut(arg);
  return { inner: [...widened, ...order], cuts: [...cuts], constants: [...constants] };
}

const constantOf = (node: NetNode): bigint => (node.op === 'const' ? node.value : 0n);

const TOO_MUCH = Symbol('too much');

const dependsOn = (netlist: Netlist, target: NodeId, register: NodeId): boolean =>
  target === register || (coneOf(netlist, target, register)?.inner.length ?? 1) > 0;

/** Registers and inputs that decide a node; null where there is too much logic. */
function sourcesOf(netlist: Netlist, of: NodeId): NodeId[] | null {
  const seen = new Set<NodeId>();
  const ahead = [of];
  const found: NodeId[] = [];
  for (let id = ahead.pop(); id !== undefined; id = ahead.pop()) {
    if (seen.has(id)) continue;
    seen.add(id);
    if (seen.size > MOST_NODES) return null;
    const { op, args } = item(netlist.nodes, id);
    if (op === 'reg' || op === 'input' || op === 'memread') found.push(id);
    else ahead.push(...args);
  }
  return found;
}

/**
 * States at which comparisons of a word with constants may change their answers: the constants and powers of two, and
 * what is beside them.
 */
function marksOf(constants: readonly bigint[], width: number): readonly bigint[] {
  const limit = 1n << BigInt(width);
  const marks = new Set<bigint>([0n]);
  for (const one of [...constants, ...Array.from({ length: width + 1 }, (_, i) => 1n << BigInt(i))])
    for (const mark of [one - 1n, one, one + 1n]) if (mark >= 0n && mark < limit) marks.add(mark);
  return [...marks].sort((a, b) => (a < b ? -1 : 1));
}

/** As long as one step follows another from a state on; looked at in the marks and once between each two of them. */
function straightFrom(
  state: bigint,
  next: (state: bigint) => bigint,
  marks: readonly bigint[],
  limit: bigint,
): Stretch | null {
  const after = next(state);
  const step = after - state;
  if (step !== 1n && step !== -1n) return { from: state, count: 1n, step: 1n };
  const goes = (at: bigint) => next(at) === at + step;
  const ahead = step > 0n ? marks.filter((mark) => mark > state) : marks.filter((mark) => mark < state).reverse();
  let last = state;
  for (const mark of ahead) {
    const middle = (last + mark) / 2n;
    if (middle !== last && middle !== mark && !goes(middle)) return null;
    if (!goes(mark)) return { from: state, count: (mark - state) * step + 1n, step };
    last = mark;
  }
  const end = step > 0n ? limit - 1n : 0n;
  return { from: state, count: (end - state) * step + 1n, step };
}

function followed(
  init: bigint,
  next: (state: bigint) => bigint,
  limit: bigint,
): { stretches: readonly Stretch[]; period: bigint } {
  const seen = new Map<bigint, number>();
  const states: bigint[] = [];
  let state = BigInt.asUintN(64, init) % limit;
  while (!seen.has(state)) {
    seen.set(state, states.length);
    states.push(state);
    state = next(state);
  }
  const cycle = states.slice(seen.get(state));
  return { stretches: cycle.map((from) => ({ from, count: 1n, step: 1n })), period: BigInt(cycle.length) };
}

const firstOf = (stretches: readonly Stretch[], i: number): bigint => item(stretches, i % stretches.length).from;

const bitOf = (state: bigint, bit: number): bigint => (state >> BigInt(bit)) & 1n;

/** How often a bit rises from state to state of a stretch, and from its last state to the first of the next one. */
function risesIn({ from, count, step }: Stretch, bit: number, width: number, then: bigint): number {
  const last = BigInt.asUintN(width, from + (count - 1n) * step);
  const [low, high] = step > 0n ? [from, last] : [last, from];
  // Going up, a bit rises with the state whose rest is 2^bit; going down it rises where, seen upwards, it falls.
  const period = 1n << BigInt(bit + 1);
  const edge = step > 0n ? 1n << BigInt(bit) : 0n;
  const upTo = (state: bigint) => (state >= edge ? (state - edge) / period + 1n : 0n);
  const inside = upTo(high) - upTo(low);
  return Number(inside) + (bitOf(last, bit) === 0n && bitOf(then, bit) === 1n ? 1 : 0);
}

/** States of a stretch for which something holds that changes at marks alone. */
function countIn(
  { from, count, step }: Stretch,
  holds: (state: bigint) => boolean,
  marks: readonly bigint[],
  width: number,
): number {
  const last = BigInt.asUintN(width, from + (count - 1n) * step);
  const [low, high] = step > 0n ? [from, last] : [last, from];
  const places = [low, ...marks.filter((mark) => mark > low && mark <= high)];
  let sum = 0;
  for (const [i, place] of places.entries()) if (holds(place)) sum += Number((places[i + 1] ?? high + 1n) - place);
  return sum;
}
