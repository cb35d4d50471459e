// Code for edges at which only a few registers change: those are kept in variables, and as long as all that was assumed
// holds nothing else is computed. The first edge that is another one is run in full.
import { entry, item } from '../../lists.ts';
import type { NodeId } from '../../netlist/index.ts';
import { assume, type Calm, nodesOf, type Rest, writesIn } from './assume.ts';
import type { Stillness } from './activity.ts';
import type { Program } from './compile.ts';
import { constant, type Emitter, type Value } from './emitter.ts';
import { limbsOf } from './layout.ts';
import { Lean } from './lean.ts';
import { Leap } from './leap.ts';
import { Lowering, onesOf } from './lower.ts';
import { argsOf, type Reader, readerOf } from './reader.ts';
import { WasmBody } from './wasm-body.ts';
import { byTurns } from './wasm.ts';
import { functionOf, moduleOf, signed, unsigned, type Wasm } from './wasm-module.ts';

/** So many full edges in vain, and the next ones are not looked at. */
const TRIES = 6;
const EDGES_NOT_LOOKED_AT = 24;

/** Fewer edges are not worth to be made at once; then it is not asked for some. */
const LEAST_LEAP = 4;
const IDLE_EDGES = 2;

/** Where more words move, they are as well off in memory, and their code takes long to be made. */
const MOST_LIMBS = 128;

/** Left in the layout's word where nothing has stopped a run. */
export const NOT_STOPPED = -1;

/** Words before the copy of all registers and inputs: what the code itself keeps. */
const HEAD = 64;
const [DIFFERENCE, FULL_EDGES, COPIED, STATES] = [0, 1, 2, 8] as const;
const MOST_CLOCKS = 8;

/** Words that calm edges need beside the design's own. */
export const roomFor = ({ layout, netlist }: Program): number => HEAD + layout.words + netlist.nodes.length;

/** What a function that takes turns is given, and what it keeps beside that, in floating point. */
const TURNS = [0, 1, 2, 3, 4, 5] as const;
const TURNS_OWN = [6, 7] as const;

/** Functions of a module by their numbers, which begin behind those that it imports: an edge of each clock. */
const [COMPARE_ALL, COMPARE_INPUTS, FULL] = [0, 1, 2] as const;

type Local = { readonly local: number };

/** A clock of the plan, with where it keeps what. */
interface Clock {
  readonly domain: number;
  readonly calm: Calm;
  /** Whether calm edges may go on (1); full edges in vain; full edges that are not looked at. */
  readonly state: number;
  /** Words that do not move, as they were at the last full edge. */
  readonly kept: ReadonlyMap<NodeId, number>;
  /** Conditions under which alone a mover takes another value. */
  readonly cases: ReadonlyMap<NodeId, Case>;
  /** Many edges at once; null where it can never be told that they are calm. */
  readonly leap: Leap | null;
}

/** Where alone a mover takes another value, and which. */
interface Case {
  readonly condition: NodeId;
  readonly isIt: boolean;
  readonly value: NodeId;
}

/** Code of calm edges for the clocks that have them. */
export class CalmCode {
  readonly #program: Program;
  readonly #from: number;
  readonly #clocks: Clock[] = [];
  /** Words of registers, and of inputs behind them, which others may set between two runs. */
  readonly #registers: number;
  readonly #watched: number;

  /** `from`: the first of the words that `roomFor` counts. */
  constructor(program: Program, stillness: Stillness, from: number) {
    this.#program = program;
    this.#from = from;
    const { layout, netlist, members } = program;
    const ends = [...layout.registers].map(([node, at]) => at + limbsOf(item(netlist.nodes, node).width));
    this.#registers = Math.max(0, ...ends);
    for (const { address, width } of layout.inputs.values()) ends.push(address + limbsOf(width));
    this.#watched = Math.max(0, ...ends);
    const written = new Set(
      [...stillness.known].flatMap(([domain, knownOf]) =>
        writesIn(netlist, item(members, domain), knownOf).map(({ memory }) => memory),
      ),
    );
    let next = from + HEAD + this.#watched + (this.#watched & 1);
    const take = (node: NodeId) => {
      const at = next;
      next += limbsOf(item(netlist.nodes, node).width);
      return at;
    };
    for (const [domain, knownOf] of stillness.known) {
      if (this.#clocks.length >= MOST_CLOCKS) break;
      const { movers } = stillness;
      const derived = [...layout.derived.keys()];
      const calm = assume({ netlist, members: item(members, domain), movers, derived, written, knownOf });
      if (calm === null || this.#limbsOf(calm) > MOST_LIMBS) continue;
      const kept = new Map([...this.#keptOf(calm)].map((id) => [id, take(id)]));
      const state = from + STATES + 3 * this.#clocks.length;
      const cases = new Map<NodeId, Case>();
      for (const [node, d] of calm.movers) {
        const only = this.#caseOf(calm, node, d);
        if (only !== null) cases.set(node, only);
      }
      const leap = new Leap(netlist, calm, cases);
      this.#clocks.push({ domain, calm, kept, state, cases, leap: leap.isPossible ? leap : null });
    }
    if (next > from + roomFor(program)) this.#clocks.length = 0;
  }

  #limbsOf({ movers }: Calm): number {
    const { nodes } = this.#program.netlist;
    return [...movers.keys()].reduce((sum, node) => sum + limbsOf(item(nodes, node).width), 0);
  }

  get domains(): readonly number[] {
    return this.#clocks.map(({ domain }) => domain);
  }

  /** Words that say whether calm edges may go on, and whether the copy is one; 0 in all of them is always right. */
  get states(): readonly number[] {
    return [this.#from + COPIED, ...this.#clocks.map(({ state }) => state)];
  }

  /** Where the full edges are counted. */
  get fullEdges(): number {
    return this.#from + FULL_EDGES;
  }

  /**
   * A module that exports for each clock `run` and its number (times: i32), and for each two of them `turns` and their
   * numbers, as `emitByTurns` has it. It imports for each clock `edge` and its number, which makes edges in full.
   */
  module(): Uint8Array<ArrayBuffer> {
    const functions: Wasm[] = [
      this.#compare(0),
      this.#compare(this.#registers),
      ...this.#clocks.map((clock) => this.#full(clock)),
    ];
    const names = new Map<string, number>();
    const add = (name: string, code: Wasm) => names.set(name, this.#clocks.length + functions.push(code) - 1);
    for (const clock of this.#clocks) add(`run${clock.domain}`, this.#run(clock));
    for (const a of this.#clocks)
      for (const b of this.#clocks)
        if (a !== b && this.#levels.size === 0) add(`turns${a.domain} ${b.domain}`, this.#turns(a, b));
    return moduleOf(
      functions,
      names,
      this.#clocks.map(({ domain }) => `edge${domain}`),
    );
  }

  #call(body: WasmBody, which: number): void {
    body.code.push(0x41, 1, 0x10);
    unsigned(body.code, this.#clocks.length + which);
  }

  /** Nodes that are computed where they are wanted, but for those that do not move: these are kept. */
  #keptOf(calm: Calm): Set<NodeId> {
    const { facts, checked, movers, writes, moving } = calm;
    const seen = new Set<NodeId>();
    const kept = new Set<NodeId>();
    const open: NodeId[] = [...nodesOf(calm.rest), ...calm.levels, ...movers.values()];
    for (const { enable, address, data } of writes) open.push(enable, address, data);
    for (const id of checked) if (moving.has(id)) open.push(...argsOf(this.#program.netlist, calm, id));
    for (let id = open.pop(); id !== undefined; id = open.pop()) {
      if (seen.has(id) || facts.has(id)) continue;
      seen.add(id);
      const { op } = item(this.#program.netlist.nodes, id);
      if (moving.has(id)) open.push(...argsOf(this.#program.netlist, calm, id));
      else if (op !== 'reg' && op !== 'input' && op !== 'const') kept.add(id);
    }
    return kept;
  }

  /** Any bit in which a checked fact is another one. */
  #emitFacts(facts: readonly (readonly [NodeId, number])[], { computed }: Reader, e: Emitter): Value {
    return facts
      .map(([id, value]) => e.binary('xor', item(computed(id), 0), constant(value)))
      .reduce((x, y) => e.binary('or', x, y), constant(0));
  }

  /** Sets the variable to another value than 0 where something does not rest. */
  #emitRest({ same, choices }: Rest, reader: Reader, body: WasmBody, e: Emitter, other: Local): void {
    const differences = same.flatMap(([id, register]) => {
      const [now, before] = [reader.get(id), reader.get(register)];
      return now.map((limb, i) => e.binary('xor', limb, item(before, i)));
    });
    if (differences.length > 0) {
      const sum = differences.reduce((x, y) => e.binary('or', x, y), other);
      body.assign(other, sum);
    }
    for (const [condition, { yes, no }] of choices) {
      const bit = item(reader.get(condition), 0);
      for (const [side, isIt] of [
        [yes, bit],
        [no, e.isZero(bit)],
      ] as const) {
        if (side.same.length + side.choices.size === 0) continue;
        e.if(isIt);
        this.#emitRest(side, reader.within(), body, e, other);
        e.end();
      }
    }
  }

  #factsOf({ facts, checked, moving }: Calm, isMoving: boolean): (readonly [NodeId, number])[] {
    return [...checked].filter((id) => moving.has(id) === isMoving).map((id) => [id, entry(facts, id)]);
  }

  /**
   * Sets the difference to whether a word from the first one on is another one than at the last time, and remembers
   * what it is now.
   */
  #compare(first: number): Wasm {
    const body = new WasmBody();
    const at = body.variable();
    const [sum, now] = [at.local + 1, at.local + 2];
    const { code } = body;
    const copy = (this.#from + HEAD) * 4;
    const load = (offset: number) => {
      code.push(0x20, at.local, 0x29, 2); // local.get, i64.load
      unsigned(code, offset);
    };
    // Of an odd number the last pair has one more, which is copied along.
    const pairs = (this.#watched - first + 1) >>> 1;
    if (pairs > 0) {
      body.assign(at, constant(first * 4));
      code.push(0x03, 0x40); // loop
      load(0);
      code.push(0x22, now); // local.tee
      load(copy);
      code.push(0x85, 0x20, sum, 0x84, 0x21, sum); // i64.xor, i64.or
      code.push(0x20, at.local, 0x20, now, 0x37, 2); // i64.store
      unsigned(code, copy);
      code.push(0x20, at.local, 0x41, 8, 0x6a, 0x22, at.local, 0x41); // i32.add, local.tee
      signed(code, first * 4 + pairs * 8);
      code.push(0x49, 0x0d, 0, 0x0b); // i32.lt_u, br_if
    }
    code.push(0x41, 0, 0x20, sum, 0x42, 0, 0x52, 0x36, 2); // i64.ne, i32.store
    unsigned(code, (this.#from + DIFFERENCE) * 4);
    return functionOf('times', 2, code, { i64: 2 });
  }

  /** What depends on movers is not to be taken for what it was once they have moved without it being computed. */
  #forget(e: Emitter): void {
    const moving = new Set(this.#clocks.flatMap(({ calm }) => [...calm.movers.keys()]));
    for (const [place, leaves] of this.#program.remembered())
      if (leaves.some((leaf) => moving.has(leaf))) e.store(place, constant(0));
  }

  get #levels(): ReadonlyMap<NodeId, number> {
    return this.#program.layout.derived;
  }

  /**
   * Where the edge before has moved a clock that logic makes, or a reset, that comes first: nothing more is run, and
   * the edges that are left are told, this one among them.
   */
  #stopWhereMoved({ levels, resets, facts }: Calm, reader: Reader, body: WasmBody, e: Emitter): void {
    if (this.#levels.size === 0 || levels.length + resets.length === 0) return;
    const moved = [
      ...levels.map((id) => e.binary('xor', item(reader.get(id), 0), e.load(entry(this.#levels, id), 1))),
      // A reset between two edges is none of either.
      ...resets.map((id) => e.binary('xor', item(reader.computed(id), 0), constant(entry(facts, id)))),
    ];
    body.if(moved.reduce((x, y) => e.binary('or', x, y)));
    body.store(this.#program.layout.left, body.binary('add', { local: 0 }, constant(1)));
    body.assign({ local: 0 }, constant(0));
    body.code.push(0x0c, 2); // br
    body.end();
  }

  /** Behind a full edge that moved a clock which logic makes nothing more is run. */
  #leaveWhereStopped(body: WasmBody): void {
    if (this.#levels.size === 0) return;
    body.if(body.binary('ne', body.load(this.#program.layout.left), constant(NOT_STOPPED)));
    body.assign({ local: 0 }, constant(0));
    body.end();
  }

  /** Puts movers where the copy of all words has them. */
  #copyMovers(e: Emitter): void {
    const { layout, netlist } = this.#program;
    for (const { calm } of this.#clocks)
      for (const node of calm.movers.keys()) {
        const at = entry(layout.registers, node);
        for (let i = 0; i < limbsOf(item(netlist.nodes, node).width); i++)
          e.store(this.#from + HEAD + at + i, e.load(at + i));
      }
  }

  #stopAll(e: Emitter): void {
    for (const { state } of this.#clocks) e.store(state, constant(0));
  }

  /** One edge in full; it finds out whether the next ones may be calm ones. */
  #full(clock: Clock): Wasm {
    const { calm, kept, state } = clock;
    const body = new WasmBody();
    const e = new Lean(body);
    const waits = state + 2;
    const holds = body.variable();
    this.#forget(e);
    e.store(this.#from + FULL_EDGES, e.binary('add', e.load(this.#from + FULL_EDGES), constant(1)));
    const wait = e.load(waits);
    e.if(e.isZero(wait));
    const reader = readerOf(this.#program, calm, e, new Map());
    const all = [...this.#factsOf(calm, true), ...this.#factsOf(calm, false)];
    body.assign(holds, e.isZero(this.#emitFacts(all, reader, e)));
    for (const [id, at] of kept) for (const [i, limb] of reader.get(id).entries()) e.store(at + i, limb);
    // Against a copy of long ago nothing would be told.
    e.if(e.binary('and', holds, e.isZero(e.load(this.#from + COPIED))));
    this.#call(body, COMPARE_ALL);
    e.end();
    e.end();
    body.code.push(0x41, 1, 0x10);
    unsigned(body.code, this.#clocks.indexOf(clock));
    if (this.#levels.size > 0) {
      // Of the edges that are left it knows one.
      const { left } = this.#program.layout;
      body.if(body.binary('ne', body.load(left), constant(NOT_STOPPED)));
      body.store(left, { local: 0 });
      body.end();
    }
    this.#judge(clock, holds, body);
    return functionOf('times', body.locals, body.code);
  }

  /** Behind a full edge: whether the next ones may be calm, and whether it is worth to look at them. */
  #judge({ state }: Clock, holds: Local, body: WasmBody): void {
    const [tries, waits] = [state + 1, state + 2];
    const after = new Lean(body);
    const again = after.load(waits);
    after.if(again);
    after.store(waits, after.binary('sub', again, constant(1)));
    after.end();
    const isCalm = body.variable();
    after.if(holds);
    this.#copyMovers(after);
    this.#call(body, COMPARE_ALL);
    body.assign(isCalm, after.isZero(after.load(this.#from + DIFFERENCE)));
    after.end();
    after.store(this.#from + COPIED, holds);
    // What was written, and where to, is known only where the facts hold.
    after.if(after.isZero(isCalm));
    this.#stopAll(after);
    after.end();
    after.store(state, isCalm);
    after.if(after.isZero(again));
    after.if(isCalm);
    after.store(tries, constant(0));
    after.end();
    after.if(after.isZero(isCalm));
    const count = after.binary('add', after.load(tries), constant(1));
    after.store(tries, count);
    after.if(after.binary('eq', count, constant(TRIES)));
    after.store(tries, constant(1));
    after.store(waits, constant(EDGES_NOT_LOOKED_AT));
    after.end();
    after.end();
    after.end();
  }

  /** One edge: a calm one, or in full. Variables hold the movers and whether the clocks' calm edges may go on. */
  #edge(clock: Clock, body: WasmBody, held: Held): void {
    const { calm, kept } = clock;
    const { code } = body;
    code.push(0x02, 0x40, 0x02, 0x40); // block, block
    body.get(entry(held.states, clock));
    code.push(0x45, 0x0d, 0); // i32.eqz, br_if
    const e = this.#lean(body, held);
    const reader = readerOf(this.#program, calm, e, held.movers, kept);
    this.#stopWhereMoved(calm, reader, body, e);
    body.assign(held.other, this.#emitFacts(this.#factsOf(calm, true), reader, e));
    const next = this.#emitNext(clock, reader, body, e, held);
    this.#emitRest(calm.rest, reader, body, e, held.other);
    body.get(held.other);
    code.push(0x0d, 0); // br_if
    this.#emitWrites(calm, reader, e);
    for (const { to, limbs } of next) for (const [i, limb] of limbs.entries()) body.assign(item(to, i), limb);
    code.push(0x0c, 1, 0x0b); // br, end
    this.#put(body, held);
    if (this.#levels.size === 0) code.push(0x41, 1);
    else code.push(0x20, 0);
    code.push(0x10); // call of #full
    unsigned(code, this.#clocks.length + FULL + this.#clocks.indexOf(clock));
    this.#leaveWhereStopped(body);
    this.#take(body, held);
    code.push(0x0b);
  }

  /** What movers take; what one takes only in some case is computed in that case alone. */
  #emitNext({ calm, cases }: Clock, reader: Reader, body: WasmBody, e: Emitter, held: Held): Next[] {
    const next: Next[] = [];
    const byCondition = new Map<NodeId, (Case & { readonly to: readonly Local[] })[]>();
    for (const [node, d] of calm.movers) {
      const to = entry(held.movers, node);
      const only = cases.get(node);
      if (!only) {
        next.push({ to, limbs: this.#taken(d, reader, body, held) });
        continue;
      }
      const limbs = to.map((limb) => {
        const own = body.variable();
        body.assign(own, limb);
        return own;
      });
      next.push({ to, limbs });
      byCondition.set(only.condition, [...(byCondition.get(only.condition) ?? []), { ...only, to: limbs }]);
    }
    for (const [condition, all] of byCondition)
      for (const side of [true, false]) {
        const own = all.filter(({ isIt }) => isIt === side);
        if (own.length === 0) continue;
        const bit = item(reader.get(condition), 0);
        e.if(side ? bit : e.isZero(bit));
        const within = reader.within();
        for (const { to, value } of own)
          for (const [i, limb] of within.get(value).entries()) body.assign(item(to, i), limb);
        e.end();
      }
    return next;
  }

  /** What a mover takes; where it is what stood in another one, a copy, since that may be given its own first. */
  #taken(d: NodeId, reader: Reader, body: WasmBody, held: Held): Value[] {
    return reader.get(d).map((limb) => (held.variables.has(limb) ? body.copy(limb) : limb));
  }

  #emitWrites({ writes }: Calm, reader: Reader, e: Emitter): void {
    const { netlist, layout } = this.#program;
    // Nothing is written before all is read.
    const all = writes.map(({ memory, enable, address, data }) => ({
      memory,
      bits: item(netlist.nodes, address).width,
      isOn: item(reader.get(enable), 0),
      at: reader.get(address),
      word: reader.get(data),
    }));
    const lowering = new Lowering(netlist, layout, e);
    for (const { memory, bits, isOn, at, word } of all) {
      e.if(isOn);
      lowering.memoryWrite(memory, at, bits, word);
      e.end();
    }
  }

  /** Code for so many edges at once that are known to be calm; `count` is used up. */
  #emitLeap({ calm, kept, leap }: Clock, edges: Local, count: Local, body: WasmBody, held: Held): void {
    if (leap === null) return;
    const e = this.#lean(body, held);
    const far = [...leap.counters].map(([node, counter]) => {
      const [to] = entry(held.movers, node);
      return { to: to ?? edges, value: leap.after(to ?? edges, counter, edges, e) };
    });
    for (const { to, value } of far) body.assign(to, value);
    if (leap.stepped.size + calm.writes.length === 0) return;
    body.assign(count, edges);
    body.code.push(0x03, 0x40); // loop
    const inner = this.#lean(body, held);
    const reader = readerOf(this.#program, calm, inner, held.movers, kept);
    const next = [...leap.stepped].map(([node, d]) => ({
      to: entry(held.movers, node),
      limbs: this.#taken(d, reader, body, held),
    }));
    this.#emitWrites(calm, reader, inner);
    for (const { to, limbs } of next) for (const [i, limb] of limbs.entries()) body.assign(item(to, i), limb);
    body.assign(count, body.binary('sub', count, constant(1)));
    body.get(count);
    body.code.push(0x0d, 0, 0x0b); // br_if, end
  }

  /** An emitter that knows how many bits the movers have. */
  #lean(body: WasmBody, held: Held): Lean {
    const e = new Lean(body);
    const { nodes } = this.#program.netlist;
    for (const [node, limbs] of held.movers)
      for (const [i, limb] of limbs.entries()) e.knowOnes(limb, onesOf(item(nodes, node).width, i));
    return e;
  }

  /** The condition under which alone a mover takes another value; null where there is none. */
  #caseOf(calm: Calm, register: NodeId, d: NodeId): Case | null {
    for (let id = d; ; ) {
      const node = item(this.#program.netlist.nodes, id);
      if (node.op !== 'mux' || calm.facts.has(id)) return null;
      const [condition, then, otherwise] = node.args;
      const known = calm.facts.get(condition);
      if (known !== undefined) id = known === 0 ? otherwise : then;
      else if (otherwise === register) return { condition, value: then, isIt: true };
      else return then === register ? { condition, value: otherwise, isIt: false } : null;
    }
  }

  #hold(body: WasmBody, clocks: readonly Clock[]): Held {
    const movers = new Map<NodeId, Local[]>();
    for (const { calm } of clocks)
      for (const node of calm.movers.keys()) {
        const { width } = item(this.#program.netlist.nodes, node);
        movers.set(
          node,
          Array.from({ length: limbsOf(width) }, () => body.variable()),
        );
      }
    return {
      movers,
      variables: new Set<Value>([...movers.values()].flat()),
      states: new Map(clocks.map((clock) => [clock, body.variable()])),
      other: body.variable(),
      idle: body.variable(),
    };
  }

  #take(body: WasmBody, { movers, states }: Held): void {
    for (const [node, limbs] of movers)
      for (const [i, limb] of limbs.entries())
        body.assign(limb, body.load(entry(this.#program.layout.registers, node) + i));
    for (const [{ state }, local] of states) body.assign(local, body.load(state));
  }

  #put(body: WasmBody, { movers }: Held): void {
    for (const [node, limbs] of movers)
      for (const [i, limb] of limbs.entries()) body.store(entry(this.#program.layout.registers, node) + i, limb);
  }

  /** Inputs that were set meanwhile are seen before anything is run. */
  #begin(body: WasmBody, held: Held): void {
    this.#call(body, COMPARE_INPUTS);
    body.if(body.load(this.#from + DIFFERENCE));
    this.#stopAll(body);
    body.end();
    this.#take(body, held);
  }

  #finish(body: WasmBody, held: Held): void {
    this.#put(body, held);
    this.#copyMovers(body);
    this.#forget(body);
  }

  #run(clock: Clock): Wasm {
    const body = new WasmBody();
    const times: Local = { local: 0 };
    const held = this.#hold(body, [clock]);
    const [edges, count] = [body.variable(), body.variable()];
    this.#begin(body, held);
    // block loop: leave when nothing is left to run
    body.code.push(0x02, 0x40, 0x03, 0x40, 0x20, 0, 0x45, 0x0d, 1);
    if (clock.leap !== null) {
      body.code.push(0x02, 0x40); // block
      this.#mayLeap([clock], body, held);
      const e = this.#lean(body, held);
      const span = clock.leap.span(
        readerOf(this.#program, clock.calm, e, held.movers, clock.kept),
        e,
        body,
        this.#levels,
      );
      body.assign(edges, e.select(e.binary('ltu', span, times), span, times));
      this.#unlessFew(body.binary('ltu', edges, constant(LEAST_LEAP)), body, held);
      this.#emitLeap(clock, edges, count, body, held);
      body.assign(times, body.binary('sub', times, edges));
      body.code.push(0x0c, 1, 0x0b); // br, end
    }
    body.assign(times, body.binary('sub', times, constant(1)));
    this.#edge(clock, body, held);
    body.code.push(0x0c, 0, 0x0b, 0x0b);
    this.#finish(body, held);
    return functionOf('times', body.locals, body.code);
  }

  /** Goes behind the block that it is in where calm edges may not go on, or shortly after it was of no use. */
  #mayLeap(clocks: readonly Clock[], body: WasmBody, held: Held): void {
    for (const clock of clocks) {
      body.get(entry(held.states, clock));
      body.code.push(0x45, 0x0d, 0); // i32.eqz, br_if
    }
    body.if(held.idle);
    body.assign(held.idle, body.binary('sub', held.idle, constant(1)));
    body.code.push(0x0c, 1); // br
    body.end();
  }

  #unlessFew(isFew: Value, body: WasmBody, held: Held): void {
    body.if(isFew);
    body.assign(held.idle, constant(IDLE_EDGES));
    body.code.push(0x0c, 1);
    body.end();
  }

  #turns(a: Clock, b: Clock): Wasm {
    const body = new WasmBody();
    body.locals = TURNS.length + TURNS_OWN.length;
    const held = this.#hold(body, [a, b]);
    this.#begin(body, held);
    byTurns(
      body,
      () => this.#edge(a, body, held),
      () => this.#edge(b, body, held),
      () => this.#leapBoth(a, b, body, held),
    );
    this.#finish(body, held);
    return functionOf('turns', body.locals, body.code, { f64: TURNS_OWN.length });
  }

  /** As many edges of both at once as come before the first one of either that may not be calm. */
  #leapBoth(a: Clock, b: Clock, body: WasmBody, held: Held): void {
    if (a.leap === null || b.leap === null || !isApart(a, b) || !isApart(b, a)) return;
    const { code } = body;
    const [leftA, leftB, dueA, stepA, dueB, stepB] = TURNS;
    const [until, other] = TURNS_OWN;
    const count = body.variable();
    const sides = [
      { clock: a, leap: a.leap, left: leftA, due: dueA, step: stepA, until, edges: body.variable() },
      { clock: b, leap: b.leap, left: leftB, due: dueB, step: stepB, until: other, edges: body.variable() },
    ];
    code.push(0x02, 0x40); // block
    this.#mayLeap([a, b], body, held);
    for (const { clock, leap, left, due, step, until: end, edges } of sides) {
      const e = this.#lean(body, held);
      const span = leap.span(readerOf(this.#program, clock.calm, e, held.movers, clock.kept), e, body, this.#levels);
      body.assign(edges, e.select(e.binary('ltu', span, { local: left }), span, { local: left }));
      // when its first edge comes that may be another one: for ever where none is left
      code.push(0x44, 0, 0, 0, 0, 0, 0, 0xf0, 0x7f); // f64.const infinity
      code.push(0x20, due);
      body.get(edges);
      code.push(0xb8, 0x20, step, 0xa2, 0xa0); // f64.convert_i32_u, f64.mul, f64.add
      body.get(edges);
      code.push(0x20, left, 0x46, 0x1b, 0x21, end); // i32.eq, select
    }
    code.push(0x20, until, 0x20, other, 0xa4, 0x21, until); // f64.min
    for (const { due, step, edges } of sides) {
      code.push(0x20, until, 0x20, due, 0xa1, 0x20, step, 0xa3, 0xfc, 3); // f64.sub, f64.div, i32.trunc_sat_f64_u
      body.assign(count, body.taken());
      body.assign(edges, body.select(body.binary('ltu', count, edges), count, edges));
    }
    const all = sides.map(({ edges }) => edges);
    const sum = all.reduce<Value>((x, y) => body.binary('add', x, y), constant(0));
    this.#unlessFew(body.binary('ltu', sum, constant(LEAST_LEAP)), body, held);
    for (const { clock, left, due, step, edges } of sides) {
      body.if(edges);
      this.#emitLeap(clock, edges, count, body, held);
      body.assign({ local: left }, body.binary('sub', { local: left }, edges));
      code.push(0x20, due);
      body.get(edges);
      code.push(0xb8, 0x20, step, 0xa2, 0xa0, 0x21, due);
      body.end();
    }
    code.push(0x0c, 1, 0x0b); // br, end
  }
}

/** Whether what is done at a clock's calm edges has nothing to do with another one's. */
function isApart({ leap, calm }: Clock, other: Clock): boolean {
  if (leap === null) return false;
  const written = new Set(other.calm.writes.map(({ memory }) => memory));
  return (
    ![...other.calm.movers.keys()].some((node) => leap.reads.has(node)) &&
    ![...leap.memories, ...calm.writes.map(({ memory }) => memory)].some((memory) => written.has(memory))
  );
}

/** What is kept in variables while edges are run. */
interface Held {
  readonly movers: ReadonlyMap<NodeId, readonly Local[]>;
  /** All of these. */
  readonly variables: ReadonlySet<Value>;
  readonly states: ReadonlyMap<Clock, Local>;
  /** Whether an edge is another one than a calm one. */
  readonly other: Local;
  /** Edges in which it is not asked how many could be made at once. */
  readonly idle: Local;
}

/** What a mover's variables take. */
interface Next {
  readonly to: readonly Local[];
  readonly limbs: readonly Value[];
}
