import fc from 'fast-check';
import { expect, test } from 'vitest';
import { describeIdcode, describeManufacturer, idcodeFields } from './index.ts';

// IEEE 1149.1, device identification register: version 31..28, part 27..12, manufacturer 11..1, bit 0 is 1.
test('the fields of an IDCODE put together are the IDCODE', () => {
  fc.assert(
    fc.property(fc.nat(15), fc.nat(0xffff), fc.nat(0x7ff), (version, part, manufacturer) => {
      const idcode = Number((BigInt(version) << 28n) | (BigInt(part) << 12n) | (BigInt(manufacturer) << 1n) | 1n);
      expect(idcodeFields(idcode)).toEqual({ version, part, manufacturer });
      expect(describeIdcode(idcode)).toBe(`0x${idcode.toString(16).toUpperCase().padStart(8, '0')}`);
    }),
  );
});

// JEDEC JEP106: the first bank is written without a continuation code (value from memory).
test('banks are counted from one: no continuation code is bank 1, fifteen are bank 16', () => {
  expect(describeManufacturer(0x01)).toBe('bank 1, 0x01');
  expect(describeManufacturer((1 << 7) | 0x6e)).toBe('bank 2, 0x6E');
  // docs/silicon.md, section 1
  expect(describeManufacturer(0x7fe)).toBe('bank 16, 0x7E');
});
