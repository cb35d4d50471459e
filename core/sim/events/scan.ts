// `$fscanf` and `$sscanf`. @source IEEE 1364-2005, clause 17.2.4.3
import { four, type Word } from '../../hdl/index.ts';

export interface Source {
  /** The next character, or -1 at the end. */
  next(): number;
  back(character: number): void;
}

/** Where a value is put. */
export interface Store {
  readonly kind: 'narrow' | 'wide' | 'real' | 'text' | 'event';
  readonly width: number;
  readonly signed: boolean;
  put(v: unknown, x: unknown): void;
}

type Put = (store: Store, word: Word, width: number, signed: boolean) => void;

const isBlank = (character: number): boolean => character === 32 || (character >= 9 && character <= 13);

/** How many values were read; -1 where the text ended before the first. */
export function scanText(source: Source, format: string, stores: readonly Store[], put: Put): number {
  let count = 0;
  const parts = format.match(/%\*?\d*[a-zA-Z%]|\s+|[^%\s]/g) ?? [];
  for (const part of parts) {
    if (/^\s/.test(part)) {
      skipBlanks(source);
      continue;
    }
    if (!part.startsWith('%') || part === '%%') {
      const character = source.next();
      if (character === part.charCodeAt(part.length - 1)) continue;
      if (character >= 0) source.back(character);
      return character < 0 && count === 0 ? -1 : count;
    }
    const [, passed, width, letter = ''] = /^%(\*?)(\d*)([a-zA-Z])$/.exec(part) ?? [];
    const kind = letter.toLowerCase();
    if (kind !== 'c') skipBlanks(source);
    const most = width ? Number(width) : kind === 'c' ? 1 : Number.POSITIVE_INFINITY;
    const text = word(source, kind, most);
    if (text === '') {
      const character = source.next();
      if (character >= 0) source.back(character);
      return character < 0 && count === 0 ? -1 : count;
    }
    if (passed) continue;
    const store = stores[count];
    if (!store) return count;
    give(store, kind, text, put);
    count++;
  }
  return count;
}

function skipBlanks(source: Source): void {
  for (;;) {
    const character = source.next();
    if (isBlank(character)) continue;
    if (character >= 0) source.back(character);
    return;
  }
}

const ALLOWED: Readonly<Record<string, RegExp>> = {
  d: /[-+0-9_xXzZ?]/,
  h: /[0-9a-fA-F_xXzZ?]/,
  x: /[0-9a-fA-F_xXzZ?]/,
  o: /[0-7_xXzZ?]/,
  b: /[01_xXzZ?]/,
  f: /[-+0-9.eE]/,
  e: /[-+0-9.eE]/,
  g: /[-+0-9.eE]/,
  t: /[-+0-9.eE]/,
};

function word(source: Source, kind: string, most: number): string {
  const allowed = ALLOWED[kind];
  let text = '';
  while (text.length < most) {
    const character = source.next();
    if (character < 0) break;
    const letter = String.fromCharCode(character);
    const fits = kind === 'c' || (allowed ? allowed.test(letter) : !isBlank(character));
    if (!fits) {
      source.back(character);
      break;
    }
    text += letter;
  }
  return text;
}

function give(store: Store, kind: string, text: string, put: Put): void {
  if (store.kind === 'text') return store.put(text, 0);
  const plain = text.replaceAll('_', '');
  if (store.kind === 'real') return store.put(Number(plain) || 0, 0);
  if (kind === 's' || kind === 'c') return put(store, four.ofText(text), Math.max(8, text.length * 8), false);
  if ('fegt'.includes(kind))
    return put(store, four.known(BigInt.asUintN(64, BigInt(Math.round(Number(plain) || 0)))), 64, true);
  if (kind === 'd') {
    if (/[xX]/.test(plain)) return put(store, four.allUnknown(store.width), store.width, false);
    const negative = plain.startsWith('-');
    const value = BigInt(plain.replace(/^[-+]/, '') || '0');
    return put(store, four.known(BigInt.asUintN(store.width, negative ? -value : value)), store.width, false);
  }
  const bits = kind === 'b' ? 1 : kind === 'o' ? 3 : 4;
  let v = 0n;
  let x = 0n;
  for (const digit of plain) {
    const all = four.mask(bits);
    v <<= BigInt(bits);
    x <<= BigInt(bits);
    if (/[xX]/.test(digit)) v |= all;
    if (/[xXzZ?]/.test(digit)) x |= all;
    else v |= BigInt(Number.parseInt(digit, 16));
  }
  put(store, { v, x }, Math.max(1, plain.length * bits), false);
}
