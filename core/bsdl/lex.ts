import type { BsdlProblem } from './model.ts';

/** `word` also carries numbers as `number`; `text` is a string with a line for each of its characters. */
export type Token =
  | { readonly kind: 'word' | 'number' | 'mark'; readonly text: string; readonly line: number }
  | { readonly kind: 'string'; readonly text: string; readonly line: number };

const SHAPES =
  /(--[^\n]*)|([ \t\r\f\v]+)|(\n)|([A-Za-z][A-Za-z0-9_]*)|(\d[\d_]*(?:\.\d+)?(?:[eE][+-]?\d+)?)|"((?:[^"\n]|"")*)"|(:=|[():;,&.*<>=[\]])/y;

/** Words, numbers, strings and marks of VHDL, as far as BSDL uses them; comments are left out. */
export function lex(text: string, complain: (problem: BsdlProblem) => void): Token[] {
  const tokens: Token[] = [];
  let line = 1;
  SHAPES.lastIndex = 0;
  while (SHAPES.lastIndex < text.length) {
    const at = SHAPES.lastIndex;
    const found = SHAPES.exec(text);
    if (!found) {
      if (text[at] === '"') {
        complain({
          severity: 'error',
          line,
          code: 'open-string',
          message: 'This string is not closed on its line. Close it and join the next line with "&".',
        });
        const end = text.indexOf('\n', at);
        SHAPES.lastIndex = end < 0 ? text.length : end;
      } else {
        complain({
          severity: 'error',
          line,
          code: 'character',
          message: `The character "${text[at]}" has no place here.`,
        });
        SHAPES.lastIndex = at + 1;
      }
      continue;
    }
    const [, , , newline, word, number, string, mark] = found;
    if (newline !== undefined) line++;
    else if (word !== undefined) tokens.push({ kind: 'word', text: word, line });
    else if (number !== undefined) tokens.push({ kind: 'number', text: number.replaceAll('_', ''), line });
    else if (string !== undefined) tokens.push({ kind: 'string', text: string.replaceAll('""', '"'), line });
    else if (mark !== undefined) tokens.push({ kind: 'mark', text: mark, line });
  }
  return tokens;
}

/** A text put together with `&`, which still knows the line of each of its characters. */
export interface JoinedText {
  readonly text: string;
  readonly line: number;
  lineAt(index: number): number;
}

export function joinTexts(parts: readonly { readonly text: string; readonly line: number }[]): JoinedText {
  const starts: { from: number; line: number }[] = [];
  let text = '';
  for (const part of parts) {
    starts.push({ from: text.length, line: part.line });
    text += part.text;
  }
  return {
    text,
    line: parts[0]?.line ?? 1,
    lineAt: (index) => {
      let low = 0;
      for (let high = starts.length; high - low > 1; ) {
        const middle = (low + high) >> 1;
        if ((starts[middle]?.from ?? 0) <= index) low = middle;
        else high = middle;
      }
      return starts[low]?.line ?? 1;
    },
  };
}
