import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { bitsFromBigInt } from '../bits/index.ts';
import { readDump, valueIn } from '../../tests/support/wave-model.ts';
import { type Capture, digitsOf, indexAt, recordingOf, VcdReader, writeCsv, writeJson, writeVcd } from './index.ts';
import { secondsAt } from './recording.ts';

const WIDTHS = [1, 8, 3, 33];
const signals = WIDTHS.map((width, i) => ({
  name: `top.m${i % 2}.s${i}`,
  width,
  lo: WIDTHS.slice(0, i).reduce((a, b) => a + b, 0),
  signed: false,
  domain: 'top.clk',
}));
const width = WIDTHS.reduce((a, b) => a + b, 0);
const STAMP = 32;

/** Words with time stamps when `apart` gives the clocks between them. */
function captureOf(
  words: readonly bigint[],
  over: Partial<Capture> = {},
  apart: readonly number[] | null = null,
): Capture {
  let time = 0n;
  const sampleBits = width + (apart ? STAMP : 0);
  const all = words.reduce((sum, word, i) => {
    time += BigInt(apart?.[i] ?? 0);
    return (
      sum |
      ((BigInt.asUintN(width, word) | (apart ? BigInt.asUintN(STAMP, time) << BigInt(width) : 0n)) <<
        BigInt(i * sampleBits))
    );
  }, 0n);
  return {
    recorder: 'r',
    fingerprint: '0'.repeat(32),
    condition: '',
    signals,
    samples: words.length,
    sampleBits,
    ...(apart ? { stampAt: width } : {}),
    triggerIndex: 0,
    sampleRate: 12.5e6,
    data: bitsFromBigInt(all, sampleBits * words.length),
    ...over,
  };
}

const someWords = fc.array(fc.bigInt(0n, (1n << 45n) - 1n), { minLength: 1, maxLength: 40 });
const field = (word: bigint, { lo, width }: { lo: number; width: number }) =>
  BigInt.asUintN(width, word >> BigInt(lo))
    .toString(2)
    .padStart(width, '0');

describe('a capture', () => {
  test('gives back every value at every sample', () => {
    fc.assert(
      fc.property(someWords, (words) => {
        const { traces, length } = recordingOf(captureOf(words));
        expect(length).toBe(words.length);
        for (const [i, trace] of traces.entries())
          expect(words.map((_, tick) => digitsOf(trace, indexAt(trace, tick)))).toEqual(
            words.map((word) => field(word, signals[i] as (typeof signals)[0])),
          );
        for (const { at } of traces) expect([...at]).toEqual([...new Set(at)].sort((a, b) => a - b));
      }),
    );
  });

  test('as VCD is read by another reader, and by our own, to the same values at the same times', () => {
    fc.assert(
      fc.property(someWords, (words) => {
        const text = writeVcd(captureOf(words), '2026-01-01T00:00:00Z');
        const { timescale, values, end } = readDump(text);
        expect([timescale, end]).toEqual(['1ps', words.length * 80_000]);
        const reader = new VcdReader();
        for (let at = 0; at < text.length; at += 37) reader.push(new TextEncoder().encode(text.slice(at, at + 37)));
        const facts = reader.finish();
        expect(facts).toMatchObject({ valid: true, timescale: '1ps', endTime: String(end), problems: [] });
        const own = reader.recording('own');
        for (const signal of signals)
          for (const [i, word] of words.entries()) {
            const time = i * 80_000 + 1;
            expect(valueIn(values.get(signal.name) as never, time)).toBe(field(word, signal));
            const trace = own.traces.find(({ name }) => name === signal.name) as (typeof own.traces)[0];
            expect(digitsOf(trace, indexAt(trace, time))).toBe(field(word, signal));
          }
      }),
    );
  });

  test('of chosen samples has gaps as long as its time stamps say, drawn short or true, across a wrap of the counter', () => {
    const words = [1n, 2n, 3n, 4n];
    const capture = captureOf(words, { triggerIndex: 2 }, [0xfffffffe, 1, 1000, 1]);
    const short = recordingOf(capture);
    expect(short.gaps).toEqual([{ from: 2, to: 4, ticks: 999 }]);
    expect([...(short.stored ?? [])]).toEqual([0, 1, 4, 5]);
    expect([short.triggers, short.length]).toEqual([[4], 6]);
    expect([0, 1, 4, 5].map((tick) => Math.round((secondsAt(short, tick) as number) * 12.5e6))).toEqual([
      -1001, -1000, 0, 1,
    ]);
    const long = recordingOf(capture, 'true');
    expect([long.length, long.triggers]).toEqual([1003, [1001]]);
  });

  test('in segments has a trigger in each; without time stamps nobody knows the time between them', () => {
    const recording = recordingOf(captureOf([1n, 2n, 3n, 4n], { segments: 2, triggerIndex: 1 }));
    expect(recording.triggers).toEqual([1, 5]);
    expect(recording.gaps).toEqual([{ from: 2, to: 4, ticks: null, why: 'segments' }]);
    expect([secondsAt(recording, 0), secondsAt(recording, 5)]).toEqual([-80e-9, null]);
  });

  test('what was not stored is x in its dump, and its value comes back after the gap', () => {
    const text = writeVcd(captureOf([5n, 5n, 5n], { triggerIndex: 0 }, [0, 10, 1]), '');
    const signal = readDump(text).values.get('top.m1.s1');
    const at = (tick: number) => valueIn(signal as never, tick * 80_000);
    expect([at(0), at(1), at(9), at(10), at(11)]).toEqual(['00000010', 'xxxxxxxx', 'xxxxxxxx', '00000010', '00000010']);
  });

  test('as CSV has a line a sample, as JSON the changes', () => {
    const capture = captureOf([1n, 3n, 3n], { triggerIndex: 1 });
    expect(writeCsv(capture).split('\r\n').slice(0, 3)).toEqual([
      'sample,seconds,top.m0.s0,top.m1.s1,top.m0.s2,top.m1.s3',
      '0,-8e-8,1,0,0,0',
      '1,0,1,1,0,0',
    ]);
    expect(JSON.parse(writeJson(capture)).signals[1]).toMatchObject({
      name: 'top.m1.s1',
      width: 8,
      changes: [
        [0, '0'],
        [1, '1'],
      ],
    });
  });
});
