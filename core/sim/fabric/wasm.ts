// Bodies of a program as WebAssembly: repeated, in rows, by turns.
import type { Emitter } from './emitter.ts';
import { Lean } from './lean.ts';
import { WasmBody } from './wasm-body.ts';
import { functionOf, moduleOf, signed, unsigned, type Wasm } from './wasm-module.ts';

type Write = (emitter: Emitter) => void;

/** block loop: leave when parameter 0 is 0, else count it down, run, again */
function repeated(locals: number, code: readonly number[]): Wasm {
  const inner = [0x02, 0x40, 0x03, 0x40, 0x20, 0, 0x45, 0x0d, 1, 0x20, 0, 0x41, 1, 0x6b, 0x21, 0];
  for (const byte of code) inner.push(byte);
  inner.push(0x0c, 0, 0x0b, 0x0b);
  return functionOf('times', locals, inner);
}

function bodyOf(write: Write): Wasm {
  const body = new WasmBody();
  write(new Lean(body));
  return repeated(body.locals, body.code);
}

/**
 * A module that imports its memory as `env.memory` and exports one function (times: i32) for each body, named `f0`,
 * `f1`, ... Each repeats its body `times` times.
 */
export const emitWasm = (bodies: readonly Write[]): Uint8Array<ArrayBuffer> =>
  moduleOf(bodies.map(bodyOf), new Map(bodies.map((_, i) => [`f${i}`, i])));

/** A module that exports `run` (times: i32), which makes a row of bodies in their order, each so often, `times` times. */
export function emitRow(
  bodies: readonly Write[],
  row: readonly { readonly body: number; readonly times: number }[],
): Uint8Array<ArrayBuffer> {
  const code: number[] = [];
  for (const { body, times } of row) {
    code.push(0x41);
    signed(code, times);
    code.push(0x10); // call
    unsigned(code, body);
  }
  return moduleOf([...bodies.map(bodyOf), repeated(1, code)], new Map([['run', bodies.length]]));
}

/**
 * A module that imports its memory as `env.memory` and exports `run`, which makes two bodies by turns, in the order in
 * which their edges are due. Parameters: how often each (i32), when the first is next due and how far apart its edges
 * are, the same of the second (f64). Of two edges that are due together the first body's comes first.
 */
export function emitByTurns(first: Write, second: Write): Uint8Array<ArrayBuffer> {
  const body = new WasmBody();
  body.locals = 6;
  byTurns(
    body,
    () => first(new Lean(body)),
    () => second(new Lean(body)),
  );
  return moduleOf([functionOf('turns', body.locals, body.code)], new Map([['run', 0]]));
}

/**
 * The loop of a function that takes turns: each of the two writes one of its edges; `ahead` what comes before either,
 * and may go on with the next round by a branch out of its own block and one more.
 */
export function byTurns(body: WasmBody, first: () => void, second: () => void, ahead?: () => void): void {
  const [leftA, leftB, dueA, stepA, dueB, stepB] = [0, 1, 2, 3, 4, 5] as const;
  const get = (local: number) => [0x20, local];
  const edge = (write: () => void, left: number, due: number, step: number) => {
    write();
    body.code.push(...get(due), ...get(step), 0xa0, 0x21, due); // f64.add
    body.code.push(...get(left), 0x41, 1, 0x6b, 0x21, left); // i32.sub
  };
  // block loop: leave when nothing is left of either; then one edge, and again
  body.code.push(0x02, 0x40, 0x03, 0x40, ...get(leftA), ...get(leftB), 0x72, 0x45, 0x0d, 1);
  ahead?.();
  // the first one's turn: it has edges left, and the second has none or comes later
  body.code.push(...get(leftA), 0x41, 0, 0x47, ...get(leftB), 0x45, ...get(dueA), ...get(dueB), 0x65, 0x72, 0x71);
  body.code.push(0x04, 0x40);
  edge(first, leftA, dueA, stepA);
  body.code.push(0x05);
  edge(second, leftB, dueB, stepB);
  body.code.push(0x0b, 0x0c, 0, 0x0b, 0x0b);
}
