import type { Bits } from '../bits/index.ts';
import { byteAt } from '../lists.ts';
import type { SvfCommand, SvfTrouble } from './model.ts';
import { parseStatement, type SvfToken } from './statement.ts';

const MOST_DIGITS = 1 << 26;
const LONGEST_WORD = 64;
const MOST_TOKENS = 200;

const [SPACE, BANG, SLASH, OPEN, CLOSE, SEMICOLON, NEWLINE] = [0x20, 0x21, 0x2f, 0x28, 0x29, 0x3b, 0x0a];

/** Value of a hexadecimal digit; 16 for white space, 17 for a newline, 255 for anything else. */
const DIGIT = new Uint8Array(256).fill(255);
for (let i = 0; i < 10; i++) DIGIT[0x30 + i] = i;
for (let i = 0; i < 6; i++) {
  DIGIT[0x41 + i] = 10 + i;
  DIGIT[0x61 + i] = 10 + i;
}
for (const white of [0x20, 0x09, 0x0d, 0x0b, 0x0c]) DIGIT[white] = 16;
DIGIT[NEWLINE] = 17;

/**
 * Reads SVF in pieces of any size and gives commands as they are complete. Holds no more than one command. After
 * trouble it reads no more.
 *
 * @source Serial Vector Format specification, revision E: statements end in a semicolon, comments begin with ! or //
 */
export class SvfReader {
  #tokens: SvfToken[] = [];
  #word = '';
  #line = 1;
  #start = 1;
  #seen = 0;
  /** What the reader is in the middle of. `slash` is a / that may begin a comment. */
  #in: 'statement' | 'digits' | 'comment' | 'slash' | 'digits-comment' | 'digits-slash' = 'statement';
  #digits = new Uint8Array(1 << 12);
  #count = 0;
  /** Line of TRST ABSENT; 0 before it. */
  #absentSince = 0;
  trouble: SvfTrouble | null = null;

  /** Bytes taken so far. */
  get bytes(): number {
    return this.#seen;
  }

  push(bytes: Uint8Array): SvfCommand[] {
    const commands: SvfCommand[] = [];
    for (let at = 0; at < bytes.length && this.trouble === null; ) {
      if (this.#in === 'digits') at = this.#readDigits(bytes, at);
      else if (this.#in === 'comment' || this.#in === 'digits-comment') at = this.#skipComment(bytes, at);
      else at = this.#readByte(bytes, at, commands);
    }
    this.#seen += bytes.length;
    return commands;
  }

  /** To be called behind the last piece: a file must not end within a command. */
  end(): void {
    if (this.trouble === null && (this.#tokens.length > 0 || this.#word !== '' || this.#in.startsWith('digits')))
      this.#fail(
        'svf-cut',
        'The file ends in the middle of this command.',
        'Copy the file again: it may be cut short.',
      );
  }

  #readByte(bytes: Uint8Array, at: number, commands: SvfCommand[]): number {
    const byte = byteAt(bytes, at);
    if (this.#in === 'slash' || this.#in === 'digits-slash') {
      if (byte !== SLASH) {
        this.#fail(
          'svf-syntax',
          'A single "/" has no place here; a comment begins with "//" or "!".',
          'Correct the line.',
        );
        return at;
      }
      this.#in = this.#in === 'slash' ? 'comment' : 'digits-comment';
      return at + 1;
    }
    if (byte === OPEN) {
      this.#closeWord();
      // What stands in the brackets of these is not hexadecimal; they are refused by name before it is read.
      const [first] = this.#tokens;
      if (first?.kind === 'word' && first.text.startsWith('PIO')) this.#closeStatement(0, commands);
      this.#in = 'digits';
      this.#count = 0;
    } else if (byte === SEMICOLON) {
      this.#closeWord();
      this.#closeStatement(this.#seen + at + 1, commands);
    } else if (byte === BANG || byte === SLASH) {
      this.#closeWord();
      this.#in = byte === BANG ? 'comment' : 'slash';
    } else if (byte === NEWLINE) {
      this.#closeWord();
      this.#line++;
    } else if (DIGIT[byte] === 16) this.#closeWord();
    else if (byte === CLOSE || byte < SPACE || byte > 0x7e)
      this.#fail(
        'svf-syntax',
        'The character ' +
          `${byte > SPACE && byte < 0x7f ? `"${String.fromCharCode(byte)}"` : `0x${byte.toString(16).toUpperCase()}`} ` +
          'has no place here.',
        'Is this an SVF file?',
      );
    else {
      if (this.#word === '' && this.#tokens.length === 0) this.#start = this.#line;
      this.#word += String.fromCharCode(byte);
      if (this.#word.length > LONGEST_WORD)
        this.#fail('svf-syntax', `No command of SVF has a word as long as "${this.#word}".`, 'Is this an SVF file?');
    }
    return at + 1;
  }

  #readDigits(bytes: Uint8Array, from: number): number {
    let digits = this.#digits;
    let count = this.#count;
    let at = from;
    for (; at < bytes.length; at++) {
      const byte = byteAt(bytes, at);
      const value = byteAt(DIGIT, byte);
      if (value < 16) {
        if (count === digits.length) digits = this.#grow();
        digits[count++] = value;
        continue;
      }
      if (value === 17) {
        this.#line++;
        continue;
      }
      if (value === 16) continue;
      this.#count = count;
      if (byte === CLOSE) {
        this.#tokens.push({ kind: 'bits', bits: this.#packed(count), line: this.#line });
        this.#in = 'statement';
      } else if (byte === BANG) this.#in = 'digits-comment';
      else if (byte === SLASH) this.#in = 'digits-slash';
      else
        this.#fail(
          'svf-digit',
          `"${String.fromCharCode(byte)}" is no hexadecimal digit.`,
          'A ")" may be missing before it.',
        );
      return at + 1;
    }
    this.#count = count;
    return at;
  }

  #grow(): Uint8Array<ArrayBuffer> {
    const more = new Uint8Array(this.#digits.length * 2);
    if (more.length > MOST_DIGITS)
      this.#fail('svf-too-long', `A vector of more than ${MOST_DIGITS} digits is not read.`, 'A ")" may be missing.');
    more.set(this.#digits);
    this.#digits = more;
    return more;
  }

  /** The last digit written holds the bits that are shifted first. */
  #packed(count: number): Bits {
    const out = new Uint8Array((count + 1) >>> 1);
    const digits = this.#digits;
    let from = count - 1;
    for (let i = 0; i < out.length; i++, from -= 2)
      out[i] = byteAt(digits, from) | (from > 0 ? byteAt(digits, from - 1) << 4 : 0);
    return { length: count * 4, bytes: out };
  }

  #skipComment(bytes: Uint8Array, from: number): number {
    const end = bytes.indexOf(NEWLINE, from);
    if (end < 0) return bytes.length;
    this.#in = this.#in === 'comment' ? 'statement' : 'digits';
    return end;
  }

  #closeWord(): void {
    if (this.#word === '') return;
    this.#tokens.push({ kind: 'word', text: this.#word.toUpperCase(), line: this.#line });
    this.#word = '';
    if (this.#tokens.length > MOST_TOKENS)
      this.#fail('svf-syntax', 'This command never ends; a ";" is missing.', 'End the command with ";".');
  }

  #closeStatement(end: number, commands: SvfCommand[]): void {
    const tokens = this.#tokens;
    this.#tokens = [];
    if (tokens.length === 0) return;
    const read = parseStatement(tokens, this.#start, end);
    if ('code' in read) this.trouble = read;
    else if (read.kind === 'trst' && this.#absentSince > 0)
      this.trouble = {
        code: 'svf-trst',
        line: read.line,
        message:
          `TRST ${read.mode} after TRST ABSENT in line ${this.#absentSince}: where the wire is said to be absent, ` +
          'no other TRST may follow.',
        tryNext: ['Take one of the two out.'],
      };
    else {
      if (read.kind === 'trst' && read.mode === 'ABSENT') this.#absentSince = read.line;
      commands.push(read);
    }
  }

  #fail(code: string, message: string, ...tryNext: string[]): void {
    const line =
      this.#tokens.length === 0 && this.#word === '' ? this.#line : code === 'svf-cut' ? this.#start : this.#line;
    this.trouble ??= { code, line, message, tryNext };
  }
}
