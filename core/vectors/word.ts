import { item } from '../lists.ts';
import { fail, ok, type Result } from '../result.ts';
import type { Logic } from './logic.ts';

/** How a value was written, so that an answer can be written the same way. */
type Notation = 'decimal' | 'signed' | 'hex' | 'binary';

export interface Word extends Logic {
  readonly notation: Notation;
  /** Bits that have to be unknown; only an expectation can ask for that. They are open in `unknown` too. */
  readonly mustBeUnknown: bigint;
}

/**
 * `12`, `-3`, `0x1F`, `0b10x1`, with underscores; an x digit stands for as many unknown bits as a digit has, a lone x
 * for all. With `expected`, digits u stand for bits that have to come out unknown.
 */
export function parseWord(text: string, width: number, expected = false): Result<Word, string> {
  const digits = text.replaceAll('_', '').toLowerCase();
  const based = /^0([xb])([0-9a-fxzu]+)$/.exec(digits);
  if (digits.includes('u') && !expected && (based || digits === 'u'))
    return fail(`"${text}" asks for unknown bits, which only an expectation can; an input is made unknown with x.`);
  if (/^[xzu]$/.test(digits)) {
    const unknown = (1n << BigInt(width)) - 1n;
    return ok({
      value: digits === 'z' ? 0n : unknown,
      unknown,
      notation: 'binary',
      mustBeUnknown: digits === 'u' ? unknown : 0n,
    });
  }
  if (based) return parseBased(based[1] as 'x' | 'b', item(based, 2), text, width);
  if (!/^-?\d+$/.test(digits))
    return fail(
      `"${text}" is no value: write decimal, 0x... or 0b..., with x digits for ` +
        `${expected ? 'bits that are not compared, u for bits that must be unknown' : 'unknown bits'}.`,
    );
  const value = BigInt(digits);
  const limit = 1n << BigInt(width);
  if (value >= limit || value < -(limit >> 1n))
    return fail(`${text} does not fit into ${width} ${width === 1 ? 'bit' : 'bits'}.`);
  return ok({
    value: BigInt.asUintN(width, value),
    unknown: 0n,
    notation: value < 0n ? 'signed' : 'decimal',
    mustBeUnknown: 0n,
  });
}

function parseBased(base: 'x' | 'b', digits: string, text: string, width: number): Result<Word, string> {
  const bits = base === 'x' ? 4n : 1n;
  const all = (1n << bits) - 1n;
  let value = 0n;
  let unknown = 0n;
  let mustBeUnknown = 0n;
  for (const digit of digits) {
    const number = Number.parseInt(digit, 16);
    if (!'xzu'.includes(digit) && number >= 2 ** Number(bits))
      return fail(`The digit "${digit}" does not belong in "${text}".`);
    value = (value << bits) | (digit === 'x' || digit === 'u' ? all : digit === 'z' ? 0n : BigInt(number));
    unknown = (unknown << bits) | ('xzu'.includes(digit) ? all : 0n);
    mustBeUnknown = (mustBeUnknown << bits) | (digit === 'u' ? all : 0n);
  }
  const beyond = (value & ~unknown) >> BigInt(width);
  if (beyond !== 0n) return fail(`${text} does not fit into ${width} ${width === 1 ? 'bit' : 'bits'}.`);
  return ok({
    value: BigInt.asUintN(width, value),
    unknown: BigInt.asUintN(width, unknown),
    notation: base === 'x' ? 'hex' : 'binary',
    mustBeUnknown: BigInt.asUintN(width, mustBeUnknown),
  });
}

/** A word as text: in the notation asked for where all bits are known, else in digits that can say x and z. */
export function formatWord({ value, unknown }: Logic, width: number, notation: Notation): string {
  if (unknown === 0n) {
    if (notation === 'decimal') return value.toString();
    if (notation === 'signed') return BigInt.asIntN(width, value).toString();
    if (notation === 'hex') return `0x${value.toString(16).padStart(Math.ceil(width / 4), '0')}`;
    return `0b${value.toString(2).padStart(width, '0')}`;
  }
  const bits = Array.from({ length: width }, (_, i) => bitText(value, unknown, BigInt(width - 1 - i))).join('');
  return notation === 'hex' && wholeNibbles(unknown, width) ? `0x${hexOf(bits)}` : `0b${bits}`;
}

const bitText = (value: bigint, unknown: bigint, at: bigint): string =>
  (unknown >> at) & 1n ? ((value >> at) & 1n ? 'x' : 'z') : ((value >> at) & 1n).toString();

/** Unknown bits come in groups that one hexadecimal digit can stand for. */
function wholeNibbles(unknown: bigint, width: number): boolean {
  for (let at = 0; at < width; at += 4) {
    const size = Math.min(4, width - at);
    const nibble = (unknown >> BigInt(at)) & ((1n << BigInt(size)) - 1n);
    if (nibble !== 0n && nibble !== (1n << BigInt(size)) - 1n) return false;
  }
  return true;
}

function hexOf(bits: string): string {
  const padded = bits.padStart(
    Math.ceil(bits.length / 4) * 4,
    bits.startsWith('x') || bits.startsWith('z') ? item(bits, 0) : '0',
  );
  return padded.replace(/.{4}/g, (nibble) =>
    /x/.test(nibble) ? 'x' : /z/.test(nibble) ? 'z' : Number.parseInt(nibble, 2).toString(16),
  );
}
