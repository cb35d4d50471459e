import type { Place } from '../../result.ts';
import { GiveUp } from '../read/index.ts';
import type { Word } from './four-state.ts';

/** One entry of a memory file: a word, or the address that the next word goes to. */
interface MemoryEntry {
  readonly word: Word;
  readonly jump: number | null;
}

const NOTHING: Word = { v: 0n, x: 0n };

/** What a memory file holds, digits x and z too. @source IEEE 1364-2005, clause 17.2.9 */
export function* memoryEntries(text: string, base: 2 | 16, at: Place): Generator<MemoryEntry> {
  const prefix = base === 16 ? '0x' : '0b';
  const all = base === 16 ? 'f' : '1';
  for (const entry of text.replace(/\/\/[^\n]*|\/\*[\s\S]*?\*\//g, ' ').split(/\s+/)) {
    if (entry === '') continue;
    if (entry.startsWith('@')) {
      yield { word: NOTHING, jump: Number.parseInt(entry.slice(1), 16) };
      continue;
    }
    const digits = entry.replace(/_/g, '');
    if (!(base === 16 ? /^[0-9a-fA-FxXzZ?]+$/ : /^[01xXzZ?]+$/).test(digits))
      throw new GiveUp(
        'memory-file',
        at,
        `"${entry}" in the data file is no ${base === 16 ? 'hexadecimal' : 'binary'} word.`,
      );
    const bits = (unknown: RegExp, plain: boolean) =>
      BigInt(
        prefix +
          digits.replace(/./g, (digit) => (unknown.test(digit) ? all : plain ? digit.replace(/[xXzZ?]/, '0') : '0')),
      );
    yield { word: { v: bits(/[xX]/, true), x: bits(/[xXzZ?]/, false) }, jump: null };
  }
}

/** Words with their addresses from `first` on, as hardware takes them: what is unknown is 0. */
export function* readWords(text: string, base: 2 | 16, at: Place, first: number): Generator<[number, bigint]> {
  let address = first;
  for (const { word, jump } of memoryEntries(text, base, at)) {
    if (jump !== null) address = jump;
    else yield [address++, word.v & ~word.x];
  }
}
