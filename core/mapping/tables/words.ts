import { item, numberAt, wordAt } from '../../lists.ts';

/** Values of a function for all values of a window's inputs: bit i of the words, lowest word first. */
export type Values = Uint32Array;

const ALL = 0xffffffff;
const WORD_COLUMNS = [0xaaaaaaaa, 0xcccccccc, 0xf0f0f0f0, 0xff00ff00, 0xffff0000];

export const wordsFor = (inputs: number): number => (inputs <= 5 ? 1 : 1 << (inputs - 5));

/** An input alone. */
export function inputValues(input: number, inputs: number): Values {
  const out = new Uint32Array(wordsFor(inputs));
  if (input < 5) return out.fill(numberAt(WORD_COLUMNS, input));
  for (let i = 0; i < out.length; i++) out[i] = (i >> (input - 5)) & 1 ? ALL : 0;
  return out;
}

/** A table of what its inputs are. */
export function tableValues(truth: number, inputs: readonly Values[], words: number): Values {
  const out = new Uint32Array(words);
  const rows = 1 << inputs.length;
  let ones = 0;
  for (let row = 0; row < rows; row++) ones += (truth >> row) & 1;
  // The rarer value is what is put together.
  const value = ones * 2 > rows ? 0 : 1;
  for (let word = 0; word < words; word++) {
    let any = 0;
    for (let row = 0; row < rows; row++) {
      if (((truth >> row) & 1) !== value) continue;
      let all = ALL;
      for (let k = 0; k < inputs.length; k++) {
        const of = wordAt(item(inputs, k), word);
        all &= (row >> k) & 1 ? of : ~of;
      }
      any |= all;
    }
    out[word] = value === 1 ? any : ~any;
  }
  return out;
}

/** Whether two functions differ nowhere that matters. */
export function agree(x: Values, y: Values, care: Values): boolean {
  for (let i = 0; i < care.length; i++) if (((wordAt(x, i) ^ wordAt(y, i)) & wordAt(care, i)) !== 0) return false;
  return true;
}

/** Whether two functions differ everywhere that matters. */
export function oppose(x: Values, y: Values, care: Values): boolean {
  for (let i = 0; i < care.length; i++) if ((~(wordAt(x, i) ^ wordAt(y, i)) & wordAt(care, i)) !== 0) return false;
  return true;
}
