import { fail, ok, type Problem, type Result } from '../result.ts';
import { problem } from './problems.ts';

/** How values of levers and gauges are written. */
export type DriveRadix = 'dec' | 'hex' | 'bin';

const BASES: Readonly<Record<DriveRadix, { readonly base: bigint; readonly digits: RegExp; readonly name: string }>> = {
  dec: { base: 10n, digits: /^-?\d+$/, name: 'decimal' },
  hex: { base: 16n, digits: /^[0-9a-f]+$/, name: 'hexadecimal' },
  bin: { base: 2n, digits: /^[01]+$/, name: 'binary' },
};

/**
 * What is typed for a lever, in the radix that is shown, or in another one with its prefix: `0x`, `0b`, `0d`, or
 * Verilog form such as `8'hFF`. A wire can be driven to 0 and 1 alone, so digits x and z are refused.
 */
export function parseLeverValue(text: string, width: number, shown: DriveRadix): Result<bigint> {
  const compact = text.trim().replace(/_/g, '').toLowerCase();
  const prefixed = /^0([xbd])(.+)$/.exec(compact);
  const based = /^\d*'s?([bhd])(.+)$/.exec(compact);
  // In hexadecimal "0b1" and "0d1" are digits too; a prefix is what the whole of it fits.
  const inShown = BASES[shown].digits.test(compact) && !(shown !== 'hex' && prefixed);
  const isPrefix = prefixed !== null && !(shown === 'hex' && prefixed[1] !== 'x' && inShown);
  const [letter, digits] = based ? [based[1], based[2]] : isPrefix ? [prefixed[1], prefixed[2]] : [undefined, compact];
  const radix: DriveRadix = letter === undefined ? shown : letter === 'b' ? 'bin' : letter === 'd' ? 'dec' : 'hex';
  if (digits === undefined || digits === '') return fail(wrong(text, shown));
  if (/[xz?]/.test(digits)) return fail(problem('lever-value (open digits)', { text }));
  if (!BASES[radix].digits.test(digits)) return fail(wrong(text, radix));
  const value = numberIn(digits, BASES[radix].base);
  const limit = 1n << BigInt(width);
  if (value >= limit || value < -(limit >> 1n))
    return fail(
      problem('lever-value (too wide)', {
        text,
        width,
        bits: width === 1 ? 'bit' : 'bits',
        limit: writeLeverValue(limit - 1n, width, shown),
      }),
    );
  return ok(BigInt.asUintN(width, value));
}

/** A value as levers and gauges show it. */
export function writeLeverValue(value: bigint, width: number, radix: DriveRadix): string {
  const digits = radix === 'dec' ? 1 : Math.ceil(width / (radix === 'hex' ? 4 : 1));
  const text = value.toString(Number(BASES[radix].base)).toUpperCase().padStart(digits, '0');
  return radix === 'hex' && width > 1 ? `0x${text}` : radix === 'bin' && width > 1 ? `0b${text}` : text;
}

function numberIn(digits: string, base: bigint): bigint {
  if (base === 10n) return BigInt(digits);
  return BigInt(`0${base === 16n ? 'x' : 'b'}${digits}`);
}

const wrong = (text: string, radix: DriveRadix): Problem => problem('lever-value', { text, radix: BASES[radix].name });
