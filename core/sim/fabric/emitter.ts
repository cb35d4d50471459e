/** A 32-bit value in generated code: a constant, or a local variable by number. */
export type Value = { readonly constant: number } | { readonly local: number };

export type BinaryOp =
  | 'add'
  | 'sub'
  | 'mul'
  | 'and'
  | 'or'
  | 'xor'
  | 'shl'
  | 'shru'
  | 'shrs'
  | 'eq'
  | 'ne'
  | 'ltu'
  | 'lts'
  | 'divu'
  | 'divs'
  | 'remu'
  | 'rems'
  | 'mulhi';

/**
 * What generated code can do. One implementation writes WebAssembly, the other JavaScript. Addresses are in 32-bit
 * words.
 */
export interface Emitter {
  binary(op: BinaryOp, a: Value, b: Value): Value;
  /** 1 when zero. */
  isZero(a: Value): Value;
  /** Exclusive or of all bits. */
  parity(a: Value): Value;
  select(condition: Value, then: Value, otherwise: Value): Value;
  /** `ones`: the bits that may be 1 there; all of them where it is not said. */
  load(address: number, ones?: number): Value;
  loadAt(base: number, index: Value, ones?: number): Value;
  store(address: number, value: Value): void;
  storeAt(base: number, index: Value, value: Value): void;
  if(condition: Value): void;
  end(): void;
  /** Where the condition holds, the body is run no more, however often it was still to be. */
  stopIf(condition: Value): void;
  /** Another body of the same program, by its place among them, up to so many times. */
  run(body: number, times: number): void;
}

export const constant = (value: number): Value => ({ constant: value | 0 });

const FOLD: Readonly<
  Record<Exclude<BinaryOp, 'divu' | 'divs' | 'remu' | 'rems' | 'mulhi'>, (a: number, b: number) => number>
> = {
  add: (a, b) => a + b,
  sub: (a, b) => a - b,
  mul: Math.imul,
  and: (a, b) => a & b,
  or: (a, b) => a | b,
  xor: (a, b) => a ^ b,
  shl: (a, b) => a << b,
  shru: (a, b) => a >>> b,
  shrs: (a, b) => a >> b,
  eq: (a, b) => (a === b ? 1 : 0),
  ne: (a, b) => (a !== b ? 1 : 0),
  ltu: (a, b) => (a >>> 0 < b >>> 0 ? 1 : 0),
  lts: (a, b) => (a < b ? 1 : 0),
};

/** Answers what needs no code: operations on constants and with neutral elements. Null where code is needed. */
export function foldBinary(op: BinaryOp, a: Value, b: Value): Value | null {
  if ('constant' in a && 'constant' in b && op in FOLD)
    return constant(FOLD[op as keyof typeof FOLD](a.constant, b.constant));
  const right = 'constant' in b ? b.constant : null;
  const left = 'constant' in a ? a.constant : null;
  switch (op) {
    case 'add':
    case 'or':
    case 'xor':
      return right === 0 ? a : left === 0 ? b : op === 'or' && (right === -1 || left === -1) ? constant(-1) : null;
    case 'sub':
    case 'shl':
    case 'shru':
    case 'shrs':
      return right === 0 ? a : null;
    case 'and':
      return right === -1 ? a : left === -1 ? b : right === 0 || left === 0 ? constant(0) : null;
    default:
      return null;
  }
}
