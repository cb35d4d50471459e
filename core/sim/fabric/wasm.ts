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

/** The number of the function of a body that is run from others, where it is the first one that is imported. */
const FIRST_IMPORTED = 0;

function bodyOf(write: Write, functionOf?: (body: number) => number): Wasm {
  const body = new WasmBody(functionOf);
  write(new Lean(body));
  return repeated(body.locals, body.code);
}

/**
 * A module that imports its memory as `env.memory` and exports one function (times: i32) for each body, named `f0`,
 * `f1`, ... Each repeats its body `times` times.
 */
export const emitWasm = (bodies: readonly Write[]): Uint8Array<ArrayBuffer> =>
  moduleOf(
    bodies.map((body) => bodyOf(body)),
    new Map(bodies.map((_, i) => [`f${i}`, i])),
  );

/**
 * A module that exports `run` (times: i32), which makes a row of bodies in their order, each so often, `times` times. It
 * imports `env.round`, which is run from all of them.
 */
export function emitRow(
  bodies: readonly Write[],
  row: readonly { readonly body: number; readonly times: number }[],
): Uint8Array<ArrayBuffer> {
  const code: number[] = [];
  for (const { body, times } of row) {
    code.push(0x41);
    signed(code, times);
    code.push(0x10); // call
    unsigned(code, body + 1);
  }
  const functions = bodies.map((body) => bodyOf(body, () => FIRST_IMPORTED));
  return moduleOf([...functions, repeated(1, code)], new Map([['run', functions.length + 1]]), ['round']);
}
