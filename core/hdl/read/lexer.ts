import { item } from '../../lists.ts';
import type { Place } from '../../result.ts';
import type { Messages } from './message.ts';

type TokenKind = 'word' | 'system' | 'directive' | 'number' | 'string' | 'symbol' | 'newline' | 'end';

export interface Token extends Place {
  readonly kind: TokenKind;
  readonly text: string;
  /** An escaped identifier is never a keyword. */
  readonly escaped?: boolean;
  /** A word of SystemVerilog in a file that is Verilog: a name there. */
  readonly newer?: boolean;
}

const SYMBOLS = [
  '<<<=',
  '->>',
  '>>>=',
  '===',
  '!==',
  '==?',
  '!=?',
  '<<<',
  '>>>',
  '<<=',
  '>>=',
  '+=',
  '-=',
  '*=',
  '/=',
  '%=',
  '&=',
  '|=',
  '^=',
  '++',
  '--',
  '&&',
  '||',
  '==',
  '!=',
  '<=',
  '>=',
  '<<',
  '>>',
  '**',
  '~&',
  '~|',
  '~^',
  '^~',
  '+:',
  '-:',
  '->',
  '::',
  '.*',
  '(*',
  '*)',
];
const WORD = /[A-Za-z_][A-Za-z0-9_$]*/y;
const NUMBER =
  /(?:[0-9][0-9_]*)?[ \t]*'[ \t]*[sS]?[bBoOdDhH][ \t]*[0-9a-fA-FxXzZ?_]+|'[01xXzZ](?![A-Za-z0-9_])|[0-9][0-9_]*(?:\.[0-9_]+)?(?:[eE][+-]?[0-9]+)?(?:[munpf]?s(?![A-Za-z0-9_$]))?/y;
const SPACE = /[ \t\r\f]+|\/\/[^\n]*|\/\*[\s\S]*?\*\//y;
/** The signs by which a macro makes text and joins words. @source IEEE 1800, `define */
const MACRO_SIGN = /``|`\\?`?"/y;
const STRING = /"(?:[^"\\\n]|\\[\s\S])*"/y;

/** Words of all files together, macros replaced; of a file that has more no more are read. */
export const MOST_TOKENS = 600_000;

/**
 * Cuts a file into tokens. Directives keep their backquote; `newline` tokens appear only inside directive lines' reach,
 * since `define` ends at one. Unreadable characters are reported and skipped.
 */
export function tokenize(file: string, text: string, messages: Messages): Token[] {
  const cutter = new Cutter(file, text, messages);
  while (cutter.tokens.length <= MOST_TOKENS && cutter.step());
  return cutter.tokens;
}

class Cutter {
  readonly tokens: Token[] = [];
  readonly #file: string;
  readonly #text: string;
  readonly #messages: Messages;
  #line = 1;
  #lineStart = 0;
  #at = 0;

  constructor(file: string, text: string, messages: Messages) {
    this.#file = file;
    this.#text = text;
    this.#messages = messages;
  }

  /** Takes what stands next; false at the end of the file. */
  step(): boolean {
    if (this.#at >= this.#text.length) return false;
    const char = item(this.#text, this.#at);
    if (char === '\n') {
      this.#push('newline', '\n');
      this.#newLine(this.#at);
    } else if (!this.#space() && !this.#plain() && !this.#marked(char)) this.#symbol(char);
    return true;
  }

  #match(pattern: RegExp): string | null {
    pattern.lastIndex = this.#at;
    return pattern.exec(this.#text)?.[0] ?? null;
  }

  #push(kind: TokenKind, piece: string, raw = piece.length, escaped = false): true {
    const column = this.#at - this.#lineStart + 1;
    const token = { kind, text: piece, file: this.#file, line: this.#line, column };
    this.tokens.push(escaped ? { ...token, escaped } : token);
    this.#at += raw;
    return true;
  }

  #newLine(start: number): void {
    this.#line++;
    this.#lineStart = start;
  }

  #space(): boolean {
    const space = this.#match(SPACE);
    if (space === null) return false;
    for (let i = 0; i < space.length; i++) if (space[i] === '\n') this.#newLine(this.#at + i + 1);
    this.#at += space.length;
    return true;
  }

  #plain(): boolean {
    const word = this.#match(WORD);
    if (word !== null) return this.#push('word', word);
    const number = this.#match(NUMBER);
    return number !== null && this.#push('number', number);
  }

  /** Words that begin with a sign of their own: directives, system tasks, strings, escaped names. */
  #marked(char: string): boolean {
    if (char === '`' || char === '$') {
      const sign = char === '`' ? this.#match(MACRO_SIGN) : null;
      if (sign !== null) return this.#push('symbol', sign);
      this.#at++;
      const name = this.#match(WORD);
      this.#at--;
      return name !== null && this.#push(char === '`' ? 'directive' : 'system', char + name);
    }
    if (char === '"') {
      const string = this.#match(STRING);
      return string !== null && this.#push('string', string);
    }
    return char === '\\' && this.#escaped();
  }

  #escaped(): true {
    if (this.#text[this.#at + 1] === '\n') {
      this.#push('symbol', '\\\n', 2);
      this.#newLine(this.#at);
      return true;
    }
    let end = this.#at + 1;
    while (end < this.#text.length && !/\s/.test(item(this.#text, end))) end++;
    return this.#push('word', this.#text.slice(this.#at + 1, end), end - this.#at, true);
  }

  #symbol(char: string): void {
    const symbol = SYMBOLS.find((s) => this.#text.startsWith(s, this.#at)) ?? char;
    // Where it is closed it was passed over as a blank. What follows would be looked through anew for each that opens.
    if (this.#text.startsWith('/*', this.#at)) {
      const place = { file: this.#file, line: this.#line, column: this.#at - this.#lineStart + 1 };
      this.#messages.error('comment-open', place, 'This comment is never closed by "*/".');
      this.#at = this.#text.length;
      return;
    }
    if (symbol === '(*' && this.#text[this.#at + 2] === ')') {
      this.#push('symbol', '(');
      return;
    }
    if (/[-+*/%!~&|^<>=?:;,.(){}[\]#@'\\]/.test(char)) {
      this.#push('symbol', symbol);
      return;
    }
    const place = { file: this.#file, line: this.#line, column: this.#at - this.#lineStart + 1 };
    const what = `The character ${JSON.stringify(char)} has no meaning in Verilog here.`;
    this.#messages.error('unreadable-character', place, what);
    this.#at++;
  }
}
