// Code for edges at which only a few registers change: those are kept in variables, and as long as all that was assumed
// holds nothing else is computed. The first edge that is another one is run in full.
import { entry, item } from '../../lists.ts';
import type { NodeId } from '../../netlist/index.ts';
import type { Calm, Rest } from './assume.ts';
import { type CalmClock, type CalmPlan, type Case, isApart } from './calm-plan.ts';
import type { Program } from './compile.ts';
import { constant, type Emitter, type Value } from './emitter.ts';
import { FullEdges } from './full-edges.ts';
import { limbsOf } from './layout.ts';
import type { Leap } from './leap.ts';
import { Lean } from './lean.ts';
import { Lowering, onesOf } from './lower.ts';
import { factsOf, type Reader, readerOf } from './reader.ts';
import { byTurns, type ManyEdges, spanOfBoth, turnsBody, turnsOf } from './turns.ts';
import { WasmBody } from './wasm-body.ts';
import { functionOf, moduleOf, type Wasm } from './wasm-module.ts';

/** Fewer edges are not worth to be made at once; then it is not asked for some. */
const LEAST_LEAP = 4;
const IDLE_EDGES = 2;

/** So many edges one behind the other: what is only passed on from register to register stays where it is meanwhile. */
const IN_A_ROW = 4;

type Local = { readonly local: number };

/** How many edges are to be run, the parameter of a function that runs them, where they are counted down. */
const TIMES: Local = { local: 0 };

/**
 * A module that exports for each clock of a plan `run` and its number (times: i32), and for each two of them `turns` and
 * their numbers, as `emitByTurns` has it. It imports for each clock `edge` and its number, which makes edges in full with
 * what they set off, and `round`.
 */
export function calmModule(program: Program, plan: CalmPlan): Uint8Array<ArrayBuffer> {
  const full = new FullEdges(program, plan);
  const code = new CalmCode(program, full);
  const functions = full.functions();
  const names = new Map<string, number>();
  const add = (name: string, one: Wasm) => names.set(name, full.imported.length + functions.push(one) - 1);
  for (const clock of plan.clocks) add(`run${clock.domain}`, code.run(clock));
  for (const { a, b } of pairsOf(plan)) add(`turns${a.domain} ${b.domain}`, code.turns(a, b));
  return moduleOf(functions, names, full.imported);
}

/** Clocks that are run by turns. */
export const pairsOf = ({ clocks }: CalmPlan): { readonly a: CalmClock; readonly b: CalmClock }[] =>
  clocks.flatMap((a) => clocks.flatMap((b) => (a === b ? [] : [{ a, b }])));

class CalmCode {
  readonly #program: Program;
  readonly #full: FullEdges;

  constructor(program: Program, full: FullEdges) {
    this.#program = program;
    this.#full = full;
  }

  run(clock: CalmClock): Wasm {
    const body = new WasmBody();
    const held = this.#hold(body, [clock]);
    const edges = body.variable();
    this.#begin(body, held);
    body.block();
    body.loop();
    body.branchUnless(TIMES, 1);
    if (clock.leap !== null) {
      body.block();
      this.#mayLeap([clock], body, held);
      const { span, make } = this.#many(clock, body, held);
      const most = span();
      body.assign(edges, body.select(body.binary('ltu', most, TIMES), most, TIMES));
      this.#unlessFew(edges, body, held);
      make(edges);
      body.assign(TIMES, body.binary('sub', TIMES, edges));
      body.branch(1);
      body.end();
    }
    body.assign(TIMES, body.binary('sub', TIMES, constant(1)));
    this.#edge(clock, body, held);
    body.branch(0);
    body.end();
    body.end();
    this.#finish(body, held);
    return functionOf('times', body.locals, body.code);
  }

  turns(a: CalmClock, b: CalmClock): Wasm {
    const body = turnsBody();
    const held = this.#hold(body, [a, b]);
    this.#begin(body, held);
    byTurns(
      body,
      () => this.#edge(a, body, held),
      () => this.#edge(b, body, held),
      () => this.#leapBoth(a, b, body, held),
    );
    this.#finish(body, held);
    return turnsOf(body);
  }

  #leapBoth(a: CalmClock, b: CalmClock, body: WasmBody, held: Held): void {
    if (a.leap === null || b.leap === null || !isApart(a, b) || !isApart(b, a)) return;
    body.block();
    this.#mayLeap([a, b], body, held);
    const { all, make } = spanOfBoth(body, [this.#many(a, body, held), this.#many(b, body, held)]);
    this.#unlessFew(all, body, held);
    make();
    body.branch(1);
    body.end();
  }

  /** Many edges of a clock at once. */
  #many(clock: CalmClock, body: WasmBody, held: Held): ManyEdges {
    return {
      span: () => {
        const e = this.#lean(body, held);
        const reader = readerOf(this.#program, clock.calm, e, held.movers, clock.kept);
        return clock.leap?.span(reader, e, body, this.#levels) ?? constant(0);
      },
      make: (edges) => this.#emitLeap(clock, edges, body, held),
    };
  }

  /** Goes behind the block that it is in where calm edges may not go on, or shortly after it was of no use. */
  #mayLeap(clocks: readonly CalmClock[], body: WasmBody, held: Held): void {
    for (const clock of clocks) body.branchUnless(entry(held.states, clock), 0);
    body.if(held.idle);
    body.assign(held.idle, body.binary('sub', held.idle, constant(1)));
    body.branch(1);
    body.end();
  }

  #unlessFew(edges: Value, body: WasmBody, held: Held): void {
    body.if(body.binary('ltu', edges, constant(LEAST_LEAP)));
    body.assign(held.idle, constant(IDLE_EDGES));
    body.branch(1);
    body.end();
  }

  #begin(body: WasmBody, held: Held): void {
    this.#full.lookAtInputs(body);
    this.#take(body, held);
  }

  #finish(body: WasmBody, held: Held): void {
    this.#put(body, held);
    this.#full.copyMovers(body);
    this.#full.forget(body);
  }

  /** One edge: a calm one, or in full. Variables hold the movers and whether the clocks' calm edges may go on. */
  #edge(clock: CalmClock, body: WasmBody, held: Held): void {
    const { calm, kept } = clock;
    body.block();
    body.block();
    body.branchUnless(entry(held.states, clock), 0);
    this.#followWhereMoved(clock, body, held);
    const e = this.#lean(body, held);
    const reader = readerOf(this.#program, calm, e, held.movers, kept);
    const facts = [...calm.checked].filter((id) => calm.moving.has(id));
    body.assign(held.other, factsOf(calm, facts, reader, e));
    const next = this.#emitNext(clock, reader, body, e, held);
    this.#emitRest(calm.rest, reader, body, e, held.other);
    body.branchIf(held.other, 0);
    this.#emitWrites(calm, reader, e);
    assignAll(body, next);
    body.branch(1);
    body.end();
    this.#put(body, held);
    // Another clock's calm edge may have moved a clock that logic makes.
    if (this.#levels.size > 0 && held.states.size > 1) this.#full.round(body);
    body.call(this.#full.numberOf(clock), constant(1));
    this.#take(body, held);
    body.end();
  }

  get #levels(): ReadonlyMap<NodeId, number> {
    return this.#program.layout.derived;
  }

  /** Where the edge before has moved a clock that logic makes, or a reset, that comes first. */
  #followWhereMoved(clock: CalmClock, body: WasmBody, held: Held): void {
    const { levels, resets, facts } = clock.calm;
    if (this.#levels.size === 0 || levels.length + resets.length === 0) return;
    const e = this.#lean(body, held);
    const reader = readerOf(this.#program, clock.calm, e, held.movers, clock.kept);
    const either = (all: readonly Value[]) => all.reduce((x, y) => e.binary('or', x, y), constant(0));
    const clocks = either(
      levels.map((id) => e.binary('xor', item(reader.get(id), 0), e.load(entry(this.#levels, id), 1))),
    );
    // A reset between two edges is none of either.
    const others = either(
      resets.map((id) => e.binary('xor', item(reader.computed(id), 0), constant(entry(facts, id)))),
    );
    body.if(body.binary('or', clocks, others));
    this.#put(body, held);
    this.#full.follow(body, others);
    this.#take(body, held);
    body.branchUnless(entry(held.states, clock), 1);
    body.end();
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

  /** What movers take; what one takes only in some case is computed in that case alone. */
  #emitNext({ calm, cases }: CalmClock, reader: Reader, body: WasmBody, e: Emitter, held: Held): Next[] {
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

  /** So many edges at once that are known to be calm. */
  #emitLeap({ calm, kept, leap }: CalmClock, edges: Local, body: WasmBody, held: Held): void {
    if (leap === null) return;
    const e = this.#lean(body, held);
    const far = [...leap.counters].map(([node, counter]) => {
      const to = entry(held.movers, node);
      return { to, limbs: [leap.after(item(to, 0), counter, edges, e)] };
    });
    assignAll(body, far);
    if (leap.stepped.size + calm.writes.length === 0) return;
    const count = body.variable();
    body.assign(count, edges);
    for (const row of [IN_A_ROW, 1]) {
      body.block();
      body.loop();
      body.branchIf(body.binary('ltu', count, constant(row)), 1);
      for (let i = 0; i < row; i++) this.#emitStep(calm, kept, leap.stepped, body, held);
      body.assign(count, body.binary('sub', count, constant(row)));
      body.branch(0);
      body.end();
      body.end();
    }
  }

  /** One of these edges, of what does not go on by itself. */
  #emitStep(calm: Calm, kept: CalmClock['kept'], stepped: Leap['stepped'], body: WasmBody, held: Held): void {
    const e = this.#lean(body, held);
    const reader = readerOf(this.#program, calm, e, held.movers, kept);
    const next = [...stepped].map(([node, d]) => ({
      to: entry(held.movers, node),
      limbs: this.#taken(d, reader, body, held),
    }));
    this.#emitWrites(calm, reader, e);
    assignAll(body, next);
  }

  /** An emitter that knows how many bits the movers have. */
  #lean(body: WasmBody, held: Held): Lean {
    const e = new Lean(body);
    const { nodes } = this.#program.netlist;
    for (const [node, limbs] of held.movers)
      for (const [i, limb] of limbs.entries()) e.knowOnes(limb, onesOf(item(nodes, node).width, i));
    return e;
  }

  #hold(body: WasmBody, clocks: readonly CalmClock[]): Held {
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
}

function assignAll(body: WasmBody, next: readonly Next[]): void {
  for (const { to, limbs } of next) for (const [i, limb] of limbs.entries()) body.assign(item(to, i), limb);
}

/** What is kept in variables while edges are run. */
interface Held {
  readonly movers: ReadonlyMap<NodeId, readonly Local[]>;
  /** All of these. */
  readonly variables: ReadonlySet<Value>;
  readonly states: ReadonlyMap<CalmClock, Local>;
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
