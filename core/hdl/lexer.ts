import { item } from '../lists.ts';
import type { Place } from '../result.ts';
import type { Messages } from './message.ts';

type TokenKind = 'word' | 'system' | 'directive' | 'number' | 'string' | 'symbol' | 'newline' | 'end';

export interface Token extends Place {
  readonly kind: TokenKind;
  readonly text: string;
  /** An escaped identifier is never a keyword. */
  readonly escaped?: boolean;
}

const SYMBOLS = [
  '<<<=',
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
  /(?:[0-9][0-9_]*)?[ \t]*'[ \t]*[sS]?[bBoOdDhH][ \t]*[0-9a-fA-FxXzZ?_]+|'[01xXzZ](?![A-Za-z0-9_])|[0-9][0-9_]*(?:\.[0-9_]+)?(?:[eE][+-]?[0-9]+)?/y;
const SPACE = /[ \t\r\f]+|\/\/[^\n]*|\/\*[\s\S]*?\*\//y;
const STRING = /"(?:[^"\\\n]|\\[\s\S])*"/y;

/**
 * Cuts a file into tokens. Directives keep their backquote; `newline` tokens appear only inside directive lines' reach,
 * since `define` ends at one. Unreadable characters are reported and skipped.
 */
export function tokenize(file: string, text: string, messages: Messages): Token[] {
  const tokens: Token[] = [];
  let line = 1;
  let lineStart = 0;
  let at = 0;
  const match = (pattern: RegExp): string | null => {
    pattern.lastIndex = at;
    return pattern.exec(text)?.[0] ?? null;
  };
  const push = (kind: TokenKind, piece: string, raw = piece.length, escaped = false) => {
    tokens.push({ kind, text: piece, file, line, column: at - lineStart + 1, ...(escaped ? { escaped } : {}) });
    at += raw;
  };
  while (at < text.length) {
    const char = item(text, at);
    if (char === '\n') {
      push('newline', '\n');
      line++;
      lineStart = at;
      continue;
    }
    const space = match(SPACE);
    if (space !== null) {
      for (let i = 0; i < space.length; i++)
        if (space[i] === '\n') {
          line++;
          lineStart = at + i + 1;
        }
      at += space.length;
      continue;
    }
    const word = match(WORD);
    if (word !== null) {
      push('word', word);
      continue;
    }
    const number = match(NUMBER);
    if (number !== null) {
      push('number', number);
      continue;
    }
    if (char === '`' || char === '$') {
      at++;
      const name = match(WORD);
      at--;
      if (name !== null) {
        push(char === '`' ? 'directive' : 'system', char + name);
        continue;
      }
    }
    if (char === '"') {
      const string = match(STRING);
      if (string !== null) {
        push('string', string);
        continue;
      }
    }
    if (char === '\\') {
      if (text[at + 1] === '\n') {
        push('symbol', '\\\n', 2);
        line++;
        lineStart = at;
        continue;
      }
      let end = at + 1;
      while (end < text.length && !/\s/.test(item(text, end))) end++;
      push('word', text.slice(at + 1, end), end - at, true);
      continue;
    }
    const symbol = SYMBOLS.find((s) => text.startsWith(s, at)) ?? char;
    if (symbol === '(*' && text[at + 2] === ')') {
      push('symbol', '(');
      continue;
    }
    if (!/[-+*/%!~&|^<>=?:;,.(){}[\]#@'\\]/.test(char)) {
      messages.error(
        'unreadable-character',
        { file, line, column: at - lineStart + 1 },
        `The character ${JSON.stringify(char)} has no meaning in Verilog here.`,
      );
      at++;
      continue;
    }
    push('symbol', symbol);
  }
  return tokens;
}
