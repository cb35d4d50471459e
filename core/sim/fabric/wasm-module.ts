// The binary format of a module: numbers, sections, functions over one memory.
export function unsigned(out: number[], value: number): void {
  let rest = value >>> 0;
  do {
    const byte = rest & 0x7f;
    rest >>>= 7;
    out.push(rest ? byte | 0x80 : byte);
  } while (rest);
}

export function signed(out: number[], value: number): void {
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

/** What a function takes: how often it runs; or what `emitByTurns` says. All of them give nothing back. */
type Takes = 'times' | 'turns';

/** A function: what it takes, and its locals and instructions up to its end. */
export interface Wasm {
  readonly takes: Takes;
  readonly code: readonly number[];
}

const [I32, I64, F64] = [0x7f, 0x7e, 0x7c];
const TYPES: Readonly<Record<Takes, readonly number[]>> = { times: [I32], turns: [I32, I32, F64, F64, F64, F64] };
const KINDS: readonly Takes[] = ['times', 'turns'];

/**
 * So many locals: parameters, `f64` of floating point, those of 32 bits, and behind all that are counted `i64` more;
 * then instructions, then the end.
 */
export function functionOf(
  takes: Takes,
  locals: number,
  code: readonly number[],
  { i64 = 0, f64 = 0 }: { readonly i64?: number; readonly f64?: number } = {},
): Wasm {
  const out: number[] = [3];
  unsigned(out, f64);
  out.push(F64);
  unsigned(out, locals - f64 - TYPES[takes].length);
  out.push(I32);
  unsigned(out, i64);
  out.push(I64);
  for (const byte of code) out.push(byte);
  out.push(0x0b);
  return { takes, code: out };
}

/**
 * Functions over `env.memory`, of which those that are named are exported. Those of `env` that are `imported`, each of
 * how often it runs, have the first numbers.
 */
export function moduleOf(
  functions: readonly Wasm[],
  names: ReadonlyMap<string, number>,
  imported: readonly string[] = [],
): Uint8Array<ArrayBuffer> {
  const out = [0x00, 0x61, 0x73, 0x6d, 1, 0, 0, 0];
  section(out, 1, [KINDS.length, ...KINDS.flatMap((kind) => [0x60, TYPES[kind].length, ...TYPES[kind], 0])]);
  const imports: number[] = [];
  unsigned(imports, 1 + imported.length);
  imports.push(...text('env'), ...text('memory'), 2, 0, 1);
  for (const name of imported) imports.push(...text('env'), ...text(name), 0, KINDS.indexOf('times'));
  section(out, 2, imports);
  const types: number[] = [];
  unsigned(types, functions.length);
  for (const { takes } of functions) types.push(KINDS.indexOf(takes));
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
  for (const { code: inner } of functions) {
    unsigned(code, inner.length);
    for (const byte of inner) code.push(byte);
  }
  section(out, 10, code);
  return Uint8Array.from(out);
}
