import { amountOf, digitsOf, hasUnknown, numberOf, realOf, type Trace } from './trace.ts';

/** How a value is written. `fixed` is a signed number with `point` binary places. */
export type Radix =
  | { readonly kind: 'binary' | 'hex' | 'unsigned' | 'signed' | 'ascii' | 'names' }
  | { readonly kind: 'fixed'; readonly point: number };

export const RADIX_NAMES: Readonly<Record<Radix['kind'], string>> = {
  binary: 'binary',
  hex: 'hexadecimal',
  unsigned: 'unsigned',
  signed: 'signed',
  fixed: 'fixed point',
  ascii: 'ASCII',
  names: 'names',
};

/**
 * What is written without being asked: names where the source has them, a number where it is signed, else hexadecimal.
 */
export const radixFor = (trace: Trace): Radix => ({
  kind: trace.names ? 'names' : trace.real ? 'signed' : trace.width === 1 ? 'binary' : trace.signed ? 'signed' : 'hex',
});

/**
 * A value as text. One that has unknown bits is written digit by digit, a hexadecimal digit being x or z where all its
 * bits are, X or Z where only some are.
 */
export function writeValue(trace: Trace, index: number, radix: Radix): string {
  if (index < 0) return 'x';
  if (trace.real) return realText(trace, index);
  if (radix.kind === 'binary') return digitsOf(trace, index);
  if (hasUnknown(trace, index)) return hexWithUnknown(digitsOf(trace, index));
  switch (radix.kind) {
    case 'hex':
      return hexOf(trace, index);
    case 'unsigned':
      return String(numberOf(trace, index));
    case 'signed':
      return String(BigInt.asIntN(trace.width, numberOf(trace, index) as bigint));
    case 'fixed':
      return String(+((amountOf(trace, index, true) as number) / 2 ** radix.point).toPrecision(12));
    case 'ascii':
      return asciiOf(trace, index);
    case 'names': {
      const value = String(numberOf(trace, index));
      return Object.entries(trace.names ?? {}).find(([, one]) => one === value)?.[0] ?? hexOf(trace, index);
    }
  }
}

/** As many digits as tell it from every other number. */
export const realText = (trace: Trace, index: number): string => String(realOf(trace, index) ?? 'x');

const hexOf = (trace: Trace, index: number): string =>
  (numberOf(trace, index) as bigint)
    .toString(16)
    .toUpperCase()
    .padStart(Math.ceil(trace.width / 4), '0');

/** Bytes from the highest; what is no printable character is a dot. */
function asciiOf(trace: Trace, index: number): string {
  const value = numberOf(trace, index) as bigint;
  let text = '';
  for (let lo = 8 * (Math.ceil(trace.width / 8) - 1); lo >= 0; lo -= 8) {
    const code = Number((value >> BigInt(lo)) & 0xffn);
    text += code >= 32 && code < 127 ? String.fromCharCode(code) : '.';
  }
  return text;
}

function hexWithUnknown(digits: string): string {
  const padded = digits.padStart(
    Math.ceil(digits.length / 4) * 4,
    digits[0] === 'x' || digits[0] === 'z' ? digits[0] : '0',
  );
  let text = '';
  for (let i = 0; i < padded.length; i += 4) {
    const four = padded.slice(i, i + 4);
    if (/^[01]+$/.test(four)) text += Number.parseInt(four, 2).toString(16).toUpperCase();
    else if (/^x+$/.test(four) || /^z+$/.test(four)) text += four[0];
    else text += four.includes('x') ? 'X' : 'Z';
  }
  return text;
}
