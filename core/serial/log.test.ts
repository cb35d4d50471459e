import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { bytesOfHex, hexOf, LineLog, MOST_LINES, readable, TextWatch } from './index.ts';

const bytesOf = (text: string) => [...text].map((char) => char.charCodeAt(0));
const heard = (text: string, at = 0) => bytesOf(text).map((value, i) => ({ at: at + i, value, trouble: null }));
const textsOf = (log: LineLog) => log.linesFrom(1, 1e6).map(({ bytes }) => readable(bytes, true));

describe('what was said on a line', () => {
  test('a line ends behind LF, behind CR that no LF follows, and where the other side speaks', () => {
    const log = new LineLog();
    log.heard(heard('one\r\ntwo\rthree\n'));
    log.heard(heard('fo'));
    log.said(Uint8Array.from(bytesOf('go\r\n')), 50);
    log.heard(heard('ur'));
    expect(textsOf(log)).toEqual(['one␍␊', 'two␍', 'three␊', 'fo', 'go␍␊', 'ur']);
    expect(log.linesFrom(1, 9).map(({ way, number }) => `${number}${way}`)).toEqual([
      ...['1in', '2in', '3in', '4in', '5out', '6in'],
    ]);
    expect([log.received, log.sent, log.first, log.last]).toEqual([19, 4, 1, 6]);
  });

  test('bytes in any pieces make the same lines', () => {
    const said = fc.array(fc.constantFrom(10, 13, 65, 66, 200), { maxLength: 60 });
    fc.assert(
      fc.property(said, fc.array(fc.integer({ min: 1, max: 9 }), { maxLength: 30 }), (values, cuts) => {
        const all = values.map((value) => ({ at: 0, value, trouble: null }));
        const [whole, pieces] = [new LineLog(), new LineLog()];
        whole.heard(all);
        let at = 0;
        for (const cut of [...cuts, all.length]) {
          pieces.heard(all.slice(at, at + cut));
          at += cut;
        }
        expect(textsOf(pieces)).toEqual(textsOf(whole));
        expect(pieces.linesFrom(1, 1e6).flatMap(({ bytes }) => [...bytes])).toEqual(values);
      }),
    );
  });

  test('a hundred thousand lines are kept, the oldest make room, and numbers go on', () => {
    const log = new LineLog();
    for (let i = 0; i < MOST_LINES + 5000; i++) log.heard(heard('x\n'));
    expect(log.last).toBe(MOST_LINES + 5000);
    expect(log.last - log.first + 1).toBeGreaterThanOrEqual(MOST_LINES);
    expect(log.last - log.first + 1).toBeLessThanOrEqual(MOST_LINES + 1000);
    expect(log.linesFrom(1, 1)[0]?.number).toBe(log.first);
  });

  test('what never ends its line is divided, and what is wrong stands at its byte', () => {
    const log = new LineLog();
    log.heard(heard('y'.repeat(600)));
    expect(log.linesFrom(1, 9).map(({ bytes }) => bytes.length)).toEqual([256, 256, 88]);
    log.clear();
    log.heard([...heard('a'), { at: 1, value: 0, trouble: 'framing' }, { at: 2, value: 1, trouble: 'parity' }]);
    expect(log.linesFrom(1, 9)[0]?.troubles).toEqual([
      { index: 1, trouble: 'framing' },
      { index: 2, trouble: 'parity' },
    ]);
    expect(log.wrong).toBe(2);
  });

  test('bytes read as UTF-8 where they are that, and characters that print nothing have their pictures', () => {
    expect(readable(new TextEncoder().encode('µ = 3 Ω\t\u0007'), true)).toBe('µ = 3 Ω␉␇');
    expect(readable(Uint8Array.of(0xe9, 0x41, 0x7f), true)).toBe('éA␡');
    expect(readable(Uint8Array.of(0x1b, 0x41, 0x0d), false)).toBe('A');
  });

  test('hexadecimal digits go both ways, and what is none is refused', () => {
    fc.assert(
      fc.property(fc.uint8Array(), (bytes) => {
        expect(bytesOfHex(hexOf(bytes))).toEqual(bytes);
      }),
    );
    expect(bytesOfHex('0x41,0x0A 7')).toEqual(Uint8Array.of(0x41, 0x0a, 7));
    expect([bytesOfHex('4G'), bytesOfHex('414')]).toEqual([null, null]);
    expect(bytesOfHex('')).toEqual(new Uint8Array());
  });

  test('a text is found in whatever pieces it comes', () => {
    fc.assert(
      fc.property(fc.array(fc.nat({ max: 4 }), { minLength: 1 }), (cuts) => {
        const watch = new TextWatch('ready');
        const bytes = Uint8Array.from(bytesOf('xxreareadyzz'));
        let [at, found] = [0, false];
        for (const cut of [...cuts, 12]) {
          found = watch.feed(bytes.subarray(at, at + cut)) || found;
          at += cut;
        }
        expect(found).toBe(true);
      }),
    );
    expect(new TextWatch('ready').feed(Uint8Array.from(bytesOf('read')))).toBe(false);
  });
});
