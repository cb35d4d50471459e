import referenceCrc from 'crc-32';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import {
  base64FromBytes,
  bigIntOf,
  bitAt,
  bitsFromBigInt,
  bytesFromBase64,
  concatBits,
  copyBits,
  crc32,
  getBit,
  hexOf,
  reverseByte,
  sliceBits,
} from './index.ts';

// Catalogue of parametrised CRC algorithms: CRC-32/ISO-HDLC of "123456789" (value from memory).
test('CRC-32 of the check string', () => expect(crc32(new TextEncoder().encode('123456789'))).toBe(0xcbf43926));

test('CRC-32 agrees with an independent package', () => {
  fc.assert(fc.property(fc.uint8Array({ maxLength: 300 }), (bytes) => crc32(bytes) === referenceCrc.buf(bytes) >>> 0));
});

test('bits survive the way through a big integer', () => {
  fc.assert(
    fc.property(
      fc.bigInt({ min: 0n, max: (1n << 200n) - 1n }),
      fc.integer({ min: 1, max: 200 }),
      (value, length) => bigIntOf(bitsFromBigInt(value, length)) === BigInt.asUintN(length, value),
    ),
  );
});

test('copying any stretch to any place moves exactly those bits', () => {
  fc.assert(
    fc.property(
      fc.uint8Array({ minLength: 40, maxLength: 40 }),
      fc.nat(100),
      fc.nat(100),
      fc.nat(200),
      (source, from, to, count) => {
        const target = new Uint8Array(40);
        copyBits(source, from, target, to, count);
        for (let i = 0; i < 320; i++)
          expect(getBit(target, i)).toBe(i >= to && i < to + count ? getBit(source, from + i - to) : 0);
      },
    ),
  );
});

test('joining puts the first part lowest, slicing takes it out again', () => {
  const joined = concatBits(bitsFromBigInt(0b101n, 3), bitsFromBigInt(0xabn, 8));
  expect(bigIntOf(joined)).toBe((0xabn << 3n) | 0b101n);
  expect(hexOf(sliceBits(joined, 3, 8))).toBe('ab');
  expect(bitAt(joined, 99)).toBe(0);
});

test('a byte reversed twice is itself', () => {
  for (let byte = 0; byte < 256; byte++) expect(reverseByte(reverseByte(byte))).toBe(byte);
  expect(reverseByte(0x01)).toBe(0x80);
});

test('base64 agrees with the platform', () => {
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 20000 }), (bytes) => {
      expect(base64FromBytes(bytes)).toBe(Buffer.from(bytes).toString('base64'));
      expect(bytesFromBase64(base64FromBytes(bytes))).toEqual(bytes);
    }),
    { numRuns: 20 },
  );
});
