// Code for edges at which only a few registers change: those are kept in variables, and as long as all that was assumed
// holds nothing else is computed. The first edge that is another one is run in full.
import { entry, item } from '../../lists.ts';
import type { NodeId } from '../../netlist/index.ts';
import { assume, type Calm, type Rest, writesIn } from './assume.ts';
import type { Stillness } from './activity.ts';
import type { Program } from './compile.ts';
import { constant, type Emitter, type Value } from './emitter.ts';
import { limbsOf } from './layout.ts';
import { Lean } from './lean.ts';
import { type Limbs, Lowering, onesOf } from './lower.ts';
import { WasmBody } from './wasm-body.ts';
import { byTurns } from './wasm.ts';
import { functionOf, moduleOf, signed, unsigned, type Wasm } from './wasm-module.ts';

/** So many full edges in vain, and the next ones are not looked at. */
const TRIES = 3;
const EDGES_NOT_LOOKED_AT = 24;

/** Words before the copy of all registers and inputs: what the code itself keeps. */
const HEAD = 64;
const [DIFFERENCE, FULL_EDGES, COPIED, STATES] = [0, 1, 2, 8] as const;
const MOST_CLOCKS = 8;

/** Words that calm edges need beside the design's own. */
export const roomFor = ({ layout, netlist }: Program): number => HEAD + layout.words + netlist.nodes.length;

/** Functions of a module, called by their numbers. */
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
}

/** Code of calm edges for the clocks that have them. */
export class CalmCode {
  readonly #program: Program;
  readonly #from: number;
  readonly #clocks: Clock[] = [];
  readonly #firstDomain: number;
  /** Words of registers, and of inputs behind them, which others may set between two runs. */
  readonly #registers: number;
  readonly #watched: number;

  /** `from`: the first of the words that `roomFor` counts; `firstDomain`: bodies before those of the clocks. */
  constructor(program: Program, stillness: Stillness, from: number, firstDomain: number) {
    this.#program = program;
    this.#from = from;
    this.#firstDomain = firstDomain;
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
      const calm = assume({ netlist, members: item(members, domain), movers, written, knownOf });
      if (calm === null) continue;
      const kept = new Map([...this.#keptOf(calm)].map((id) => [id, take(id)]));
      const state = from + STATES + 3 * this.#clocks.length;
      this.#clocks.push({ domain, calm, kept, state });
    }
    if (next > from + roomFor(program)) this.#clocks.length = 0;
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
   * numbers, as `emitByTurns` has it.
   */
  module(): Uint8Array<ArrayBuffer> {
    const functions: Wasm[] = [
      this.#compare(0),
      this.#compare(this.#registers),
      ...this.#clocks.map((clock) => this.#full(clock)),
    ];
    const names = new Map<string, number>();
    for (const clock of this.#clocks) names.set(`run${clock.domain}`, functions.push(this.#run(clock)) - 1);
    for (const a of this.#clocks)
      for (const b of this.#clocks)
        if (a !== b) names.set(`turns${a.domain} ${b.domain}`, functions.push(this.#turns(a, b)) - 1);
    return moduleOf(functions, names);
  }

  /** Nodes whose values follow from others that are known; of a choice that is known, the one that is taken. */
  #argsOf(id: NodeId, { facts }: Calm): readonly NodeId[] {
    const node = item(this.#program.netlist.nodes, id);
    if (node.op === 'reg') return [];
    if (node.op !== 'mux') return node.args;
    const known = facts.get(node.args[0]);
    return known === undefined ? node.args : [known === 0 ? node.args[2] : node.args[1]];
  }

  /** Nodes that are computed where they are wanted, but for those that do not move: these are kept. */
  #keptOf(calm: Calm): Set<NodeId> {
    const { facts, checked, movers, writes, moving } = calm;
    const seen = new Set<NodeId>();
    const kept = new Set<NodeId>();
    const open: NodeId[] = [...nodesOf(calm.rest), ...movers.values()];
    for (const { enable, address, data } of writes) open.push(enable, address, data);
    for (const id of checked) if (moving.has(id)) open.push(...this.#argsOf(id, calm));
    for (let id = open.pop(); id !== undefined; id = open.pop()) {
      if (seen.has(id) || facts.has(id)) continue;
      seen.add(id);
      const { op } = item(this.#program.netlist.nodes, id);
      if (moving.has(id)) open.push(...this.#argsOf(id, calm));
      else if (op !== 'reg' && op !== 'input' && op !== 'const') kept.add(id);
    }
    return kept;
  }

  /**
   * A way to nodes' values, each computed when it is first asked for, or read where it is kept; what is a fact is taken
   * for granted.
   */
  #reader(
    calm: Calm,
    e: Emitter,
    given: ReadonlyMap<NodeId, Limbs>,
    kept: ReadonlyMap<NodeId, number> = new Map(),
  ): Reader {
    const { netlist, layout } = this.#program;
    const lowering = new Lowering(netlist, layout, e);
    const values = new Map(given);
    const own = (id: NodeId): Limbs => {
      const node = item(netlist.nodes, id);
      const [chosen] = this.#argsOf(id, calm);
      const isChosen = node.op === 'mux' && calm.facts.has(node.args[0]) && chosen !== undefined;
      return given.get(id) ?? (isChosen ? entry(values, chosen) : lowering.node(id, (arg) => entry(values, arg)));
    };
    const ask = (ids: readonly NodeId[]) => {
      const wanted = new Set<NodeId>();
      const open = [...ids];
      for (let id = open.pop(); id !== undefined; id = open.pop()) {
        if (values.has(id) || wanted.has(id)) continue;
        const fact = calm.facts.get(id);
        const place = kept.get(id);
        if (fact !== undefined) values.set(id, [constant(fact)]);
        else if (place !== undefined) values.set(id, lowering.loadWord(place, item(netlist.nodes, id).width));
        else {
          wanted.add(id);
          open.push(...this.#argsOf(id, calm));
        }
      }
      for (const id of [...wanted].sort((a, b) => a - b)) values.set(id, own(id));
    };
    return {
      within: () => this.#reader(calm, e, values, kept),
      get: (id) => {
        ask([id]);
        return entry(values, id);
      },
      computed: (id) => {
        ask(this.#argsOf(id, calm));
        return own(id);
      },
    };
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
    return functionOf('times', 2, code, 2);
  }

  /** What depends on movers is not to be taken for what it was once they have moved without it being computed. */
  #forget(e: Emitter): void {
    const moving = new Set(this.#clocks.flatMap(({ calm }) => [...calm.movers.keys()]));
    for (const [place, leaves] of this.#program.remembered())
      if (leaves.some((leaf) => moving.has(leaf))) e.store(place, constant(0));
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
  #full({ domain, calm, kept, state }: Clock): Wasm {
    const body = new WasmBody();
    const e = new Lean(body);
    const [tries, waits] = [state + 1, state + 2];
    const holds = body.variable();
    this.#forget(e);
    e.store(this.#from + FULL_EDGES, e.binary('add', e.load(this.#from + FULL_EDGES), constant(1)));
    const wait = e.load(waits);
    e.if(e.isZero(wait));
    const reader = this.#reader(calm, e, new Map());
    const all = [...this.#factsOf(calm, true), ...this.#factsOf(calm, false)];
    body.assign(holds, e.isZero(this.#emitFacts(all, reader, e)));
    for (const [id, at] of kept) for (const [i, limb] of reader.get(id).entries()) e.store(at + i, limb);
    e.end();
    item(this.#program.bodies, this.#firstDomain + domain)(new Lean(body));
    const after = new Lean(body);
    const again = after.load(waits);
    after.if(again);
    after.store(waits, after.binary('sub', again, constant(1)));
    after.store(this.#from + COPIED, constant(0));
    this.#stopAll(after);
    after.end();
    after.if(after.isZero(again));
    this.#copyMovers(after);
    body.code.push(0x41, 1, 0x10, COMPARE_ALL);
    const isSame = after.isZero(after.load(this.#from + DIFFERENCE));
    // Against a copy of long ago nothing is told.
    const isCalm = after.binary('and', after.binary('and', holds, isSame), after.load(this.#from + COPIED));
    after.store(this.#from + COPIED, constant(1));
    // What was written, and where to, is known only where the facts hold.
    after.if(after.isZero(isCalm));
    this.#stopAll(after);
    after.end();
    after.store(state, isCalm);
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
    return functionOf('times', body.locals, body.code);
  }

  /** One edge: a calm one, or in full. Variables hold the movers and whether the clocks' calm edges may go on. */
  #edge(clock: Clock, body: WasmBody, held: Held): void {
    const { calm, kept } = clock;
    const { code } = body;
    code.push(0x02, 0x40, 0x02, 0x40); // block, block
    body.get(entry(held.states, clock));
    code.push(0x45, 0x0d, 0); // i32.eqz, br_if
    const e = new Lean(body);
    const lowering = new Lowering(this.#program.netlist, this.#program.layout, e);
    const widthOf = (id: NodeId) => item(this.#program.netlist.nodes, id).width;
    for (const [node, limbs] of held.movers)
      for (const [i, limb] of limbs.entries()) e.knowOnes(limb, onesOf(widthOf(node), i));
    const reader = this.#reader(calm, e, held.movers, kept);
    body.assign(held.other, this.#emitFacts(this.#factsOf(calm, true), reader, e));
    for (const d of calm.movers.values()) reader.get(d);
    this.#emitRest(calm.rest, reader, body, e, held.other);
    body.get(held.other);
    code.push(0x0d, 0); // br_if
    // Nothing is written before all is read.
    const writes = calm.writes.map(({ memory, enable, address, data }) => ({
      memory,
      bits: widthOf(address),
      isOn: item(reader.get(enable), 0),
      at: reader.get(address),
      word: reader.get(data),
    }));
    for (const { memory, bits, isOn, at, word } of writes) {
      e.if(isOn);
      lowering.memoryWrite(memory, at, bits, word);
      e.end();
    }
    // A register may take what stood in another one.
    const variables = new Set<Value>([...held.movers.values()].flat());
    const next = [...calm.movers].map(([node, d]) => ({
      to: entry(held.movers, node),
      limbs: reader.get(d).map((limb) => (variables.has(limb) ? body.copy(limb) : limb)),
    }));
    for (const { to, limbs } of next) for (const [i, limb] of limbs.entries()) body.assign(item(to, i), limb);
    code.push(0x0c, 1, 0x0b); // br, end
    this.#put(body, held);
    code.push(0x41, 1, 0x10); // call of #full
    unsigned(code, FULL + this.#clocks.indexOf(clock));
    this.#take(body, held);
    code.push(0x0b);
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
    return { movers, states: new Map(clocks.map((clock) => [clock, body.variable()])), other: body.variable() };
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
    body.code.push(0x41, 1, 0x10, COMPARE_INPUTS);
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
    const held = this.#hold(body, [clock]);
    this.#begin(body, held);
    // block loop: leave when parameter 0 is 0, else count it down
    body.code.push(0x02, 0x40, 0x03, 0x40, 0x20, 0, 0x45, 0x0d, 1, 0x20, 0, 0x41, 1, 0x6b, 0x21, 0);
    this.#edge(clock, body, held);
    body.code.push(0x0c, 0, 0x0b, 0x0b);
    this.#finish(body, held);
    return functionOf('times', body.locals, body.code);
  }

  #turns(a: Clock, b: Clock): Wasm {
    const body = new WasmBody();
    body.locals = 6;
    const held = this.#hold(body, [a, b]);
    this.#begin(body, held);
    byTurns(
      body,
      () => this.#edge(a, body, held),
      () => this.#edge(b, body, held),
    );
    this.#finish(body, held);
    return functionOf('turns', body.locals, body.code);
  }
}

/** What is kept in variables while edges are run. */
interface Held {
  readonly movers: ReadonlyMap<NodeId, readonly Local[]>;
  readonly states: ReadonlyMap<Clock, Local>;
  /** Whether an edge is another one than a calm one. */
  readonly other: Local;
}

interface Reader {
  /** The same for code that is not always run: what is computed there is not known behind it. */
  readonly within: () => Reader;
  readonly get: (id: NodeId) => Limbs;
  /** A fact as it is, not as it is taken for. */
  readonly computed: (id: NodeId) => Limbs;
}

/** All nodes that are compared or decide what is. */
function nodesOf({ same, choices }: Rest): NodeId[] {
  const inner = [...choices].flatMap(([condition, { yes, no }]) => [condition, ...nodesOf(yes), ...nodesOf(no)]);
  return [...same.flat(), ...inner];
}
