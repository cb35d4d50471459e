// Four-state words of any width: values of parameters and constants, and of the wide signals of a simulation.

/**
 * Bits of one word, lowest first. A bit is 0 or 1 where `x` is 0; where `x` is 1 it is unknown if `v` is 1 and
 * floating (z) if `v` is 0. Nothing is set above the width that goes with it.
 */
export interface Word {
  readonly v: bigint;
  readonly x: bigint;
}

const MASKS: bigint[] = [];

/** Ones in the lowest `width` bits. */
export function mask(width: number): bigint {
  const known = MASKS[width];
  if (known !== undefined) return known;
  const made = (1n << BigInt(width)) - 1n;
  if (width <= 4096) MASKS[width] = made;
  return made;
}

export const known = (v: bigint): Word => ({ v, x: 0n });

export const allUnknown = (width: number): Word => ({ v: mask(width), x: mask(width) });

export const FALSE: Word = known(0n);
export const TRUE: Word = known(1n);
const MAYBE: Word = { v: 1n, x: 1n };

const isKnown = (a: Word, b: Word = FALSE): boolean => a.x === 0n && b.x === 0n;

const asNumber = (a: Word, width: number, signed: boolean): bigint => (signed ? BigInt.asIntN(width, a.v) : a.v);

/** To another width: cut, or filled up with the sign bit (x and z too) where `signed`. */
export function resize({ v, x }: Word, from: number, to: number, signed: boolean): Word {
  if (to <= from) return to === from ? { v, x } : { v: v & mask(to), x: x & mask(to) };
  if (!signed || from === 0) return { v, x };
  const top = BigInt(from - 1);
  const fill = mask(to) ^ mask(from);
  return { v: (v >> top) & 1n ? v | fill : v, x: (x >> top) & 1n ? x | fill : x };
}

/** @source IEEE 1364-2005, clause 5.1.10, tables 5-13 to 5-17 */
export function and(a: Word, b: Word): Word {
  if (isKnown(a, b)) return known(a.v & b.v);
  // A bit is 0 as soon as one side is a known 0, 1 where both are known 1.
  const zero = (~a.v & ~a.x) | (~b.v & ~b.x);
  const x = (a.x | b.x) & ~zero;
  return { v: (a.v & b.v & ~zero) | x, x };
}

export function or(a: Word, b: Word): Word {
  if (isKnown(a, b)) return known(a.v | b.v);
  const one = (a.v & ~a.x) | (b.v & ~b.x);
  const x = (a.x | b.x) & ~one;
  return { v: one | x, x };
}

export function xor(a: Word, b: Word): Word {
  const x = a.x | b.x;
  return { v: ((a.v ^ b.v) & ~x) | x, x };
}

export const not = (a: Word, width: number): Word => ({ v: (~a.v & mask(width) & ~a.x) | a.x, x: a.x });

const anyUnknown = (a: Word, b: Word, width: number, give: () => bigint): Word =>
  isKnown(a, b) ? known(give() & mask(width)) : allUnknown(width);

export const add = (a: Word, b: Word, width: number): Word => anyUnknown(a, b, width, () => a.v + b.v);
export const subtract = (a: Word, b: Word, width: number): Word =>
  anyUnknown(a, b, width, () => BigInt.asUintN(width, a.v - b.v));
export const multiply = (a: Word, b: Word, width: number): Word =>
  anyUnknown(a, b, width, () => BigInt.asUintN(width, a.v * b.v));

/** Division towards zero; by 0 it is unknown. @source IEEE 1364-2005, clause 5.1.5 */
export function divide(a: Word, b: Word, width: number, signed: boolean): Word {
  if (b.v === 0n) return allUnknown(width);
  return anyUnknown(a, b, width, () => BigInt.asUintN(width, asNumber(a, width, signed) / asNumber(b, width, signed)));
}

/** The rest has the sign of the first operand. */
export function modulo(a: Word, b: Word, width: number, signed: boolean): Word {
  if (b.v === 0n) return allUnknown(width);
  return anyUnknown(a, b, width, () => BigInt.asUintN(width, asNumber(a, width, signed) % asNumber(b, width, signed)));
}

/** @source IEEE 1364-2005, clause 5.1.5, table 5-6 */
export function power(a: Word, b: Word, width: number, kind: PowerSigns): Word {
  if (!isKnown(a, b)) return allUnknown(width);
  const base = asNumber(a, width, kind.base);
  let exponent = asNumber(b, kind.exponentWidth, kind.exponent);
  if (exponent < 0n) {
    if (base === 0n) return allUnknown(width);
    if (base === 1n) return known(1n);
    if (base === -1n) return known(exponent % 2n === 0n ? 1n : mask(width));
    return FALSE;
  }
  let result = 1n;
  let square = BigInt.asUintN(width, base);
  for (; exponent > 0n && !(square === 0n && result === 0n); exponent >>= 1n) {
    if (exponent & 1n) result = BigInt.asUintN(width, result * square);
    square = BigInt.asUintN(width, square * square);
  }
  return known(BigInt.asUintN(width, result));
}

export interface PowerSigns {
  readonly base: boolean;
  readonly exponent: boolean;
  readonly exponentWidth: number;
}

/** A shift by an unknown amount is unknown. @source IEEE 1364-2005, clause 5.1.12 */
export function shift(operator: string, a: Word, width: number, by: Word, signed: boolean): Word {
  if (by.x !== 0n) return allUnknown(width);
  const far = by.v >= BigInt(width);
  const n = far ? BigInt(width) : by.v;
  if (operator.startsWith('<')) return { v: (a.v << n) & mask(width), x: (a.x << n) & mask(width) };
  if (operator === '>>' || !signed) return { v: a.v >> n, x: a.x >> n };
  return {
    v: BigInt.asUintN(width, BigInt.asIntN(width, a.v) >> n),
    x: BigInt.asUintN(width, BigInt.asIntN(width, a.x) >> n),
  };
}

/** Unknown bits make `<` and the like unknown. @source IEEE 1364-2005, clause 5.1.7 */
export function less(a: Word, b: Word, width: number, signed: boolean): Word {
  if (!isKnown(a, b)) return MAYBE;
  return asNumber(a, width, signed) < asNumber(b, width, signed) ? TRUE : FALSE;
}

/** 0 as soon as one pair of known bits differs, unknown where that is undecided. @source IEEE 1364-2005, clause 5.1.8 */
export function equal(a: Word, b: Word): Word {
  const x = a.x | b.x;
  if (((a.v ^ b.v) & ~x) !== 0n) return FALSE;
  return x === 0n ? TRUE : MAYBE;
}

/** `===`: x and z are values like others. */
export const same = (a: Word, b: Word): Word => (a.v === b.v && a.x === b.x ? TRUE : FALSE);

/** `==?`: x and z of the right side fit anything. @source IEEE 1800, wildcard equality */
export function wildEqual(a: Word, b: Word): Word {
  const open = ~b.x;
  return equal({ v: a.v & open, x: a.x & open }, { v: b.v & open, x: 0n });
}

/** What a label of `casez` (z open) or `casex` (x and z open) says of a value. @source IEEE 1364-2005, clause 9.5.1 */
export function fitsLabel(a: Word, b: Word, wild: 'none' | 'z' | 'xz'): boolean {
  const open = wild === 'none' ? 0n : wild === 'z' ? (a.x & ~a.v) | (b.x & ~b.v) : a.x | b.x;
  return (((a.v ^ b.v) | (a.x ^ b.x)) & ~open) === 0n;
}

/** 1 if any bit is 1, 0 if all are 0, else unknown. */
export function truth({ v, x }: Word): Word {
  if ((v & ~x) !== 0n) return TRUE;
  return x === 0n ? FALSE : MAYBE;
}

/** A condition holds only where it is known to be other than 0. @source IEEE 1364-2005, clause 9.4 */
export const isTrue = ({ v, x }: Word): boolean => (v & ~x) !== 0n;

export const logicalNot = (a: Word): Word => {
  const is = truth(a);
  return is.x === 0n ? (is.v === 0n ? TRUE : FALSE) : MAYBE;
};

/** Bits of the two sides where they agree, else unknown. @source IEEE 1364-2005, clause 5.1.13, table 5-21 */
export function either(a: Word, b: Word): Word {
  const differ = (a.v ^ b.v) | (a.x | b.x);
  return { v: (a.v & ~differ) | differ, x: differ };
}

/** `& | ^` over all bits of one word. @source IEEE 1364-2005, clause 5.1.11 */
export function reduce(operator: '&' | '|' | '^', a: Word, width: number): Word {
  if (operator === '|') return truth(a);
  if (operator === '&') {
    if ((~a.v & ~a.x & mask(width)) !== 0n) return FALSE;
    return a.x === 0n ? TRUE : MAYBE;
  }
  if (a.x !== 0n) return MAYBE;
  return known(BigInt(ones(a.v) & 1));
}

/** How many bits are 1. */
export function ones(v: bigint): number {
  let count = 0;
  for (let rest = v; rest !== 0n; rest >>= 32n) {
    let word = Number(rest & 0xffffffffn);
    for (; word !== 0; word = (word & (word - 1)) >>> 0) count++;
  }
  return count;
}

/** `width` bits from bit `lo` on; bits outside read as unknown. @source IEEE 1364-2005, clause 5.2.1 */
export function slice(a: Word, have: number, lo: number, width: number): Word {
  if (lo >= 0 && lo + width <= have)
    return { v: (a.v >> BigInt(lo)) & mask(width), x: (a.x >> BigInt(lo)) & mask(width) };
  if (lo >= have || lo + width <= 0) return allUnknown(width);
  const from = Math.max(0, lo);
  const count = Math.min(have, lo + width) - from;
  const at = BigInt(from - lo);
  const outside = mask(width) ^ (mask(count) << at);
  const [v, x] = [(a.v >> BigInt(from)) & mask(count), (a.x >> BigInt(from)) & mask(count)];
  return { v: (v << at) | outside, x: (x << at) | outside };
}

/** A word with `width` bits from `lo` on replaced; what falls outside is lost. */
export function splice(a: Word, have: number, lo: number, value: Word, width: number): Word {
  const from = Math.max(0, lo);
  const count = Math.min(have, lo + width) - from;
  if (count <= 0) return a;
  const hole = mask(count) << BigInt(from);
  const put = (word: bigint) => ((word >> BigInt(from - lo)) & mask(count)) << BigInt(from);
  return { v: (a.v & ~hole) | put(value.v), x: (a.x & ~hole) | put(value.x) };
}

/** Words side by side, the first uppermost. */
export function concat(parts: readonly (readonly [Word, number])[]): Word {
  let v = 0n;
  let x = 0n;
  for (const [word, width] of parts) {
    v = (v << BigInt(width)) | word.v;
    x = (x << BigInt(width)) | word.x;
  }
  return { v, x };
}

/** The characters of a word, without what is 0 in front of them. */
export function textOf({ v, x }: Word, width: number): string {
  let text = '';
  for (let lo = (Math.ceil(width / 8) - 1) * 8; lo >= 0; lo -= 8) {
    const code = Number(((v & ~x) >> BigInt(lo)) & 0xffn);
    if (code !== 0 || text !== '') text += String.fromCharCode(code);
  }
  return text;
}

/** A text as a word: the last character lowest. @source IEEE 1364-2005, clause 3.6 */
export function ofText(text: string): Word {
  const digits = Array.from({ length: text.length }, (_, i) =>
    (text.charCodeAt(i) & 0xff).toString(16).padStart(2, '0'),
  );
  return known(BigInt(`0x0${digits.join('')}`));
}
