import { item } from '../../lists.ts';
import {
  bitsShape,
  type Expression,
  GiveUp,
  isPart,
  type Part,
  partShape,
  patternValues,
  type Shape,
} from '../../hdl/index.ts';
import { type Code, isKnown, type Operand, resized } from './code.ts';
import { type Context, innerShape, type Reference, referenceOf } from './context.ts';
import { emitAddress, emitFor, emitSlice, lowOf } from './expression.ts';
import type { Cell } from './objects.ts';

/** How a value gets to its target: at once, as a non-blocking update, or as one after some ticks. */
export type Way = { readonly kind: 'now' } | { readonly kind: 'update'; readonly ticks: string | null };

export const NOW: Way = { kind: 'now' };

/** Functions that write to cells, made once for each kind of writing. */
export class Putters {
  readonly #made = new Map<string, string>();
  readonly #held: ReadonlySet<number>;
  /** Cells written in any other way than by non-blocking updates of this moment; and of those, the ones by parts. */
  readonly #otherwise = new Set<number>();
  readonly #byParts = new Set<number>();
  /** Processes that write a cell by non-blocking updates of this moment. */
  readonly #updaters = new Map<number, Set<number>>();
  /** The process that is being written; null where it does nothing once time has begun. */
  process: number | null = null;
  readonly code: Code;

  constructor(code: Code, held: ReadonlySet<number>) {
    this.code = code;
    this.#held = held;
  }

  /** Narrow, and never held: the queues themselves can write to it. */
  isPlain({ id, kind }: Cell): boolean {
    return kind === 'narrow' && !this.#held.has(id);
  }

  /**
   * Only non-blocking updates of the whole cell at the moment they are asked for: one that changes nothing need not be
   * carried out.
   */
  isCalm(id: number): boolean {
    return !this.#otherwise.has(id) && !this.#byParts.has(id);
  }

  /** A process whose non-blocking updates are all that ever writes the cell. */
  isOnlyOf(id: number, process: number): boolean {
    const updaters = this.#updaters.get(id);
    return !this.#held.has(id) && !this.#otherwise.has(id) && updaters?.size === 1 && updaters.has(process);
  }

  /** Notes how a cell is written. */
  note(id: number, how: 'update' | 'part' | 'otherwise'): void {
    if (this.process === null) return;
    if (how === 'otherwise') return void this.#otherwise.add(id);
    if (how === 'part') this.#byParts.add(id);
    const known = this.#updaters.get(id);
    if (known) known.add(this.process);
    else this.#updaters.set(id, new Set([this.process]));
  }

  /** `(v, x)` writes the whole cell. */
  whole(cell: Cell): string {
    return this.#once(`put${cell.id}`, (name) => {
      const { id, kind } = cell;
      if (this.#held.has(id)) return `function ${name}(v, x) { K.putHeld(${id}, v, x); }`;
      if (kind === 'narrow')
        return `function ${name}(v, x) { const a = V[${id}], b = X[${id}]; if (a !== v || b !== x) { V[${id}] = v; X[${id}] = x; Q.notify(${id}, a, b); } }`;
      if (kind === 'wide')
        return `function ${name}(v, x) { const a = BV[${id}], b = BX[${id}]; if (a !== v || b !== x) { BV[${id}] = v; BX[${id}] = x; Q.notifyBits(${id}, Number(a & 1n), Number(b & 1n), Number(v & 1n), Number(x & 1n)); } }`;
      return `function ${name}(v) { if (BV[${id}] !== v) { BV[${id}] = v; Q.notifyBits(${id}, 0, 0, 0, 0); } }`;
    });
  }

  /** `(v, x, low)` writes `width` bits from `low` on; bits outside are lost. */
  part(cell: Cell, width: number): string {
    return this.#once(`put${cell.id}p${width}`, (name) => {
      const { id, kind } = cell;
      const whole = this.whole(cell);
      const read = this.#held.has(id) ? `K.baseOf(${id})` : null;
      if (kind === 'narrow') {
        const ones = width >= 32 ? '-1' : `${2 ** width - 1}`;
        const [v, x] = read
          ? [`Number(BigInt.asIntN(32, ${read}.v))`, `Number(BigInt.asIntN(32, ${read}.x))`]
          : [`V[${id}]`, `X[${id}]`];
        const cut = cell.width >= 32 ? '-1' : `${2 ** cell.width - 1}`;
        return `function ${name}(v, x, low) { if (!(low > ${-width} && low < ${cell.width})) return; const m = (low >= 0 ? ${ones} << low : ${ones} >>> -low) & ${cut}; const p = low >= 0 ? v << low : v >>> -low, q = low >= 0 ? x << low : x >>> -low; ${whole}((${v} & ~m) | (p & m), (${x} & ~m) | (q & m)); }`;
      }
      const big = width <= 32 ? ['BigInt(v >>> 0)', 'BigInt(x >>> 0)'] : ['v', 'x'];
      const now = read ?? `{ v: BV[${id}], x: BX[${id}] }`;
      return `function ${name}(v, x, low) { if (!(low > ${-width} && low < ${cell.width})) return; const w = K.splice(${now}, ${cell.width}, low, { v: ${big[0]}, x: ${big[1]} }, ${width}); ${whole}(w.v, w.x); }`;
    });
  }

  /** `(v, x, address)` writes a word of an array. */
  word(cell: Cell): string {
    return this.#once(`put${cell.id}w`, (name) => {
      const { id, kind } = cell;
      const same = kind === 'real' || kind === 'text' ? 'm.v[at] === v' : 'm.v[at] === v && m.x[at] === x';
      const set = kind === 'real' || kind === 'text' ? 'm.v[at] = v;' : 'm.v[at] = v; m.x[at] = x;';
      return `function ${name}(v, x, at) { if (at < 0) return; const m = A[${id}]; if (!(${same})) { ${set} Q.notifyBits(${id}, 0, 0, 0, 0); } }`;
    });
  }

  /** `(v, x, low, address)` writes bits of a word of an array. */
  wordPart(cell: Cell, width: number): string {
    return this.#once(`put${cell.id}w${width}`, (name) => {
      const word = this.word(cell);
      const narrow = cell.kind === 'narrow';
      const [v, x] = width <= 32 ? ['BigInt(v >>> 0)', 'BigInt(x >>> 0)'] : ['v', 'x'];
      const now = narrow ? '{ v: BigInt(m.v[at] >>> 0), x: BigInt(m.x[at] >>> 0) }' : '{ v: m.v[at], x: m.x[at] }';
      const back = narrow ? 'Number(BigInt.asIntN(32, w.v)), Number(BigInt.asIntN(32, w.x))' : 'w.v, w.x';
      return `function ${name}(v, x, low, at) { if (at < 0 || !(low > ${-width} && low < ${cell.width})) return; const m = A[${cell.id}]; const w = K.splice(${now}, ${cell.width}, low, { v: ${v}, x: ${x} }, ${width}); ${word}(${back}, at); }`;
    });
  }

  #once(name: string, make: (name: string) => string): string {
    if (!this.#made.has(name)) {
      this.#made.set(name, name);
      this.code.line(make(name));
    }
    return name;
  }
}

/** Bits that an assignment to this target takes. */
export function targetWidth(target: Expression, context: Context): number {
  if (target.kind === 'concatenation') return target.parts.reduce((sum, part) => sum + targetWidth(part, context), 0);
  const reference = referenceOf(target, context);
  if (!reference) throw new GiveUp('target', target.at, 'This cannot be assigned to.');
  return innerShape(reference, context).width;
}

/** Shape of what is assigned, or plain bits of the width of a concatenation. */
export function targetShape(target: Expression, context: Context): Shape {
  if (target.kind === 'concatenation') return bitsShape(targetWidth(target, context));
  const reference = referenceOf(target, context);
  if (!reference) throw new GiveUp('target', target.at, 'This cannot be assigned to.');
  return innerShape(reference, context);
}

/** `target = value`, whatever both are. */
export function emitAssignment(
  target: Expression,
  value: Expression,
  way: Way,
  context: Context,
  putters: Putters,
): void {
  if (target.kind !== 'concatenation') {
    const reference = referenceOf(target, context);
    if (reference && reference.indexes.length < reference.cell.dimensions.length)
      return emitArrayAssignment(reference, value, context, putters);
  }
  const word = emitFor(value, targetShape(target, context), context);
  emitPut(target, word, way, context, putters);
}

/** Writes a value that is already as wide as its target. */
export function emitPut(target: Expression, word: Operand, way: Way, context: Context, putters: Putters): void {
  if (target.kind === 'concatenation') {
    let low = word.width;
    for (const part of target.parts) {
      const width = targetWidth(part, context);
      low -= width;
      emitPut(part, emitSlice(word, low, width, context), way, context, putters);
    }
    return;
  }
  const reference = referenceOf(target, context);
  if (!reference) throw new GiveUp('target', target.at, 'This cannot be assigned to.');
  if (reference.indexes.length < reference.cell.dimensions.length)
    throw new GiveUp(
      'whole-array',
      target.at,
      'An array takes its value from an array of the same size, or from a pattern.',
    );
  if (reference.local) return emitLocalPut(reference, word, context);
  const { cell, indexes, parts } = reference;
  const value = cell.twoState && !isKnown(word) ? known(word, context) : word;
  const { v, x } = value;
  if (way.kind === 'now' && !isKnown(value)) context.soiled?.add(cell.id);
  const isUpdate = way.kind === 'update' && way.ticks === null;
  const isWhole = parts.length === 0 && indexes.length === 0;
  putters.note(cell.id, isUpdate ? (isWhole && putters.isPlain(cell) ? 'update' : 'part') : 'otherwise');
  if (isWhole) {
    if (isUpdate && putters.isPlain(cell)) return context.code.line(`Q.next(${cell.id}, ${v}, ${x});`);
    return write(putters.whole(cell), [v, x], '0', way, context);
  }
  const low = parts.length === 0 ? null : `${lowOfParts(parts, cell.shape, context)}`;
  const { width } = word;
  if (indexes.length === 0) return write(putters.part(cell, width), [v, x], low ?? '0', way, context);
  const address = emitAddress(cell, indexes, context);
  if (low === null) return write(putters.word(cell), [v, x], address, way, context);
  const put = putters.wordPart(cell, width);
  if (way.kind === 'now') context.code.line(`${put}(${v}, ${x}, ${low}, ${address});`);
  else write(`(v, x) => ${put}(v, x, ${low}, ${address})`, [v, x], '0', way, context);
}

function known(word: Operand, { code }: Context): Operand {
  return { ...word, v: code.held(`${word.v} & ~${word.x}`), x: word.kind === 'wide' ? '0n' : '0' };
}

function write(put: string, [v, x]: readonly [string, string], index: string, way: Way, { code }: Context): void {
  if (way.kind === 'now') code.line(`${put}(${v}, ${x}, ${index});`);
  else if (way.ticks === null) code.line(`Q.update(${put}, ${v}, ${x}, ${index});`);
  else code.line(`Q.updateLater(${way.ticks}, ${put}, ${v}, ${x}, ${index});`);
}

/** Where the innermost of several parts begins in the whole word. */
export function lowOfParts(parts: readonly Part[], whole: Shape, context: Context): number | string {
  let shape = whole;
  let fixed = 0;
  const moving: string[] = [];
  for (const part of parts) {
    const low = lowOf(part, shape, context);
    if (typeof low === 'number') fixed += low;
    else moving.push(low);
    shape = partShape(part, shape, context.evaluation);
  }
  if (moving.length === 0) return fixed;
  return context.code.held([...moving, ...(fixed === 0 ? [] : [`${fixed}`])].join(' + '));
}

/** A variable of an automatic routine. */
function emitLocalPut({ cell, local, indexes, parts }: Reference, word: Operand, context: Context): void {
  const { code } = context;
  if (!local) return;
  if (indexes.length > 0) {
    const address = emitAddress(cell, indexes, context);
    const low = parts.length === 0 ? '0' : `${lowOfParts(parts, cell.shape, context)}`;
    code.line(`K.putLocal(${local.v}, ${address}, [${low}, ${word.width}, ${cell.width}], ${word.v}, ${word.x});`);
    return;
  }
  const value = cell.twoState && !isKnown(word) ? known(word, context) : word;
  if (parts.length === 0) {
    code.line(`${local.v} = ${value.v};${cell.twoState ? '' : ` ${local.x} = ${value.x};`}`);
    return;
  }
  const low = lowOfParts(parts, cell.shape, context);
  const name = code.name();
  const asWord = (v: string, x: string, wide: boolean) =>
    wide ? `{ v: ${v}, x: ${x} }` : `{ v: BigInt(${v} >>> 0), x: BigInt(${x} >>> 0) }`;
  const now = asWord(local.v, cell.twoState ? (cell.kind === 'wide' ? '0n' : '0') : local.x, cell.kind === 'wide');
  const put = asWord(value.v, value.x, value.kind === 'wide');
  code.line(`const ${name} = K.splice(${now}, ${cell.width}, ${low}, ${put}, ${value.width});`);
  const back = (bits: 'v' | 'x') =>
    cell.kind === 'wide' ? `${name}.${bits}` : `Number(BigInt.asIntN(32, ${name}.${bits}))`;
  code.line(`${local.v} = ${back('v')};${cell.twoState ? '' : ` ${local.x} = ${back('x')};`}`);
}

/** A whole array, or one row of it, from another array or from a pattern. */
function emitArrayAssignment(reference: Reference, value: Expression, context: Context, putters: Putters): void {
  const { cell, indexes, local } = reference;
  const { code } = context;
  if (indexes.length > 0 || local)
    throw new GiveUp('not-taken', value.at, 'A row of an array is not taken at once here. Assign its words in a loop.');
  if (value.kind === 'pattern') {
    const [range] = cell.dimensions;
    if (!range || cell.dimensions.length > 1)
      throw new GiveUp('not-taken', value.at, 'A pattern for an array of several ranges is not taken. Use a loop.');
    const count = Math.abs(range.left - range.right) + 1;
    const shape = { ...bitsShape(count, false, range.left, range.right), element: cell.shape };
    const places = patternValues(value, shape);
    for (const [i, place] of places.entries()) {
      const word = resized(code, emitFor(place.value, cell.shape, context), cell.width, false);
      const address = range.left >= range.right ? count - 1 - i : i;
      putters.note(cell.id, 'otherwise');
      code.line(`${putters.word(cell)}(${word.v}, ${word.x}, ${address});`);
    }
    return;
  }
  const from = isPart(value) || value.kind === 'name' ? referenceOf(value, context) : null;
  const sizes = (one: Cell) => one.dimensions.map(({ left, right }) => Math.abs(left - right)).join(',');
  if (!from || from.indexes.length > 0 || from.cell.width !== cell.width || sizes(from.cell) !== sizes(cell))
    throw new GiveUp(
      'whole-array',
      value.at,
      "An array takes its value from an array of the same size, or from a pattern as in '{default: 0}.",
    );
  context.reads?.add(from.cell.id);
  const turned = cell.dimensions.some((one, i) => {
    const other = item(from.cell.dimensions, i);
    return one.left > one.right !== other.left > other.right && one.left !== one.right;
  });
  code.line(`K.copyArray(${from.cell.id}, ${cell.id}, ${turned && cell.dimensions.length === 1});`);
}
