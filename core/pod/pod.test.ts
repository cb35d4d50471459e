import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { packedLength } from '../bits/index.ts';
import type { CableOp } from '../jtag/index.ts';
import { ProblemError } from '../result.ts';
import { PodClient } from './index.ts';
import { fromWire, podRequest, toWire } from './protocol.ts';

type PodSocket = ConstructorParameters<typeof PodClient>[0];

const bits = (count: number) => fc.uint8Array({ minLength: packedLength(count), maxLength: packedLength(count) });
const op: fc.Arbitrary<CableOp> = fc.integer({ min: 1, max: 200 }).chain((count) =>
  fc.oneof(
    bits(count).map((tms): CableOp => ({ kind: 'tms', count, tms })),
    fc
      .tuple(bits(count), fc.boolean(), fc.boolean())
      .map(([tdi, capture, exit]): CableOp => ({ kind: 'shift', count, tdi, capture, exit })),
    fc.constant<CableOp>({ kind: 'clock', count }),
    fc.constant<CableOp>({ kind: 'wait', microseconds: count }),
  ),
);

const CABLE = { attached: true, referenceVolts: 3.3, tckHz: 1e6, leastHz: 1000, mostHz: 5e7 };
const shift: CableOp = { kind: 'shift', count: 8, tdi: Uint8Array.of(0), capture: true, exit: true };

/** A socket whose other end is the test. */
function ends() {
  const sent: { id: number; method: string }[] = [];
  let message: (text: string) => void = () => {};
  let close: () => void = () => {};
  const socket: PodSocket = {
    send: (text) => void sent.push(JSON.parse(text) as { id: number; method: string }),
    close: () => close(),
    onMessage: (listener) => {
      message = listener;
    },
    onClose: (listener) => {
      close = listener;
    },
  };
  return {
    client: new PodClient(socket),
    sent,
    say: (value: unknown) => message(JSON.stringify(value)),
    hangUp: () => close(),
  };
}

describe('on the wire', () => {
  test('cable operations come out as they went in', () => {
    fc.assert(
      fc.property(op, (original) => {
        expect(fromWire(JSON.parse(JSON.stringify(toWire(original))))).toEqual(original);
      }),
    );
  });

  test('a scan with fewer bits than it counts is noticed', () => {
    expect(fromWire({ kind: 'shift', count: 9, tdi: 'AA==', capture: false, exit: false })).toBeNull();
    expect(fromWire({ kind: 'tms', count: 17, tms: 'AAA=' })).toBeNull();
  });

  test('what is no request is refused', () => {
    for (const wrong of [
      null,
      {},
      { id: 1, method: 'dance' },
      { id: 1, method: 'power' },
      { id: 1, method: 'run', ops: [{ kind: 'clock', count: -1 }] },
      { id: 1, method: 'run', ops: [{ kind: 'wait', microseconds: 1e12 }] },
    ])
      expect(podRequest.safeParse(wrong).success).toBe(false);
  });
});

describe('the client', () => {
  test('matches answers to questions, whatever their order', async () => {
    const { client, sent, say } = ends();
    const [volts, run] = [client.state(), client.run([shift])];
    expect(sent.map((s) => s.method)).toEqual(['state', 'run']);
    say({ id: sent[1]?.id, ok: true, result: ['gA=='] });
    say({ id: sent[0]?.id, ok: true, result: CABLE });
    expect([await volts, await run]).toEqual([CABLE, [Uint8Array.of(0x80)]]);
  });

  test('a refusal is a problem', async () => {
    const { client, sent, say } = ends();
    const lease = client.lease();
    say({ id: sent[0]?.id, ok: false, problem: { code: 'pod-busy', message: 'In use.', tryNext: [] } });
    await expect(lease).rejects.toMatchObject({ problem: { code: 'pod-busy' } });
  });

  test('everything that waits hears of a lost pod, and so does who asks later', async () => {
    const { client, hangUp } = ends();
    const waiting = client.run([]);
    let told = 0;
    client.onLost(() => void told++);
    hangUp();
    await expect(waiting).rejects.toBeInstanceOf(ProblemError);
    await expect(client.state()).rejects.toMatchObject({ problem: { code: 'pod-lost' } });
    client.onLost(() => void told++);
    expect(told).toBe(2);
    await client.release();
  });

  test('pictures of the board go to who watches', async () => {
    const { client, sent, say } = ends();
    const seen: unknown[] = [];
    const watching = client.watch((status) => void seen.push(status));
    say({ id: sent[0]?.id, ok: true, result: null });
    await watching;
    const status = { cable: CABLE, lease: null, asked: null, line: null, speed: null, view: null, faults: [] };
    say({ event: 'status', status });
    expect(seen).toEqual([status]);
  });
});
