import { bigIntOf, type Bits } from '../../../core/bits/index.ts';
import { handHex, type HandStep } from '../../../core/operations/index.ts';

export type Radix = 'hex' | 'bin' | 'dec';

/** A scan that was made, as it is listed. */
export interface Made extends HandStep {
  readonly number: number;
  readonly instruction: string;
  readonly irCaptured: string;
  readonly irLengths: readonly number[];
}

export function shownIn(radix: Radix, bits: Bits): string {
  if (radix === 'hex') return handHex(bits);
  const value = bigIntOf(bits);
  return radix === 'dec' ? String(value) : `0b${value.toString(2).padStart(bits.length, '0')}`;
}
