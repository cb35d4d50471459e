import { fail, ok, type Result } from '../result.ts';
import { type DriveRadix, parseLeverValue, writeLeverValue } from './lever-value.ts';
import { problem } from './problems.ts';

/** How a signal's value is written: in a radix, with its sign, by the names it has, or with so many bits behind the point. */
export type ValueForm = DriveRadix | 'signed' | 'names' | `fixed ${number}`;

/** What has to be known of a signal whose value is written. */
export interface Written {
  readonly width: number;
  readonly signed: boolean;
  /** Values by their names, decimal. */
  readonly names?: Readonly<Record<string, string>> | undefined;
}

/** Forms that a signal can be written in; fixed point with each number of bits behind the point. */
export const formsOf = ({ width, names }: Written): readonly ValueForm[] => [
  ...(['dec', 'signed', 'hex', 'bin'] as const),
  ...(names && Object.keys(names).length > 0 ? (['names'] as const) : []),
  ...Array.from({ length: Math.max(0, width - 1) }, (_, i): ValueForm => `fixed ${i + 1}`),
];

/** Bits behind the point; null for other forms. */
const fractionOf = (form: ValueForm): number | null => (form.startsWith('fixed ') ? Number(form.slice(6)) : null);

/** The radix in which digits stand that are no digits of the form itself. */
const radixOf = (form: ValueForm): DriveRadix => (form === 'hex' || form === 'bin' ? form : 'dec');

export function writeValue(value: bigint, signal: Written, form: ValueForm): string {
  const { width, signed, names = {} } = signal;
  const fraction = fractionOf(form);
  if (fraction !== null) return fixedText(signed ? BigInt.asIntN(width, value) : value, fraction);
  if (form === 'signed') return String(BigInt.asIntN(width, value));
  const name = form === 'names' ? Object.entries(names).find(([, one]) => BigInt(one) === value)?.[0] : undefined;
  return name ?? writeLeverValue(value, width, radixOf(form));
}

/**
 * What is typed, in the form that is shown. A name is one of the signal's own; a number with a point is taken to the
 * nearest value that there is. Prefixes say another radix in every form.
 */
export function parseValueIn(text: string, signal: Written, form: ValueForm): Result<bigint> {
  const { width, names = {} } = signal;
  const compact = text.trim();
  const named = form === 'names' ? names[compact] : undefined;
  if (named !== undefined) return ok(BigInt(named));
  const fraction = fractionOf(form);
  if (fraction === null || !/^-?\d+(\.\d*)?$/.test(compact)) return parseLeverValue(compact, width, radixOf(form));
  const [whole = '0', behind = ''] = compact.replace('-', '').split('.');
  const scale = 10n ** BigInt(behind.length);
  const scaled = BigInt(whole + behind) << BigInt(fraction);
  const rounded = (scaled + scale / 2n) / scale;
  const value = compact.startsWith('-') ? -rounded : rounded;
  const [least, most] = signal.signed
    ? [-(1n << BigInt(width - 1)), (1n << BigInt(width - 1)) - 1n]
    : [0n, (1n << BigInt(width)) - 1n];
  if (value < least || value > most)
    return fail(
      problem('fixed-value', { text: compact, least: fixedText(least, fraction), most: fixedText(most, fraction) }),
    );
  return ok(BigInt.asUintN(width, value));
}

/** A number of 2^-fraction as a decimal, exactly: there are no more digits behind the point than bits. */
function fixedText(value: bigint, fraction: number): string {
  const [sign, size] = value < 0n ? ['-', -value] : ['', value];
  const whole = size >> BigInt(fraction);
  const rest = size - (whole << BigInt(fraction));
  const digits = (rest * 5n ** BigInt(fraction)).toString().padStart(fraction, '0').replace(/0+$/, '');
  return `${sign}${whole}${digits === '' ? '' : `.${digits}`}`;
}
