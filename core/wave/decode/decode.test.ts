import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { recordingFrom } from '../../../tests/support/wave-model.ts';
import { decode, type Decoder, digitsOf, indexAt, measureBaud, type Recording } from '../index.ts';

const digitAtTick = ({ traces }: Recording, name: string, tick: number): string => {
  const trace = traces.find((one) => one.name === name) as Recording['traces'][number];
  return digitsOf(trace, indexAt(trace, tick));
};

const serial = (over: Partial<Extract<Decoder, { kind: 'serial' }>> = {}): Decoder => ({
  kind: 'serial',
  line: 'top.tx',
  baud: 100_000,
  dataBits: 8,
  parity: 'none',
  stopBits: 1,
  ...over,
});
const frames = (recording: ReturnType<typeof recordingFrom>, decoder: Decoder) => {
  const found = decode(recording, decoder);
  if (!found.ok) throw new Error(found.error.message);
  return found.value;
};

/**
 * A line at one microsecond a tick: `ticks` a bit, at rest for longer than a frame, then bytes lowest bit first between
 * a 0 and a 1. (Common practice: 8N1.)
 */
function sent(bytes: readonly number[], ticks: number, extra: (byte: number) => string = () => ''): string[] {
  const line = bytes.flatMap((byte) => [
    ...`0${[...byte.toString(2).padStart(8, '0')].reverse().join('')}${extra(byte)}1`,
  ]);
  const out = Array<string>(Math.ceil(ticks * 12)).fill('1');
  let at = 0;
  for (const bit of line) {
    const until = Math.round((at + 1) * ticks);
    for (let i = Math.round(at * ticks); i < until; i++) out.push(bit);
    at++;
  }
  return [...out, ...Array<string>(30).fill('1')];
}

describe('a serial line', () => {
  test('gives back what was sent, at any speed the record can show, also when the speed is measured', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ minLength: 3, maxLength: 12 }),
        fc.double({ min: 6, max: 40, noNaN: true }),
        (data, ticks) => {
          const bytes = [0x55, ...data];
          const recording = recordingFrom({ 'top.tx': sent(bytes, ticks) });
          expect(
            frames(recording, serial({ baud: 1e6 / ticks })).map(({ value, trouble }) => [value, trouble]),
          ).toEqual(bytes.map((byte) => [byte, null]));
          const measured = measureBaud(recording, recording.traces[0] as never);
          expect(measured.ok && Math.abs(measured.value.baud * ticks * 1e-6 - 1)).toBeLessThan(0.06);
        },
      ),
    );
  });

  test('115200 bits a second, sent 2 % too slowly, is recognised', () => {
    const recording = recordingFrom(
      { 'top.tx': sent([0x4c, 0x6f, 0x63, 0x6b], 85.03 * 1.02) },
      { tickSeconds: 1e-6 / 9.795 },
    );
    const measured = measureBaud(recording, recording.traces[0] as never);
    expect(measured.ok && measured.value.usual).toBe(115200);
    expect(frames(recording, serial({ baud: null })).map(({ text }) => text)).toEqual(['4C L', '6F o', '63 c', '6B k']);
  });

  test('a wrong speed, wrong parity and a break stand out', () => {
    const even = (byte: number) => String([...byte.toString(2)].filter((bit) => bit === '1').length % 2);
    const good = recordingFrom({ 'top.tx': sent([0x11, 0x07], 10, even) });
    expect(frames(good, serial({ parity: 'even' })).map(({ trouble }) => trouble)).toEqual([null, null]);
    expect(frames(good, serial({ parity: 'odd' })).map(({ trouble }) => trouble)).toEqual([
      'wrong parity',
      'wrong parity',
    ]);
    expect(
      frames(recordingFrom({ 'top.tx': sent([0, 0, 0], 10) }), serial({ baud: 60_000 })).some(
        ({ trouble }) => trouble !== null,
      ),
    ).toBe(true);
    const stays = recordingFrom({ 'top.tx': [...'1'.repeat(5), ...'0'.repeat(150)] });
    expect(frames(stays, serial())[0]?.trouble).toContain('break');
  });

  test('too quiet, too fast or not there is said', () => {
    const quiet = recordingFrom({ 'top.tx': Array<string>(50).fill('1'), 'top.w': Array<string>(50).fill('11') });
    const code = (decoder: Decoder) => {
      const found = decode(quiet, decoder);
      return found.ok ? null : found.error.code;
    };
    expect([code(serial({ baud: null })), code(serial({ baud: 900_000 })), code(serial({ line: 'top.w' }))]).toEqual([
      'line-quiet',
      'line-fast',
      'decode-signal',
    ]);
  });
});

describe('a serial line that was under way when the record began', () => {
  const bits = (byte: number) => `0${[...byte.toString(2).padStart(8, '0')].reverse().join('')}1`;
  const recorded = (line: string, ticks: number, skip: number) =>
    recordingFrom({ 'top.tx': [...line].flatMap((bit) => Array<string>(ticks).fill(bit)).slice(skip) });

  test('what may have begun before is marked and has no value; what comes after a rest is what was sent', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ minLength: 1, maxLength: 4 }),
        fc.uint8Array({ minLength: 1, maxLength: 4 }),
        fc.integer({ min: 4, max: 12 }),
        fc.nat(399),
        (early, late, ticks, part) => {
          const first = [...early].map(bits).join('');
          const skip = Math.floor((part / 400) * first.length * ticks);
          const found = frames(
            recorded(`${first}${'1'.repeat(12)}${[...late].map(bits).join('')}${'1'.repeat(12)}`, ticks, skip),
            serial({ baud: 1e6 / ticks }),
          );
          const rest = found.slice(-late.length);
          expect(rest.map(({ value, trouble }) => [value, trouble])).toEqual([...late].map((byte) => [byte, null]));
          // Whatever has a value was sent, in that order, and nothing sent twice is missing in between.
          const values = found.flatMap(({ value, trouble }) => (value !== null && trouble === null ? [value] : []));
          const sent = [...early, ...late];
          expect(sent.slice(sent.length - values.length)).toEqual(values);
        },
      ),
    );
  });

  test('a record that begins with the start bit, as one does that is triggered by it, marks that frame', () => {
    const found = frames(recorded(`${bits(0x48)}${'1'.repeat(12)}${bits(0x69)}${'1'.repeat(12)}`, 10, 0), serial());
    expect(found[0]).toMatchObject({
      from: 0,
      text: '?',
      value: null,
      trouble: expect.stringContaining('began before'),
    });
    expect(
      found
        .slice(1)
        .filter(({ trouble }) => trouble === null)
        .map(({ value }) => value),
    ).toEqual([0x69]);
  });

  test('a line of nothing but 0x55 without a rest cannot be told from another reading, and is marked', () => {
    const found = frames(recorded(bits(0x55).repeat(20).slice(3), 10, 0), serial());
    expect(found.every(({ value, trouble }) => value === null && trouble !== null)).toBe(true);
  });
});

describe('SPI', () => {
  const spi = (over: Partial<Extract<Decoder, { kind: 'spi' }>> = {}): Decoder => ({
    kind: 'spi',
    clock: 'top.sck',
    select: 'top.cs',
    out: 'top.mosi',
    in: 'top.miso',
    mode: 0,
    bits: 8,
    lowFirst: false,
    ...over,
  });

  /**
   * Words both ways in one of the four modes, four ticks a bit. (Common practice: which edge moves and which takes the
   * data.)
   */
  function transfer(
    out: readonly number[],
    back: readonly number[],
    mode: number,
    bits: number,
    cutAfter = Number.POSITIVE_INFINITY,
  ) {
    const idle = mode & 2 ? '1' : '0';
    const busy = idle === '1' ? '0' : '1';
    const [sck, cs, mosi, miso]: string[][] = [
      [idle, idle],
      ['1', '1'],
      ['0', '0'],
      ['0', '0'],
    ];
    const put = (clock: string, select: string, o: string, i: string, ticks: number) => {
      for (let k = 0; k < ticks; k++) {
        sck?.push(clock);
        cs?.push(select);
        mosi?.push(o);
        miso?.push(i);
      }
    };
    put(idle, '0', '0', '0', 2);
    let sent = 0;
    for (const [w, word] of out.entries())
      for (let bit = bits - 1; bit >= 0 && sent < cutAfter; bit--, sent++) {
        const [o, i] = [String((word >> bit) & 1), String(((back[w] ?? 0) >> bit) & 1)];
        if (mode & 1) {
          put(busy, '0', o, i, 2);
          put(idle, '0', o, i, 2);
        } else {
          put(idle, '0', o, i, 2);
          put(busy, '0', o, i, 2);
        }
      }
    put(idle, '0', '0', '0', 2);
    put(idle, '1', '0', '0', 3);
    return recordingFrom({ 'top.sck': sck ?? [], 'top.cs': cs ?? [], 'top.mosi': mosi ?? [], 'top.miso': miso ?? [] });
  }

  test('gives both directions in every mode', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 3 }),
        fc.constantFrom(8, 12, 16),
        fc.array(fc.tuple(fc.nat(0xffff), fc.nat(0xffff)), { minLength: 1, maxLength: 5 }),
        (mode, bits, pairs) => {
          const cut = pairs.map(([a, b]) => [a & ((1 << bits) - 1), b & ((1 << bits) - 1)] as const);
          const found = frames(
            transfer(
              cut.map(([a]) => a),
              cut.map(([, b]) => b),
              mode,
              bits,
            ),
            spi({ mode, bits }),
          );
          expect(found.filter(({ way }) => way === 'out').map(({ value }) => value)).toEqual(cut.map(([a]) => a));
          expect(found.filter(({ way }) => way === 'in').map(({ value }) => value)).toEqual(cut.map(([, b]) => b));
          expect(found.every(({ trouble }) => trouble === null)).toBe(true);
        },
      ),
    );
  });

  test('words of a chip that was selected before the record began are marked, the next ones read', () => {
    const all = transfer([0xa5, 0x5a], [0, 0], 0, 8);
    const cut = (name: string, from: number) => ({
      name,
      digits: Array.from({ length: all.length - from }, (_, tick) => digitAtTick(all, name, tick + from)),
    });
    const late = recordingFrom(
      Object.fromEntries(
        ['top.sck', 'top.cs', 'top.mosi', 'top.miso'].map((name) => [
          name,
          [...cut(name, 10).digits, ...cut(name, 0).digits],
        ]),
      ),
    );
    const found = frames(late, spi({ in: null }));
    expect(found[0]).toMatchObject({ value: null, trouble: expect.stringContaining('began before') });
    expect(found.filter(({ trouble }) => trouble === null).map(({ value }) => value)).toEqual([0xa5, 0x5a]);
  });

  test('a word that is let go in the middle is a bad frame', () => {
    const found = frames(transfer([0xa5, 0x5a], [0, 0], 0, 8, 11), spi({ in: null }));
    expect(found.map(({ trouble }) => trouble)).toEqual([null, 'let go after 3 of 8 bits']);
  });
});

describe('I2C', () => {
  /** Start, bytes with their acknowledge, stop; four ticks a bit. (Common practice.) */
  function talk(
    bytes: readonly (readonly [value: number, acknowledged: boolean])[],
    stopAfterBits = Number.POSITIVE_INFINITY,
  ) {
    const [scl, sda]: [string[], string[]] = [[], []];
    const put = (clock: string, data: string, ticks: number) => {
      for (let i = 0; i < ticks; i++) {
        scl.push(clock);
        sda.push(data);
      }
    };
    put('1', '1', 4);
    put('1', '0', 2);
    let bits = 0;
    for (const [value, acknowledged] of bytes)
      for (const bit of [...value.toString(2).padStart(8, '0'), acknowledged ? '0' : '1']) {
        if (bits++ >= stopAfterBits) continue;
        put('0', scl.length > 0 ? (sda.at(-1) as string) : '0', 1);
        put('0', bit, 2);
        put('1', bit, 2);
      }
    put('0', sda.at(-1) as string, 1);
    put('0', '0', 2);
    put('1', '0', 2);
    put('1', '1', 4);
    return recordingFrom({ 'top.scl': scl, 'top.sda': sda });
  }
  const i2c: Decoder = { kind: 'i2c', clock: 'top.scl', data: 'top.sda' };

  test('start, address, data, acknowledges, stop', () => {
    const found = frames(
      talk([
        [0xa0, true],
        [0x12, true],
        [0x34, false],
      ]),
      i2c,
    );
    expect(found.map(({ text }) => text)).toEqual(['start', '50 write', '12', '34 4 last', 'stop']);
    expect(found.every(({ trouble }) => trouble === null)).toBe(true);
  });

  test('a byte that was on its way when the record began is marked, not read', () => {
    const whole = talk([
      [0xa0, true],
      [0x12, true],
    ]);
    const late = recordingFrom(
      Object.fromEntries(
        ['top.scl', 'top.sda'].map((name) => [
          name,
          Array.from({ length: whole.length - 20 }, (_, tick) => digitAtTick(whole, name, tick + 20)),
        ]),
      ),
    );
    expect(frames(late, i2c)[0]).toMatchObject({
      from: 0,
      text: '?',
      value: null,
      trouble: expect.stringContaining('began before'),
    });
  });

  test('an address nobody takes and a byte broken off are bad frames', () => {
    expect(frames(talk([[0x91, false]]), i2c)[1]).toMatchObject({
      text: '48 read refused',
      value: 0x48,
      trouble: 'nobody acknowledged the address',
    });
    expect(
      frames(
        talk(
          [
            [0xa0, true],
            [0xff, true],
          ],
          14,
        ),
        i2c,
      ).map(({ trouble }) => trouble),
    ).toContain('stop after 5 of 8 bits');
  });
});
