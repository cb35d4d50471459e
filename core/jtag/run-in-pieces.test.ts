import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { getBit, setBit } from '../bits/index.ts';
import type { CableOp } from './cable.ts';
import { runInPieces } from './run-in-pieces.ts';

const bits = (count: number, seed: number) => {
  const packed = new Uint8Array((count + 7) >> 3);
  for (let i = 0; i < count; i++) setBit(packed, i, ((i * 7 + seed) % 5 < 2 ? 1 : 0) as 0 | 1);
  return packed;
};

const op = fc.oneof(
  fc
    .record({ count: fc.nat(40), seed: fc.nat(9) })
    .map(({ count, seed }): CableOp => ({ kind: 'tms', count, tms: bits(count, seed) })),
  fc
    .record({ count: fc.integer({ min: 1, max: 6000 }), seed: fc.nat(9), capture: fc.boolean(), exit: fc.boolean() })
    .map(
      ({ count, seed, capture, exit }): CableOp => ({ kind: 'shift', count, tdi: bits(count, seed), capture, exit }),
    ),
  fc.nat(5000).map((count): CableOp => ({ kind: 'clock', count })),
  fc.nat(3_000_000).map((microseconds): CableOp => ({ kind: 'wait', microseconds })),
  fc.boolean().map((asserted): CableOp => ({ kind: 'trst', asserted })),
);

/** What the wires of a cable saw, cycle by cycle, with rests summed up; TDO is a function of the cycle's number. */
function wires() {
  const seen: string[] = [];
  let cycle = 0;
  let longest = 0;
  const tdo = () => ((cycle * 13 + 5) % 7 < 3 ? 1 : 0) as 0 | 1;
  const run = async (ops: readonly CableOp[]): Promise<readonly Uint8Array[]> => {
    const answers: Uint8Array[] = [];
    let cycles = 0;
    for (const one of ops) {
      if (one.kind === 'trst') seen.push(`trst ${one.asserted}`);
      else if (one.kind === 'wait') {
        const before = seen.at(-1)?.startsWith('wait ') ? Number(seen.pop()?.slice(5)) : 0;
        seen.push(`wait ${before + one.microseconds}`);
      } else {
        const taken = new Uint8Array((one.count + 7) >> 3);
        for (let i = 0; i < one.count; i++, cycle++, cycles++) {
          const tms = one.kind === 'tms' ? getBit(one.tms, i) : one.kind === 'shift' && one.exit && i === one.count - 1;
          const tdi = one.kind === 'shift' ? getBit(one.tdi, i) : 1;
          seen.push(`${Number(tms)}${tdi}`);
          setBit(taken, i, tdo());
        }
        if (one.kind === 'shift' && one.capture) answers.push(taken);
      }
    }
    longest = Math.max(longest, cycles);
    return answers;
  };
  return { seen, run, longest: () => longest };
}

describe('a batch in pieces', () => {
  test('moves the wires as the batch at once does, and gives the same bits', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(op, { maxLength: 12 }), fc.constantFrom(1, 5000, 1e7), async (ops, tckHz) => {
        const [whole, cut] = [wires(), wires()];
        const wanted = await whole.run(ops);
        expect(await runInPieces({ tckHz, run: cut.run }, ops, () => true)).toEqual(wanted);
        expect(cut.seen.filter((one) => one !== 'wait 0')).toEqual(whole.seen.filter((one) => one !== 'wait 0'));
        // Half a second, and what was begun by then.
        expect(cut.longest()).toBeLessThanOrEqual(2 * Math.max(1024, tckHz / 2) + 40);
      }),
      { numRuns: 60 },
    );
  });

  test('ends between two pieces when nobody wants it any more', async () => {
    const { run, seen } = wires();
    let asked = 0;
    const left = await runInPieces({ tckHz: 2048, run }, [{ kind: 'clock', count: 10_000 }], () => ++asked < 3);
    expect([left, seen.length]).toEqual([null, 2048]);
  });
});
