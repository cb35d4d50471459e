import { type BinaryOp, constant, type Emitter, foldBinary, type Value } from './emitter.ts';
import { Lean } from './lean.ts';

const OPCODE: Readonly<Record<Exclude<BinaryOp, 'mulhi'>, number>> = {
  add: 0x6a,
  sub: 0x6b,
  mul: 0x6c,
  and: 0x71,
  or: 0x72,
  xor: 0x73,
  shl: 0x74,
  shru: 0x76,
  shrs: 0x75,
  eq: 0x46,
  ne: 0x47,
  ltu: 0x49,
  lts: 0x48,
  divs: 0x6d,
  divu: 0x6e,
  rems: 0x6f,
  remu: 0x70,
};

/**
 * Body of one function: parameter 0 counts how often to run it unless it is said otherwise, all else are 32-bit locals.
 * @source WebAssembly 1.0, binary format
 */
class WasmBody implements Emitter {
  readonly code: number[] = [];
  locals = 1;

  binary(op: BinaryOp, a: Value, b: Value): Value {
    const folded = foldBinary(op, a, b);
    if (folded) return folded;
    if (op === 'mulhi') {
      this.#get(a);
      this.code.push(0xad); // i64.extend_i32_u
      this.#get(b);
      this.code.push(0xad, 0x7e, 0x42, 32, 0x88, 0xa7); // i64.mul, i64.const 32, i64.shr_u, i32.wrap_i64
      return this.#keep();
    }
    this.#get(a);
    this.#get(b);
    this.code.push(OPCODE[op]);
    return this.#keep();
  }

  isZero(a: Value): Value {
    if ('constant' in a) return constant(a.constant === 0 ? 1 : 0);
    this.#get(a);
    this.code.push(0x45);
    return this.#keep();
  }

  parity(a: Value): Value {
    this.#get(a);
    this.code.push(0x69, 0x41, 1, 0x71); // i32.popcnt, i32.const 1, i32.and
    return this.#keep();
  }

  select(condition: Value, then: Value, otherwise: Value): Value {
    if ('constant' in condition) return condition.constant ? then : otherwise;
    if ('constant' in then && 'constant' in otherwise && then.constant === otherwise.constant) return then;
    this.#get(then);
    this.#get(otherwise);
    this.#get(condition);
    this.code.push(0x1b);
    return this.#keep();
  }

  load(address: number): Value {
    this.code.push(0x41, 0, 0x28, 2);
    unsigned(this.code, address * 4);
    return this.#keep();
  }

  loadAt(base: number, index: Value): Value {
    this.#index(index);
    this.code.push(0x28, 2);
    unsigned(this.code, base * 4);
    return this.#keep();
  }

  store(address: number, value: Value): void {
    this.code.push(0x41, 0);
    this.#get(value);
    this.code.push(0x36, 2);
    unsigned(this.code, address * 4);
  }

  storeAt(base: number, index: Value, value: Value): void {
    this.#index(index);
    this.#get(value);
    this.code.push(0x36, 2);
    unsigned(this.code, base * 4);
  }

  if(condition: Value): void {
    this.#get(condition);
    this.code.push(0x04, 0x40);
  }

  end(): void {
    this.code.push(0x0b);
  }

  stopIf(condition: Value, address: number): void {
    this.if(condition);
    this.store(address, { local: 0 });
    this.code.push(0x41, 0, 0x21, 0); // i32.const 0, local.set 0
    this.end();
  }

  #index(index: Value): void {
    this.#get(index);
    this.code.push(0x41, 2, 0x74);
  }

  #get(value: Value): void {
    if ('local' in value) {
      this.code.push(0x20);
      unsigned(this.code, value.local);
    } else {
      this.code.push(0x41);
      signed(this.code, value.constant);
    }
  }

  #keep(): Value {
    const local = this.locals++;
    this.code.push(0x21);
    unsigned(this.code, local);
    return { local };
  }
}

function unsigned(out: number[], value: number): void {
  let rest = value >>> 0;
  do {
    const byte = rest & 0x7f;
    rest >>>= 7;
    out.push(rest ? byte | 0x80 : byte);
  } while (rest);
}

function signed(out: number[], value: number): void {
  for (let rest = value | 0; ; ) {
    const byte = rest & 0x7f;
    rest >>= 7;
    if ((rest === 0 && !(byte & 0x40)) || (rest === -1 && byte & 0x40)) {
      out.push(byte);
      return;
    }
    out.push(byte | 0x80);
  }
}

function section(out: number[], id: number, body: readonly number[]): void {
  out.push(id);
  unsigned(out, body.length);
  for (const byte of body) out.push(byte);
}

const text = (value: string): number[] => [value.length, ...[...value].map((c) => c.charCodeAt(0))];

type Write = (emitter: Emitter) => void;

/** block loop: leave when parameter 0 is 0, else count it down, run, again */
function repeated(locals: number, code: readonly number[]): number[] {
  const inner: number[] = [1];
  unsigned(inner, locals - 1);
  inner.push(0x7f, 0x02, 0x40, 0x03, 0x40, 0x20, 0, 0x45, 0x0d, 1, 0x20, 0, 0x41, 1, 0x6b, 0x21, 0);
  for (const byte of code) inner.push(byte);
  inner.push(0x0c, 0, 0x0b, 0x0b, 0x0b);
  return inner;
}

function bodyOf(write: Write): number[] {
  const body = new WasmBody();
  write(new Lean(body));
  return repeated(body.locals, body.code);
}

/** Functions of one parameter (times: i32) over `env.memory`, of which those that are named are exported. */
function moduleOf(
  functions: readonly (readonly number[])[],
  names: ReadonlyMap<string, number>,
): Uint8Array<ArrayBuffer> {
  const out = [0x00, 0x61, 0x73, 0x6d, 1, 0, 0, 0];
  section(out, 1, [1, 0x60, 1, 0x7f, 0]);
  section(out, 2, [1, ...text('env'), ...text('memory'), 2, 0, 1]);
  const types: number[] = [];
  unsigned(types, functions.length);
  for (const _ of functions) types.push(0);
  section(out, 3, types);
  const exports: number[] = [];
  unsigned(exports, names.size);
  for (const [name, index] of names) {
    exports.push(...text(name), 0);
    unsigned(exports, index);
  }
  section(out, 7, exports);
  const code: number[] = [];
  unsigned(code, functions.length);
  for (const inner of functions) {
    unsigned(code, inner.length);
    for (const byte of inner) code.push(byte);
  }
  section(out, 10, code);
  return Uint8Array.from(out);
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
  const [leftA, leftB, dueA, stepA, dueB, stepB] = [0, 1, 2, 3, 4, 5] as const;
  const body = new WasmBody();
  body.locals = 6;
  const get = (local: number) => [0x20, local];
  const edge = (write: Write, left: number, due: number, step: number) => {
    write(new Lean(body));
    body.code.push(...get(due), ...get(step), 0xa0, 0x21, due); // f64.add
    body.code.push(...get(left), 0x41, 1, 0x6b, 0x21, left); // i32.sub
  };
  // block loop: leave when nothing is left of either; then one edge, and again
  body.code.push(0x02, 0x40, 0x03, 0x40, ...get(leftA), ...get(leftB), 0x72, 0x45, 0x0d, 1);
  // the first one's turn: it has edges left, and the second has none or comes later
  body.code.push(
    ...get(leftA),
    0x41,
    0,
    0x47,
    ...get(leftB),
    0x45,
    ...get(dueA),
    ...get(dueB),
    0x65,
    0x72,
    0x71,
    0x04,
    0x40,
  );
  edge(first, leftA, dueA, stepA);
  body.code.push(0x05);
  edge(second, leftB, dueB, stepB);
  body.code.push(0x0b, 0x0c, 0, 0x0b, 0x0b);
  const out = [0x00, 0x61, 0x73, 0x6d, 1, 0, 0, 0];
  const [I32, F64] = [0x7f, 0x7c];
  section(out, 1, [1, 0x60, 6, I32, I32, F64, F64, F64, F64, 0]);
  section(out, 2, [1, ...text('env'), ...text('memory'), 2, 0, 1]);
  section(out, 3, [1, 0]);
  section(out, 7, [1, ...text('run'), 0, 0]);
  const inner: number[] = [1];
  unsigned(inner, body.locals - 6);
  inner.push(I32);
  for (const byte of body.code) inner.push(byte);
  inner.push(0x0b);
  const code: number[] = [1];
  unsigned(code, inner.length);
  for (const byte of inner) code.push(byte);
  section(out, 10, code);
  return Uint8Array.from(out);
}
