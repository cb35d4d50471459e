import { numberAt } from '../lists.ts';

/** Speeds that are usual on a serial line, in bit/s. (Common practice.) */
export const USUAL_RATES: readonly number[] = [
  300, 600, 1200, 2400, 4800, 9600, 14400, 19200, 28800, 38400, 57600, 115200, 230400, 250000, 460800, 500000, 921600,
  1000000, 1500000, 2000000, 3000000,
];

/**
 * A whole frame survives this much error in speed with some room on both sides. (Common practice: about 5 % over ten
 * bits.)
 */
const TOLERANCE = 0.04;
const LEAST_PULSES = 4;
/**
 * A guess from short pulses is good enough to count the bits of longer ones; what is longer than a frame of zeros is no
 * part of one.
 */
const GROWING = [1, 2, 4, 8, 10];
/** Pulses shorter than all but these are taken for disturbances. */
const DISTURBED = 0.02;

/** Pulses of a line one after the other, from one change on: how long it stays at `level`, at the other one, and so on. */
export interface PulseRun {
  readonly level: 0 | 1;
  /** In seconds. */
  readonly widths: readonly number[];
}

/**
 * How long a bit of a line is, in the unit of its pulses: every pulse is a whole number of bits. The shortest one gives
 * a first guess, then all pulses together give the length that fits them best. Null where there are too few.
 */
export function bitTimeOf(pulses: readonly number[]): number | null {
  if (pulses.length < LEAST_PULSES) return null;
  const sorted = [...pulses].sort((a, b) => a - b);
  let bit = numberAt(sorted, Math.floor(sorted.length * DISTURBED));
  for (const most of GROWING) {
    let [sum, weight] = [0, 0];
    for (const pulse of pulses) {
      const bits = Math.round(pulse / bit);
      if (bits < 1 || bits > most) continue;
      sum += pulse * bits;
      weight += bits * bits;
    }
    if (weight > 0) bit = sum / weight;
  }
  return bit;
}

/** Bits a second of a bit time in seconds, and the usual speed nearest to it, if one is near enough to be meant. */
export function measuredRate(bitSeconds: number): { readonly rate: number; readonly usual: number | null } {
  const rate = 1 / bitSeconds;
  const off = (usual: number) => Math.abs(usual / rate - 1);
  const nearest = USUAL_RATES.reduce((best, one) => (off(one) < off(best) ? one : best));
  return { rate, usual: off(nearest) < TOLERANCE ? nearest : null };
}
