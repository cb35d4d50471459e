// A capture as JSON, out and in.
import { describe, expect, test } from 'vitest';
import type { Capture } from './capture.ts';
import { recordingOf } from './from-capture.ts';
import { readCaptureJson } from './read-json.ts';
import { digitsOf, indexAt } from './trace.ts';
import { VcdReader } from './vcd-read.ts';
import { writeJson, writeVcd } from './write.ts';

/** Words of 4 bits and, where there is one, a stamp of 32 above them. */
function capture(words: readonly number[], stamps: readonly number[] | null, more: Partial<Capture> = {}): Capture {
  const sampleBits = stamps ? 36 : 4;
  const bits = words.flatMap((word, i) => [
    ...Array.from({ length: 4 }, (_, bit) => (word >> bit) & 1),
    ...(stamps ? Array.from({ length: 32 }, (_, bit) => ((stamps[i] ?? 0) >>> bit) & 1) : []),
  ]);
  const bytes = new Uint8Array(Math.ceil(bits.length / 8));
  for (const [i, bit] of bits.entries()) bytes[i >> 3] = (bytes[i >> 3] ?? 0) | (bit << (i & 7));
  return {
    ...{ recorder: 'r', fingerprint: 'f'.repeat(32), condition: '', triggerIndex: 1, sampleRate: 1e6 },
    signals: [
      { name: 'd.a', width: 3, lo: 0, signed: false, domain: 'd.clk' },
      { name: 'd.b', width: 1, lo: 3, signed: false, domain: 'd.clk' },
    ],
    ...{ samples: words.length, sampleBits, ...(stamps ? { stampAt: 4, keep: 'a changes' } : {}) },
    data: { length: bits.length, bytes },
    ...more,
  };
}

const read = (text: string) => {
  const made = readCaptureJson('a.json', text);
  if (!made.ok) throw new Error(made.error.message);
  return made.value;
};

describe('a capture as JSON', () => {
  test('tells which of its signals came in late, through registers of the recorder', () => {
    const file = JSON.parse(writeJson(capture([1, 2], null)));
    expect(read(JSON.stringify(file)).synchronised).toEqual([]);
    const late = { ...file, plan: { synchronised: ['top.pin'] } };
    expect(read(JSON.stringify(late)).synchronised).toEqual(['top.pin']);
    const wrong = readCaptureJson('a.json', JSON.stringify({ ...file, plan: { synchronised: 'top.pin' } }));
    expect(wrong).toMatchObject({ error: { code: 'capture-file' } });
  });

  test('is read as the record that it was, with its trigger and its gaps', () => {
    const one = capture([1, 9, 9, 4, 2], [100, 101, 102, 110, 111], { sources: 'e'.repeat(32) });
    const { recording, fingerprint, sources } = read(writeJson(one));
    const real = recordingOf(one, 'true');
    expect([fingerprint, sources]).toEqual(['f'.repeat(32), 'e'.repeat(32)]);
    expect(recording.gaps).toEqual(real.gaps);
    expect([...(recording.stored ?? [])]).toEqual([...(real.stored ?? [])]);
    expect(recording.triggers).toEqual(real.triggers);
    for (const [i, trace] of real.traces.entries())
      for (const tick of real.stored ?? []) {
        const other = recording.traces[i];
        expect(other && digitsOf(other, indexAt(other, tick))).toBe(digitsOf(trace, indexAt(trace, tick)));
      }
  });

  test('between segments without stamps nobody knows how long it was', () => {
    const { recording } = read(writeJson(capture([1, 2, 3, 4], null, { segments: 2 })));
    expect(recording.gaps).toMatchObject([{ ticks: null, why: 'segments' }]);
    expect(recording.triggers).toHaveLength(2);
  });

  test('what is none says what is wrong with it', () => {
    const code = (text: string) => {
      const made = readCaptureJson('a.json', text);
      return made.ok ? 'read' : made.error.message;
    };
    expect(code('{')).toMatch(/^a\.json is no capture that can be read/);
    expect(code('{"format":"nimble-capture","version":2}')).toContain('version');
    const whole = JSON.parse(writeJson(capture([1, 2], null)));
    whole.signals[0].changes = [[5, '1']];
    expect(code(JSON.stringify(whole))).toContain('sample 5 is out of order or beyond the end');
  });
});

test('every sample of a capture has its time in a dump, whether something changes in it or not', () => {
  const reader = new VcdReader({ stamps: true });
  reader.push(new TextEncoder().encode(writeVcd(capture([1, 1, 1, 2], null), '2026')));
  expect(reader.finish().valid).toBe(true);
  expect([...reader.stamps]).toEqual([0, 1e6, 2e6, 3e6, 4e6]);
});
