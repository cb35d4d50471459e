import { floatAt, item, wordAt } from '../lists.ts';
/**
 * One signal over time. Value i holds from tick `at[i]` until `at[i + 1]`, the last one to the end of the recording.
 * Values have four states, as IEEE 1364 knows them.
 */
export interface Trace {
  /** Full path in the hierarchy. */
  readonly name: string;
  readonly width: number;
  readonly signed: boolean;
  /** The clock it belongs to; empty where that is not known. */
  readonly domain: string;
  /** Values by the names the source has for them, decimal. */
  readonly names?: Readonly<Record<string, string>> | undefined;
  /** Ascending; the first is the start of the recording, or later where nothing was known before. */
  readonly at: Float64Array;
  /** Words of 32 bits a value, low word first. */
  readonly words: number;
  readonly bits: Uint32Array;
  /**
   * 1 for each bit that is not known: x where the same bit of `bits` is 0, z where it is 1. Null when all bits always
   * are.
   */
  readonly unknown: Uint32Array | null;
  /** The bits are those of a floating point number of 64 bits (IEEE 754). */
  readonly real?: boolean;
  /** Keeps its value in gaps of a qualifier, because the qualifier stores every change of it. */
  readonly holds?: boolean;
}

export const wordsOf = (width: number): number => Math.max(1, Math.ceil(width / 32));

/** Index of the value that holds at a tick; -1 before the first. */
export function indexAt({ at }: Trace, tick: number): number {
  let low = 0;
  let high = at.length;
  while (low < high) {
    const middle = (low + high) >>> 1;
    if (floatAt(at, middle) <= tick) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/** A value as a number without sign; null where a bit is unknown, or there is none. */
export function numberOf(trace: Trace, index: number): bigint | null {
  if (index < 0 || hasUnknown(trace, index)) return null;
  let value = 0n;
  for (let i = trace.words - 1; i >= 0; i--)
    value = (value << 32n) | BigInt(wordAt(trace.bits, index * trace.words + i));
  return value;
}

/** The same with the sign its signal has, as a floating point number: for measuring and for analog drawing. */
export function amountOf(trace: Trace, index: number, signed = trace.signed): number | null {
  if (trace.real) return realOf(trace, index);
  const value = numberOf(trace, index);
  return value === null ? null : Number(signed ? BigInt.asIntN(trace.width, value) : value);
}

const REAL = new DataView(new ArrayBuffer(8));

/** Value of a real trace; null before the first one or where it is not known. */
export function realOf(trace: Trace, index: number): number | null {
  if (index < 0 || hasUnknown(trace, index)) return null;
  REAL.setUint32(4, wordAt(trace.bits, index * 2));
  REAL.setUint32(0, wordAt(trace.bits, index * 2 + 1));
  return REAL.getFloat64(0);
}

/** A number as the two words of a real trace, low first. */
export function wordsOfReal(value: number): readonly [number, number] {
  REAL.setFloat64(0, value);
  return [REAL.getUint32(4), REAL.getUint32(0)];
}

export function hasUnknown({ unknown, words }: Trace, index: number): boolean {
  if (!unknown) return false;
  for (let i = 0; i < words; i++) if (unknown[index * words + i] !== 0) return true;
  return false;
}

/** Bit `bit` of a value: 0, 1, x or z. */
export function digitAt({ bits, unknown, words }: Trace, index: number, bit: number): '0' | '1' | 'x' | 'z' {
  const at = index * words + (bit >>> 5);
  const one = ((wordAt(bits, at) >>> (bit & 31)) & 1) === 1;
  const open = unknown !== null && ((wordAt(unknown, at) >>> (bit & 31)) & 1) === 1;
  if (open) return one ? 'z' : 'x';
  return one ? '1' : '0';
}

/** All bits, highest first; x throughout before the first value. */
export function digitsOf(trace: Trace, index: number): string {
  if (index < 0) return 'x'.repeat(trace.width);
  let text = '';
  for (let bit = trace.width - 1; bit >= 0; bit--) text += digitAt(trace, index, bit);
  return text;
}

/** Whether two values are the same, bit for bit; they may come from two traces of one width. */
export function sameValue(a: Trace, i: number, b: Trace, j: number): boolean {
  for (let k = 0; k < a.words; k++) {
    if (a.bits[i * a.words + k] !== b.bits[j * b.words + k]) return false;
    if ((a.unknown?.[i * a.words + k] ?? 0) !== (b.unknown?.[j * b.words + k] ?? 0)) return false;
  }
  return true;
}

/** Whether two values agree in every bit that both know. */
export function canBeSame(a: Trace, i: number, b: Trace, j: number): boolean {
  for (let k = 0; k < a.words; k++) {
    const [x, y] = [i * a.words + k, j * b.words + k];
    const known = ~((a.unknown?.[x] ?? 0) | (b.unknown?.[y] ?? 0));
    if (((wordAt(a.bits, x) ^ wordAt(b.bits, y)) & known) !== 0) return false;
  }
  return true;
}

/**
 * Collects the values of one signal, in order of time. A value like the one before is no change; of several at one tick
 * the last one counts.
 */
export class TraceWriter {
  readonly #words: number;
  #at = new Float64Array(16);
  #bits: Uint32Array;
  #unknown: Uint32Array | null = null;
  #count = 0;

  constructor(width: number) {
    this.#words = wordsOf(width);
    this.#bits = new Uint32Array(16 * this.#words);
  }

  get count(): number {
    return this.#count;
  }

  /** Adds a value given as words, low first; `unknown` null when all bits are known. */
  add(tick: number, bits: ArrayLike<number>, unknown: ArrayLike<number> | null): void {
    if (this.#count > 0 && this.#at[this.#count - 1] === tick) this.#count--;
    if (this.#count > 0 && this.#isLast(bits, unknown)) return;
    if (this.#count === this.#at.length) this.#grow();
    const from = this.#count * this.#words;
    this.#at[this.#count++] = tick;
    if (unknown && !this.#unknown) this.#unknown = new Uint32Array(this.#bits.length);
    for (let i = 0; i < this.#words; i++) {
      this.#bits[from + i] = item(bits, i);
      if (this.#unknown) this.#unknown[from + i] = unknown?.[i] ?? 0;
    }
  }

  /** From a tick on one word of the value is another one, what is known of it stays; there has to be a value already. */
  addWord(tick: number, place: number, word: number): void {
    if (this.#at[this.#count - 1] !== tick) this.#repeatAt(tick);
    this.#bits[(this.#count - 1) * this.#words + place] = word;
  }

  /** The same of what is unknown of it. */
  addUnknownWord(tick: number, place: number, word: number): void {
    if (this.#at[this.#count - 1] !== tick) this.#repeatAt(tick);
    this.#unknown ??= new Uint32Array(this.#bits.length);
    this.#unknown[(this.#count - 1) * this.#words + place] = word;
  }

  #repeatAt(tick: number): void {
    const words = this.#words;
    if (this.#count === this.#at.length) this.#grow();
    const from = this.#count * words;
    this.#at[this.#count++] = tick;
    if (words === 1) {
      this.#bits[from] = this.#bits[from - 1] ?? 0;
      if (this.#unknown) this.#unknown[from] = this.#unknown[from - 1] ?? 0;
      return;
    }
    this.#bits.copyWithin(from, from - words, from);
    this.#unknown?.copyWithin(from, from - words, from);
  }

  #isLast(bits: ArrayLike<number>, unknown: ArrayLike<number> | null): boolean {
    const from = (this.#count - 1) * this.#words;
    for (let i = 0; i < this.#words; i++)
      if (
        this.#bits[from + i] !== item(bits, i) >>> 0 ||
        (this.#unknown?.[from + i] ?? 0) !== (unknown?.[i] ?? 0) >>> 0
      )
        return false;
    return true;
  }

  #grow(): void {
    const twice = (old: Uint32Array) => {
      const grown = new Uint32Array(old.length * 2);
      grown.set(old);
      return grown;
    };
    const at = new Float64Array(this.#at.length * 2);
    at.set(this.#at);
    this.#at = at;
    this.#bits = twice(this.#bits);
    if (this.#unknown) this.#unknown = twice(this.#unknown);
  }

  finish(about: Omit<Trace, 'at' | 'words' | 'bits' | 'unknown'>): Trace {
    const words = this.#count * this.#words;
    return {
      ...about,
      at: this.#at.slice(0, this.#count),
      words: this.#words,
      bits: this.#bits.slice(0, words),
      unknown: this.#unknown?.slice(0, words) ?? null,
    };
  }
}
