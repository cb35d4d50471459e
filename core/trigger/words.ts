import { item } from '../lists.ts';
/** One word of a condition. `at` and `end` are places in its text, counted from 0. */
export interface Word {
  readonly kind: 'name' | 'value' | 'sign' | 'end';
  readonly text: string;
  readonly at: number;
  readonly end: number;
}

const FORMS: readonly (readonly [Word['kind'], RegExp])[] = [
  [
    'value',
    /-?(?:0[xXbB][0-9a-fA-FxX_]+|\d*'[sS]?[bohBOH][0-9a-fA-FxX_]+|\d[\d_]*(?:\.\d+(?:[eE][+-]?\d+)?|[eE][+-]?\d+)?)/y,
  ],
  ['name', /[A-Za-z_$][\w$]*(?:\[\d+(?::\d+)?\])*(?:\.[A-Za-z_$][\w$]*(?:\[\d+(?::\d+)?\])*)*/y],
  ['sign', /==|!=|<=|>=|&&|\|\||\.\.|[<>!()]/y],
];

/** Cuts a text into words; the last one is the end. A character that begins none is given as a sign of its own. */
export function wordsOf(text: string): Word[] {
  const words: Word[] = [];
  for (let at = 0; ; ) {
    while (/\s/.test(text[at] ?? '')) at++;
    if (at >= text.length) break;
    let found: Word | null = null;
    for (const [kind, form] of FORMS) {
      form.lastIndex = at;
      const match = form.exec(text);
      if (match) {
        found = { kind, text: match[0], at, end: at + match[0].length };
        break;
      }
    }
    const word: Word = found ?? { kind: 'sign', text: item(text, at), at, end: at + 1 };
    words.push(word);
    at = word.end;
  }
  return [...words, { kind: 'end', text: '', at: text.length, end: text.length }];
}
