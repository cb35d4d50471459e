import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { recordingFrom } from '../../tests/support/wave-model.ts';
import { checkRule, findAll, nextEdge, nextStretch } from './index.ts';

const bits = (value: number, width: number) => value.toString(2).padStart(width, '0');
const places = (recording: ReturnType<typeof recordingFrom>, text: string) => {
  const found = findAll(recording, text);
  if (!found.ok) throw new Error(found.error.message);
  return found.value.stretches.flatMap(({ from, to }) => Array.from({ length: to - from }, (_, i) => from + i));
};

describe('looking for places', () => {
  test('finds exactly the samples in which an expression holds', () => {
    const FORMS: readonly [string, (now: number[], last: number[] | null) => boolean][] = [
      ['level > 5', ([, level = 0]) => level > 5],
      ['go rises', ([go], last) => last !== null && go === 1 && last[0] === 0],
      ['level changes and not go', ([go, level], last) => last !== null && level !== last[1] && go === 0],
      [
        'level in 2..4 or go falls',
        ([go, level = 0], last) => (level >= 2 && level <= 4) || (last !== null && go === 0 && last[0] === 1),
      ],
      ['level == other', ([, level, other]) => level === other],
      ["level == 4'b1xx0", ([, level = 0]) => (level & 9) === 8],
      ['whenever go, level < 9', ([go, level = 0]) => go === 1 && level >= 9],
      [
        'whenever go rises, level != 3 and other >= 2',
        ([go, level, other = 0], last) => last !== null && go === 1 && last[0] === 0 && !(level !== 3 && other >= 2),
      ],
    ];
    fc.assert(
      fc.property(
        fc.constantFrom(...FORMS),
        fc.array(
          fc.tuple(fc.integer({ min: 0, max: 1 }), fc.integer({ min: 0, max: 15 }), fc.integer({ min: 0, max: 15 })),
          { minLength: 1, maxLength: 60 },
        ),
        ([text, holds], rows) => {
          const recording = recordingFrom({
            'top.go': rows.map(([go]) => bits(go, 1)),
            'top.level': rows.map(([, level]) => bits(level, 4)),
            'top.other': rows.map(([, , other]) => bits(other, 4)),
          });
          expect(places(recording, text)).toEqual(
            rows.flatMap((row, i) => (holds(row, i > 0 ? (rows[i - 1] as number[]) : null) ? [i] : [])),
          );
        },
      ),
      { numRuns: 400 },
    );
  });

  test('what depends on unknown bits does not hold, and neither does its opposite', () => {
    const recording = recordingFrom({ 'top.a': ['0x10', '1x10', '0010'], 'top.b': ['1', 'x', '0'] });
    expect(places(recording, 'a == 2')).toEqual([2]);
    expect(places(recording, 'a != 2')).toEqual([1]);
    expect(places(recording, "a == 4'bxx10")).toEqual([0, 1, 2]);
    expect(places(recording, 'not b')).toEqual([2]);
    expect(places(recording, 'b or not b')).toEqual([0, 2]);
  });

  test('wide and signed values keep their order', () => {
    const wide = recordingFrom({ 'top.w': ['1'.padEnd(40, '0'), '0'.repeat(39).concat('1')] });
    expect(places(wide, 'w > 0x7000000000')).toEqual([0]);
    const signed = recordingFrom({ 'top.s': ['1111', '0001', '1000'] });
    const trace = { ...(signed.traces[0] as (typeof signed.traces)[0]), signed: true };
    expect(places({ ...signed, traces: [trace] }, 's < 1')).toEqual([0, 2]);
    expect(places({ ...signed, traces: [trace] }, 's == -1')).toEqual([0]);
  });

  test('mistakes are named with their column', () => {
    const recording = recordingFrom({ 'top.a.x': ['0'], 'top.b.x': ['00'], 'top.level': ['0000'] });
    const wrong = (text: string) => checkRule(recording, text);
    expect(wrong('level == 5 and lewel')).toMatchObject({ code: 'trigger-signal', place: { column: 16 } });
    expect(wrong('x rises')?.message).toContain('may mean top.a.x or top.b.x');
    expect(wrong('level == 20')).toMatchObject({ code: 'trigger-value', place: { column: 10 } });
    expect(wrong('whenever level == 1')).toMatchObject({ code: 'trigger-syntax', place: { column: 20 } });
    expect(wrong('level')?.message).toContain('4 bits');
    expect(wrong('level == 3 and a.x')).toBeNull();
  });

  test('steps from edge to edge and from place to place', () => {
    const recording = recordingFrom({ 'top.a': ['0', '0', '1', '1', '0', '1'] });
    const [trace] = recording.traces as [(typeof recording.traces)[0]];
    expect([
      nextEdge(trace, 0, true),
      nextEdge(trace, 2, true),
      nextEdge(trace, 5, true),
      nextEdge(trace, 5, false),
      nextEdge(trace, 4, false),
      nextEdge(trace, 2, false),
    ]).toEqual([2, 4, null, 4, 2, null]);
    const found = findAll(recording, 'a');
    const stretches = found.ok ? found.value.stretches : [];
    expect(stretches).toEqual([
      { from: 2, to: 4 },
      { from: 5, to: 6 },
    ]);
    expect([
      nextStretch(stretches, 2, true)?.from,
      nextStretch(stretches, 5, false)?.from,
      nextStretch(stretches, 5, true),
    ]).toEqual([5, 2, null]);
  });
});
