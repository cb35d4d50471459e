// Readings of a panel as they are kept and given away.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { readingRate, readingsCsv, stepped, type TimedReading, withReading } from './readings.ts';

const at = (time: number, level: bigint): TimedReading => ({
  at: time,
  reading: { gauges: { 't.level': level, 't.way,out': 1n }, levers: {} },
});

describe('readings', () => {
  test('the newest are kept, oldest first, whatever number is asked for', () =>
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 20 }), fc.integer({ min: 1, max: 60 }), (most, count) => {
        const all = Array.from({ length: count }, (_, i) => at(i, BigInt(i)));
        const kept = all.reduce<readonly TimedReading[]>((sum, one) => withReading(sum, one, most), []);
        expect(kept).toEqual(all.slice(-most));
      }),
    ));

  test('their rate is that of the last ones', () => {
    expect(readingRate([])).toBeNull();
    expect(readingRate([at(5, 0n)])).toBeNull();
    expect(readingRate([0, 250, 500, 750].map((time) => at(time, 0n)))).toBe(4);
    const slowThenQuick = [0, 10_000, 20_000, ...Array.from({ length: 10 }, (_, i) => 20_100 + 100 * i)];
    expect(readingRate(slowThenQuick.map((time) => at(time, 0n)))).toBe(10);
  });

  test('as CSV: RFC 4180 lines, times in ISO 8601, a sign where there is one', () => {
    const gauges = [
      { name: 't.level', width: 8, signed: true },
      { name: 't.way,out', width: 1, signed: false },
    ];
    expect(readingsCsv([at(0, 255n), at(1500, 3n)], gauges)).toBe(
      'time,t.level,"t.way,out"\r\n1970-01-01T00:00:00.000Z,-1,1\r\n1970-01-01T00:00:01.500Z,3,1\r\n',
    );
  });

  test('a step goes round at the ends', () => {
    expect([stepped(0n, -1n, 4), stepped(15n, 1n, 4), stepped(7n, 16n, 12)]).toEqual([15n, 0n, 23n]);
  });
});
