import { describe, expect, test } from 'vitest';
import { basicTablePlace, readParameters } from './sfdp.ts';

// JEDEC JESD216B, written out by hand word by word (values from memory): a 32 Mbit chip, erases of 4, 32 and 64 KiB by
// 20, 52 and D8, pages of 256 bytes.
const WORDS = [
  0xfff120e5, // 4 KiB erase by 20, three address bytes
  0x01ffffff, // 2^25 bits less one
  0,
  0,
  0,
  0,
  0,
  0x520f200c, // type 1: 2^12 by 20; type 2: 2^15 by 52
  0x0000d810, // type 3: 2^16 by D8; no type 4
  // typical times: type 1 (2+1)*16 ms = 48 ms, type 2 (7+1)*16 ms = 128 ms, type 3 (11+1)*16 ms = 192 ms; at most
  // 2*(3+1) times as long
  3 | ((2 | (1 << 5)) << 4) | ((7 | (1 << 5)) << 11) | ((11 | (1 << 5)) << 18),
  // page 2^8, program (9+1)*64 us, at most 2*(1+1) times; chip erase (3+1)*4 s
  1 | (8 << 4) | (9 << 8) | (1 << 13) | (3 << 24) | (2 << 29),
];

describe('the parameter table of a chip', () => {
  test('density, erases and times', () => {
    expect(readParameters(WORDS, '1.6')).toEqual({
      revision: '1.6',
      bytes: 4 << 20,
      addressBytes: '3',
      erases: [
        { command: 0x20, bytes: 4096, typical: 48_000, worst: 384_000 },
        { command: 0x52, bytes: 32_768, typical: 128_000, worst: 1_024_000 },
        { command: 0xd8, bytes: 65_536, typical: 192_000, worst: 1_536_000 },
      ],
      page: { bytes: 256, typical: 640, worst: 2560 },
      chipErase: 16_000_000,
    });
  });
  test('a density of more than 2 Gbit is a power of two; a table of nine words says no times', () => {
    expect(readParameters([0xfff320e5, 0x80000020, 0, 0, 0, 0, 0, 0x200c, 0], '1.0')).toMatchObject({
      bytes: 2 ** 29,
      addressBytes: '3 or 4',
      page: null,
      chipErase: null,
      erases: [{ bytes: 4096, typical: null }],
    });
  });
  test('is found by its header among others', () => {
    const headers = Uint8Array.of(
      0x53,
      0x46,
      0x44,
      0x50,
      6,
      1,
      1,
      0xff,
      0x03,
      0,
      1,
      2,
      0x90,
      0,
      0,
      0xc2,
      0x00,
      6,
      1,
      16,
      0x30,
      0,
      0,
      0xff,
    );
    expect(basicTablePlace(headers)).toEqual({ ok: true, value: { address: 0x30, words: 16, revision: '1.6' } });
    expect(basicTablePlace(new Uint8Array(24).fill(0xff))).toMatchObject({ ok: false, error: { code: 'no-sfdp' } });
  });
});
