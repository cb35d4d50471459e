// Many calm edges at once: how long nothing that is looked at can change is told from where the counters stand; they
// then go on by a multiple, and what moves in any other way is stepped alone, with nothing looked at.
import { entry, item } from '../../lists.ts';
import type { Netlist, NodeId } from '../../netlist/index.ts';
import { type Calm, nodesOf, type Rest } from './assume.ts';
import { constant, type Emitter, type Value } from './emitter.ts';
import { argsOf, type Reader } from './reader.ts';
import type { WasmBody } from './wasm-body.ts';

/** For ever, as edges are counted. */
const EVER = -1;
const WORD = 32;

/** A counter: what it goes on by at every edge, a power of two or one less. */
interface Counter {
  readonly width: number;
  readonly by: number;
}

/** The lowest bits of a counter, with zeros above them. */
interface LowPart {
  readonly register: NodeId;
  readonly counter: Counter;
  readonly bits: number;
}

/** The low part of a counter beside what rests meanwhile, a node or a number; which of the two comes first. */
interface Compared {
  readonly low: LowPart;
  readonly with: NodeId | bigint;
  readonly isFirst: boolean;
}

/** A bit that has to have a value. */
interface Needed {
  readonly id: NodeId;
  readonly value: number;
}

export class Leap {
  /** Movers that are neither counters nor at rest: with these they are stepped, by what they take. */
  readonly stepped: ReadonlyMap<NodeId, NodeId>;
  /** Counters that nothing of this needs at every edge. */
  readonly counters: ReadonlyMap<NodeId, Counter>;
  /** Movers and memories that the edges depend on. */
  readonly reads: ReadonlySet<NodeId>;
  readonly memories: ReadonlySet<number>;
  readonly #netlist: Netlist;
  readonly #calm: Calm;
  readonly #own: ReadonlyMap<NodeId, Counter>;
  /** Movers that take another value only in a case that does not come up meanwhile. */
  readonly #resting: ReadonlySet<NodeId>;
  readonly #needed: readonly Needed[];
  readonly #isPossible: boolean;
  readonly #lasting = new Map<NodeId, boolean>();
  /** Spans that are told already, by what reads the values. */
  readonly #spans = new WeakMap<Reader, Map<NodeId, Value>>();

  /** `cases`: conditions under which alone a mover takes another value, and whether they have to hold for it. */
  constructor(
    netlist: Netlist,
    calm: Calm,
    cases: ReadonlyMap<NodeId, { readonly condition: NodeId; readonly isIt: boolean }>,
  ) {
    this.#netlist = netlist;
    this.#calm = calm;
    this.#resting = new Set(cases.keys());
    const own = new Map<NodeId, Counter>();
    for (const [register, d] of calm.movers) {
      const counter = this.#resting.has(register) ? null : this.#counterOf(register, d);
      if (counter) own.set(register, counter);
    }
    this.#own = own;
    const { facts, checked, moving, rest, levels, movers, writes } = calm;
    this.#needed = [
      ...[...checked].flatMap((id) => (moving.has(id) ? [{ id, value: entry(facts, id) }] : [])),
      ...[...cases.values()].map(({ condition, isIt }) => ({ id: condition, value: isIt ? 0 : 1 })),
    ];
    const others = [...movers].filter(([register]) => !own.has(register) && !this.#resting.has(register));
    const [steps, inSteps] = this.#movingIn([
      ...others.map(([, d]) => d),
      ...writes.flatMap(({ enable, address, data }) => [enable, address, data]),
    ]);
    const [looks, inLooks] = this.#movingIn([...this.#needed.map(({ id }) => id), ...levels, ...nodesOf(rest)]);
    this.reads = new Set([...steps, ...looks]);
    this.memories = new Set([...inSteps, ...inLooks]);
    this.counters = new Map([...own].filter(([register]) => !steps.has(register)));
    this.stepped = new Map(
      [...movers].filter(([register]) => !this.counters.has(register) && !this.#resting.has(register)),
    );
    this.#isPossible =
      [...levels, ...this.#needed.map(({ id }) => id)].every((id) => this.#mayLast(id)) && this.#mayRest(rest);
  }

  /** Whether it can ever be told for more than one edge. */
  get isPossible(): boolean {
    return this.#isPossible;
  }

  /** How many edges from now on are calm for certain; 0 where the next one is not. */
  span(reader: Reader, e: Emitter, body: WasmBody, levels: ReadonlyMap<NodeId, number>): Value {
    const facts = this.#needed.map(({ id, value }) => {
      const is = e.binary('eq', item(reader.computed(id), 0), constant(value));
      return e.select(is, this.#span(id, reader, e), constant(0));
    });
    const clocks = this.#calm.levels.map((id) => {
      const is = e.binary('eq', item(reader.get(id), 0), e.load(entry(levels, id), 1));
      return e.select(is, this.#span(id, reader, e), constant(0));
    });
    const all = [...facts, ...clocks].reduce((x, y) => least(x, y, e), constant(EVER));
    return least(all, this.#restSpan(this.#calm.rest, reader, e, body), e);
  }

  #restSpan({ same, choices }: Rest, reader: Reader, e: Emitter, body: WasmBody): Value {
    const spans = same.map(([id, register]) => {
      const [now, wanted] = [reader.get(id), reader.get(register)];
      const differences = now.map((limb, i) => e.binary('xor', limb, item(wanted, i)));
      const isSame = e.isZero(differences.reduce((x, y) => e.binary('or', x, y)));
      return e.select(isSame, this.#span(id, reader, e), constant(0));
    });
    for (const [condition, { yes, no }] of choices) {
      const bit = item(reader.get(condition), 0);
      spans.push(this.#span(condition, reader, e));
      for (const [side, isIt] of [
        [yes, bit],
        [no, e.isZero(bit)],
      ] as const) {
        if (side.same.length + side.choices.size === 0) continue;
        const lasts = body.variable();
        body.assign(lasts, constant(EVER));
        e.if(isIt);
        body.assign(lasts, this.#mayRest(side) ? this.#restSpan(side, reader.within(), e, body) : constant(0));
        e.end();
        spans.push(lasts);
      }
    }
    return spans.reduce((x, y) => least(x, y, e), constant(EVER));
  }

  /** Whether all of it can rest for more than one edge. */
  #mayRest({ same, choices }: Rest): boolean {
    return (
      same.every(([id]) => this.#mayLast(id)) &&
      [...choices].every(
        ([condition, { yes, no }]) => this.#mayLast(condition) && (this.#mayRest(yes) || this.#mayRest(no)),
      )
    );
  }

  /** A counter's value so many edges later. */
  after(value: Value, { width, by }: Counter, edges: Value, e: Emitter): Value {
    const far = by < 0 ? e.binary('sub', value, edges) : e.binary('add', value, e.binary('mul', edges, constant(by)));
    return e.binary('and', far, constant(onesOf(width)));
  }

  /** Movers and memories that nodes depend on. */
  #movingIn(roots: readonly NodeId[]): [Set<NodeId>, Set<number>] {
    const { moving, movers } = this.#calm;
    const [found, memories] = [new Set<NodeId>(), new Set<number>()];
    const seen = new Set<NodeId>();
    const open = roots.flatMap((id) => (this.#calm.facts.has(id) ? argsOf(this.#netlist, this.#calm, id) : [id]));
    for (let id = open.pop(); id !== undefined; id = open.pop()) {
      if (seen.has(id) || !moving.has(id) || this.#calm.facts.has(id)) continue;
      seen.add(id);
      const node = item(this.#netlist.nodes, id);
      if (node.op === 'memread') memories.add(node.memory);
      if (node.op !== 'reg') open.push(...argsOf(this.#netlist, this.#calm, id));
      else {
        found.add(id);
        // What a counter goes on to is its own.
        const d = movers.get(id);
        if (d !== undefined && !this.#own.has(id) && !this.#resting.has(id)) open.push(d);
      }
    }
    return [found, memories];
  }

  #counterOf(register: NodeId, d: NodeId): Counter | null {
    const { width } = item(this.#netlist.nodes, register);
    if (width > WORD) return null;
    const sum = item(this.#netlist.nodes, this.#whole(d, width));
    if (sum.op !== 'add' && sum.op !== 'sub') return null;
    const [a, b] = [this.#whole(sum.args[0], width), this.#whole(sum.args[1], width)];
    const other = a === register ? b : b === register && sum.op === 'add' ? a : null;
    const step = other === null ? null : item(this.#netlist.nodes, other);
    if (step?.op !== 'const') return null;
    const by = BigInt.asIntN(width, sum.op === 'sub' ? -step.value : step.value);
    if (by === -1n || (width === 1 && by !== 0n)) return width === 1 ? { width, by: 1 } : { width, by: -1 };
    return by > 0n && (by & (by - 1n)) === 0n ? { width, by: Number(by) } : null;
  }

  /** What gives the lowest bits of a node, as many as are asked for. */
  #whole(id: NodeId, width: number): NodeId {
    for (let at = id; ; ) {
      const node = item(this.#netlist.nodes, at);
      const [first] = argsOf(this.#netlist, this.#calm, at);
      if (first === undefined) return at;
      const { width: of } = item(this.#netlist.nodes, first);
      const isChosen = node.op === 'mux' && this.#calm.facts.has(node.args[0]);
      const isLow = (node.op === 'slice' && node.lo === 0 && of >= width) || (node.op === 'concat' && of >= width);
      if (!isChosen && !isLow) return at;
      at = first;
    }
  }

  #lowPart(id: NodeId): LowPart | null {
    const node = item(this.#netlist.nodes, id);
    const counter = this.#own.get(id);
    if (counter) return { register: id, counter, bits: counter.width };
    if (node.op === 'slice' && node.lo === 0) {
      const of = this.#lowPart(node.args[0]);
      return of && { ...of, bits: Math.min(of.bits, node.width) };
    }
    if (node.op !== 'concat' || node.width > WORD) return null;
    const [low, ...above] = node.args;
    const isZero = above.every((arg) => {
      const part = item(this.#netlist.nodes, arg);
      return part.op === 'const' && part.value === 0n;
    });
    return low !== undefined && isZero ? this.#lowPart(low) : null;
  }

  /** A comparison of the low part of a counter with what rests meanwhile. */
  #compared(id: NodeId): Compared | null {
    const node = item(this.#netlist.nodes, id);
    if (node.op === 'redand') {
      const low = this.#lowPart(node.args[0]);
      const { width } = item(this.#netlist.nodes, node.args[0]);
      return low && low.bits === width && width <= WORD
        ? { low, with: (1n << BigInt(width)) - 1n, isFirst: true }
        : null;
    }
    if (node.op !== 'eq' && node.op !== 'ltu') return null;
    const [a, b] = node.args;
    if (item(this.#netlist.nodes, a).width > WORD) return null;
    const [first, second] = [this.#lowPart(a), this.#lowPart(b)];
    if (first && !this.#calm.moving.has(b)) return { low: first, with: b, isFirst: true };
    return second && !this.#calm.moving.has(a) ? { low: second, with: a, isFirst: false } : null;
  }

  /** Whether a node can stay the same for more than one edge. */
  #mayLast(id: NodeId, isAsked = true): boolean {
    const known = isAsked ? undefined : this.#lasting.get(id);
    if (known !== undefined) return known;
    const lasts = this.#findLasting(id, isAsked);
    if (!isAsked) this.#lasting.set(id, lasts);
    return lasts;
  }

  #findLasting(id: NodeId, isAsked: boolean): boolean {
    const { moving, facts, movers } = this.#calm;
    if (!moving.has(id) || (!isAsked && facts.has(id)) || this.#compared(id)) return true;
    const node = item(this.#netlist.nodes, id);
    if (node.op === 'reg') return this.#resting.has(id) || (!movers.has(id) && !this.#own.has(id));
    if (node.op === 'memread') return false;
    if (node.op === 'slice' && this.#lowPart(node.args[0])) return node.lo > 0;
    return argsOf(this.#netlist, this.#calm, id).every((arg) => this.#mayLast(arg, false));
  }

  /** For how many edges from now on a node is what it is now, one at least. */
  #span(id: NodeId, reader: Reader, e: Emitter, isAsked = true): Value {
    if (isAsked) return this.#makeSpan(id, reader, e, true);
    let spans = this.#spans.get(reader);
    if (!spans) this.#spans.set(reader, (spans = new Map()));
    const known = spans.get(id) ?? this.#makeSpan(id, reader, e, false);
    spans.set(id, known);
    return known;
  }

  #makeSpan(id: NodeId, reader: Reader, e: Emitter, isAsked: boolean): Value {
    const { moving, facts } = this.#calm;
    if (!moving.has(id) || (!isAsked && facts.has(id))) return constant(EVER);
    const compared = this.#compared(id);
    if (compared) return this.#comparedSpan(id, compared, reader, e);
    const node = item(this.#netlist.nodes, id);
    if (node.op === 'reg') return constant(EVER);
    if (node.op === 'slice') {
      const low = this.#lowPart(node.args[0]);
      if (low) return this.#sliceSpan(low, node.lo, reader, e);
    }
    const args = argsOf(this.#netlist, this.#calm, id);
    const spans = args.map((arg) => this.#span(arg, reader, e, false));
    const all = spans.reduce((x, y) => least(x, y, e), constant(EVER));
    if (node.width !== 1 || (node.op !== 'and' && node.op !== 'or')) return all;
    // As long as one of them decides, the other one may do what it likes.
    return args.reduce((others, arg, i) => {
      const bit = item(reader.get(arg), 0);
      return e.select(node.op === 'and' ? e.isZero(bit) : bit, item(spans, i), others);
    }, all);
  }

  /** Bits from `lo` up stay until something is carried into them. */
  #sliceSpan({ register, counter: { by }, bits }: LowPart, lo: number, reader: Reader, e: Emitter): Value {
    if (lo >= bits) return constant(EVER);
    const below = e.binary('and', item(reader.get(register), 0), constant(onesOf(lo)));
    if (by < 0) return e.binary('add', below, constant(1));
    return edgesTo(e.binary('sub', constant(1 << lo), below), by, e);
  }

  #comparedSpan(id: NodeId, { low, with: what, isFirst }: Compared, reader: Reader, e: Emitter): Value {
    const { by } = low.counter;
    const ones = constant(onesOf(low.bits));
    const at = e.binary('and', item(reader.get(low.register), 0), ones);
    const target = typeof what === 'bigint' ? constant(Number(what)) : item(reader.get(what), 0);
    const isNow = item(reader.computed(id), 0);
    if (item(this.#netlist.nodes, id).op !== 'ltu') {
      const way = by < 0 ? e.binary('sub', at, target) : e.binary('sub', target, at);
      const away = edgesTo(e.binary('and', way, ones), by, e);
      // Where it is not equal though nothing is between, the target is out of reach: one edge is always safe.
      return e.select(isNow, constant(1), e.select(e.isZero(away), constant(1), away));
    }
    // Below a target, or above one: up to it, or up to where the bits begin anew.
    const up = (to: Value) => edgesTo(e.binary('sub', to, at), by, e);
    const wraps =
      by < 0
        ? e.binary('add', at, constant(1))
        : e.select(
            e.binary('ltu', constant(by), e.binary('xor', at, ones)),
            edgesTo(e.binary('xor', at, ones), by, e),
            constant(1),
          );
    const isBelow = isFirst ? isNow : e.isZero(isNow);
    if (by < 0) {
      // Going down: below a target until it begins anew; above it as long as it is not below.
      const over = e.binary('sub', at, target);
      return e.select(isBelow, wraps, isFirst ? e.binary('add', over, constant(1)) : e.select(over, over, constant(1)));
    }
    // Going up. "Not above" with the counter second holds at the target itself too, which is left out.
    const reached = up(target);
    return e.select(
      isBelow,
      e.select(e.isZero(reached), constant(1), least(reached, e.select(e.isZero(wraps), constant(1), wraps), e)),
      e.select(e.isZero(wraps), constant(1), wraps),
    );
  }
}

const onesOf = (bits: number): number => (bits >= WORD ? -1 : (1 << bits) - 1);

const least = (x: Value, y: Value, e: Emitter): Value => {
  if ('constant' in x && x.constant === EVER) return y;
  if ('constant' in y && y.constant === EVER) return x;
  return e.select(e.binary('ltu', x, y), x, y);
};

/** Edges of a counter before it has gone on by an amount; of steps above one as many as are certain. */
const edgesTo = (amount: Value, by: number, e: Emitter): Value => {
  if (by === 1 || by < 0) return amount;
  const shift = Math.log2(by);
  return e.binary('shru', e.binary('add', amount, constant(by - 1)), constant(shift));
};
