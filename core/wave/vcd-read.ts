import { byteAt, item, wordAt, own } from '../lists.ts';
import type { Anchor, Gap, Recording } from './recording.ts';
import { type Trace, TraceWriter, wordsOf, wordsOfReal } from './trace.ts';

/** What is wrong with a dump, and in which line, counted from 1. A note does not make it invalid. */
interface VcdProblem {
  readonly line: number;
  readonly code: string;
  readonly message: string;
  readonly severity: 'error' | 'note';
}

/** What a dump says of itself. */
interface VcdFacts {
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

interface VcdWanted {
  /** Which signals to keep; all where absent, none for an empty list. */
  readonly only?: readonly string[];
  /** Most value changes to keep, all signals together; what comes later is checked, not kept. */
  readonly mostChanges?: number;
  /** Keeps the times that the dump gives, those too at which nothing changes. */
  readonly stamps?: boolean;
}

interface Variable {
  readonly width: number;
  readonly names: string[];
  readonly holds: 'bits' | 'real' | 'text';
  /** Null for what is not kept. */
  writer: TraceWriter | null;
}

/** What a value may begin with, by its first byte. */
const [NONE, ZERO_DIGIT, ONE, X, Z, VECTOR, REAL, TEXT, WRONG] = [0, 1, 2, 3, 4, 5, 6, 7, 8] as const;
const KIND = new Uint8Array(256);
for (const [letters, kind] of [
  ['0', ZERO_DIGIT],
  ['1', ONE],
  ['xX', X],
  ['zZ', Z],
  ['bB', VECTOR],
  ['rR', REAL],
  ['sS', TEXT],
] as const)
  for (const letter of letters) KIND[letter.charCodeAt(0)] = kind as number;

/** Characters of an identifier code, ! to ~, and a digit for none. */
const CODES = 95;
const MOST_PROBLEMS = 100;
const SECONDS: Readonly<Record<string, number>> = { s: 1, ms: 1e-3, us: 1e-6, ns: 1e-9, ps: 1e-12, fs: 1e-15 };
const SIMULATION = new Set(['$dumpvars', '$dumpall', '$dumpon', '$dumpoff', '$end']);
const SKIPPED = new Set(['$date', '$version', '$comment']);
/** Up to here every time is a tick of its own; twice as many can be counted exactly, which leaves room for rests. */
const FAR = 2 ** 52;
/** What is left of a long rest beyond that. */
const LONG_REST = 2 ** 20;
const [SPACE, HASH, DOLLAR, ZERO, NINE] = [32, 35, 36, 48, 57];

function joined(pieces: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(pieces.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const piece of pieces) {
    out.set(piece, at);
    at += piece.length;
  }
  return out;
}

/**
 * Reads a value change dump piece by piece; pieces may end anywhere. Memory holds what is kept and one piece.
 *
 * @source IEEE 1364-2005, clause 18.2
 */
export class VcdReader {
  readonly #wanted: VcdWanted;
  readonly #problems: VcdProblem[] = [];
  readonly #byCode = new Map<number, Variable>();
  /** The same for codes of one or two characters, which are nearly all. */
  readonly #byShortCode: (Variable | undefined)[] = Array<Variable | undefined>(CODES * CODES).fill(undefined);
  readonly #order: { readonly name: string; readonly variable: Variable }[] = [];
  readonly #scope: string[] = [];
  /** Pieces of a word that has not ended yet; they are joined once it has. */
  #rest: Uint8Array[] = [];
  #line = 1;
  #time = 0;
  #timescale = '';
  #body = false;
  /**
   * Places from which on ticks are counted anew, because time has passed 2^52 units: what stood still for long is shown
   * short from there on.
   */
  readonly #anchors: Anchor[] = [];
  readonly #gaps: Gap[] = [];
  #cut = false;
  #changes = 0;
  /** A keyword whose words up to `$end` are being gathered. */
  #keyword: { readonly name: string; readonly line: number; readonly words: string[] } | null = null;
  /**
   * Kind of a value whose identifier code comes next, NONE without one; the digits of a vector lie in `#bits` and
   * `#open`, WRONG is one with other digits.
   */
  #vector: number = NONE;
  #vectorLine = 0;
  #vectorLength = 0;
  #vectorFirst: number = NONE;
  /** Digits of the value that is being read, lowest first: bits, and 1 where one is x or z. */
  #bits = new Uint32Array(4);
  #open = new Uint32Array(4);
  #anyOpen = false;
  #real = 0;
  readonly #stamps: number[] = [];

  constructor(wanted: VcdWanted = {}) {
    this.#wanted = wanted;
  }

  push(piece: Uint8Array): void {
    let end = piece.length;
    while (end > 0 && byteAt(piece, end - 1) > SPACE) end--;
    if (end === 0) {
      if (piece.length > 0) this.#rest.push(piece.slice());
      return;
    }
    const before = this.#taken();
    const bytes = before.length === 0 ? piece : joined([before, piece.subarray(0, end)]);
    this.#rest = end < piece.length ? [piece.slice(end)] : [];
    this.#read(bytes, before.length + end);
  }

  /** What is left of earlier pieces, taken out. */
  #taken(): Uint8Array {
    const [first] = this.#rest;
    const taken = this.#rest.length > 1 ? joined(this.#rest) : (first ?? new Uint8Array());
    this.#rest = [];
    return taken;
  }

  /** The times that the dump gives, as ticks; empty where they were not asked for. */
  get stamps(): Float64Array {
    return Float64Array.from(this.#stamps);
  }

  /** Ends the dump; what it held can be taken then. */
  finish(): VcdFacts {
    const rest = this.#taken();
    if (rest.length > 0) this.#read(rest, rest.length);
    if (this.#keyword)
      this.#wrong(
        'vcd-truncated',
        `The file ends inside ${this.#keyword.name}, which began in line ${this.#keyword.line}.`,
      );
    else if (this.#vector !== NONE) this.#wrong('vcd-truncated', 'The file ends inside a value.');
    else if (!this.#body)
      this.#wrong('vcd-header', 'There is no $enddefinitions: this is no value change dump, or only its beginning.');
    if (this.#body && this.#order.length === 0) this.#wrong('vcd-header', 'The dump declares no signals.');
    if (this.#timescale === '')
      this.#wrong('vcd-timescale', 'The dump does not give its timescale; 1 ns is taken.', 'note');
    const valid = this.#problems.every(({ severity }) => severity !== 'error');
    return {
      valid,
      timescale: this.#timescale,
      tickSeconds: this.#tickSeconds(),
      names: this.#order.map(({ name }) => name),
      widths: this.#order.map(({ variable }) => variable.width),
      endTime: String(this.#realTime()),
      problems: this.#problems,
      cut: this.#cut,
    };
  }

  /** The signals that were kept. */
  recording(title: string): Recording {
    const kept = this.#wanted.only;
    const made = new Map<Variable, Trace>();
    const traces = this.#order.flatMap(({ name, variable }): Trace[] => {
      if (!variable.writer || (kept && !kept.includes(name))) return [];
      const known = made.get(variable);
      if (known) return [{ ...known, name }];
      const trace = variable.writer.finish({
        name,
        width: variable.width,
        signed: variable.holds === 'real',
        domain: '',
        ...(variable.holds === 'real' ? { real: true } : {}),
      });
      made.set(variable, trace);
      return [trace];
    });
    return {
      title,
      tickSeconds: this.#tickSeconds(),
      length: Math.max(1, this.#time),
      triggers: [],
      traces,
      gaps: this.#gaps,
      stored: null,
      sampled: false,
      ...(this.#anchors.length > 0 ? { anchors: this.#anchors } : {}),
    };
  }

  #tickSeconds(): number {
    const match = /^(\d+)(\w+)$/.exec(this.#timescale);
    return match ? Number(match[1]) * (SECONDS[item(match, 2)] ?? 1e-9) : 1e-9;
  }

  #wrong(code: string, message: string, severity: VcdProblem['severity'] = 'error', line = this.#line): void {
    if (this.#problems.length < MOST_PROBLEMS) this.#problems.push({ line, code, message, severity });
  }

  #read(bytes: Uint8Array, end: number): void {
    let at = 0;
    while (at < end) {
      const byte = byteAt(bytes, at);
      if (byte <= SPACE) {
        if (byte === 10) this.#line++;
        at++;
        continue;
      }
      const from = at;
      // What follows the first character, as an identifier code: most words are a value and a code.
      let code = 0;
      for (at++; at < end && byteAt(bytes, at) > SPACE; at++) code = code * CODES + byteAt(bytes, at) - SPACE;
      if (this.#vector !== NONE) this.#vectorChange(codeOf(bytes, from, at), () => text(bytes, from, at));
      else if (this.#keyword) this.#keywordWord(text(bytes, from, at));
      else if (byte === HASH) {
        this.#moveTo(bytes, from + 1, at);
        if (this.#wanted.stamps && this.#stamps.at(-1) !== this.#time) this.#stamps.push(this.#time);
      } else if (byte === DOLLAR) this.#begin(text(bytes, from, at));
      else this.#change(bytes, byte, from, at, code);
    }
  }

  #moveTo(bytes: Uint8Array, from: number, end: number): void {
    let time = 0;
    for (let i = from; i < end; i++) {
      const digit = byteAt(bytes, i);
      if (digit < ZERO || digit > NINE) return this.#wrong('vcd-time', `"${text(bytes, from - 1, end)}" is no time.`);
      time = time * 10 + digit - ZERO;
    }
    if (time > FAR || this.#anchors.length > 0) return this.#moveFar(BigInt(text(bytes, from, end)));
    if (time < this.#time)
      return this.#wrong(
        'vcd-time-back',
        `Time goes back from ${this.#time} to ${time}; the values that follow are taken at ${this.#time}.`,
      );
    this.#time = time;
  }

  /** The time that was last given, as the dump counts it. */
  #realTime(): bigint {
    const last = this.#anchors.at(-1);
    return last ? last.real + BigInt(this.#time - last.tick) : BigInt(this.#time);
  }

  /** Time beyond what a tick can count exactly: a long rest is shown short, and the exact time noted where it ends. */
  #moveFar(time: bigint): void {
    const now = this.#realTime();
    if (time < now)
      return this.#wrong(
        'vcd-time-back',
        `Time goes back from ${now} to ${time}; the values that follow are taken at ${now}.`,
      );
    const rest = time - now;
    if (rest <= BigInt(LONG_REST)) {
      this.#time += Number(rest);
      return;
    }
    const from = this.#time + 1;
    this.#time += LONG_REST;
    this.#gaps.push({ from, to: this.#time, ticks: Number(rest - 1n), why: 'still' });
    this.#anchors.push({ tick: this.#time, real: time });
  }

  #change(bytes: Uint8Array, first: number, from: number, end: number, code: number): void {
    const kind = byteAt(KIND, first);
    if (kind >= VECTOR) return this.#beginVector(bytes, kind, from, end);
    if (kind === NONE)
      return this.#wrong(
        'vcd-syntax',
        `"${text(bytes, from, Math.min(end, from + 40))}" is neither a time nor a value.`,
      );
    if (end === from + 1) return this.#wrong('vcd-syntax', `The value ${text(bytes, from, end)} names no signal.`);
    const variable = this.#variableOf(code);
    if (!variable)
      return this.#wrong(
        'vcd-unknown-code',
        `No signal was declared with the identifier code ${text(bytes, from + 1, end)}.`,
      );
    if (variable.holds !== 'bits')
      return this.#wrong('vcd-syntax', `A bit is given to a signal of ${HELD_NAMES[variable.holds]}.`);
    if (!this.#keep(variable)) return;
    if (variable.width === 1) {
      SCALAR_BITS[0] = kind === ONE || kind === Z ? 1 : 0;
      variable.writer?.add(this.#time, SCALAR_BITS, kind >= X ? SCALAR_OPEN : null);
      return;
    }
    this.#readDigits(bytes, from, from + 1);
    this.#store(variable, 1, kind);
  }

  #variableOf(code: number): Variable | undefined {
    return code < CODES * CODES ? this.#byShortCode[code] : this.#byCode.get(code);
  }

  #beginVector(bytes: Uint8Array, kind: number, from: number, end: number): void {
    this.#vector = kind;
    this.#vectorLine = this.#line;
    if (kind === REAL) this.#readReal(text(bytes, from + 1, end));
    if (kind !== VECTOR) return;
    this.#vectorLength = end - from - 1;
    if (end > from + 1 && this.#readDigits(bytes, from + 1, end))
      this.#vectorFirst = byteAt(KIND, byteAt(bytes, from + 1));
    else {
      this.#vector = WRONG;
      this.#wrong(
        'vcd-syntax',
        `"${text(bytes, from + 1, Math.min(end, from + 41))}" has other digits than 0, 1, x and z.`,
      );
    }
  }

  /** Takes a real number as `printf` writes it, in the form %.16g (IEEE 1364-2005, clause 18.2.2). */
  #readReal(digits: string): void {
    const named = own(REAL_NAMES, digits.toLowerCase());
    const value = named ?? (/^[+-]?(?:\d+(?:\.\d*)?|\.\d+)(?:e[+-]?\d+)?$/i.test(digits) ? Number(digits) : null);
    if (value === null) {
      this.#vector = WRONG;
      this.#wrong('vcd-syntax', `"${digits.slice(0, 40)}" is no real number.`);
    } else this.#real = value;
  }

  /** Takes digits, highest first, into `#bits` and `#open`; false when one of them is none. */
  #readDigits(bytes: Uint8Array, from: number, end: number): boolean {
    this.#makeRoom(wordsOf(end - from));
    this.#anyOpen = false;
    for (let at = end, word = 0; at > from; word++) {
      let [bits, open] = [0, 0];
      for (let bit = 0; bit < 32 && at > from; bit++) {
        const kind = byteAt(KIND, byteAt(bytes, --at));
        if (kind === ONE) bits |= 1 << bit;
        else if (kind === X) open |= 1 << bit;
        else if (kind === Z) {
          bits |= 1 << bit;
          open |= 1 << bit;
        } else if (kind !== ZERO_DIGIT) return false;
      }
      this.#bits[word] = bits;
      this.#open[word] = open;
      if (open !== 0) this.#anyOpen = true;
    }
    return true;
  }

  #makeRoom(words: number): void {
    if (words <= this.#bits.length) return;
    const grown = (old: Uint32Array) => {
      const more = new Uint32Array(words * 2);
      more.set(old);
      return more;
    };
    this.#bits = grown(this.#bits);
    this.#open = grown(this.#open);
  }

  #vectorChange(code: number, name: () => string): void {
    const kind = this.#vector;
    const line = this.#vectorLine;
    this.#vector = NONE;
    const variable = this.#variableOf(code);
    if (!variable)
      return this.#wrong(
        'vcd-unknown-code',
        `No signal was declared with the identifier code ${name()}.`,
        'error',
        line,
      );
    if (kind === REAL || kind === TEXT) {
      if (variable.holds !== (kind === REAL ? 'real' : 'text'))
        this.#wrong(
          'vcd-syntax',
          `A ${kind === REAL ? 'real value' : 'text'} is given to a signal of ${HELD_NAMES[variable.holds]}.`,
          'error',
          line,
        );
      else if (kind === REAL && this.#keep(variable)) variable.writer?.add(this.#time, wordsOfReal(this.#real), null);
      return;
    }
    if (kind === VECTOR && variable.holds !== 'bits')
      return this.#wrong('vcd-syntax', `Bits are given to a signal of ${HELD_NAMES[variable.holds]}.`, 'error', line);
    if (kind === WRONG) return;
    const length = this.#vectorLength;
    if (length > variable.width)
      this.#wrong(
        'vcd-width',
        `A value of ${length} bits is given to ${variable.names[0]}, which has ${variable.width}.`,
        'error',
        line,
      );
    if (this.#keep(variable)) this.#store(variable, length, this.#vectorFirst);
  }

  #keep(variable: Variable): boolean {
    if (!variable.writer) return false;
    if (++this.#changes <= (this.#wanted.mostChanges ?? Number.POSITIVE_INFINITY)) return true;
    this.#cut = true;
    return false;
  }

  /**
   * Stores the digits that were read, made as wide as the signal: a short value is extended with its first digit when
   * that is x or z, else with 0.
   */
  #store({ width, writer }: Variable, length: number, first: number): void {
    const words = wordsOf(width);
    this.#makeRoom(words);
    const [bits, open] = [this.#bits, this.#open];
    for (let word = wordsOf(length); word < words; word++) bits[word] = open[word] = 0;
    const unknown = first === X || first === Z;
    for (let bit = length; unknown && bit < width; bit++) {
      const mask = 1 << (bit & 31);
      open[bit >>> 5] = wordAt(open, bit >>> 5) | mask;
      if (first === Z) bits[bit >>> 5] = wordAt(bits, bit >>> 5) | mask;
    }
    if (length > width && (width & 31) !== 0) {
      const mask = 2 ** (width & 31) - 1;
      bits[words - 1] = wordAt(bits, words - 1) & mask;
      open[words - 1] = wordAt(open, words - 1) & mask;
    }
    writer?.add(this.#time, bits, this.#anyOpen ? open : null);
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
        else
          this.#wrong(
            'vcd-timescale',
            `"${words.join(' ')}" is no timescale; it is 1, 10 or 100 and s, ms, us, ns, ps or fs.`,
            'error',
            line,
          );
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
        if (!SKIPPED.has(name))
          this.#wrong('vcd-keyword', `${name} is no keyword of a value change dump; it is passed over.`, 'note', line);
    }
  }

  #declare(words: readonly string[], line: number): void {
    const [kind, size, code, reference, ...range] = words;
    const width = Number(size);
    if (!kind || !code || !reference || !Number.isInteger(width) || width < 1)
      return this.#wrong(
        'vcd-var',
        `"$var ${words.join(' ')}" does not give type, size, identifier code and name.`,
        'error',
        line,
      );
    if (width > WIDEST)
      return this.#wrong(
        'vcd-var',
        `${reference} has ${width} bits; the most that is read is ${WIDEST}.`,
        'error',
        line,
      );
    const select = range.join('');
    const name = [
      ...this.#scope,
      /^\[\d+\]$/.test(select) && width === 1 ? `${reference}${select}` : reference.replace(/\[\d+:\d+\]$/, ''),
    ].join('.');
    const bytes = new TextEncoder().encode(code);
    const key = codeOf(bytes, 0, bytes.length);
    const known = this.#byCode.get(key);
    // Texts are no part of the standard; several writers know them.
    const holds = kind === 'real' || kind === 'realtime' ? 'real' : kind === 'string' ? 'text' : 'bits';
    const bits = holds === 'real' ? REAL_BITS : width;
    if (known && (known.width !== bits || known.holds !== holds))
      this.#wrong(
        'vcd-var',
        `The identifier code ${code} stands for ${known.width} bits and for ` +
          `${width}${known.holds === holds ? '' : ', and not for the same kind of value'}.`,
        'error',
        line,
      );
    if (holds === 'text') this.#wrong('vcd-text', `${name} holds texts, which are not shown.`, 'note', line);
    const { only } = this.#wanted;
    const variable: Variable = known ?? { width: bits, names: [], holds, writer: null };
    if (variable.holds !== 'text' && (only?.includes(name) ?? true))
      variable.writer ??= new TraceWriter(variable.width);
    variable.names.push(name);
    if (!known) {
      this.#byCode.set(key, variable);
      if (key < CODES * CODES) this.#byShortCode[key] = variable;
    }
    this.#order.push({ name, variable });
  }
}

/** In bits: as wide as a vector of Verilog has to be allowed, 2^16 (IEEE 1364-2005, clause 4.2.1), sixteen times over. */
const WIDEST = 1 << 20;
/** A real variable is a floating point number of 64 bits, whatever its declaration gives as size. */
const REAL_BITS = 64;
const REAL_NAMES: Readonly<Record<string, number>> = {
  nan: Number.NaN,
  '-nan': Number.NaN,
  inf: Number.POSITIVE_INFINITY,
  '+inf': Number.POSITIVE_INFINITY,
  '-inf': Number.NEGATIVE_INFINITY,
};
const HELD_NAMES = { bits: 'bits', real: 'real numbers', text: 'texts' } as const;
const SCALAR_BITS = new Uint32Array(1);
const SCALAR_OPEN = Uint32Array.of(1);
/**
 * An identifier code, of characters ! to ~, as a number; exact up to eight characters, which is more than any dump
 * needs.
 */
function codeOf(bytes: Uint8Array, from: number, end: number): number {
  let code = 0;
  for (let i = from; i < end; i++) code = code * CODES + byteAt(bytes, i) - SPACE;
  return code;
}

const DECODER = new TextDecoder();
const text = (bytes: Uint8Array, from: number, end: number): string => DECODER.decode(bytes.subarray(from, end));
