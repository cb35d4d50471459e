// Edges of two clocks in the order in which they are due, in one function.
import type { Emitter, Value } from './emitter.ts';
import { Lean } from './lean.ts';
import { WasmBody } from './wasm-body.ts';
import { functionOf, moduleOf, type Wasm } from './wasm-module.ts';

/** One of the two clocks: the locals of how often it is still to run, of when it is next due, and of how far apart. */
interface Side {
  readonly left: number;
  readonly due: number;
  readonly step: number;
}

/** The function's parameters: how often each (i32), then when and how far apart, of the first and of the second (f64). */
const SIDES: readonly [Side, Side] = [
  { left: 0, due: 2, step: 3 },
  { left: 1, due: 4, step: 5 },
];
const PARAMETERS = 6;
/** The number of what is run from both. */
const FIRST_IMPORTED = 0;
/** Locals in floating point beside them: until when nothing is to be asked of each. */
const ENDS = [6, 7] as const;

/**
 * A module that imports its memory as `env.memory` and exports `run`, which makes two bodies by turns, in the order in
 * which their edges are due. Of two edges that are due together the first body's comes first. It imports `env.round`,
 * which is run from both.
 */
export function emitByTurns(first: (e: Emitter) => void, second: (e: Emitter) => void): Uint8Array<ArrayBuffer> {
  const body = turnsBody(() => FIRST_IMPORTED);
  byTurns(
    body,
    () => first(new Lean(body)),
    () => second(new Lean(body)),
  );
  return moduleOf([turnsOf(body)], new Map([['run', 1]]), ['round']);
}

/** The body of a function that takes turns, before anything is in it. */
export function turnsBody(functionOf?: (body: number) => number): WasmBody {
  const body = new WasmBody(functionOf);
  body.locals = PARAMETERS + ENDS.length;
  return body;
}

export const turnsOf = (body: WasmBody): Wasm => functionOf('turns', body.locals, body.code, { f64: ENDS.length });

/**
 * The loop of a function that takes turns: each of the two writes one of its edges; `ahead` what comes before either,
 * and may go on with the next round by a branch out of its own block and one more.
 */
export function byTurns(body: WasmBody, first: () => void, second: () => void, ahead?: () => void): void {
  const [a, b] = SIDES;
  const { code } = body;
  body.block();
  body.loop();
  // nothing is left of either
  code.push(0x20, a.left, 0x20, b.left, 0x72); // i32.or
  code.push(0x45, 0x0d, 1); // i32.eqz, br_if
  ahead?.();
  // the first one's turn: it has edges left, and the second has none or comes later
  code.push(0x20, a.left, 0x41, 0, 0x47, 0x20, b.left, 0x45, 0x20, a.due, 0x20, b.due, 0x65, 0x72, 0x71);
  code.push(0x04, 0x40); // if
  first();
  goOn(body, a, { constant: 1 });
  code.push(0x05); // else
  second();
  goOn(body, b, { constant: 1 });
  body.end();
  body.branch(0);
  body.end();
  body.end();
}

/** So many edges of a clock have been made. */
function goOn(body: WasmBody, { left, due, step }: Side, edges: Value): void {
  body.code.push(0x20, due);
  body.get(edges);
  body.code.push(0xb8, 0x20, step, 0xa2, 0xa0, 0x21, due); // f64.convert_i32_u, f64.mul, f64.add
  body.assign({ local: left }, body.binary('sub', { local: left }, edges));
}

/**
 * Cuts how many edges of each clock are made at once, given in `edges`, to those before the first one of either that is
 * not among them.
 */
function cutToFirst(body: WasmBody, edges: readonly { readonly local: number }[]): void {
  const { code } = body;
  for (const [i, { left, due, step }] of SIDES.entries()) {
    const own = edges[i] ?? { constant: 0 };
    code.push(0x44, 0, 0, 0, 0, 0, 0, 0xf0, 0x7f); // f64.const infinity, where it has no other edge
    code.push(0x20, due);
    body.get(own);
    code.push(0xb8, 0x20, step, 0xa2, 0xa0);
    body.get(own);
    code.push(0x20, left, 0x46, 0x1b, 0x21, ENDS[i] ?? 0); // i32.eq, select
  }
  code.push(0x20, ENDS[0], 0x20, ENDS[1], 0xa4, 0x21, ENDS[0]); // f64.min
  for (const [i, { due, step }] of SIDES.entries()) {
    const own = edges[i];
    if (!own) continue;
    code.push(0x20, ENDS[0], 0x20, due, 0xa1, 0x20, step, 0xa3, 0xfc, 3); // f64.sub, f64.div, i32.trunc_sat_f64_u
    const before = body.taken();
    body.assign(own, body.select(body.binary('ltu', before, own), before, own));
  }
}

/** Many edges of both at once: as many as each of them says, made by each. */
export interface ManyEdges {
  /** How many edges of this clock could be made. */
  readonly span: () => Value;
  readonly make: (edges: { readonly local: number }) => void;
}

/** As many edges of both as come before the first one of either that may be another one; how many in all. */
export function spanOfBoth(
  body: WasmBody,
  both: readonly [ManyEdges, ManyEdges],
): { readonly all: Value; readonly make: () => void } {
  const edges = both.map(({ span }, i) => {
    const own = body.variable();
    const left = { local: SIDES[i]?.left ?? 0 };
    const most = span();
    body.assign(own, body.select(body.binary('ltu', most, left), most, left));
    return own;
  });
  cutToFirst(body, edges);
  const all = edges.reduce<Value>((x, y) => body.binary('add', x, y), { constant: 0 });
  const make = () => {
    for (const [i, { make: makeOwn }] of both.entries()) {
      const [side, own] = [SIDES[i], edges[i]];
      if (!side || !own) continue;
      body.if(own);
      makeOwn(own);
      goOn(body, side, own);
      body.end();
    }
  };
  return { all, make };
}
