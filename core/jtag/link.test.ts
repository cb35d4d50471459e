import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { bigIntOf } from '../bits/index.ts';
import type { Cable, CableOp } from './cable.ts';
import { ChainLink } from './link.ts';
import { ScanQueue } from './queue.ts';

/** A cable that keeps the bits of every shift, first bit lowest. */
function recording() {
  const shifts: bigint[] = [];
  let pending: { bits: bigint; length: number } = { bits: 0n, length: 0 };
  const take = (op: CableOp) => {
    if (op.kind !== 'shift') return;
    pending = {
      bits:
        pending.bits |
        ((bigIntOf({ length: op.count, bytes: op.tdi }) & ((1n << BigInt(op.count)) - 1n)) << BigInt(pending.length)),
      length: pending.length + op.count,
    };
    if (!op.exit) return;
    shifts.push(pending.bits);
    pending = { bits: 0n, length: 0 };
  };
  const cable: Cable = {
    run: async (ops) => {
      for (const op of ops) take(op);
      return ops.flatMap((op) => (op.kind === 'shift' && op.capture ? [new Uint8Array((op.count + 7) >> 3)] : []));
    },
    state: async () => ({ attached: true, referenceVolts: 3.3, tckHz: 1e6, leastHz: 1e3, mostHz: 1e7 }),
    setFrequency: async (hz) => hz,
    tckHz: 1e6,
  };
  return { cable, shifts };
}

describe('one device of a chain', () => {
  test('gets its opcode in an instruction register of any length, the others all ones (IEEE 1149.1: BYPASS; value from memory)', async () => {
    const chain = fc.array(fc.integer({ min: 2, max: 48 }), { minLength: 1, maxLength: 6 });
    await fc.assert(
      fc.asyncProperty(chain, fc.nat(5), fc.bigInt({ min: 0n, max: (1n << 48n) - 1n }), async (lengths, pick, any) => {
        const index = pick % lengths.length;
        const opcode = BigInt.asUintN(lengths[index] as number, any);
        const { cable, shifts } = recording();
        const queue = new ScanQueue(cable);
        new ChainLink(queue, lengths, index).select(
          opcode <= BigInt(Number.MAX_SAFE_INTEGER) ? Number(opcode) : opcode,
        );
        await queue.flush();
        const [sent = -1n] = shifts;
        let at = 0n;
        for (const [i, length] of lengths.entries()) {
          const field = BigInt.asUintN(length, sent >> at);
          expect(field).toBe(i === index ? opcode : (1n << BigInt(length)) - 1n);
          at += BigInt(length);
        }
      }),
    );
  });

  test('0xff0f0f in 24 bits goes out whole', async () => {
    const { cable, shifts } = recording();
    const queue = new ScanQueue(cable);
    new ChainLink(queue, [24], 0).select(0xff0f0f);
    await queue.flush();
    expect(shifts).toEqual([0xff0f0fn]);
  });
});
