// Texts that are nearly right: words moved, numbers made extreme, parts doubled, nested and cut.
import type { Chance } from './chance.ts';

const EXTREMES = [
  ...['0', '1', '-1', '255', '256', '65535', '65536', '2147483647', '2147483648', '4294967295', '4294967296'],
  ...['9007199254740993', '99999999999999999999', '1e308', '1e-320', '-0', '0x7fffffff', '00000000000000000001'],
  ...["1'b1", "64'hffffffffffffffff", "1000000'd1", "'x", "32'bz", '1.5', '.5', '1_000', 'NaN', 'Infinity'],
];
/** Names that are something else to the language we are written in. */
const NAMES = ['constructor', '__proto__', 'toString', 'hasOwnProperty', 'valueOf', 'length', 'prototype', ''];
const ODD = [
  '\0',
  '\ufeff',
  '\ud800',
  '\r',
  '\r\n',
  '\u2028',
  '\t',
  '\\',
  '"',
  "'",
  '`',
  '/*',
  '//',
  '(*',
  '*)',
  'é',
  '💧',
];
const OPEN = ['(', '[', '{', '-', '~', '!', 'begin ', 'if(1) ', '"', "1'b1?", '{2{', '/* ', 'not '];
const WORD = /[A-Za-z_$`][\w$]*|\d[\w.']*|\s+|[^\w\s]/g;

const LONGEST = 1 << 16;
const MOST_CHANGES = 6;
/** Characters that one change may put in. */
const MOST_REPEATED = 1 << 22;

/** One text out of those of a corpus; `seeds` is not empty. */
export function mutatedText(seeds: readonly string[], chance: Chance): string {
  let words = wordsOf(chance.pick(seeds));
  for (let left = 1 + chance.below(MOST_CHANGES); left > 0; left--) words = changed(words, seeds, chance);
  const text = words.join('');
  // Long ones are rarely worth their time.
  return text.length > LONGEST && !chance.oneIn(50) ? text.slice(0, LONGEST) : text;
}

const wordsOf = (text: string): string[] => text.match(WORD) ?? [];

const CHANGES: readonly ((words: string[], at: number, seeds: readonly string[], chance: Chance) => string[])[] = [
  (words, at, _, chance) => words.toSpliced(at, 1 + chance.below(chance.oneIn(4) ? 40 : 2)),
  (words, at, _, chance) => words.toSpliced(at, 0, words[chance.below(words.length)] ?? ''),
  (words, at, _, chance) => swapped(words, at, chance.below(words.length)),
  (words, at, _, chance) => words.toSpliced(at, 1, chance.pick(EXTREMES)),
  (words, at, _, chance) => replaced(words, /^\d/, chance.pick(EXTREMES), at),
  (words, at, _, chance) => replaced(words, /^[A-Za-z_]/, chance.pick(NAMES), at),
  (words, at, _, chance) => replaced(words, /^[A-Za-z_]/, words[chance.below(words.length)] ?? '', at),
  (words, at, _, chance) => words.toSpliced(at, 0, chance.pick(ODD)),
  (words, at) => words.slice(0, at),
  (words, at) => words.slice(at),
  (words, at, seeds, chance) => {
    const other = wordsOf(chance.pick(seeds));
    return [...words.slice(0, at), ...other.slice(chance.below(other.length + 1))];
  },
  (words, at, _, chance) => {
    const part = words.slice(at, at + 1 + chance.below(30)).join('');
    const times = chance.oneIn(20) ? 2000 : chance.below(40);
    return words.toSpliced(at, 0, part.repeat(Math.min(times, Math.floor(MOST_REPEATED / (part.length + 1)))));
  },
  (words, at, _, chance) => words.toSpliced(at, 0, chance.pick(OPEN).repeat(chance.oneIn(6) ? 20_000 : 60)),
  (words, at, _, chance) =>
    words.toSpliced(at, 0, chance.pick(['a', '1', ' ', '\n', 'z']).repeat(1 << chance.below(17))),
];

function changed(words: string[], seeds: readonly string[], chance: Chance): string[] {
  if (words.length === 0) return wordsOf(chance.pick(seeds));
  return chance.pick(CHANGES)(words, chance.below(words.length), seeds, chance);
}

function swapped(words: readonly string[], a: number, b: number): string[] {
  return words.with(a, words[b] ?? '').with(b, words[a] ?? '');
}

/** The next word of a kind from a place on, as another. */
function replaced(words: readonly string[], kind: RegExp, by: string, from: number): string[] {
  const at = words.findIndex((word, i) => i >= from && kind.test(word));
  return at < 0 ? [...words] : words.with(at, by);
}
