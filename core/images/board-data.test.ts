import referenceCrc from 'crc-32';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { boardData, boardRows, type DataField, dataBytes } from './index.ts';

const fields: DataField[] = [
  { name: 'serial', type: 'text', length: 8 },
  { name: 'offset', type: 'i16' },
  { name: 'gain', type: 'f32', value: '1' },
  { name: 'key', type: 'hex', length: 3, value: '00 00 00' },
];

describe('a block of values', () => {
  test('fields in order, zeros behind a text, then the CRC-32 of all of them', () => {
    const built = boardData(fields, 'little', { serial: 'LH-0042', offset: '-2', gain: '1.5', key: '0A:0b-0C' });
    if (!built.ok) throw new Error(built.error.message);
    const data = [...new TextEncoder().encode('LH-0042'), 0, 0xfe, 0xff, 0x00, 0x00, 0xc0, 0x3f, 0x0a, 0x0b, 0x0c];
    expect([...built.value.subarray(0, -4)]).toEqual(data);
    expect(new DataView(built.value.buffer).getUint32(data.length, true)).toBe(referenceCrc.buf(data) >>> 0);
    expect(built.value).toHaveLength(dataBytes(fields));
  });
  test('big-endian numbers and CRC', () => {
    const built = boardData([{ name: 'n', type: 'u32' }], 'big', { n: '0x01020304' });
    expect(built.ok && [...built.value.subarray(0, 4)]).toEqual([1, 2, 3, 4]);
    expect(built.ok && new DataView(built.value.buffer).getUint32(4)).toBe(referenceCrc.buf([1, 2, 3, 4]) >>> 0);
  });
  test('whole numbers come back through a DataView', () => {
    const kinds = [
      ['u8', 0, 255, 'getUint8'],
      ['u16', 0, 65535, 'getUint16'],
      ['u32', 0, 2 ** 32 - 1, 'getUint32'],
      ['i16', -32768, 32767, 'getInt16'],
      ['i32', -(2 ** 31), 2 ** 31 - 1, 'getInt32'],
    ] as const;
    for (const [type, min, max, get] of kinds)
      fc.assert(
        fc.property(fc.integer({ min, max }), fc.boolean(), (n, little) => {
          const built = boardData([{ name: 'n', type }], little ? 'little' : 'big', { n: String(n) });
          expect(built.ok && new DataView(built.value.buffer)[get](0, little)).toBe(n);
          for (const outside of [min - 1, max + 1])
            expect(boardData([{ name: 'n', type }], 'little', { n: String(outside) }).ok).toBe(false);
        }),
        { numRuns: 30 },
      );
  });
  test.each([
    [{}, /"serial" has no value/],
    [{ serial: '123456789', offset: '0' }, /takes 8 bytes/],
    [{ serial: 'a', offset: '1.5' }, /whole number from -32768/],
    [{ serial: 'a', offset: '0', key: '0g' }, /6 hexadecimal digits/],
    [{ serial: 'a', offset: '0', gain: 'much' }, /takes a number/],
  ])('what is wrong names its field', (values, message) => {
    const built = boardData(fields, 'little', values as Record<string, string>);
    expect(!built.ok && built.error.message).toMatch(message);
  });
});

describe('a table of boards', () => {
  test('comma, semicolon or tab; quotes; a field with a value of its own may lack its column', () => {
    for (const sign of [',', ';', '\t']) {
      const rows = boardRows(fields, `serial${sign}offset\r\nLH-1${sign}3\r\n"LH-2"${sign}-4\r\n\r\n`);
      expect(rows.ok && rows.value).toEqual([
        { serial: 'LH-1', offset: '3' },
        { serial: 'LH-2', offset: '-4' },
      ]);
    }
  });
  test.each([
    ['offset\n3\n', 1, /no column "serial"/],
    ['serial,offset,colour\na,1,red\n', 1, /"colour" is no field/],
    ['serial,offset\na,1\nb,x\n', 3, /whole number/],
    ['serial,offset\n', 2, /no line with values/],
    ['serial,offset\na\n', 2, /Too few/],
  ])('what is wrong names its line', (text, line, message) => {
    const rows = boardRows(fields, text, 'boards.csv');
    expect(!rows.ok && rows.error).toMatchObject({
      place: { file: 'boards.csv', line },
      message: expect.stringMatching(message) as string,
    });
  });
});
