import { describe, expect, test, vi } from 'vitest';
import type { Cable, CableOp } from '../jtag/index.ts';
import { ProblemError } from '../result.ts';
import { PodClient } from './client.ts';
import { PodServer } from './server.ts';
import type { PodTarget } from './target.ts';

const STATE = { attached: true, referenceVolts: 3.3, tckHz: 1e6, leastHz: 1000, mostHz: 1e7 };

/** A cable and nothing else, as most real pods are; `run` may be held up or fail. */
function bareTarget(run: Cable['run'] = async (ops) => ops.flatMap(answer)): PodTarget {
  return { name: 'bare', cable: { tckHz: 1e6, state: async () => STATE, setFrequency: async (hz) => hz, run } };
}
const answer = (op: CableOp) => (op.kind === 'shift' && op.capture ? [new Uint8Array((op.count + 7) >> 3)] : []);

/** A pod and clients at it, joined without a network; what the pod sends can be disturbed on its way. */
function pod(target: PodTarget, disturb: (text: string) => string = (text) => text) {
  const server = new PodServer(target, {
    isToken: (text) => text === 'right',
    startedAs: 'this start',
    carryOut: async () => null,
  });
  const connect = () => {
    const at = {
      pod: (_: string) => {},
      client: (_: string) => {},
      gone: [] as (() => void)[],
      pending: 0,
      open: true,
    };
    const end = () => {
      if (!at.open) return;
      at.open = false;
      for (const tell of at.gone) tell();
    };
    server.connect({
      send: (text) => at.open && queueMicrotask(() => at.client(disturb(text))),
      close: end,
      terminate: end,
      pending: () => at.pending,
      onMessage: (listener) => {
        at.pod = listener;
      },
      onClose: (listener) => void at.gone.push(listener),
    });
    const client = new PodClient({
      send: (text) => at.open && queueMicrotask(() => at.pod(text)),
      close: end,
      onMessage: (listener) => {
        at.client = listener;
      },
      onClose: (listener) => void at.gone.push(listener),
    });
    return { client, raw: (text: string) => at.pod(text), at };
  };
  return { server, connect };
}

const codeOf = (work: Promise<unknown>) =>
  work.then(
    () => 'fine',
    (error: unknown) => (error instanceof ProblemError ? error.problem.code : String(error)),
  );

describe('a pod with a cable and nothing else', () => {
  test('says so in its hello, and refuses what it has not, in words that name a way', async () => {
    const { client } = pod(bareTarget()).connect();
    const { pod: name, capabilities } = await client.hello('right', 'Ada');
    expect([name, Object.values(capabilities)]).toEqual(['bare', new Array(8).fill(false)]);
    expect(client.hands).toEqual({});
    await client.lease();
    expect(await codeOf(client.setPower(true))).toBe('no-control');
    expect(await codeOf(client.setBootSource('flash'))).toBe('no-control');
    expect(await codeOf(client.reconfigure())).toBe('no-control');
    expect(await codeOf(client.operate('B0', true))).toBe('no-control');
    expect(await codeOf(client.setFault('rain', true))).toBe('no-fault');
    await expect(client.setPower(true)).rejects.toThrow('This pod has no power switch.');
  });

  test('tells its cable to who watches, with no picture of a board', async () => {
    const { client } = pod(bareTarget()).connect();
    await client.hello('right', 'Ada');
    const seen: unknown[] = [];
    await client.watch((status) => void seen.push(status));
    expect(seen).toEqual([{ cable: STATE, lease: null, asked: null, line: null, speed: null, view: null, faults: [] }]);
  });
});

describe('what goes wrong at one end', () => {
  test('a fault of the cable is that request’s, not the pod’s', async () => {
    let broken = true;
    const { client } = pod(
      bareTarget(async (ops) => {
        if (broken) throw new Error('loose wire');
        return ops.flatMap(answer);
      }),
    ).connect();
    await client.hello('right', 'Ada');
    await client.lease();
    await expect(client.run([{ kind: 'clock', count: 1 }])).rejects.toThrow(/loose wire/);
    broken = false;
    expect(await codeOf(client.run([{ kind: 'clock', count: 1 }]))).toBe('fine');
  });

  test('nothing is served for who has left, and the lease goes with them', async () => {
    const ran: number[] = [];
    const held: (() => void)[] = [];
    const { connect } = pod(
      bareTarget(async (ops) => {
        ran.push(ops.length);
        await new Promise<void>((resolve) => held.push(resolve));
        return ops.flatMap(answer);
      }),
    );
    const { client } = connect();
    await client.hello('right', 'Ada');
    await client.lease();
    const runs = [1, 2, 3].map(() => codeOf(client.run([{ kind: 'clock', count: 1 }])));
    await vi.waitFor(() => expect(ran).toHaveLength(1));
    client.close();
    held[0]?.();
    expect(await Promise.all(runs)).toEqual(['pod-lost', 'pod-lost', 'pod-lost']);
    const second = connect().client;
    await second.hello('right', 'Ben');
    expect(await codeOf(second.lease())).toBe('fine');
    expect(ran).toHaveLength(1);
  });

  test.each([
    ['no JSON', () => 'half a mess'],
    ['no message', () => '{"event":"rain"}'],
    ['another result than was asked for', (text: string) => text.replace('"bare"', '7')],
    ['a status that is none', (text: string) => text.replace('"referenceVolts":3.3', '"referenceVolts":"much"')],
  ])('%s from the pod ends that connection with a reason, and everything that waits hears it', async (_, disturb) => {
    const { client } = pod(bareTarget(), disturb).connect();
    const why: string[] = [];
    client.onLost(({ code }) => void why.push(code));
    const asked = [codeOf(client.hello('right', 'Ada')), codeOf(client.state())];
    const [first, second] = await Promise.all(asked);
    expect(first).toBe('pod-garbled');
    expect(['pod-garbled', 'pod-token']).toContain(second);
    expect([why, client.closed]).toEqual([['pod-garbled'], true]);
  });

  test('fewer bits than were shifted are not taken for an answer', async () => {
    const { client } = pod(bareTarget(async () => [new Uint8Array(1)])).connect();
    await client.hello('right', 'Ada');
    await client.lease();
    const shift: CableOp = { kind: 'shift', count: 100, tdi: new Uint8Array(13), capture: true, exit: true };
    expect(await codeOf(client.run([shift]))).toBe('pod-garbled');
  });

  test('requests that are none are answered; the next one is served', async () => {
    const { client, raw, at } = pod(bareTarget()).connect();
    await client.hello('right', 'Ada');
    const heard: string[] = [];
    const take = at.client;
    at.client = (text) => void heard.push(text);
    raw('{"id":1,"method":"dance"}');
    raw('[]');
    await vi.waitFor(() => expect(heard).toHaveLength(2));
    expect(heard.map((text) => (JSON.parse(text) as { ok: boolean }).ok)).toEqual([false, false]);
    at.client = take;
    expect(await codeOf(client.state())).toBe('fine');
  });
});

describe('who comes and goes', () => {
  test('what is under way for who has left ends at the next half second, and only then the cable is free', async () => {
    const ran: number[] = [];
    const held: (() => void)[] = [];
    const { connect } = pod(
      bareTarget(async (ops) => {
        ran.push(ops.length);
        await new Promise<void>((resolve) => held.push(resolve));
        return ops.flatMap(answer);
      }),
    );
    const [ada, ben] = [connect().client, connect().client];
    await ada.hello('right', 'Ada');
    await ben.hello('right', 'Ben');
    await ada.lease();
    const long = codeOf(ada.run([{ kind: 'wait', microseconds: 60_000_000 }]));
    await vi.waitFor(() => expect(held).toHaveLength(1));
    ada.close();
    expect(await long).toBe('pod-lost');
    expect(await codeOf(ben.lease())).toBe('pod-busy');
    held[0]?.();
    await vi.waitFor(async () => expect(await codeOf(ben.lease())).toBe('fine'));
    expect(ran).toHaveLength(1);
  });

  test('who says no hello is not kept, and strangers take no place from those who did', async () => {
    vi.useFakeTimers();
    try {
      const { connect } = pod(bareTarget());
      const known = connect();
      await known.client.hello('right', 'Ada');
      const strangers = Array.from({ length: 20 }, connect);
      expect(strangers.filter(({ at }) => at.open)).toHaveLength(16);
      await vi.advanceTimersByTimeAsync(11_000);
      expect(strangers.filter(({ at }) => at.open)).toHaveLength(0);
      expect([known.at.open, connect().at.open]).toEqual([true, true]);
    } finally {
      vi.useRealTimers();
    }
  });

  test('there is an end to connections, and to requests of one that wait', async () => {
    const { connect } = pod(bareTarget(() => new Promise(() => {})));
    const all = [];
    for (let i = 0; i < 70; i++) {
      const one = connect();
      if (one.at.open) await one.client.hello('right', `client ${i}`);
      all.push(one);
    }
    expect(all.filter(({ at }) => at.open)).toHaveLength(64);
    const [first] = all;
    await first?.client.lease();
    for (let i = 0; i < 300; i++) first?.raw('{"id":1,"method":"run","ops":[{"kind":"clock","count":1}]}');
    expect(first?.at.open).toBe(false);
    expect(all.filter(({ at }) => at.open)).toHaveLength(63);
  });

  test('what is asked goes with the asker, not with another of the same name', async () => {
    const { connect } = pod(bareTarget());
    const [ada, ben, other] = [connect().client, connect().client, connect().client];
    const asked: (string | null)[] = [];
    await ada.hello('right', 'Ada');
    await ben.hello('right', 'Ben');
    await other.hello('right', 'Ben');
    await ada.watch((status) => void asked.push(status.asked));
    await ben.askForLease();
    await vi.waitFor(() => expect(asked.at(-1)).toBe('Ben'));
    other.close();
    await ada.lease();
    await vi.waitFor(() => expect(asked.length).toBeGreaterThan(2));
    expect(asked.at(-1)).toBe('Ben');
    ben.close();
    await vi.waitFor(() => expect(asked.at(-1)).toBeNull());
  });

  test.each([
    ['run', '"ops":[{"kind":"shift","count":8,"tdi":"!!","capture":false,"exit":false}]'],
    ['run', '"ops":[{"kind":"tms","count":8,"tms":"%"}]'],
    ['stage-piece', '"file":1,"data":"*"'],
  ])('%s with what is no base64 is a request that is none', async (method, fields) => {
    const { client, raw, at } = pod(bareTarget()).connect();
    await client.hello('right', 'Ada');
    await client.lease();
    const heard: string[] = [];
    const take = at.client;
    at.client = (text) => void heard.push(text);
    raw(`{"id":99,"method":"${method}",${fields}}`);
    await vi.waitFor(() => expect(heard.join()).toContain('"code":"pod-request"'));
    at.client = take;
    expect(await codeOf(client.state())).toBe('fine');
  });
});

describe('time', () => {
  test('an answer may take as long as it takes, while the pod says that it works on it; silence ends', async () => {
    vi.useFakeTimers();
    try {
      let release = () => {};
      const { connect } = pod(
        bareTarget(async (ops) => {
          await new Promise<void>((resolve) => {
            release = resolve;
          });
          return ops.flatMap(answer);
        }),
      );
      const { client } = connect();
      await client.hello('right', 'Ada');
      await client.lease();
      const long = codeOf(client.run([{ kind: 'clock', count: 1 }]));
      await vi.advanceTimersByTimeAsync(60_000);
      release();
      expect(await long).toBe('fine');
      const silent = connect();
      await silent.client.hello('right', 'Ben');
      silent.at.pod = () => {};
      const owed = codeOf(silent.client.state());
      await vi.advanceTimersByTimeAsync(14_000);
      expect(silent.client.closed).toBe(false);
      await vi.advanceTimersByTimeAsync(2000);
      expect(await owed).toBe('pod-silent');
    } finally {
      vi.useRealTimers();
    }
  });

  test('pictures that go on are no answer: a request that got lost ends as silence does', async () => {
    vi.useFakeTimers();
    try {
      const { connect } = pod(bareTarget());
      const { client, at } = connect();
      await client.hello('right', 'Ada');
      await client.watch(() => {});
      const status = { cable: STATE, lease: null, asked: null, line: null, speed: null, view: null, faults: [] };
      at.pod = () => {};
      const owed = codeOf(client.state());
      for (let second = 0; second < 16; second++) {
        at.client(JSON.stringify({ event: 'status', status }));
        await vi.advanceTimersByTimeAsync(1000);
      }
      expect(await owed).toBe('pod-silent');
    } finally {
      vi.useRealTimers();
    }
  });

  test('an answer to what was never asked ends the connection: what was asked instead would wait for ever', async () => {
    const { connect } = pod(bareTarget());
    const { client, at } = connect();
    await client.hello('right', 'Ada');
    at.pod = () => {};
    const owed = codeOf(client.state());
    at.client(JSON.stringify({ id: 77, ok: true, result: STATE }));
    expect(await owed).toBe('pod-garbled');
  });

  test('a client that takes nothing gets no pictures meanwhile, one that does gets the newest', async () => {
    let volts = 3.3;
    const base = bareTarget();
    const target = { ...base, cable: { ...base.cable, state: async () => ({ ...STATE, referenceVolts: volts }) } };
    const { connect } = pod(target);
    const [quick, slow] = [connect(), connect()];
    const seen: Record<'quick' | 'slow', number[]> = { quick: [], slow: [] };
    for (const [name, { client }] of Object.entries({ quick, slow })) {
      await client.hello('right', name);
      await client.watch(({ cable }) => void seen[name as 'quick' | 'slow'].push(cable.referenceVolts ?? 0));
    }
    slow.at.pending = 1 << 20;
    for (volts of [3.2, 3.1, 3.0]) await vi.waitFor(() => expect(seen.quick.at(-1)).toBe(volts), { timeout: 2000 });
    expect(seen.slow.filter((one) => one < 3.3)).toEqual([]);
    slow.at.pending = 0;
    volts = 2.9;
    await vi.waitFor(() => expect(seen.slow.at(-1)).toBe(2.9), { timeout: 2000 });
  });
});
