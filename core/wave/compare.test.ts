import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { recordingFrom } from '../../tests/support/wave-model.ts';
import { bitsFromBigInt } from '../bits/index.ts';
import {
  compareRecordings,
  digitsOf,
  fitView,
  indexAt,
  joinRecordings,
  nameOfRow,
  plainView,
  recordingOf,
  recordingOfSteps,
  sharedOffset,
  timeAt,
  traceOfRow,
  VcdReader,
  waveView,
  writeVcd,
} from './index.ts';

const bits = (value: number, width: number) => value.toString(2).padStart(width, '0');
const values = fc.array(fc.integer({ min: 0, max: 15 }), { minLength: 30, maxLength: 60 });

describe('laying one record over another', () => {
  test('lists exactly the samples that differ', () => {
    fc.assert(
      fc.property(values, values, fc.integer({ min: -9, max: 9 }), (a, b, offset) => {
        const [first, second] = [a, b].map((list) =>
          recordingFrom({ 'top.w': list.map((value) => bits(value, 4)) }),
        ) as [never, never];
        const found = compareRecordings(first, second, { onTick: offset });
        const ticks = found.ok
          ? found.value.differences.flatMap(({ from, to }) => Array.from({ length: to - from }, (_, i) => from + i))
          : [];
        expect(ticks).toEqual(
          a.flatMap((value, tick) =>
            tick - offset >= 0 && tick - offset < b.length && b[tick - offset] !== value ? [tick] : [],
          ),
        );
      }),
    );
  });

  test('a dump laid beside the capture it was written from does not differ, and one changed sample is found where it is', () => {
    const word = fc.bigInt(0n, 255n);
    fc.assert(
      fc.property(
        fc.array(word, { minLength: 20, maxLength: 60 }),
        fc.array(fc.integer({ min: 1, max: 900 }), { minLength: 60, maxLength: 60 }),
        fc.nat(1000),
        fc.boolean(),
        (words, apart, pick, gapped) => {
          const capture = (data: readonly bigint[]) => {
            let time = 0n;
            const bits = 8 + (gapped ? 32 : 0);
            const all = data.reduce((sum, value, i) => {
              time += BigInt(gapped ? (apart[i] as number) : 1);
              return sum | ((value | (gapped ? time << 8n : 0n)) << BigInt(i * bits));
            }, 0n);
            return {
              recorder: 'r',
              fingerprint: '',
              condition: '',
              signals: [{ name: 'top.w', width: 8, lo: 0, signed: false, domain: 'top.clk' }],
              samples: data.length,
              sampleBits: bits,
              ...(gapped ? { stampAt: 8 } : {}),
              triggerIndex: 0,
              sampleRate: 9.795e6,
              data: bitsFromBigInt(all, bits * data.length),
            };
          };
          const at = pick % words.length;
          const changed = words.map((value, i) => (i === at ? value ^ 1n : value));
          const dump = new VcdReader();
          dump.push(new TextEncoder().encode(writeVcd(capture(words), '')));
          dump.finish();
          const opened = dump.recording('dump');
          const same = compareRecordings(opened, recordingOf(capture(words)), 'trigger');
          expect(same.ok && same.value.differences).toEqual([]);
          const other = compareRecordings(opened, recordingOf(capture(changed)), 'trigger');
          const first = other.ok ? other.value.differences[0] : undefined;
          const tick = recordingOf(capture(words), 'true').stored?.[at] ?? at;
          expect((first?.from as number) * 1e-12 * 9.795e6).toBeCloseTo(tick, 3);
        },
      ),
      { numRuns: 60 },
    );
  });

  test('a signal that no longer moves is compared to the end, wherever it is laid', () => {
    for (const offset of [-7, 0, 7]) {
      const found = compareRecordings(
        recordingFrom({ 'top.a': [...'0'.repeat(20)] }),
        recordingFrom({ 'top.a': [...'01'.padEnd(20, '1')] }),
        { onTick: offset },
      );
      expect(found.ok && found.value.differences).toEqual([
        { name: 'top.a', from: Math.max(0, offset + 1), to: Math.min(20, 20 + offset) },
      ]);
    }
  });

  test('the best match finds how far a record was moved', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 255 }), { minLength: 120, maxLength: 120 }),
        fc.integer({ min: 0, max: 30 }),
        (noise, by) => {
          const whole = noise.map((value) => bits(value, 8));
          const first = recordingFrom({ 'top.w': whole.slice(0, 90) });
          const second = recordingFrom({ 'top.w': whole.slice(by, by + 90) });
          const found = compareRecordings(first, second, 'best');
          expect(found.ok && [found.value.offset, found.value.differences.length]).toEqual([by, 0]);
        },
      ),
      { numRuns: 40 },
    );
  });

  test('by trigger, and what cannot be compared is said', () => {
    const first = recordingFrom({ 'top.a': [...'0011'], 'top.only': [...'0000'] }, { triggers: [2] });
    const second = recordingFrom({ 'top.a': [...'0110'] }, { triggers: [1] });
    const found = compareRecordings(first, second, 'trigger');
    expect(found.ok && found.value).toMatchObject({ offset: 1, differences: [], apart: ['top.only'], shared: 3 });
    const code = (other: ReturnType<typeof recordingFrom>) => {
      const wrong = compareRecordings(first, other, 'trigger');
      return wrong.ok ? null : wrong.error.code;
    };
    expect([code({ ...second, tickSeconds: 1e-7 }), code(recordingFrom({ 'top.b': ['0'] }))]).toEqual([
      null,
      'compare-nothing',
    ]);
  });
});

describe('several recorders on one axis', () => {
  test('each in its own time from the trigger, unknown outside its record', () => {
    const fast = recordingFrom({ 'top.f': [...'0101'] }, { tickSeconds: 1e-6 / 12, triggers: [2], title: 'fast' });
    const slow = recordingFrom({ 'top.s': [...'01'] }, { tickSeconds: 1e-7, triggers: [1], title: 'slow' });
    const joined = joinRecordings([fast, slow], [0, 0]);
    if (!joined.ok) throw new Error(joined.error.message);
    const { traces, triggers, length } = joined.value;
    expect(triggers).toEqual([166_667, 166_667]);
    const at = (index: number, tick: number) => digitsOf(traces[index] as never, indexAt(traces[index] as never, tick));
    expect([at(0, 0), at(0, 90_000), at(0, 170_000)]).toEqual(['0', '1', '0']);
    expect([at(1, 0), at(1, 70_000), at(1, 170_000), at(1, 270_000)]).toEqual(['x', '0', '1', 'x']);
    expect(length).toBe(333_333);
  });

  test('where one stored nothing its signals are unknown; a gap of unknown length cannot be laid', () => {
    const gapped = recordingFrom(
      { 'top.g': [...'0111'] },
      { tickSeconds: 1e-6, triggers: [0], gaps: [{ from: 2, to: 3, ticks: 1 }] },
    );
    const whole = recordingFrom({ 'top.w': [...'0011'] }, { tickSeconds: 1e-6, triggers: [0] });
    const joined = joinRecordings([gapped, whole], [0, 1e-6]);
    if (!joined.ok) throw new Error(joined.error.message);
    const seen = (index: number) =>
      [0, 1, 2, 3, 4]
        .map((micro) =>
          digitsOf(joined.value.traces[index] as never, indexAt(joined.value.traces[index] as never, micro * 1e6 + 1)),
        )
        .join('');
    expect([seen(0), seen(1)]).toEqual(['01x1x', 'x0011']);
    const unclear = joinRecordings([{ ...gapped, gaps: [{ from: 2, to: 3, ticks: null }] }, whole], [0, 0]);
    expect(unclear.ok ? null : unclear.error.code).toBe('join-gaps');
  });

  test('two clocks that saw the same signal are laid by its edges, to within a tick of the slower one', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 3, max: 40, noNaN: true }),
        fc.array(fc.integer({ min: 8, max: 60 }), { minLength: 6, maxLength: 30 }),
        fc.double({ min: -5, max: 5, noNaN: true }),
        (ratio, widths, shift) => {
          // Pulses of widths of their own, in microseconds; the second recorder begins `shift` later.
          let time = 20;
          const edges = widths.map((wide) => (time += wide * (ratio > 10 ? ratio / 10 : 1)));
          const level = (time: number) => edges.filter((edge) => edge <= time).length % 2;
          const seen = (tick: number, start: number) =>
            Array.from({ length: Math.ceil(((edges.at(-1) as number) + 30) / tick) }, (_, i) =>
              String(level(start + i * tick)),
            );
          const slowTick = ratio / 3;
          const first = recordingFrom({ 'top.s': seen(1, 0) }, { tickSeconds: 1e-6, triggers: [5] });
          const second = recordingFrom(
            { 'top.s': seen(slowTick, shift) },
            { tickSeconds: slowTick * 1e-6, triggers: [2] },
          );
          const offset = sharedOffset(first, second);
          if (!offset.ok) throw new Error(offset.error.message);
          const truth = shift + 2 * slowTick - 5;
          expect(Math.abs(offset.value * 1e6 - truth)).toBeLessThanOrEqual(Math.max(1, slowTick) + 1e-6);
        },
      ),
    );
    const none = sharedOffset(recordingFrom({ 'top.a': [...'01'] }), recordingFrom({ 'top.b': [...'01'] }));
    expect(none.ok ? null : none.error.code).toBe('join-shared');
  });
});

describe('rows', () => {
  test('bits of several signals put together are one value, lowest part first', () => {
    const recording = recordingFrom({ 'top.hi': ['01', '11'], 'top.lo': ['0110', '011x'] });
    const row = {
      kind: 'signal' as const,
      id: 'j',
      parts: [
        { signal: 'top.lo', lo: 0, width: 3 },
        { signal: 'top.hi', lo: 0, width: 2 },
      ],
    };
    const trace = traceOfRow(recording, row);
    expect([0, 1].map((tick) => digitsOf(trace as never, indexAt(trace as never, tick)))).toEqual(['01110', '1111x']);
    expect(nameOfRow(row)).toBe('{hi, lo}');
  });

  test('a view made for another record loses rows whose signals are gone, and gains new ones', () => {
    const before = recordingFrom({ 'top.a': ['0'], 'top.b': ['00'] });
    const after = recordingFrom({ 'top.b': ['00'], 'top.c': ['0'] });
    const view = {
      ...plainView(before, before.traces),
      rows: [
        {
          kind: 'group' as const,
          id: 'g',
          label: 'both',
          open: true,
          rows: plainView(before, before.traces).rows as never[],
        },
      ],
    };
    const fitted = fitView(view, after, after.traces);
    expect(waveView.safeParse(fitted).success).toBe(true);
    expect(fitted.rows.map((row) => (row.kind === 'group' ? row.rows.map(nameOfRow) : nameOfRow(row)))).toEqual([
      ['top.b'],
      'top.c',
    ]);
  });
});

describe('a simulation beside a capture', () => {
  /** A dump with a clock of ten ticks a cycle, and what a register with these values in its cycles shows. */
  const dumpOf = (words: readonly string[], scope: string) => {
    const edge = (i: number) => 10 * i + 5;
    const changes = words.flatMap((word, i) => [
      `#${edge(i)}`,
      '1c',
      // A register changes with the edge; a recorder sees what was before it.
      `b${words[i + 1] ?? word} w`,
      `#${edge(i) + 5}`,
      '0c',
    ]);
    const text = [
      '$timescale 1 ns $end',
      ...scope.split('.').map((name) => `$scope module ${name} $end`),
      '$var wire 1 c clk $end',
      '$var wire 4 w w [3:0] $end',
      '$upscope $end $enddefinitions $end',
      '#0',
      '0c',
      `b${words[0]} w`,
      ...changes,
    ].join('\n');
    const reader = new VcdReader();
    reader.push(new TextEncoder().encode(`${text}\n`));
    reader.finish();
    return reader.recording('tb.vcd');
  };
  /** The same as a recorder at 12 MHz stores it. */
  const captureOf = (words: readonly string[]) => ({
    ...recordingFrom({ w: words }),
    tickSeconds: 1 / 12e6,
    sampled: true,
    traces: recordingFrom({ w: words }).traces.map((trace) => ({ ...trace, domain: 'clk' })),
  });
  const words = fc.array(fc.integer({ min: 0, max: 15 }), { minLength: 5, maxLength: 30 });

  test('is compared cycle by cycle, whatever time a cycle takes; what differs is found at its edge', () => {
    fc.assert(
      fc.property(words, fc.nat(1000), (values, pick) => {
        const hardware = values.map((value) => bits(value, 4));
        const at = pick % values.length;
        const simulated = hardware.map((word, i) => (i === at ? bits((values[i] as number) ^ 8, 4) : word));
        const dump = dumpOf(simulated, 'tb.dut');
        const same = compareRecordings(dumpOf(hardware, 'tb.dut'), captureOf(hardware), 'trigger', 'clock');
        expect(same).toMatchObject({
          ok: true,
          value: { differences: [], scope: 'tb.dut', by: 'clock', shared: values.length, offset: 0, apart: [] },
        });
        const other = compareRecordings(dump, captureOf(hardware), 'trigger', 'clock');
        const until = at + 1 < values.length ? 10 * (at + 1) + 5 : dump.length;
        expect(other.ok && other.value.differences).toEqual([{ name: 'tb.dut.w', from: 10 * at + 5, to: until }]);
        // From the side of the capture it is the sample.
        const back = compareRecordings(captureOf(hardware), dump, 'trigger', 'clock');
        expect(back.ok && back.value.differences).toEqual([{ name: 'w', from: at, to: at + 1 }]);
      }),
    );
  });

  test('what a simulation does not know is no difference', () => {
    const found = compareRecordings(
      dumpOf(['xxxx', '0001', '0x11'], 'tb'),
      captureOf(['0101', '0001', '0111']),
      'trigger',
      'clock',
    );
    expect(found.ok && found.value.differences).toEqual([]);
    const other = compareRecordings(
      dumpOf(['xxxx', '0001', '0x11'], 'tb'),
      captureOf(['0101', '0001', '0110']),
      'trigger',
      'clock',
    );
    expect(other.ok && other.value.differences).toHaveLength(1);
  });

  test('a cursor of the dump is the edge before it; a clock that is not there is named', () => {
    const dump = dumpOf(['0000', '0001', '0010', '0011'], 'tb');
    const found = compareRecordings(dump, captureOf(['0010', '0011']), { onTick: 27 }, 'clock');
    expect(found).toMatchObject({ ok: true, value: { differences: [], offset: 2, shared: 2 } });
    const silent = { ...dump, traces: dump.traces.filter(({ width }) => width > 1) };
    expect(compareRecordings(silent, captureOf(['0010']), 'trigger', 'clock')).toMatchObject({
      ok: false,
      error: { code: 'compare-clock', message: expect.stringContaining('tb.clk') },
    });
  });

  test('of several instances the one with most of the names is meant', () => {
    const one = recordingFrom({ 'tb.a.x': ['1'], 'tb.b.x': ['1'], 'tb.b.y': ['1'] });
    const found = compareRecordings(one, recordingFrom({ x: ['1'], y: ['1'], z: ['1'] }), 'trigger');
    expect(found).toMatchObject({ ok: true, value: { scope: 'tb.b', apart: ['z'], differences: [] } });
  });

  test('a record in which nothing changes is laid where the other one holds the same', () => {
    const hardware = [...Array(20).fill('0001'), ...Array(20).fill('0110'), ...Array(20).fill('1001')];
    const found = compareRecordings(
      recordingFrom({ w: hardware }),
      recordingFrom({ w: Array(9).fill('0110') }),
      'best',
    );
    expect(found).toMatchObject({ ok: true, value: { differences: [], shared: 9 } });
    expect(found.ok && found.value.offset).toBeGreaterThanOrEqual(20);
  });

  test('the top module of a design stands for the instance that a testbench has of it', () => {
    const one = recordingFrom({ 'dut.x': ['1'], 'dut.u.y': ['1'], seen: ['1'] });
    const two = recordingFrom({ 'lock.x': ['1'], 'lock.u.y': ['1'] });
    const scope = { scope: 'dut', apart: [], differences: [] };
    expect(compareRecordings(one, two, 'trigger')).toMatchObject({ ok: true, value: scope });
    expect(compareRecordings(two, one, 'trigger')).toMatchObject({ ok: true, value: scope });
  });
});

describe('a record of steps', () => {
  test('is what it was made of, bit for bit', () => {
    const state = fc.constantFrom('0', '1', 'x', 'z');
    const word = fc.array(state, { minLength: 70, maxLength: 70 }).map((list) => list.join(''));
    fc.assert(
      fc.property(fc.array(word, { minLength: 1, maxLength: 8 }), (texts) => {
        const pick = (text: string, ones: string) =>
          BigInt(`0b${[...text].map((digit) => (ones.includes(digit) ? '1' : '0')).join('')}`).toString();
        const { traces, ...axis } = recordingOfSteps(
          {
            signals: [
              {
                ...{ name: 's', width: 70, names: [{ value: '3', name: 'THREE' }] },
                times: texts.map((_, i) => 2 * i),
                values: texts.map((text) => ({ value: pick(text, '1x'), unknown: pick(text, 'xz') })),
              },
            ],
            end: 2 * texts.length,
          },
          'table.csv',
        );
        const [trace] = traces;
        if (!trace) throw new Error('no trace');
        expect(texts.map((_, i) => digitsOf(trace, indexAt(trace, 2 * i)))).toEqual(texts);
        expect(trace.names).toEqual({ 3: 'THREE' });
        expect(timeAt(axis, 2)).toBe('step 2');
      }),
    );
  });
});
