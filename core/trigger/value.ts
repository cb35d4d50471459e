import { fail, ok, type Problem, type Result } from '../result.ts';
import { problem } from './problems.ts';

/** Bits to compare with: `mask` has a 1 for every bit that counts. */
interface MaskedValue {
  readonly value: bigint;
  readonly mask: bigint;
}

const BASES: Readonly<Record<string, { readonly bits: number; readonly prefix: string; readonly highest: string }>> = {
  b: { bits: 1, prefix: '0b', highest: '1' },
  o: { bits: 3, prefix: '0o', highest: '7' },
  h: { bits: 4, prefix: '0x', highest: 'f' },
};

/** Decimal (also negative), 0x…, 0b…, or Verilog form; x digits open bits. `mask` has a 1 for every bit that counts. */
export function parseValue(text: string, width: number): Result<MaskedValue> {
  const all = (1n << BigInt(width)) - 1n;
  const compact = text.replace(/_/g, '').toLowerCase();
  const wrong = () => fail(problem('trigger-value', { text }));
  if (/^-?\d+$/.test(compact)) {
    const value = BigInt(compact);
    const least = -(1n << BigInt(width - 1));
    if (value > all || value < least) return fail(tooWide(text, width));
    return ok({ value: value & all, mask: all });
  }
  const prefixed = /^0([xb])([0-9a-fx]+)$/.exec(compact);
  const based = /^\d*'s?([boh])([0-9a-fx]+)$/.exec(compact);
  const [base, digits] = prefixed
    ? [prefixed[1] === 'x' ? 'h' : 'b', prefixed[2]]
    : based
      ? [based[1], based[2]]
      : [undefined, undefined];
  if (base === undefined || digits === undefined) return wrong();
  const { bits, prefix, highest } = BASES[base] as (typeof BASES)[string];
  if ([...digits].some((digit) => digit !== 'x' && digit > highest)) return wrong();
  // All digits at once: one after another takes the square of their number.
  const value = BigInt(prefix + digits.replaceAll('x', '0'));
  const mask = BigInt(prefix + digits.replaceAll(/[^x]/g, highest).replaceAll('x', '0'));
  if (value > all) return fail(tooWide(text, width));
  const written = (1n << BigInt(bits * digits.length)) - 1n;
  return ok({ value, mask: (mask | ~written) & all });
}

const tooWide = (text: string, width: number): Problem =>
  problem('trigger-value (too wide)', { text, width, bits: width === 1 ? 'bit' : 'bits' });
