// Figures as people read them.
import { describe, expect, test } from 'vitest';
import { clockRate, frequency } from './format.ts';

describe('the rate of a clock', () => {
  test('what it could be stands beside what is wanted of it; what is not known is left out', () => {
    expect(clockRate({ highest: 181.25e6, wanted: 12e6 })).toBe('up to 181.3 MHz, wanted 12 MHz');
    expect(clockRate({ highest: 181.25e6, wanted: null })).toBe('up to 181.3 MHz');
    expect(clockRate({ highest: null, wanted: 32_768 })).toBe('wanted 32.77 kHz');
    expect(clockRate({ highest: null, wanted: null })).toBe('');
  });
  test('four digits and the unit that makes them short, no zeros behind', () => {
    expect([0.5, 999, 1000, 12e6, 83_333, 1e9].map(frequency)).toEqual([
      '0.5 Hz',
      '999 Hz',
      '1 kHz',
      '12 MHz',
      '83.33 kHz',
      '1000 MHz',
    ]);
  });
});
