import { chainOn } from '../tests/support/chain-on.ts';
import { scanChain } from '../core/board/scan.ts';
import { createHash } from 'node:crypto';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { WebSocket } from 'ws';
import { builtDemo } from '../tests/support/demo.ts';
import { lockhouse } from '../tests/support/lockhouse.ts';
import { PodClient } from '../core/pod/index.ts';
import { ProblemError } from '../core/result.ts';
import { benchTarget } from '../bench/index.ts';
import { servePod } from './index.ts';

let pod: Awaited<ReturnType<typeof servePod>>;
let kept = 0;

beforeEach(async () => {
  kept = 0;
  const target = benchTarget(lockhouse().bench, () => void kept++);
  const served = await servePod(target, { host: '127.0.0.1', port: 0, token: 'right' });
  pod = { ...served, close: () => served.close().then(() => target.stop()) };
});
afterEach(() => pod.close());

function raw(headers: Record<string, string> = {}): Promise<WebSocket> {
  return new Promise((resolve, reject) => {
    const socket = new WebSocket(`ws://127.0.0.1:${pod.port}`, { headers });
    socket.once('open', () => resolve(socket));
    socket.once('error', reject);
  });
}

async function client(token = 'right', name = 'test'): Promise<PodClient> {
  const socket = await raw();
  const made = new PodClient({
    send: (text) => socket.send(text),
    close: () => socket.close(),
    onMessage: (l) => socket.on('message', (data) => l(String(data))),
    onClose: (l) => socket.on('close', l),
  });
  await made.hello(token, name);
  return made;
}

const codeOf = async (work: Promise<unknown>) => {
  try {
    await work;
    return 'fine';
  } catch (error) {
    return error instanceof ProblemError ? error.problem.code : 'other';
  }
};

describe('the pod', () => {
  test('answers a scan like a cable in the same process', async () => {
    const cable = await client();
    await cable.lease();
    const scan = await scanChain(chainOn(cable));
    expect(scan.devices.map((d) => d.part)).toEqual(['CV10', 'CV25', 'SP64']);
    await cable.release();
    expect(kept).toBe(1);
    cable.close();
  });

  test('refuses a wrong token, and everything before hello', async () => {
    expect(await codeOf(client('wrong'))).toBe('pod-token');
    const socket = await raw();
    const reply = new Promise<string>((resolve) => socket.once('message', (data) => resolve(String(data))));
    socket.send(JSON.stringify({ id: 1, method: 'power', on: false }));
    expect(JSON.parse(await reply)).toMatchObject({ ok: false, problem: { code: 'pod-token' } });
    socket.close();
  });

  test('a browser page cannot reach it: its Origin is refused', async () => {
    await expect(raw({ origin: 'http://elsewhere.example' })).rejects.toThrow();
  });

  test('one user at a time; the second hears who it is; a lost user frees it', async () => {
    const [first, second] = [await client('right', 'Ada'), await client('right', 'Ben')];
    await first.lease();
    await expect(second.lease()).rejects.toThrow(/in use by Ada/);
    expect(await codeOf(second.run([{ kind: 'clock', count: 1 }]))).toBe('pod-lease');
    first.close();
    await expect.poll(() => codeOf(second.lease()), { timeout: 5000 }).toBe('fine');
    second.close();
  });

  test('who waits can ask, and everybody sees it', async () => {
    const [first, second] = [await client('right', 'Ada'), await client('right', 'Ben')];
    await first.lease();
    await second.askForLease();
    const seen: (string | null)[] = [];
    await first.watch(({ asked }) => void seen.push(asked));
    await expect.poll(() => seen.at(-1), { timeout: 5000 }).toBe('Ben');
    await first.release();
    await second.lease();
    await expect.poll(() => seen.at(-1), { timeout: 5000 }).toBeNull();
    first.close();
    second.close();
  });

  test('a staged file is checked, loaded by the pod itself while the network is gone, and its log fetched after', async () => {
    const { bitstream } = builtDemo();
    const digest = createHash('sha256').update(bitstream).digest('hex');
    const first = await client();
    expect(
      await codeOf(
        first.stage(
          { name: 'bad.nbits', size: bitstream.length, sha256: '0'.repeat(64), bytes: [bitstream] },
          () => {},
        ),
      ),
    ).toBe('stage-digest');
    let sent = 0;
    const file = await first.stage(
      { name: 'lock.nbits', size: bitstream.length, sha256: digest, bytes: [bitstream] },
      (bytes) => {
        sent = bytes;
      },
    );
    expect(sent).toBe(bitstream.length);
    await first.execute(file, 'load', null);
    first.close();
    const second = await client();
    await expect
      .poll(async () => (await second.staged()).find(({ id }) => id === file)?.state, { timeout: 20_000 })
      .toBe('done');
    const [held] = await second.staged();
    expect(held).toMatchObject({ name: 'lock.nbits', sha256: digest, problem: null });
    expect(held?.log.join('\n')).toMatch(/SHA-256[\s\S]*Loading[\s\S]*DONE high/);
    expect(await codeOf(second.lease())).toBe('fine');
    await second.dropStaged(file);
    expect(await second.staged()).toEqual([]);
    second.close();
  });

  test('a file that is cancelled on its way leaves nothing at the pod; one that runs is stopped there', async () => {
    const { bitstream } = builtDemo();
    const digest = createHash('sha256').update(bitstream).digest('hex');
    const one = await client();
    const broken = one.stage({ name: 'half.nbits', size: bitstream.length, sha256: digest, bytes: [bitstream] }, () => {
      throw new Error('cancelled');
    });
    await expect(broken).rejects.toThrow('cancelled');
    expect(await one.staged()).toEqual([]);
    expect(await codeOf(one.stopStaged(99))).toBe('stage-file');
    const long = new TextEncoder().encode('RUNTEST 60 SEC;\n');
    const file = await one.stage(
      { name: 'long.svf', size: long.length, sha256: createHash('sha256').update(long).digest('hex'), bytes: [long] },
      () => {},
    );
    await one.execute(file, 'svf', null);
    expect(await codeOf(one.lease())).toBe('pod-busy');
    await one.stopStaged(file);
    const state = async () => (await one.staged())[0]?.state;
    await expect.poll(state, { timeout: 20_000 }).toBe('failed');
    const [held] = await one.staged();
    expect(held?.problem).toMatchObject({ code: 'cancelled' });
    // The pod has let go of its board.
    expect(await codeOf(one.lease())).toBe('fine');
    await one.dropStaged(file);
    one.close();
  });

  test('faults and TCK are set through it; a broken connection ends in pod-lost and can be made again', async () => {
    const cable = await client();
    await cable.setFault('tdo-stuck-0', true);
    await cable.lease();
    expect((await scanChain(chainOn(cable))).problems[0]?.code).toBe('tdo-low');
    await cable.setFault('tdo-stuck-0', false);
    expect(await codeOf(cable.setFault('rain', true))).toBe('no-fault');
    expect(await cable.setFrequency(7e6)).toBeCloseTo(100e6 / 15, 3);
    expect((await cable.state()).tckHz).toBeCloseTo(100e6 / 15, 3);
    expect(await codeOf(cable.setFault('pod-lost', true))).toBe('pod-lost');
    expect(await codeOf(cable.state())).toBe('pod-lost');
    await expect.poll(() => codeOf(client()), { timeout: 10_000, interval: 500 }).toBe('fine');
  });

  test('requests it cannot understand get an answer, and the next one works', async () => {
    const socket = await raw();
    const next = () =>
      new Promise<{ ok: boolean; problem?: { code: string } }>((resolve) =>
        socket.once('message', (data) => resolve(JSON.parse(String(data)) as { ok: boolean })),
      );
    const ask = (message: unknown) => {
      const reply = next();
      socket.send(JSON.stringify(message));
      return reply;
    };
    expect((await ask({ id: 1, method: 'hello', token: 'right', client: 't', protocol: 99 })).problem?.code).toBe(
      'pod-protocol',
    );
    socket.close();
    const other = await client();
    await other.lease();
    expect(
      await codeOf(other.run([{ kind: 'shift', count: 100, tdi: new Uint8Array(2), capture: true, exit: true }])),
    ).toBe('pod-request');
    expect((await other.state()).referenceVolts).toBeCloseTo(3.3);
    expect(await codeOf(other.operate('B99', true))).toBe('no-control');
    other.close();
  });

  test('a user that loses the pod hears it at once', async () => {
    const cable = await client();
    await cable.lease();
    const lost = new Promise<void>((resolve) => cable.onLost(() => resolve()));
    const waiting = codeOf(cable.run([{ kind: 'wait', microseconds: 3_000_000 }]));
    await new Promise((resolve) => setTimeout(resolve, 100));
    await pod.close();
    await lost;
    expect(await waiting).toBe('pod-lost');
    expect(await codeOf(cable.state())).toBe('pod-lost');
  });
});
