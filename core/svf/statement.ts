import { type Bits, packedLength } from '../bits/index.ts';
import { byteAt, own } from '../lists.ts';
import { SCAN_COMMANDS, type ScanName, STABLE_STATES, SVF_STATES, type SvfCommand, type SvfTrouble } from './model.ts';

export type SvfToken =
  | { readonly kind: 'word'; readonly text: string; readonly line: number }
  | { readonly kind: 'bits'; readonly bits: Bits; readonly line: number };

const VECTORS = ['TDI', 'TDO', 'MASK', 'SMASK'] as const;
const LONGEST_SCAN = 1 << 28;

/** The words of one command, up to its semicolon, understood. */
export function parseStatement(tokens: readonly SvfToken[], line: number, end: number): SvfCommand | SvfTrouble {
  const words = new Words(tokens, line);
  try {
    const command = statement(words, line, end);
    words.finish();
    return command;
  } catch (error) {
    if (error instanceof Wrong)
      return { code: error.code, line: error.line, message: error.message, tryNext: [error.advice] };
    throw error;
  }
}

function statement(words: Words, line: number, end: number): SvfCommand {
  const name = words.word('a command');
  if ((SCAN_COMMANDS as readonly string[]).includes(name))
    return { line, end, kind: 'scan', ...scan(words, name as ScanName) };
  switch (name) {
    case 'ENDDR':
      return { line, end, kind: 'end-state', register: 'DR', state: stable(words) };
    case 'ENDIR':
      return { line, end, kind: 'end-state', register: 'IR', state: stable(words) };
    case 'FREQUENCY':
      return { line, end, kind: 'frequency', hz: frequency(words) };
    case 'RUNTEST':
      return { line, end, kind: 'runtest', ...runTest(words) };
    case 'STATE':
      return { line, end, kind: 'state', path: path(words) };
    case 'TRST': {
      const mode = words.word('ON, OFF, Z or ABSENT');
      if (mode !== 'ON' && mode !== 'OFF' && mode !== 'Z' && mode !== 'ABSENT')
        throw words.wrong('svf-syntax', `TRST takes ON, OFF, Z or ABSENT, not "${mode}".`);
      return { line, end, kind: 'trst', mode };
    }
    case 'PIO':
    case 'PIOMAP':
      throw words.wrong(
        'svf-pio',
        `${name} drives wires beside the test port, which a JTAG cable does not have.`,
        'Leave PIO and PIOMAP out of the file, or drive those pins by EXTEST.',
      );
    default:
      throw words.wrong(
        'svf-command',
        `"${name}" is no command of SVF.`,
        'Is this an SVF file? Its commands are ENDDR ENDIR FREQUENCY HDR HIR RUNTEST SDR SIR STATE TDR TIR TRST.',
      );
  }
}

function scan(words: Words, name: ScanName) {
  const length = words.number('a length in bits');
  if (!Number.isInteger(length) || length < 0 || length > LONGEST_SCAN)
    throw words.wrong('svf-length', `${length} is no length of a scan.`);
  if (length === 0 && (name === 'SDR' || name === 'SIR'))
    throw words.wrong('svf-length', `${name} needs at least one bit.`);
  const fields: Record<(typeof VECTORS)[number], Bits | null> = { TDI: null, TDO: null, MASK: null, SMASK: null };
  while (!words.ended) {
    const field = words.word('TDI, TDO, MASK or SMASK') as (typeof VECTORS)[number];
    if (!VECTORS.includes(field))
      throw words.wrong('svf-syntax', `${name} takes TDI, TDO, MASK and SMASK, not "${field}".`);
    if (fields[field]) throw words.wrong('svf-syntax', `${field} is given twice.`);
    fields[field] = fitted(words, words.bits(field), length, field);
  }
  return { name, length, tdi: fields.TDI, tdo: fields.TDO, mask: fields.MASK, smask: fields.SMASK };
}

/** Digits may be fewer than the length wants; more are fine while they are zeros. */
function fitted(words: Words, bits: Bits, length: number, field: string): Bits {
  if (bits.length > length)
    for (let i = bits.length - 1; i >= length; i--)
      if ((byteAt(bits.bytes, i >>> 3) >>> (i & 7)) & 1)
        throw words.wrong(
          'svf-digits',
          `${field} has a 1 at bit ${i}, the scan only bits 0 to ${length - 1}.`,
          'Correct the length or the digits.',
        );
  if (bits.length === length) return bits;
  const bytes = new Uint8Array(packedLength(length));
  bytes.set(bits.bytes.subarray(0, bytes.length));
  return { length, bytes };
}

function stable(words: Words) {
  const name = words.word('a stable state');
  const state = STABLE_STATES.includes(name) ? SVF_STATES[name] : undefined;
  if (!state) throw words.wrong('svf-state', `"${name}" is no stable state: ${STABLE_STATES.join(', ')}.`);
  return state;
}

function frequency(words: Words): number | null {
  if (words.ended) return null;
  const hz = words.number('a frequency');
  words.keyword('HZ');
  if (hz <= 0) throw words.wrong('svf-frequency', 'A frequency is more than 0 Hz.');
  return hz;
}

function runTest(words: Words) {
  const runState = STABLE_STATES.includes(words.peek) ? stable(words) : null;
  let count = 0;
  let clock: 'TCK' | 'SCK' = 'TCK';
  let least = 0;
  let most: number | null = null;
  let timed = false;
  if (words.isNumber) {
    const first = words.number('a number');
    const unit = words.word('TCK, SCK or SEC');
    if (unit === 'TCK' || unit === 'SCK') {
      if (!Number.isInteger(first) || first < 0)
        throw words.wrong('svf-runtest', 'A number of clocks is a whole number.');
      [count, clock] = [first, unit];
      if (words.isNumber) {
        least = words.number('a time');
        words.keyword('SEC');
        timed = true;
      }
    } else if (unit === 'SEC') {
      least = first;
      timed = true;
    } else throw words.wrong('svf-runtest', `RUNTEST counts TCK, SCK or SEC, not "${unit}".`);
    if (words.peek === 'MAXIMUM') {
      words.word('MAXIMUM');
      most = words.number('a time');
      words.keyword('SEC');
      if (timed && most < least) throw words.wrong('svf-runtest', 'The longest time is shorter than the shortest.');
    }
  }
  let endState = null;
  if (words.peek === 'ENDSTATE') {
    words.word('ENDSTATE');
    endState = stable(words);
  }
  if (runState === null && endState === null && count === 0 && !timed)
    throw words.wrong('svf-runtest', 'RUNTEST says neither how long nor in which state.');
  return { runState, count, clock, least, most, endState };
}

function path(words: Words) {
  const names: string[] = [];
  while (!words.ended) names.push(words.word('a state'));
  const last = names.at(-1);
  if (last === undefined) throw words.wrong('svf-state', 'STATE names no state.');
  const states = names.map((name) => {
    const state = own(SVF_STATES, name);
    if (!state) throw words.wrong('svf-state', `"${name}" is no state of the test port.`);
    return state;
  });
  if (!STABLE_STATES.includes(last)) throw words.wrong('svf-state', `A path ends in a stable state, not in ${last}.`);
  return states;
}

class Wrong extends Error {
  readonly code: string;
  readonly line: number;
  readonly advice: string;

  constructor(code: string, line: number, message: string, advice: string) {
    super(message);
    this.code = code;
    this.line = line;
    this.advice = advice;
  }
}

/** The tokens of a statement, read from the front. */
class Words {
  readonly #tokens: readonly SvfToken[];
  readonly #line: number;
  #at = 0;

  constructor(tokens: readonly SvfToken[], line: number) {
    this.#tokens = tokens;
    this.#line = line;
  }

  get ended(): boolean {
    return this.#at >= this.#tokens.length;
  }

  /** The next word; empty when there is none. */
  get peek(): string {
    const token = this.#tokens[this.#at];
    return token?.kind === 'word' ? token.text : '';
  }

  get isNumber(): boolean {
    return /^[+-]?\d/.test(this.peek);
  }

  word(what: string): string {
    const token = this.#tokens[this.#at];
    if (token?.kind !== 'word')
      throw this.wrong('svf-syntax', `${what[0]?.toUpperCase()}${what.slice(1)} is expected here.`);
    this.#at++;
    return token.text;
  }

  keyword(text: string): void {
    const found = this.word(text);
    if (found !== text) throw this.wrong('svf-syntax', `"${text}" is expected, not "${found}".`);
  }

  number(what: string): number {
    const text = this.word(what);
    if (!/^[+-]?\d+(\.\d*)?(E[+-]?\d+)?$/.test(text))
      throw this.wrong('svf-syntax', `${what[0]?.toUpperCase()}${what.slice(1)} is expected, not "${text}".`);
    return Number(text);
  }

  bits(field: string): Bits {
    const token = this.#tokens[this.#at];
    if (token?.kind !== 'bits')
      throw this.wrong('svf-syntax', `${field} is followed by hexadecimal digits in brackets.`);
    this.#at++;
    if (token.bits.length === 0) throw this.wrong('svf-digits', `${field} has no digits.`);
    return token.bits;
  }

  finish(): void {
    const rest = this.#tokens[this.#at];
    if (rest)
      throw this.wrong(
        'svf-syntax',
        `${rest.kind === 'word' ? `"${rest.text}"` : 'This vector'} is more than the command takes.`,
        'A ";" may be missing before it.',
      );
  }

  wrong(code: string, message: string, advice = 'Correct the line.'): Wrong {
    return new Wrong(code, this.#tokens[Math.max(0, this.#at - 1)]?.line ?? this.#line, message, advice);
  }
}
