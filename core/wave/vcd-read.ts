import type { Recording } from './recording.ts';
import { type Trace, TraceWriter, wordsOf } from './trace.ts';

/** What is wrong with a dump, and in which line, counted from 1. A note does not make it invalid. */
export interface VcdProblem {
  readonly line: number;
  readonly code: string;
  readonly message: string;
  readonly severity: 'error' | 'note';
}

/** What a dump says of itself. */
export interface VcdFacts {
  readonly valid: boolean;
  /** Such as `1ns`, without blanks; empty when the dump does not say. */
  readonly timescale: string;
  readonly tickSeconds: number;
  /** Full names, modules joined by dots, in the order of the declarations. */
  readonly names: readonly string[];
  readonly widths: readonly number[];
  /** The last time in the dump, in units of the timescale, decimal. */
  readonly endTime: string;
  readonly problems: readonly VcdProblem[];
  /** The record was cut where it grew too large. */
  readonly cut: boolean;
}

export interface VcdWanted {
  /** Which signals to keep; all where absent, none for an empty list. */
  readonly only?: readonly string[];
  /** Most value changes to keep, all signals together; what comes later is checked, not kept. */
  readonly mostChanges?: number;
}

interface Variable {
  readonly width: number;
  readonly names: string[];
  readonly real: boolean;
  /** Null for what is not kept. */
  writer: TraceWriter | null;
}

const MOST_PROBLEMS = 100;
const SECONDS: Readonly<Record<string, number>> = { s: 1, ms: 1e-3, us: 1e-6, ns: 1e-9, ps: 1e-12, fs: 1e-15 };
const SIMULATION = new Set(['$dumpvars', '$dumpall', '$dumpon', '$dumpoff', '$end']);
const SKIPPED = new Set(['$date', '$version', '$comment']);
const [SPACE, HASH, DOLLAR, ZERO, NINE] = [32, 35, 36, 48, 57];

/**
 * Reads a value change dump piece by piece; pieces may end anywhere. Memory holds what is kept and one piece.
 *
 * @source IEEE 1364-2005, clause 18.2
 */
export class VcdReader {
  readonly #wanted: VcdWanted;
  readonly #problems: VcdProblem[] = [];
  readonly #byCode = new Map<number, Variable>();
  readonly #variables: Variable[] = [];
  readonly #order: { readonly name: string; readonly variable: Variable }[] = [];
  readonly #scope: string[] = [];
  #rest: Uint8Array | null = null;
  #line = 1;
  #time = 0;
  #timescale = '';
  #body = false;
  #rounded = false;
  /** The last time as it is written, where a number cannot hold it. */
  #endDigits: string | null = null;
  #cut = false;
  #changes = 0;
  /** A keyword whose words up to `$end` are being gathered. */
  #keyword: { readonly name: string; readonly line: number; readonly words: string[] } | null = null;
  /** A vector whose identifier code comes next. */
  #vector: { readonly line: number; readonly digits: string } | null = null;

  constructor(wanted: VcdWanted = {}) {
    this.#wanted = wanted;
  }

  push(piece: Uint8Array): void {
    let bytes = piece;
    if (this.#rest && this.#rest.length > 0) {
      bytes = new Uint8Array(this.#rest.length + piece.length);
      bytes.set(this.#rest);
      bytes.set(piece, this.#rest.length);
    }
    let end = bytes.length;
    while (end > 0 && (bytes[end - 1] as number) > SPACE) end--;
    this.#rest = bytes.slice(end);
    this.#read(bytes, end);
  }

  /** Ends the dump; what it held can be taken then. */
  finish(): VcdFacts {
    if (this.#rest && this.#rest.length > 0) this.#read(this.#rest, this.#rest.length);
    this.#rest = null;
    if (this.#keyword) this.#wrong('vcd-truncated', `The file ends inside ${this.#keyword.name}, which began in line ${this.#keyword.line}.`);
    else if (this.#vector) this.#wrong('vcd-truncated', 'The file ends inside a value.');
    else if (!this.#body) this.#wrong('vcd-header', 'There is no $enddefinitions: this is no value change dump, or only its beginning.');
    if (this.#body && this.#order.length === 0) this.#wrong('vcd-header', 'The dump declares no signals.');
    if (this.#timescale === '') this.#wrong('vcd-timescale', 'The dump does not give its timescale; 1 ns is taken.', 'note');
    const valid = this.#problems.every(({ severity }) => severity !== 'error');
    return { valid, timescale: this.#timescale, tickSeconds: this.#tickSeconds(), names: this.#order.map(({ name }) => name), widths: this.#order.map(({ variable }) => variable.width), endTime: this.#endDigits ?? String(this.#time), problems: this.#problems, cut: this.#cut };
  }

  /** The signals that were kept. */
  recording(title: string): Recording {
    const kept = this.#wanted.only;
    const made = new Map<Variable, Trace>();
    const traces = this.#order.flatMap(({ name, variable }): Trace[] => {
      if (!variable.writer || (kept && !kept.includes(name))) return [];
      const known = made.get(variable);
      if (known) return [{ ...known, name }];
      const trace = variable.writer.finish({ name, width: variable.width, signed: false, domain: '' });
      made.set(variable, trace);
      return [trace];
    });
    return { title, tickSeconds: this.#tickSeconds(), length: Math.max(1, this.#time), triggers: [], traces, gaps: [], stored: null, sampled: false };
  }

  #tickSeconds(): number {
    const match = /^(\d+)(\w+)$/.exec(this.#timescale);
    return match ? Number(match[1]) * (SECONDS[match[2] as string] ?? 1e-9) : 1e-9;
  }

  #wrong(code: string, message: string, severity: VcdProblem['severity'] = 'error', line = this.#line): void {
    if (this.#problems.length < MOST_PROBLEMS) this.#problems.push({ line, code, message, severity });
  }

  #read(bytes: Uint8Array, end: number): void {
    let at = 0;
    while (at < end) {
      const byte = bytes[at] as number;
      if (byte <= SPACE) {
        if (byte === 10) this.#line++;
        at++;
        continue;
      }
      const from = at;
      while (at < end && (bytes[at] as number) > SPACE) at++;
      if (this.#vector) this.#vectorChange(codeOf(bytes, from, at), () => text(bytes, from, at));
      else if (this.#keyword) this.#keywordWord(text(bytes, from, at));
      else if (byte === HASH) this.#moveTo(bytes, from + 1, at);
      else if (byte === DOLLAR) this.#begin(text(bytes, from, at));
      else this.#change(bytes, byte, from, at);
    }
  }

  #moveTo(bytes: Uint8Array, from: number, end: number): void {
    let time = 0;
    for (let i = from; i < end; i++) {
      const digit = bytes[i] as number;
      if (digit < ZERO || digit > NINE) return this.#wrong('vcd-time', `"${text(bytes, from - 1, end)}" is no time.`);
      time = time * 10 + digit - ZERO;
    }
    if (!Number.isSafeInteger(time) && !this.#rounded) {
      this.#rounded = true;
      this.#wrong('vcd-time-rounded', `The time ${text(bytes, from, end)} is beyond 2^53 units; such times are rounded.`, 'note');
    }
    this.#endDigits = null;
    if (!Number.isSafeInteger(time)) this.#endDigits = text(bytes, from, end);
    if (time < this.#time) return this.#wrong('vcd-time-back', `Time goes back from ${this.#time} to ${time}; the values that follow are taken at ${this.#time}.`);
    this.#time = time;
  }

  #change(bytes: Uint8Array, first: number, from: number, end: number): void {
    const letter = String.fromCharCode(first).toLowerCase();
    if (letter === 'b' || letter === 'r' || letter === 's') {
      this.#vector = { line: this.#line, digits: text(bytes, from, end) };
      return;
    }
    const [bit, open] = SCALAR[letter] ?? [-1, 0];
    if (bit < 0) return this.#wrong('vcd-syntax', `"${text(bytes, from, Math.min(end, from + 40))}" is neither a time nor a value.`);
    if (end === from + 1) return this.#wrong('vcd-syntax', `The value ${letter} names no signal.`);
    const variable = this.#byCode.get(codeOf(bytes, from + 1, end));
    if (!variable) return this.#wrong('vcd-unknown-code', `No signal was declared with the identifier code ${text(bytes, from + 1, end)}.`);
    if (!this.#keep(variable)) return;
    if (variable.width === 1) {
      SCALAR_BITS[0] = bit;
      SCALAR_OPEN[0] = open;
      variable.writer?.add(this.#time, SCALAR_BITS, open ? SCALAR_OPEN : null);
    } else this.#store(variable, letter);
  }

  #vectorChange(code: number, name: () => string): void {
    const { digits, line } = this.#vector as { line: number; digits: string };
    this.#vector = null;
    const variable = this.#byCode.get(code);
    if (!variable) return this.#wrong('vcd-unknown-code', `No signal was declared with the identifier code ${name()}.`, 'error', line);
    if (/^[rRsS]/.test(digits)) {
      if (!variable.real) this.#wrong('vcd-syntax', `A ${/^[rR]/.test(digits) ? 'real value' : 'text'} is given to a signal of bits.`, 'error', line);
      return;
    }
    const plain = digits.slice(1).toLowerCase();
    if (!/^[01xz]+$/.test(plain)) return this.#wrong('vcd-syntax', `"${digits.slice(0, 40)}" has other digits than 0, 1, x and z.`, 'error', line);
    if (plain.length > variable.width) this.#wrong('vcd-width', `A value of ${plain.length} bits is given to ${variable.names[0]}, which has ${variable.width}.`, 'error', line);
    if (this.#keep(variable)) this.#store(variable, plain);
  }

  #keep(variable: Variable): boolean {
    if (!variable.writer) return false;
    if (++this.#changes <= (this.#wanted.mostChanges ?? Number.POSITIVE_INFINITY)) return true;
    this.#cut = true;
    return false;
  }

  /** A short value is extended to the left: with its first digit when that is x or z, else with 0. */
  #store({ width, writer }: Variable, digits: string): void {
    const words = wordsOf(width);
    const bits = new Uint32Array(words);
    const unknown = new Uint32Array(words);
    const fill = digits[0] === 'x' || digits[0] === 'z' ? digits[0] : '0';
    let anyUnknown = false;
    for (let bit = 0; bit < width; bit++) {
      const digit = bit < digits.length ? digits[digits.length - 1 - bit] : fill;
      if (digit === '0') continue;
      const mask = 1 << (bit & 31);
      const at = bit >>> 5;
      if (digit !== 'x') bits[at] = (bits[at] as number) | mask;
      if (digit === '1') continue;
      unknown[at] = (unknown[at] as number) | mask;
      anyUnknown = true;
    }
    writer?.add(this.#time, bits, anyUnknown ? unknown : null);
  }

  #begin(word: string): void {
    if (SIMULATION.has(word)) return;
    this.#keyword = { name: word, line: this.#line, words: [] };
  }

  #keywordWord(word: string): void {
    const keyword = this.#keyword as { name: string; line: number; words: string[] };
    if (word !== '$end') {
      // A comment may be long, and nothing is done with it.
      if (!SKIPPED.has(keyword.name)) keyword.words.push(word);
      return;
    }
    this.#keyword = null;
    this.#directive(keyword.name, keyword.words, keyword.line);
  }

  #directive(name: string, words: readonly string[], line: number): void {
    switch (name) {
      case '$timescale': {
        const joined = words.join('').toLowerCase();
        if (/^(1|10|100)(s|ms|us|ns|ps|fs)$/.test(joined)) this.#timescale = joined;
        else this.#wrong('vcd-timescale', `"${words.join(' ')}" is no timescale; it is 1, 10 or 100 and s, ms, us, ns, ps or fs.`, 'error', line);
        return;
      }
      case '$scope':
        this.#scope.push(words[1] ?? '');
        return;
      case '$upscope':
        if (this.#scope.length === 0) this.#wrong('vcd-scope', '$upscope without a $scope.', 'error', line);
        this.#scope.pop();
        return;
      case '$var':
        return this.#declare(words, line);
      case '$enddefinitions':
        this.#body = true;
        return;
      default:
        if (!SKIPPED.has(name)) this.#wrong('vcd-keyword', `${name} is no keyword of a value change dump; it is passed over.`, 'note', line);
    }
  }

  #declare(words: readonly string[], line: number): void {
    const [kind, size, code, reference, ...range] = words;
    const width = Number(size);
    if (!kind || !code || !reference || !Number.isInteger(width) || width < 1) return this.#wrong('vcd-var', `"$var ${words.join(' ')}" does not give type, size, identifier code and name.`, 'error', line);
    const select = range.join('');
    const name = [...this.#scope, /^\[\d+\]$/.test(select) && width === 1 ? `${reference}${select}` : reference.replace(/\[\d+:\d+\]$/, '')].join('.');
    const bytes = new TextEncoder().encode(code);
    const key = codeOf(bytes, 0, bytes.length);
    const known = this.#byCode.get(key);
    // Texts are no part of the standard; several writers know them.
    const real = kind === 'real' || kind === 'realtime' || kind === 'string';
    if (known && known.width !== width) this.#wrong('vcd-var', `The identifier code ${code} stands for ${known.width} bits and for ${width}.`, 'error', line);
    if (real) this.#wrong('vcd-real', `${name} holds ${kind === 'string' ? 'texts' : 'real numbers'}, which are not shown.`, 'note', line);
    const { only } = this.#wanted;
    const variable: Variable = known ?? { width, names: [], real, writer: null };
    if (!real && (only?.includes(name) ?? true)) variable.writer ??= new TraceWriter(width);
    variable.names.push(name);
    if (!known) {
      this.#byCode.set(key, variable);
      this.#variables.push(variable);
    }
    this.#order.push({ name, variable });
  }
}

const SCALAR: Readonly<Record<string, readonly [bit: number, open: number]>> = { 0: [0, 0], 1: [1, 0], x: [0, 1], z: [1, 1] };
const SCALAR_BITS = new Uint32Array(1);
const SCALAR_OPEN = new Uint32Array(1);
const CODES = 95;

/** An identifier code, of characters ! to ~, as a number; exact up to eight characters, which is more than any dump needs. */
function codeOf(bytes: Uint8Array, from: number, end: number): number {
  let code = 0;
  for (let i = from; i < end; i++) code = code * CODES + (bytes[i] as number) - SPACE;
  return code;
}

const DECODER = new TextDecoder();
const text = (bytes: Uint8Array, from: number, end: number): string => DECODER.decode(bytes.subarray(from, end));
