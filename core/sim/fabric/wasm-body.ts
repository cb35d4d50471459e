// Code of one function, as the emitter that the rest of the fabric writes to.
import { type BinaryOp, constant, type Emitter, foldBinary, type Value } from './emitter.ts';
import { signed, unsigned } from './wasm-module.ts';

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
export class WasmBody implements Emitter {
  readonly code: number[] = [];
  locals = 1;
  readonly #functionOf: (body: number) => number;

  /** `functionOf`: the number, in the module, of a body of the program; as a rule they are the same. */
  constructor(functionOf: (body: number) => number = (body) => body) {
    this.#functionOf = functionOf;
  }

  binary(op: BinaryOp, a: Value, b: Value): Value {
    const folded = foldBinary(op, a, b);
    if (folded) return folded;
    if (op === 'mulhi') {
      this.get(a);
      this.code.push(0xad); // i64.extend_i32_u
      this.get(b);
      this.code.push(0xad, 0x7e, 0x42, 32, 0x88, 0xa7); // i64.mul, i64.const 32, i64.shr_u, i32.wrap_i64
      return this.#keep();
    }
    this.get(a);
    this.get(b);
    this.code.push(OPCODE[op]);
    return this.#keep();
  }

  isZero(a: Value): Value {
    if ('constant' in a) return constant(a.constant === 0 ? 1 : 0);
    this.get(a);
    this.code.push(0x45);
    return this.#keep();
  }

  parity(a: Value): Value {
    this.get(a);
    this.code.push(0x69, 0x41, 1, 0x71); // i32.popcnt, i32.const 1, i32.and
    return this.#keep();
  }

  select(condition: Value, then: Value, otherwise: Value): Value {
    if ('constant' in condition) return condition.constant ? then : otherwise;
    if ('constant' in then && 'constant' in otherwise && then.constant === otherwise.constant) return then;
    this.get(then);
    this.get(otherwise);
    this.get(condition);
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
    this.get(value);
    this.code.push(0x36, 2);
    unsigned(this.code, address * 4);
  }

  storeAt(base: number, index: Value, value: Value): void {
    this.#index(index);
    this.get(value);
    this.code.push(0x36, 2);
    unsigned(this.code, base * 4);
  }

  if(condition: Value): void {
    this.get(condition);
    this.code.push(0x04, 0x40);
  }

  end(): void {
    this.code.push(0x0b);
  }

  stopIf(condition: Value): void {
    this.if(condition);
    this.code.push(0x41, 0, 0x21, 0); // i32.const 0, local.set 0
    this.end();
  }

  run(body: number, times: number): void {
    this.call(this.#functionOf(body), constant(times));
  }

  /** What is in it can be left by a branch, behind its end. */
  block(): void {
    this.code.push(0x02, 0x40);
  }

  /** What is in it is begun anew by a branch. */
  loop(): void {
    this.code.push(0x03, 0x40);
  }

  /** Out of so many blocks, ifs and loops around it, and to the one around these. */
  branch(out: number): void {
    this.code.push(0x0c, out);
  }

  branchIf(condition: Value, out: number): void {
    this.get(condition);
    this.code.push(0x0d, out);
  }

  branchUnless(condition: Value, out: number): void {
    this.get(condition);
    this.code.push(0x45, 0x0d, out); // i32.eqz, br_if
  }

  /** Another function of the module, by its number, of how often it is to run. */
  call(number: number, times: Value): void {
    this.get(times);
    this.code.push(0x10);
    unsigned(this.code, number);
  }

  /** A local of its own, to be given values time and again. */
  variable(): { readonly local: number } {
    return { local: this.locals++ };
  }

  /** What code written beside this has left behind. */
  taken(): Value {
    return this.#keep();
  }

  /** The same value in a local of its own. */
  copy(value: Value): Value {
    this.get(value);
    return this.#keep();
  }

  assign(to: { readonly local: number }, value: Value): void {
    this.get(value);
    this.code.push(0x21);
    unsigned(this.code, to.local);
  }

  #index(index: Value): void {
    this.get(index);
    this.code.push(0x41, 2, 0x74);
  }

  get(value: Value): void {
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
