import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { FrameReader, framed } from './frames.ts';

test('the check behind a frame is CRC-16/IBM-3740', () => {
  // Catalogue of parametrised CRC algorithms: of "123456789" it is 29B1; value from memory.
  const digits = new TextEncoder().encode('123456789');
  expect([...framed(digits)]).toEqual([12, ...digits, 0x29, 0xb1, 0]);
});

describe('a frame', () => {
  const zeros = fc.uint8Array({ minLength: 1, maxLength: 700, max: 3 });
  const any = fc.oneof(
    fc.uint8Array({ minLength: 1, maxLength: 700 }),
    zeros,
    fc.constant(new Uint8Array(600).fill(7)),
  );

  test('has no zero but the one at its end, and is longer by a byte in 254 at most', () => {
    // Cheshire and Baker, 1999: at most one byte in 254 added.
    fc.assert(
      fc.property(any, (bytes) => {
        const wire = framed(bytes);
        expect(wire.indexOf(0)).toBe(wire.length - 1);
        expect(wire.length).toBeLessThanOrEqual(bytes.length + 2 + Math.ceil((bytes.length + 2) / 254) + 1);
      }),
    );
  });

  test('comes out as it went in, whatever pieces it comes in', () => {
    fc.assert(
      fc.property(fc.array(any, { minLength: 1, maxLength: 4 }), fc.array(fc.nat(300)), (frames, cuts) => {
        const wire = Uint8Array.from(frames.flatMap((frame) => [...framed(frame)]));
        const reader = new FrameReader();
        const places = [...new Set([0, ...cuts.map((cut) => cut % wire.length), wire.length])].sort((a, b) => a - b);
        const found = places.slice(1).flatMap((to, i) => reader.take(wire.subarray(places[i], to)));
        expect(found.map((frame) => [...frame])).toEqual(frames.map((frame) => [...frame]));
        expect(reader.damaged).toBe(0);
      }),
    );
  });

  test('is the one of docs/wire.md, section 2', () => {
    // Its stuffing is the example of Cheshire and Baker, 1999, with the check behind.
    expect([...framed(Uint8Array.of(0x11, 0x22, 0, 0x33))]).toEqual([3, 0x11, 0x22, 4, 0x33, 0x07, 0x45, 0]);
  });

  test('with a bit flipped is none, and the next one is found', () => {
    fc.assert(
      fc.property(any, any, fc.nat(), fc.nat(7), (one, two, place, bit) => {
        const wire = framed(one);
        const at = place % (wire.length - 1);
        wire[at] = (wire[at] ?? 0) ^ (1 << bit);
        const found = new FrameReader().take(Uint8Array.from([...wire, 0, ...framed(two)]));
        expect(found.map((frame) => [...frame])).toEqual([[...two]]);
      }),
    );
  });

  test('that never ends is not kept', () => {
    const reader = new FrameReader();
    for (let i = 0; i < 100; i++) expect(reader.take(new Uint8Array(1000).fill(9))).toEqual([]);
    expect(reader.take(Uint8Array.of(0))).toEqual([]);
    expect(reader.damaged).toBe(1);
    expect(reader.take(framed(Uint8Array.of(1, 2))).map((frame) => [...frame])).toEqual([[1, 2]]);
  });
});
