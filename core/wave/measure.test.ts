import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { recordingFrom } from '../../tests/support/wave-model.ts';
import { type BitMeasures, histogram, measure, odditiesOf, type Trace, type WordMeasures } from './index.ts';

const wave = (text: string) => [...text];

describe('measuring', () => {
  test('a square wave has its period, its widths and its duty, whole ones only', () => {
    const recording = recordingFrom({ 'top.a': wave('0110001100011000110001') });
    const all = measure(recording, recording.traces[0] as never, 0, 22) as BitMeasures;
    expect([all.rises, all.falls]).toEqual([5, 4]);
    expect(all.period).toMatchObject({ count: 4, least: expect.closeTo(5e-6, 12), most: expect.closeTo(5e-6, 12) });
    expect(all.high?.mean).toBeCloseTo(2e-6, 12);
    expect(all.low?.mean).toBeCloseTo(3e-6, 12);
    expect(all.jitter).toBeCloseTo(0, 12);
    const whole = measure(recording, recording.traces[0] as never, 1, 21) as BitMeasures;
    expect([whole.rises, whole.duty]).toEqual([4, 0.4]);
  });

  test('jitter is the span of the periods', () => {
    const recording = recordingFrom({ 'top.a': wave('01001000100') });
    expect((measure(recording, recording.traces[0] as never, 0, 11) as BitMeasures).jitter).toBeCloseTo(1e-6, 12);
  });

  test('no pulse reaches over a gap, and unknown time counts for nothing', () => {
    const gapped = recordingFrom({ 'top.a': wave('0110011001') }, { gaps: [{ from: 4, to: 5, ticks: 500 }] });
    const bit = measure(gapped, gapped.traces[0] as never, 0, 10) as BitMeasures;
    expect([bit.high?.count, bit.low?.count, bit.period]).toEqual([1, 1, null]);
    const open = recordingFrom({ 'top.a': wave('01xx10') });
    const known = measure(open, open.traces[0] as never, 0, 6) as BitMeasures;
    expect([known.rises, known.falls, known.duty]).toEqual([1, 1, 0.5]);
  });

  test('a word has least, most and its mean over time', () => {
    const recording = recordingFrom({ 'top.w': ['0010', '0010', '0010', '0110', 'xxxx', '0000'] });
    const word = measure(recording, recording.traces[0] as never, 0, 6) as WordMeasures;
    expect(word).toMatchObject({ kind: 'word', changes: 3, least: 0n, most: 6n, mean: '2.4' });
    expect(word.unknown).toBeCloseTo(1e-6, 12);
    expect(word.values.map(([value]) => value)).toEqual([0n, 2n, 6n]);
  });

  test('a word of any width is measured to its last digit: a constant is its own mean', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 300 }),
        fc.bigInt({ min: 0n, max: (1n << 300n) - 1n }),
        fc.boolean(),
        fc.integer({ min: 1, max: 40 }),
        (width, any, signed, ticks) => {
          const value = BigInt.asUintN(width, any);
          const recording = recordingFrom({
            'top.w': Array<string>(ticks).fill(value.toString(2).padStart(width, '0')),
          });
          const shown = signed ? BigInt.asIntN(width, value) : value;
          const word = measure(recording, { ...(recording.traces[0] as Trace), signed }, 0, ticks) as WordMeasures;
          expect([word.least, word.most, word.mean]).toEqual([shown, shown, String(shown)]);
        },
      ),
    );
    const constant = recordingFrom({ 'top.w': Array<string>(9).fill((137922211).toString(2)) });
    expect((measure(constant, constant.traces[0] as Trace, 0, 9) as WordMeasures).mean).toBe('137922211');
  });

  test('a mean is rounded only in the last place that is shown', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 0xffffffff }), { minLength: 1, maxLength: 30 }), (values) => {
        const recording = recordingFrom({ 'top.w': values.map((value) => value.toString(2).padStart(32, '0')) });
        const mean = Number((measure(recording, recording.traces[0] as Trace, 0, values.length) as WordMeasures).mean);
        // Exact in double precision: the sum stays below 2^37.
        expect(Math.abs(mean * values.length - values.reduce((a, b) => a + b, 0))).toBeLessThanOrEqual(
          0.0005 * values.length + 1e-4,
        );
      }),
    );
  });

  test('classes of a histogram hold every value once', () => {
    const classes = histogram([1, 2, 2, 3, 10], 3);
    expect(classes.map(({ count }) => count)).toEqual([4, 0, 1]);
    expect(histogram([7, 7], 5)).toEqual([{ from: 7, to: 7, count: 2 }]);
    expect(histogram([], 5)).toEqual([]);
  });
});

describe('what deserves a word', () => {
  test('a signal that never moves is named with its likely cause', () => {
    const recording = recordingFrom({
      'top.on': ['1', '1'],
      'top.trim': ['0101', '0101'],
      'top.x': ['x', 'x'],
      'top.z': ['z', 'z'],
      'top.moves': ['0', '1'],
    });
    const odd = odditiesOf(recording, { 'top.trim': { lever: { name: 'level_trim', value: '5', overrides: true } } });
    expect(odd.map(({ signal, kind }) => [signal, kind])).toEqual([
      ['top.on', 'constant'],
      ['top.trim', 'constant'],
      ['top.x', 'unknown'],
      ['top.z', 'unknown'],
    ]);
    expect(odd[1]?.cause).toBe('The lever level_trim holds it; release it, or set it, under Drive.');
    expect(odd[3]?.cause).toContain('driver');
  });

  test('what the build found of it tells why: its enable stood still, is not recorded, or its clock may be dead', () => {
    const register = (...from: string[]) => ({ driver: { kind: 'register', from, file: 't.v', line: 1 } }) as const;
    const recording = recordingFrom({
      'top.q': ['0', '0'],
      'top.r': ['0', '0'],
      'top.en': ['0', '0'],
      'top.go': ['0', '1'],
      'top.s': ['1', '1'],
      'top.far': ['0', '0'],
      'top.loose': ['0', '0'],
      'top.pin': ['1', '1'],
      'top.locked': ['0', '0'],
    });
    const causes = new Map(
      odditiesOf(recording, {
        'top.q': register('top.en', 'top.go'),
        'top.r': register('top.u.ready', 'top.go'),
        'top.s': register('top.go'),
        'top.far': { ...register('top.go'), domain: 'clk10' },
        'top.loose': { driver: { kind: 'nothing' } },
        'top.pin': { driver: { kind: 'pin', port: 'button' } },
        'top.locked': { driver: { kind: 'cell', port: 'u_g.locked' } },
      }).map(({ signal, cause }) => [signal, cause]),
    );
    expect(causes.get('top.q')).toBe('It is decided by en and go, of which en was 0 all the time.');
    expect(causes.get('top.r')).toBe('It is decided by u.ready and go. Record u.ready too, or trigger on its change.');
    expect(causes.get('top.s')).toMatch(/moved, but not so/);
    expect(causes.get('top.far')).toMatch(/clock clk10, of which nothing moved/);
    expect(causes.get('top.loose')).toMatch(/a lever can/);
    expect(causes.get('top.pin')).toMatch(/pins of button/);
    expect(causes.get('top.locked')).toMatch(/^u_g\.locked gives it, a port of a cell/);
  });
});
