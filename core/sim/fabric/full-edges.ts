// Edges in full between calm ones: they find out whether the next ones may be calm.
import { entry, item } from '../../lists.ts';
import type { CalmClock, CalmPlan } from './calm-plan.ts';
import type { Program } from './compile.ts';
import { constant, type Emitter, type Value } from './emitter.ts';
import { MOST_ROUNDS } from './follow.ts';
import { limbsOf } from './layout.ts';
import { Lean } from './lean.ts';
import { factsOf, readerOf } from './reader.ts';
import { WasmBody } from './wasm-body.ts';
import { functionOf, signed, unsigned, type Wasm } from './wasm-module.ts';

/** So many full edges in vain, and the next ones are not looked at. */
const TRIES = 6;
const EDGES_NOT_LOOKED_AT = 24;

const ONCE = constant(1);

/**
 * The first functions of a module of calm edges: an edge of each clock and a round of what that sets off, which it
 * imports, then those made here.
 */
export class FullEdges {
  readonly #program: Program;
  readonly #plan: CalmPlan;

  constructor(program: Program, plan: CalmPlan) {
    this.#program = program;
    this.#plan = plan;
  }

  get imported(): readonly string[] {
    return [...this.#plan.clocks.map(({ domain }) => `edge${domain}`), 'round'];
  }

  /** In the order of their numbers, which begin behind those that are imported. */
  functions(): Wasm[] {
    const { clocks, registers } = this.#plan;
    return [this.#compare(0), this.#compare(registers), ...clocks.map((clock) => this.#full(clock))];
  }

  get #first(): number {
    return this.#plan.clocks.length + 1;
  }

  /** The function of a clock's edge in full, and of what it sets off. */
  numberOf(clock: CalmClock): number {
    return this.#first + 2 + this.#plan.clocks.indexOf(clock);
  }

  /** What clocks that logic makes set off where one has moved; where it was more than a level, no edge is calm. */
  follow(body: WasmBody, isOther: Value): void {
    const { disturbed } = this.#program.layout;
    body.store(disturbed, constant(0));
    this.round(body);
    body.if(body.binary('or', body.load(disturbed), isOther));
    body.store(this.#plan.copied, constant(0));
    this.#stopAll(body);
    body.end();
  }

  round(body: WasmBody): void {
    body.call(this.#plan.clocks.length, constant(MOST_ROUNDS));
  }

  #compareAll(body: WasmBody): void {
    body.call(this.#first, ONCE);
  }

  /** Inputs that were set meanwhile are seen before anything is run. */
  lookAtInputs(body: WasmBody): void {
    body.call(this.#first + 1, ONCE);
    body.if(body.load(this.#plan.difference));
    this.#stopAll(body);
    body.end();
  }

  /** Puts movers where the copy of all words has them. */
  copyMovers(e: Emitter): void {
    const { layout, netlist } = this.#program;
    for (const { calm } of this.#plan.clocks)
      for (const node of calm.movers.keys()) {
        const at = entry(layout.registers, node);
        for (let i = 0; i < limbsOf(item(netlist.nodes, node).width); i++)
          e.store(this.#plan.copy + at + i, e.load(at + i));
      }
  }

  /** What depends on movers is not to be taken for what it was once they have moved without it being computed. */
  forget(e: Emitter): void {
    const moving = new Set(this.#plan.clocks.flatMap(({ calm }) => [...calm.movers.keys()]));
    for (const [place, leaves] of this.#program.remembered())
      if (leaves.some((leaf) => moving.has(leaf))) e.store(place, constant(0));
  }

  #stopAll(e: Emitter): void {
    for (const { state } of this.#plan.clocks) e.store(state, constant(0));
  }

  /** Sets the difference to whether a word from the first one on is another one than in the copy, and copies it. */
  #compare(first: number): Wasm {
    const body = new WasmBody();
    const { code } = body;
    const { copy, difference, registersAndInputs: end } = this.#plan;
    const [at, odd] = [body.variable(), body.variable()];
    const pairs = (end - first) >>> 1;
    // Of an odd number the last word is by itself.
    const last = first + 2 * pairs;
    if (last < end) {
      const word = body.load(last);
      body.assign(odd, body.binary('xor', word, body.load(copy + last)));
      body.store(copy + last, word);
    }
    // Two words of 64 bits behind all others: what differed so far, and what is there now.
    const [sum, now] = [body.locals, body.locals + 1];
    const pair = (opcode: number, from: number) => {
      code.push(opcode, 2);
      unsigned(code, from * 4);
    };
    if (pairs > 0) {
      body.assign(at, constant(first * 4));
      body.loop();
      code.push(0x20, at.local);
      pair(0x29, 0); // i64.load
      code.push(0x22, now, 0x20, at.local); // local.tee, local.get
      pair(0x29, copy);
      code.push(0x85, 0x20, sum, 0x84, 0x21, sum, 0x20, at.local, 0x20, now); // i64.xor, i64.or
      pair(0x37, copy); // i64.store
      code.push(0x20, at.local, 0x41, 8, 0x6a, 0x22, at.local, 0x41); // i32.add, local.tee
      signed(code, last * 4);
      code.push(0x49, 0x0d, 0); // i32.lt_u, br_if
      body.end();
    }
    code.push(0x41, 0, 0x20, sum, 0x42, 0, 0x52, 0x20, odd.local, 0x72); // i64.ne, i32.or
    pair(0x36, difference); // i32.store
    return functionOf('times', body.locals, code, { i64: 2 });
  }

  #full(clock: CalmClock): Wasm {
    const { calm, kept, waits } = clock;
    const { copied, fullEdges, clocks } = this.#plan;
    const body = new WasmBody();
    const e = new Lean(body);
    const holds = body.variable();
    this.forget(e);
    e.store(fullEdges, e.binary('add', e.load(fullEdges), ONCE));
    e.if(e.isZero(e.load(waits)));
    const reader = readerOf(this.#program, calm, e, new Map());
    body.assign(holds, e.isZero(factsOf(calm, [...calm.checked], reader, e)));
    for (const [id, at] of kept) for (const [i, limb] of reader.get(id).entries()) e.store(at + i, limb);
    // Against a copy of long ago nothing would be told.
    e.if(e.binary('and', holds, e.isZero(e.load(copied))));
    this.#compareAll(body);
    e.end();
    e.end();
    body.call(clocks.indexOf(clock), ONCE);
    this.#judge(clock, holds, body);
    return functionOf('times', body.locals, body.code);
  }

  /** Behind a full edge: whether the next ones may be calm, and whether it is worth to look at them. */
  #judge({ state, tries, waits }: CalmClock, holds: { readonly local: number }, body: WasmBody): void {
    const { difference, copied } = this.#plan;
    const e = new Lean(body);
    const again = e.load(waits);
    e.if(again);
    e.store(waits, e.binary('sub', again, ONCE));
    e.end();
    const isCalm = body.variable();
    e.if(holds);
    this.copyMovers(e);
    this.#compareAll(body);
    body.assign(isCalm, e.isZero(e.load(difference)));
    e.end();
    e.store(copied, holds);
    // What was written, and where to, is known only where the facts hold.
    e.if(e.isZero(isCalm));
    this.#stopAll(e);
    e.end();
    e.store(state, isCalm);
    e.if(isCalm);
    e.store(tries, constant(0));
    e.end();
    e.if(e.isZero(e.binary('or', again, isCalm)));
    const count = e.binary('add', e.load(tries), ONCE);
    e.store(tries, count);
    e.if(e.binary('eq', count, constant(TRIES)));
    e.store(tries, ONCE);
    e.store(waits, constant(EDGES_NOT_LOOKED_AT));
    e.end();
    e.end();
  }
}
