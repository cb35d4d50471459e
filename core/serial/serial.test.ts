// Frames both ways against a line that is written a second time (tests/support/serial-model.ts), over speeds, parities
// and errors.
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { changesIn, heardBySixteenths, spokenBits } from '../../tests/support/serial-model.ts';
import { frameBits, type SerialFrame, SerialReceiver, SerialSender, settingsText, USUAL_RATES } from './index.ts';
import type { SerialSettings } from './settings.ts';

const shape = fc.record({
  dataBits: fc.constantFrom(5 as const, 6 as const, 7 as const, 8 as const),
  parity: fc.constantFrom('none' as const, 'even' as const, 'odd' as const),
  stopBits: fc.constantFrom(1 as const, 2 as const),
  rate: fc.constantFrom(...USUAL_RATES),
});
const bytes = fc.array(fc.integer({ min: 0, max: 255 }), { minLength: 1, maxLength: 12 });
const EIGHT: SerialSettings = { rate: 9600, dataBits: 8, parity: 'none', stopBits: 1 };

function received(
  changes: readonly { at: number; level: boolean }[],
  settings: SerialSettings,
  bit: number,
): SerialFrame[] {
  const receiver = new SerialReceiver(settings, bit);
  const frames = changes.map(({ at, level }) => receiver.edge(at, level));
  frames.push(receiver.passed((changes.at(-1)?.at ?? 0) + 30 * bit));
  return frames.filter((frame) => frame !== null);
}

describe('asynchronous frames', () => {
  test('a frame is a 0, the data lowest bit first, parity and 1 (worked by hand: "A" is 0x41)', () => {
    expect(frameBits(0x41, EIGHT).join('')).toBe('0100000101');
    expect(frameBits(0x41, { ...EIGHT, parity: 'odd', stopBits: 2 }).join('')).toBe('010000010111');
    expect(frameBits(0x41, { ...EIGHT, dataBits: 7, parity: 'even' }).join('')).toBe('0100000101');
    expect(settingsText({ ...EIGHT, rate: 115_200 })).toBe('115 200 8N1');
  });

  test('what is spoken is heard, whatever the settings, with pauses and without', () => {
    fc.assert(
      fc.property(shape, bytes, fc.integer({ min: 0, max: 30 }), (settings, said, pause) => {
        const bit = 1e6 / settings.rate;
        const frames = received(changesIn(spokenBits(said, settings, pause), bit), settings, bit);
        expect(frames.map(({ value }) => value)).toEqual(said.map((byte) => byte % 2 ** settings.dataBits));
        expect(frames.every(({ trouble }) => trouble === null)).toBe(true);
      }),
    );
  });

  test('what is sent is heard by a circuit of sixteenths, and takes ten bit times a byte', () => {
    fc.assert(
      fc.property(shape, bytes, (settings, said) => {
        const bit = 1e6 / settings.rate;
        const sender = new SerialSender(settings, bit);
        sender.queue(said);
        const changes: { at: number; level: boolean }[] = [];
        for (let due = sender.due(true); due < Number.POSITIVE_INFINITY; due = sender.due(true))
          sender.advance(due, true, (level, at) => changes.push({ level, at }));
        const heard = heardBySixteenths(changes, bit, settings);
        expect(heard).toEqual(said.map((byte) => byte % 2 ** settings.dataBits));
        const frame = frameBits(0, settings).length;
        expect((changes.at(-1)?.at ?? 0) <= frame * said.length * bit).toBe(true);
      }),
      { numRuns: 60 },
    );
  });

  test('an error in speed of 5 % is borne by eight bits without parity, 6 % is not (common practice: about 5 %)', () => {
    const heardAt = (error: number) =>
      received(changesIn(spokenBits([0x00, 0xff, 0x55, 0x80], EIGHT, 3), 1 + error), EIGHT, 1);
    for (const error of [-0.048, -0.03, 0.03, 0.05])
      expect(heardAt(error).map(({ value, trouble }) => [value, trouble])).toEqual(
        [0x00, 0xff, 0x55, 0x80].map((value) => [value, null]),
      );
    for (const error of [-0.065, 0.065])
      expect(heardAt(error).some(({ value, trouble }, i) => trouble !== null || value !== [0, 255, 85, 128][i])).toBe(
        true,
      );
  });

  test('a wrong parity bit, a missing stop bit and a break are told apart, and the next frame is whole', () => {
    const settings: SerialSettings = { ...EIGHT, parity: 'even' };
    const good = spokenBits([0x41], settings);
    const flipped = `${good.slice(0, 9)}${good[9] === '0' ? '1' : '0'}${good.slice(10)}`;
    const open = `${good.slice(0, 10)}0`;
    const line = `11${flipped}111${open}111${'0'.repeat(14)}111${good}`;
    const frames = received(changesIn(line, 1), settings, 1);
    expect(frames.map(({ value, trouble }) => [value, trouble])).toEqual([
      [0x41, 'parity'],
      [0x41, 'framing'],
      [0, 'break'],
      [0x41, null],
    ]);
  });

  test('a start bit that is over before its middle is a disturbance', () => {
    const receiver = new SerialReceiver(EIGHT, 1);
    expect([receiver.edge(0, false), receiver.edge(0.3, true), receiver.passed(20)]).toEqual([null, null, null]);
    expect(receiver.due).toBe(Number.POSITIVE_INFINITY);
  });

  test('a sender that may not begin ends its frame and waits; what is dropped is not sent; a break is held', () => {
    const sender = new SerialSender(EIGHT, 1);
    const changes: [number, boolean][] = [];
    const to = (now: number, may: boolean) => sender.advance(now, may, (level, at) => changes.push([at, level]));
    sender.queue([0xff, 0xff, 0xff]);
    to(0, true);
    to(5, false);
    expect([sender.queued, sender.due(false)]).toEqual([2, Number.POSITIVE_INFINITY]);
    to(50, true);
    sender.drop();
    to(100, true);
    expect(changes).toEqual([
      [0, false],
      [1, true],
      [50, false],
      [51, true],
    ]);
    sender.holdLow(25);
    to(200, false);
    to(300, false);
    expect(changes.slice(4)).toEqual([
      [200, false],
      [225, true],
    ]);
  });
});
