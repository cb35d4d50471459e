// What `$display` and its like print. @source IEEE 1364-2005, clause 17.1
import { four, type Word } from '../../hdl/index.ts';

/** One argument, worked out. */
export type Shown =
  | { readonly kind: 'text'; readonly text: string; readonly literal: boolean }
  | {
      readonly kind: 'word';
      readonly word: Word;
      readonly width: number;
      readonly signed: boolean;
      readonly isTime?: boolean;
    }
  | { readonly kind: 'real'; readonly real: number }
  | null;

/** Where the call stands. */
export interface Where {
  readonly path: string;
  /** Power of ten of a second that the module counts in. */
  readonly unit: number;
}

/** How `%t` shows times: `$timeformat`. */
export interface TimeFormat {
  readonly unit: number;
  readonly digits: number;
  readonly suffix: string;
  readonly least: number;
}

export type Radix = 'd' | 'h' | 'o' | 'b';

const SPECIFIER = /%(-?)(0?)(\d*)(?:\.(\d+))?([a-zA-Z%])/g;

/** All arguments as one text; those that no format takes are shown in `radix`. */
export function formatAll(where: Where, values: readonly Shown[], radix: Radix, time: TimeFormat): string {
  let out = '';
  for (let i = 0; i < values.length; i++) {
    const value = values[i] ?? null;
    if (value === null) {
      out += ' ';
      continue;
    }
    if (value.kind !== 'text') {
      out += shown(value, radix, where, time);
      continue;
    }
    out += value.text.replace(
      SPECIFIER,
      (all, left: string, zero: string, width: string, digits: string, letter: string) => {
        const kind = letter.toLowerCase();
        if (kind === '%') return '%';
        if (kind === 'm') return padded(where.path, width, left !== '');
        if (kind === 'l') return where.path;
        if (i + 1 >= values.length) return all;
        const next = values[++i] ?? null;
        const text = converted(kind, next, { zero: zero !== '', width, digits, where, time });
        return padded(text, width, left !== '');
      },
    );
  }
  return out;
}

const padded = (text: string, width: string, left: boolean): string => {
  if (width === '') return text;
  return left ? text.padEnd(Number(width)) : text.padStart(Number(width));
};

interface How {
  readonly zero: boolean;
  readonly width: string;
  readonly digits: string | undefined;
  readonly where: Where;
  readonly time: TimeFormat;
}

function converted(letter: string, value: Shown, how: How): string {
  if (value === null) return '';
  const isShort = how.zero || how.width !== '';
  switch (letter) {
    case 'd':
    case 'i':
      return decimal(wordOf(value), isShort ? 0 : null);
    case 'h':
    case 'x':
      return digits(wordOf(value), 4, how.zero && how.width === '', how);
    case 'o':
      return digits(wordOf(value), 3, how.zero && how.width === '', how);
    case 'b':
      return digits(wordOf(value), 1, how.zero && how.width === '', how);
    case 'c':
      return String.fromCharCode(Number(wordOf(value).word.v & 0xffn));
    case 's':
      return value.kind === 'text' ? value.text : characters(wordOf(value), isShort);
    case 't':
      return timeText(value, how.where.unit, how.time, isShort);
    case 'e':
      return exponent(realOf(value), how.digits);
    case 'f':
      return realOf(value).toFixed(Math.min(100, how.digits === undefined ? 6 : Number(how.digits)));
    case 'g':
      return general(realOf(value), how.digits);
    case 'p':
      return value.kind === 'text' ? `"${value.text}"` : value.kind === 'real' ? `${value.real}` : decimal(value, 0);
    case 'v':
      return strength(wordOf(value));
    default:
      return '';
  }
}

type ShownWord = Shown & { readonly kind: 'word' };

function wordOf(value: NonNullable<Shown>): ShownWord {
  if (value.kind === 'word') return value;
  if (value.kind === 'text')
    return { kind: 'word', word: four.ofText(value.text), width: Math.max(8, value.text.length * 8), signed: false };
  const whole = BigInt(Number.isFinite(value.real) ? Math.sign(value.real) * Math.round(Math.abs(value.real)) : 0);
  return { kind: 'word', word: four.known(BigInt.asUintN(64, whole)), width: 64, signed: true };
}

const realOf = (value: NonNullable<Shown>): number => {
  if (value.kind === 'real') return value.real;
  const { word, width, signed } = wordOf(value);
  return Number(signed ? BigInt.asIntN(width, word.v & ~word.x) : word.v & ~word.x);
};

/** An argument that stands without a format. */
function shown(value: NonNullable<Shown>, radix: Radix, where: Where, time: TimeFormat): string {
  if (value.kind === 'real') return general(value.real, undefined);
  if (value.kind === 'text') return value.text;
  if (radix === 'd') return value.isTime ? decimal(value, 20) : decimal(value, null);
  return converted(radix, value, { zero: false, width: '', digits: undefined, where, time });
}

/** Wide enough for the largest value, or as given. All unknown is x, some of it X; the same with z. */
function decimal({ word, width, signed }: ShownWord, least: number | null): string {
  const room = least ?? decimalWidth(width, signed);
  const all = four.mask(width);
  const floating = word.x & ~word.v;
  if (word.x === 0n) return `${signed ? BigInt.asIntN(width, word.v) : word.v}`.padStart(room);
  const letter = floating === all ? 'z' : word.x === all && floating === 0n ? 'x' : floating === word.x ? 'Z' : 'X';
  return letter.padStart(room);
}

const widths = new Map<number, number>();

/** Digits of the largest value, and a sign. */
function decimalWidth(width: number, signed: boolean): number {
  const key = signed ? -width : width;
  const known = widths.get(key);
  if (known !== undefined) return known;
  const most = signed ? `${1n << BigInt(width - 1)}`.length + 1 : `${four.mask(width)}`.length;
  widths.set(key, most);
  return most;
}

/** Digits of `bits` bits; a digit that is unknown in part is X or Z. */
function digits({ word, width }: ShownWord, bits: number, minimal: boolean, how: How): string {
  const count = Math.ceil(width / bits);
  const radix = 2 ** bits;
  let text = '';
  if (word.x === 0n) text = word.v.toString(radix).padStart(count, '0');
  else
    for (let i = count - 1; i >= 0; i--) {
      const own = Math.min(bits, width - i * bits);
      const all = four.mask(own);
      const [v, x] = [(word.v >> BigInt(i * bits)) & all, (word.x >> BigInt(i * bits)) & all];
      const floating = x & ~v;
      if (x === 0n) text += v.toString(radix);
      else if (floating === all) text += 'z';
      else if (x === all && floating === 0n) text += 'x';
      else text += floating === x ? 'Z' : 'X';
    }
  if (minimal) return text.replace(/^0+(?=.)/, '');
  return how.width !== '' && how.zero ? text.replace(/^0+(?=.)/, '').padStart(Number(how.width), '0') : text;
}

/** Bytes as characters; zeros in front are blanks, or left away. */
function characters({ word, width }: ShownWord, minimal: boolean): string {
  const text = four.textOf(word, width);
  return minimal ? text : text.padStart(Math.ceil(width / 8));
}

/** Times in the units of `$timeformat`. @source IEEE 1364-2005, clause 17.3.2 */
function timeText(value: NonNullable<Shown>, unit: number, format: TimeFormat, minimal: boolean): string {
  const power = unit - format.unit;
  if (value.kind === 'word' && value.word.x !== 0n) return decimal(value, 0).padStart(minimal ? 0 : format.least);
  let text: string;
  if (value.kind === 'word' && power >= 0 && format.digits === 0) text = `${value.word.v * 10n ** BigInt(power)}`;
  else text = (realOf(value) * 10 ** power).toFixed(format.digits);
  return `${text}${format.suffix}`.padStart(minimal ? 0 : format.least);
}

const twoDigits = (text: string): string => text.replace(/e([+-])(\d)$/, 'e$10$2');

const exponent = (real: number, digitsText: string | undefined): string =>
  twoDigits(real.toExponential(Math.min(100, digitsText === undefined ? 6 : Number(digitsText))));

/** Whichever of `%e` and `%f` is shorter, as in C. */
function general(real: number, digitsText: string | undefined): string {
  if (real === 0) return '0';
  if (!Number.isFinite(real)) return Number.isNaN(real) ? 'nan' : real > 0 ? 'inf' : '-inf';
  const precision = Math.max(1, digitsText === undefined ? 6 : Number(digitsText));
  const power = Math.floor(Math.log10(Math.abs(Number(real.toPrecision(precision)))));
  if (power < -4 || power >= precision) return twoDigits(real.toExponential(precision - 1).replace(/\.?0+e/, 'e'));
  const text = real.toFixed(Math.max(0, precision - 1 - power));
  return text.includes('.') ? text.replace(/\.?0+$/, '') : text;
}

/** Strength and value of one bit; all here drive strongly. @source IEEE 1364-2005, clause 17.1.1.5 */
function strength({ word }: ShownWord): string {
  if ((word.x & 1n) === 0n) return `St${word.v & 1n}`;
  return (word.v & 1n) === 0n ? 'HiZ' : 'StX';
}
