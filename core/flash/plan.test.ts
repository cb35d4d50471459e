import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { affectedRange, FLASH_PARTS, type FlashPart, joinErases } from './index.ts';
import { planPieces, type WritePlan } from './plan.ts';

const part = FLASH_PARTS[0] as FlashPart;

const planWrite = (address: number, bytes: Uint8Array, current: Uint8Array): WritePlan =>
  planPieces(part, [{ address, bytes }], affectedRange(part, address, bytes.length), current);

/** Carries a plan out on bytes by the rules of the common command set: erase sets bits, program only clears them. */
function carriedOut(current: Uint8Array, start: number, plan: WritePlan): Uint8Array {
  const out = current.slice();
  for (const { address, type } of plan.erases) out.fill(0xff, address - start, address - start + type.bytes);
  for (const { address, data } of plan.pages)
    for (const [i, byte] of data.entries()) out[address - start + i] = (out[address - start + i] as number) & byte;
  return out;
}

describe('a plan for writing', () => {
  test('gives exactly the image and keeps all else, whatever was there', () => {
    const old = fc.oneof(fc.constant(0xff), fc.constant(0), fc.integer({ min: 0, max: 255 }));
    fc.assert(
      fc.property(
        fc.nat(9000),
        fc.uint8Array({ minLength: 1, maxLength: 9000 }),
        old,
        fc.nat(20_000),
        (address, image, fill, same) => {
          const range = affectedRange(part, address, image.length);
          const current = Uint8Array.from({ length: range.length }, (_, i) => (i % 7 === 0 ? fill : 0xff));
          if (same % 2) current.set(image.subarray(0, same % image.length), address - range.start);
          const wanted = current.slice();
          wanted.set(image, address - range.start);
          const plan = planWrite(address, image, current);
          expect(Buffer.from(carriedOut(current, range.start, plan)).equals(Buffer.from(wanted))).toBe(true);
          const again = planWrite(address, image, wanted);
          expect([again.erases.length, again.pages.length]).toEqual([0, 0]);
          for (const { address: sector, action } of plan.sectors)
            if (action === 'keep')
              expect(
                plan.pages.some((page) => page.address >= sector && page.address < sector + plan.sectorBytes),
              ).toBe(false);
        },
      ),
      { numRuns: 60 },
    );
  });
  test('an erased sector is programmed without an erase, one that must set a bit is erased', () => {
    const blank = new Uint8Array(4096).fill(0xff);
    expect(planWrite(0, Uint8Array.of(1, 2), blank)).toMatchObject({
      erases: [],
      pages: [{ address: 0 }],
      sectors: [{ action: 'program', shared: false }],
    });
    expect(planWrite(0, Uint8Array.of(1, 2), new Uint8Array(4096))).toMatchObject({
      erases: [{ address: 0 }],
      sectors: [{ action: 'erase', shared: true }],
    });
  });
  test('many sectors side by side become large erases', () => {
    const sectors = Array.from({ length: 35 }, (_, i) => 0xf000 + i * 0x1000);
    expect(joinErases(part, sectors, 0x1000).map(({ address, type }) => [address, type.bytes])).toEqual([
      [0xf000, 0x1000],
      [0x10000, 0x10000],
      [0x20000, 0x10000],
      [0x30000, 0x1000],
      [0x31000, 0x1000],
    ]);
  });
});
