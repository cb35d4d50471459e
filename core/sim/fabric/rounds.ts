// Edges of many clocks in the order in which they are due, some of them at the same moment, in one function.
import { numberAt } from '../../lists.ts';
import type { Emitter } from './emitter.ts';
import { Lean } from './lean.ts';
import { WasmBody } from './wasm-body.ts';
import { functionOf, moduleOf, unsigned } from './wasm-module.ts';

/** Edges at one moment, by the places of their trains, and what they do. */
interface Moment {
  readonly trains: readonly number[];
  readonly body: (e: Emitter) => void;
}

/**
 * Some trains keep time with each other: what is due of them at one moment comes at once, and all moments that occur
 * are given. The others come one by one, each ahead of what is due later alone.
 */
export interface Rounds {
  readonly moments: readonly Moment[];
  readonly alone: readonly Moment[];
}

/** 64-bit words of memory that so many trains take: until when, then when each is due and how far apart. */
export const roundWords = (trains: number): number => 1 + 2 * trains;

const [F64_LOAD, F64_STORE] = [0x2b, 0x39];

/**
 * A module that exports `run` (times: i32, not looked at) and imports `env.memory` and `env.round`. From `address` on,
 * in 64-bit words, memory has until when edges are made, then for each train when it is due next and how far apart its
 * edges are; when each is due is kept there.
 */
export function emitRounds({ moments, alone }: Rounds, trains: number, address: number): Uint8Array<ArrayBuffer> {
  const body = new WasmBody(() => 0);
  const { code } = body;
  const [end, first, firstAlone] = [1, 2, 3];
  const due = (train: number) => firstAlone + 1 + 2 * train;
  const step = (train: number) => due(train) + 1;
  const doubles = 3 + 2 * trains;
  body.locals = 1 + doubles;
  const memory = (opcode: number, word: number) => {
    code.push(opcode, 3);
    unsigned(code, (address + word) * 8);
  };
  const get = (local: number) => {
    code.push(0x20);
    unsigned(code, local);
  };
  const set = (local: number) => {
    code.push(0x21);
    unsigned(code, local);
  };
  const places = [end, ...Array.from({ length: trains }, (_, i) => [due(i), step(i)]).flat()];
  for (const [word, local] of places.entries()) {
    code.push(0x41, 0);
    memory(F64_LOAD, word);
    set(local);
  }
  const least = (of: readonly number[], to: number) => {
    code.push(0x44, 0, 0, 0, 0, 0, 0, 0xf0, 0x7f); // f64.const infinity
    for (const train of of) {
      get(due(train));
      code.push(0xa4); // f64.min
    }
    set(to);
  };
  const goOn = (train: number) => {
    get(due(train));
    get(step(train));
    code.push(0xa0); // f64.add
    set(due(train));
  };
  const timed = [...new Set(moments.flatMap(({ trains: of }) => of))];
  body.block();
  body.loop();
  least(timed, first);
  if (alone.length > 0) {
    least(
      alone.map(({ trains: [train] }) => train ?? 0),
      firstAlone,
    );
    get(firstAlone);
    get(first);
    code.push(0x63, 0x04, 0x40); // f64.lt, if
    leaveBehind(firstAlone, 2);
    for (const {
      trains: [train = 0],
      body: write,
    } of alone) {
      get(due(train));
      get(firstAlone);
      code.push(0x61, 0x04, 0x40); // f64.eq, if
      goOn(train);
      write(new Lean(body));
      body.branch(2);
      body.end();
    }
    body.end();
  }
  leaveBehind(first, 1);
  // A bit for each train that is due now.
  const mask = body.variable();
  code.push(0x41, 0);
  for (const [bit, train] of timed.entries()) {
    get(due(train));
    get(first);
    code.push(0x61, 0x41, bit, 0x74, 0x72); // f64.eq, i32.const, i32.shl, i32.or
  }
  set(mask.local);
  for (const { trains: of, body: write } of moments) {
    const bits = of.reduce((sum, train) => sum | (1 << timed.indexOf(train)), 0);
    body.if(body.binary('eq', mask, { constant: bits }));
    for (const train of of) goOn(train);
    write(new Lean(body));
    body.branch(1);
    body.end();
  }
  body.end();
  body.end();
  for (let train = 0; train < trains; train++) {
    code.push(0x41, 0);
    get(due(train));
    memory(F64_STORE, 1 + 2 * train);
  }
  return moduleOf([functionOf('times', body.locals, code, { f64: doubles })], new Map([['run', 1]]), ['round']);

  function leaveBehind(local: number, out: number): void {
    get(local);
    get(end);
    code.push(0x64, 0x0d, out); // f64.gt, br_if
  }
}

/** The same, one by one: which moments come, in their order, up to a time; `next` is where each train then stands. */
export function* byRounds(
  { moments, alone }: { readonly moments: readonly (readonly number[])[]; readonly alone: readonly number[] },
  next: number[],
  step: readonly number[],
  until: number,
): Generator<readonly number[]> {
  const timed = [...new Set(moments.flat())];
  const at = (train: number) => numberAt(next, train);
  for (;;) {
    const first = Math.min(...timed.map(at));
    const other = Math.min(...alone.map(at));
    const now = Math.min(first, other);
    if (now > until || now === Number.POSITIVE_INFINITY) return;
    const due =
      other < first ? [alone.find((train) => at(train) === other) ?? 0] : timed.filter((t) => at(t) === first);
    for (const train of due) next[train] = at(train) + numberAt(step, train);
    yield due;
  }
}
