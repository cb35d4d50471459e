import type { Place } from '../result.ts';
import { GiveUp } from './message.ts';

/** Words of a memory file with their addresses, from `first` on. @source IEEE 1364-2005, clause 17.2.9 */
export function* readWords(text: string, base: 2 | 16, at: Place, first: number): Generator<[number, bigint]> {
  let address = first;
  const prefix = base === 16 ? '0x' : '0b';
  for (const word of text.replace(/\/\/[^\n]*|\/\*[\s\S]*?\*\//g, ' ').split(/\s+/)) {
    if (word === '') continue;
    if (word.startsWith('@')) {
      address = Number.parseInt(word.slice(1), 16);
      continue;
    }
    const digits = word.replace(/_/g, '').replace(/[xXzZ?]/g, '0');
    if (!(base === 16 ? /^[0-9a-fA-F]+$/ : /^[01]+$/).test(digits))
      throw new GiveUp(
        'memory-file',
        at,
        `"${word}" in the data file is no ${base === 16 ? 'hexadecimal' : 'binary'} word.`,
      );
    yield [address++, BigInt(prefix + digits)];
  }
}
