import type { SerialSettings } from './settings.ts';

/**
 * Levels of one frame, a bit time each: start 0, data lowest bit first, parity, stop 1. (Common practice of
 * asynchronous frames.)
 */
export function frameBits(value: number, { dataBits, parity, stopBits }: SerialSettings): readonly (0 | 1)[] {
  const data = Array.from({ length: dataBits }, (_, bit): 0 | 1 => ((value >>> bit) & 1 ? 1 : 0));
  const stops = Array<1>(stopBits).fill(1);
  return parity === 'none' ? [0, ...data, ...stops] : [0, ...data, parityOf(data, parity), ...stops];
}

/** Even parity makes the number of ones even with it, odd parity odd. */
export const parityOf = (data: readonly number[], parity: 'even' | 'odd'): 0 | 1 =>
  data.reduce((sum, bit) => sum ^ bit, parity === 'odd' ? 1 : 0) ? 1 : 0;
