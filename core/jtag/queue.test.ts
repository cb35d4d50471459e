import { describe, expect, test } from 'vitest';
import { constantBits } from '../bits/index.ts';
import { ProblemError, problem } from '../result.ts';
import type { Cable } from './cable.ts';
import { ScanQueue } from './queue.ts';

const LOST = problem('pod-lost', 'The connection is lost.');

/** Answers with zeros after a while, until it is lost. */
function cable(answers: number): Cable {
  let left = answers;
  return {
    tckHz: 1000,
    setFrequency: async (hz: number) => hz,
    state: async () => ({ volts: 3.3, tckHz: 1000 }),
    run: async (ops: Parameters<Cable['run']>[0]) => {
      await new Promise((resolve) => setTimeout(resolve, 2));
      if (left-- <= 0) throw new ProblemError(LOST);
      return ops.flatMap((op) => (op.kind === 'shift' && op.capture ? [new Uint8Array(Math.ceil(op.count / 8))] : []));
    },
  } as unknown as Cable;
}

describe('two flushes of one queue', () => {
  test('end together where the cable is lost, and neither waits for ever', async () => {
    const queue = new ScanQueue(cable(1));
    // At 1 kHz a batch is half a second: these go out in several.
    const reads = Array.from({ length: 8 }, () => queue.drCapture(constantBits(400, 0)));
    const ends = await Promise.allSettled([queue.flush(), queue.flush()]);
    expect(ends.map(({ status }) => status)).toEqual(['rejected', 'rejected']);
    expect((await reads[0])?.length).toBe(400);
  });
  test('what is queued while one is under way is carried out before the second resolves', async () => {
    const queue = new ScanQueue(cable(1000));
    const first = queue.flush();
    const read = queue.drCapture(constantBits(12, 0));
    await Promise.all([first, queue.flush()]);
    expect((await read).length).toBe(12);
  });
  test('after a loss the queue is empty and can be used again', async () => {
    const queue = new ScanQueue(cable(0));
    queue.dr(constantBits(8, 0));
    await expect(queue.flush()).rejects.toThrow(ProblemError);
    await expect(queue.flush()).resolves.toBeUndefined();
  });
});
