import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { CableOp } from '../../core/jtag/index.ts';
import { capturedIn, workOf } from './work.ts';

const ROOM = { body: 395, answer: 388 };

/** A second reading of docs/wire.md, section 4: what a body says, cycle by cycle, as (TMS, TDI, wanted). */
function cyclesOf(body: Uint8Array): string[] {
  const cycles: string[] = [];
  let at = 0;
  const bit = (bytes: Uint8Array, i: number) => ((bytes[i >> 3] ?? 0) >> (i & 7)) & 1;
  while (at < body.length) {
    const first = body[at++] ?? 0;
    if (first < 0x20) {
      const count = first + 1;
      const tms = body.subarray(at, at + Math.ceil(count / 8));
      at += tms.length;
      for (let i = 0; i < count; i++) cycles.push(`${bit(tms, i)}1-`);
    } else if (first < 0x40) {
      const count = (body[at] ?? 0) + 256 * (body[at + 1] ?? 0);
      at += 2;
      const isGiven = (first & 12) === 0;
      const tdi = isGiven ? body.subarray(at, at + Math.ceil(count / 8)) : null;
      at += tdi?.length ?? 0;
      for (let i = 0; i < count; i++)
        cycles.push(
          `${first & 2 && i === count - 1 ? 1 : 0}${tdi ? bit(tdi, i) : first & 8 ? 1 : 0}${first & 1 ? 'w' : '-'}`,
        );
    } else if (first === 0x40) {
      const count = new DataView(body.buffer, body.byteOffset).getUint32(at, true);
      at += 4;
      for (let i = 0; i < count; i++) cycles.push('01-');
    } else if (first === 0x60) at += 4;
    else at += 1;
  }
  return cycles;
}

const packed = (bits: readonly number[]): Uint8Array => {
  const bytes = new Uint8Array(Math.ceil(bits.length / 8));
  bits.forEach((bit, i) => {
    bytes[i >> 3] = (bytes[i >> 3] ?? 0) | (bit << (i & 7));
  });
  return bytes;
};
const bits = (most: number) =>
  fc.oneof(
    fc.array(fc.nat(1), { minLength: 1, maxLength: most }),
    fc.nat(most - 1).map((n) => new Array<number>(n + 1).fill(0)),
    fc.nat(most - 1).map((n) => new Array<number>(n + 1).fill(1)),
  );
const op: fc.Arbitrary<CableOp> = fc.oneof(
  bits(70).map((tms): CableOp => ({ kind: 'tms', count: tms.length, tms: packed(tms) })),
  fc
    .tuple(bits(9000), fc.boolean(), fc.boolean())
    .map(([tdi, capture, exit]): CableOp => ({ kind: 'shift', count: tdi.length, tdi: packed(tdi), capture, exit })),
  fc.nat(3000).map((count): CableOp => ({ kind: 'clock', count })),
  fc.nat(500).map((microseconds): CableOp => ({ kind: 'wait', microseconds })),
);

const meant = (ops: readonly CableOp[]): string[] =>
  ops.flatMap((one) => {
    const bit = (bytes: Uint8Array, i: number) => ((bytes[i >> 3] ?? 0) >> (i & 7)) & 1;
    if (one.kind === 'tms') return Array.from({ length: one.count }, (_, i) => `${bit(one.tms, i)}1-`);
    if (one.kind === 'clock') return new Array<string>(one.count).fill('01-');
    if (one.kind !== 'shift') return [];
    const last = one.count - 1;
    return Array.from(
      { length: one.count },
      (_, i) => `${one.exit && i === last ? 1 : 0}${bit(one.tdi, i)}${one.capture ? 'w' : '-'}`,
    );
  });

describe('work', () => {
  test('says every cycle that was asked for, in order, in frames that have room for it', () => {
    fc.assert(
      fc.property(fc.array(op, { maxLength: 8 }), (ops) => {
        const { bodies } = workOf(ops, ROOM);
        for (const { bytes, answer } of bodies) {
          expect(bytes.length).toBeLessThanOrEqual(ROOM.body);
          expect(answer).toBeLessThanOrEqual(ROOM.answer);
        }
        expect(bodies.flatMap(({ bytes }) => cyclesOf(bytes))).toEqual(meant(ops));
      }),
      { numRuns: 60 },
    );
  });

  test('captured bits come back by shift, over however many frames they came', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 9000 }), { minLength: 1, maxLength: 5 }), (counts) => {
        const ops = counts.map((count): CableOp => {
          const tdi = new Uint8Array((count + 7) >> 3).map((_, i) => i * 41 + count);
          return { kind: 'shift', count, tdi, capture: true, exit: false };
        });
        const { bodies, captures } = workOf(ops, ROOM);
        // An echo: what is shifted in comes out.
        const echo = counts.flatMap((count) => [...new Uint8Array((count + 7) >> 3).map((_, i) => i * 41 + count)]);
        let at = 0;
        const answers = bodies.map(({ answer }) => {
          at += answer;
          return Uint8Array.from(echo.slice(at - answer, at));
        });
        expect(at).toBe(echo.length);
        expect(capturedIn(answers, captures).flatMap((one) => [...one])).toEqual(echo);
      }),
    );
  });

  test('a walk of up to eight states is two bytes, a scan of one level three', () => {
    const { bodies } = workOf(
      [
        { kind: 'tms', count: 5, tms: Uint8Array.of(0x1f) },
        { kind: 'shift', count: 4000, tdi: new Uint8Array(500), capture: false, exit: true },
      ],
      ROOM,
    );
    expect(bodies.map(({ bytes }) => bytes.length)).toEqual([5]);
  });
});
