// A record of which a qualifier chose the samples: whatever is measured, decoded or found must not depend on how its
// gaps are drawn.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { bitsFromBigInt } from '../bits/index.ts';
import {
  type BitMeasures,
  type Capture,
  decode,
  findAll,
  measure,
  recordingOf,
  type Recording,
  ticksBetween,
  type Trace,
} from './index.ts';
import { advance } from './recording.ts';

const STAMP = 32;
const CLOCK = 12e6;

/** A recorder that stores a sample of `line` and `other` at each of these clocks. */
function stored(
  samples: readonly { readonly clock: number; readonly line: number; readonly other: number }[],
  keep: string,
): Capture {
  const sampleBits = 2 + STAMP;
  const all = samples.reduce(
    (sum, { clock, line, other }, i) =>
      sum | (BigInt(line | (other << 1)) << BigInt(i * sampleBits)) | (BigInt(clock) << BigInt(i * sampleBits + 2)),
    0n,
  );
  const bit = (name: string, lo: number) => ({ name: `top.${name}`, width: 1, lo, signed: false, domain: 'top.clk' });
  return {
    recorder: 'r',
    fingerprint: '0'.repeat(32),
    condition: '',
    signals: [bit('line', 0), bit('other', 1)],
    samples: samples.length,
    sampleBits,
    stampAt: 2,
    keep,
    triggerIndex: 0,
    sampleRate: CLOCK,
    data: bitsFromBigInt(all, sampleBits * samples.length),
  };
}

/** What a 9 600 baud transmitter at 12 MHz gives when only its changes are stored. (Common practice: 8N1.) */
function changesOf(bytes: readonly number[]): { clock: number; line: number; other: number }[] {
  const bit = CLOCK / 9600;
  const found = [{ clock: 100, line: 1, other: 0 }];
  let clock = 100 + 12 * bit;
  for (const byte of bytes)
    for (const digit of [0, ...Array.from({ length: 8 }, (_, i) => (byte >> i) & 1), 1]) {
      if (digit !== found.at(-1)?.line) found.push({ clock: Math.round(clock), line: digit, other: 0 });
      clock += bit;
    }
  found.push({ clock: Math.round(clock + 12 * bit), line: 0, other: 0 });
  return found;
}

const line = ({ traces }: Recording) => traces[0] as Trace;
const serial = { kind: 'serial', line: 'top.line', baud: null, dataBits: 8, parity: 'none', stopBits: 1 } as const;

describe('a record with a qualifier is read in real time', () => {
  test('a 9 600 baud line of which only the changes were stored decodes to what was sent, drawn short or true', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(255), { minLength: 4, maxLength: 30 }), (bytes) => {
        const capture = stored(changesOf([0x55, ...bytes]), 'line changes');
        for (const style of ['short', 'true'] as const) {
          const read = decode(recordingOf(capture, style), serial);
          expect(read.ok && read.value.flatMap(({ value, trouble }) => (trouble === null ? [value] : []))).toEqual([
            0x55,
            ...bytes,
          ]);
        }
      }),
    );
  });

  test('duty and widths are those of the line: 99 parts at 1, one at 0', () => {
    const samples = Array.from({ length: 40 }, (_, i) => ({
      clock: 1000 + Math.floor(i / 2) * 100_000 + (i % 2) * 1000,
      line: i % 2,
      other: 0,
    }));
    for (const style of ['short', 'true'] as const) {
      const recording = recordingOf(stored(samples, 'line changes'), style);
      const bit = measure(
        recording,
        line(recording),
        0,
        (recording.stored as Float64Array)[38] as number,
      ) as BitMeasures;
      expect(bit.duty).toBeCloseTo(0.99, 6);
      expect([bit.period?.least, bit.period?.most].map((one) => (one as number) * CLOCK)).toEqual([
        expect.closeTo(100_000, 3),
        expect.closeTo(100_000, 3),
      ]);
      expect((bit.low?.mean as number) * CLOCK).toBeCloseTo(1000, 3);
    }
  });

  test('of a signal whose changes the qualifier does not store, nothing is claimed in the gaps', () => {
    const samples = [
      { clock: 10, line: 0, other: 1 },
      { clock: 20, line: 1, other: 1 },
      { clock: 1000, line: 0, other: 1 },
    ];
    const recording = recordingOf(stored(samples, 'line changes'));
    const other = measure(recording, recording.traces[1] as Trace, 0, recording.length) as BitMeasures;
    expect([other.duty, other.rises]).toEqual([1, 0]);
    const found = findAll(recording, 'other');
    expect(found.ok && found.value.stretches.map(({ from, to }) => to - from)).toEqual([1, 1, 1]);
    const held = findAll(recording, 'line');
    expect(held.ok && held.value.stretches.map(({ from, to }) => ticksBetween(recording, from, to))).toEqual([980]);
  });

  test('going on by a time and measuring it are each other’s opposite, over any gaps', () => {
    const axis = fc
      .array(
        fc.tuple(
          fc.integer({ min: 1, max: 50 }),
          fc.integer({ min: 1, max: 9 }),
          fc.integer({ min: 9, max: 1_000_000 }),
        ),
        { minLength: 1, maxLength: 20 },
      )
      .map((parts) => {
        let at = 0;
        return parts.map(([before, shown, ticks]) => ({ from: (at += before), to: (at += shown), ticks }));
      });
    fc.assert(
      fc.property(axis, fc.nat(300), fc.nat(2_000_000), (gaps, from, ticks) => {
        const to = advance({ gaps }, from, ticks);
        expect(ticksBetween({ gaps }, from, to)).toBeCloseTo(ticks, 3);
      }),
    );
  });
});
