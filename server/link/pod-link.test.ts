// The link to a pod, over real sockets: it is found, lost, found again, refused, shared, and gives garbage no chance.
import { FAMILIES } from '../../core/families/index.ts';
import { afterEach, describe, expect, test, vi } from 'vitest';
import { WebSocketServer } from 'ws';
import { benchTarget } from '../../bench/index.ts';
import type { PodStatusEvent, ToldDeed } from '../../core/pod/index.ts';
import { ProblemError } from '../../core/result.ts';
import { servePod } from '../../pod/index.ts';
import { lockhouse } from '../../tests/support/lockhouse.ts';
import { OWN_NAME, PodLink } from './pod-link.ts';

const closing: (() => unknown)[] = [];
afterEach(async () => {
  for (const close of closing.splice(0).reverse()) await close();
});

/** A pod with the demo's bench, at a port that stays the same when it is started again. */
async function pod(port = 0, token = 'right') {
  const target = benchTarget(lockhouse().bench, () => {});
  const served = await servePod(target, { host: '127.0.0.1', port, token });
  let open = true;
  const close = async () => {
    if (!open) return;
    open = false;
    await served.close();
    target.stop();
  };
  closing.push(close);
  return { port: served.port, address: `ws://127.0.0.1:${served.port}`, close };
}

function link() {
  const heard = {
    states: [] as string[],
    boards: [] as (PodStatusEvent | null)[],
    deeds: [] as ToldDeed[],
    scans: 0,
  };
  const made: PodLink = new PodLink({
    changed: () => void heard.states.push(made.status.state),
    onStatus: (status) => void heard.boards.push(status),
    onDeed: (deed) => void heard.deeds.push(deed),
    ...{ onLine: () => {}, lineFrom: () => 0, onLineFrom: () => {} },
    onScan: () => void heard.scans++,
    memory: async () => ({ answers: [], described: [] }),
    families: async () => FAMILIES,
  });
  closing.push(() => made.use('ws://127.0.0.1:1', '').catch(() => {}));
  return { link: made, heard };
}

const codeOf = (work: Promise<unknown>) =>
  work.then(
    () => 'fine',
    (error) => (error instanceof ProblemError ? error.problem.code : String(error)),
  );

describe('finding a pod', () => {
  test('says what it is and can do, and what it shows', async () => {
    const { address } = await pod();
    const { link: one, heard } = link();
    expect(() => one.hands()).toThrow(/No pod has been named\./);
    await one.use(address, 'right');
    expect(one.status).toMatchObject({ address, state: 'connected', problem: null });
    expect(one.status.capabilities).toMatchObject({ power: true, view: true, line: true });
    expect(heard.states).toEqual(['connecting', 'connected']);
    await vi.waitFor(() => expect(one.shown?.cable.referenceVolts).toBeCloseTo(3.3));
  });

  test('a wrong token is refused and not tried again; the right one is taken at once', async () => {
    const { address } = await pod();
    const { link: one } = link();
    await one.use(address, 'wrong');
    expect(one.status).toMatchObject({ state: 'refused', problem: { code: 'pod-token' } });
    await one.use(address, 'right');
    expect(one.status.state).toBe('connected');
  });

  test('a token that was right before is tried again: what the pod got may have been garbled', async () => {
    const first = await pod();
    const { link: one } = link();
    await one.use(first.address, 'right');
    await first.close();
    const other = await pod(first.port, 'another');
    await vi.waitFor(() => expect(one.status).toMatchObject({ state: 'refused' }), { timeout: 8000 });
    await other.close();
    await pod(first.port);
    await vi.waitFor(() => expect(one.status.state).toBe('connected'), { timeout: 8000 });
  });

  test('one that is not there yet is found by itself', async () => {
    const first = await pod();
    await first.close();
    const { link: one } = link();
    await one.use(first.address, 'right');
    expect(one.status).toMatchObject({ state: 'lost', problem: { code: 'no-pod' } });
    expect(await codeOf(one.cable(async () => 'never'))).toBe('no-pod');
    await pod(first.port);
    await vi.waitFor(() => expect(one.status.state).toBe('connected'), { timeout: 8000 });
  });

  test('one that goes is lost with a reason, what it showed is gone, and it is taken up again', async () => {
    const first = await pod();
    const { link: one, heard } = link();
    await one.use(first.address, 'right');
    await first.close();
    await vi.waitFor(() => expect(one.status.state).toBe('lost'), { timeout: 8000 });
    expect(one.status.problem?.message).toBe(`No pod answers at ${first.address}.`);
    expect([one.shown, heard.boards.at(-1)]).toEqual([null, null]);
    await pod(first.port);
    await vi.waitFor(() => expect(one.status.state).toBe('connected'), { timeout: 8000 });
  });

  test('who takes another pod hears no more of the first', async () => {
    const [first, second] = [await pod(), await pod()];
    const { link: one } = link();
    await one.use(first.address, 'right');
    await one.use(second.address, 'right');
    await first.close();
    await new Promise((resolve) => setTimeout(resolve, 100));
    expect(one.status).toMatchObject({ address: second.address, state: 'connected' });
  });
});

describe('the board has one user at a time', () => {
  test('work waits its turn, each with the chain that was scanned once', async () => {
    const { address } = await pod();
    const { link: one, heard } = link();
    await one.use(address, 'right');
    const order: string[] = [];
    const work = (name: string) =>
      one.cable(async (chain) => {
        order.push(`${name} begins`);
        const scan = await chain.rescan();
        order.push(`${name} ends`);
        return scan.devices.length;
      });
    expect(await Promise.all([work('a'), work('b')])).toEqual([3, 3]);
    expect(order).toEqual(['a begins', 'a ends', 'b begins', 'b ends']);
    expect(one.turns).toBe(2);
    expect(heard.scans).toBeGreaterThanOrEqual(1);
  });

  test('what fails gives the board back', async () => {
    const { address } = await pod();
    const { link: one } = link();
    await one.use(address, 'right');
    await expect(one.cable(() => Promise.reject(new Error('dropped')))).rejects.toThrow('dropped');
    expect(await one.cable(async () => 'next')).toBe('next');
  });

  test('while another one has it the work is refused with who that is; afterwards what they did is heard', async () => {
    const { address } = await pod();
    const [{ link: one, heard }, { link: other }] = [link(), link()];
    await one.use(address, 'right');
    await other.use(address, 'right');
    let free = () => {};
    const held = other.cable(() => new Promise<void>((resolve) => (free = resolve)));
    await vi.waitFor(() => expect(one.shown?.lease).toBe(OWN_NAME));
    expect(await codeOf(one.cable(async () => 'mine'))).toBe('pod-busy');
    free();
    await held;
    expect(await one.cable(async () => 'mine')).toBe('mine');
    expect(heard.deeds).toEqual([]);
  });

  test('what the pod does by itself waits until we let go of the board, and we wait until it is done', async () => {
    const { address } = await pod();
    const { link: one } = link();
    await one.use(address, 'right');
    let letGo = () => {};
    const holding = one.cable(() => new Promise<void>((resolve) => (letGo = resolve)));
    await vi.waitFor(() => expect(one.turns).toBe(1));
    let finish = () => {};
    const order: string[] = [];
    const own = one.handsOff(async (hands) => {
      // The pod refuses this while anybody holds a lease.
      await hands.execute(1, 'load', null).catch((error: ProblemError) => order.push(error.problem.code));
      await new Promise<void>((resolve) => (finish = resolve));
      order.push('done');
    });
    const next = one.cable(async () => order.push('next'));
    letGo();
    await holding;
    await vi.waitFor(() => expect(order).toEqual(['stage-file']));
    finish();
    await Promise.all([own, next]);
    expect(order).toEqual(['stage-file', 'done', 'next']);
  });

  test('a pod that goes in the middle ends the work with that, and the next works', async () => {
    const first = await pod();
    const { link: one } = link();
    await one.use(first.address, 'right');
    const work = one.cable(async (chain) => {
      await first.close();
      return chain.rescan();
    });
    expect(await codeOf(work)).toMatch(/^(pod-lost|cable-lost|no-pod)$/);
    await pod(first.port);
    await vi.waitFor(() => expect(one.status.state).toBe('connected'), { timeout: 8000 });
    expect(await one.cable(async (chain) => (await chain.rescan()).devices.length)).toBe(3);
  });
});

describe('whoever answers there', () => {
  const talker = (say: (text: string) => string | null) =>
    new Promise<string>((resolve) => {
      const server = new WebSocketServer({ host: '127.0.0.1', port: 0 }, () => {
        const { port } = server.address() as { port: number };
        resolve(`ws://127.0.0.1:${port}`);
      });
      server.on('connection', (socket) =>
        socket.on('message', (data) => {
          const answer = say(String(data));
          if (answer !== null) socket.send(answer);
        }),
      );
      closing.push(
        () =>
          new Promise<void>((end) => {
            for (const socket of server.clients) socket.terminate();
            server.close(() => end());
          }),
      );
    });

  test.each([
    ['something that is no JSON', () => 'hello?'],
    ['JSON of another kind', () => '{"id":1,"ok":true,"result":{"pod":7}}'],
    ['a list', () => '[]'],
  ])('%s is given up with a reason, and tried again', async (_, say) => {
    const address = await talker(say);
    const { link: one } = link();
    await one.use(address, 'right');
    expect(one.status.state).toBe('lost');
    expect(one.status.problem?.message).toMatch(/does not speak as it should|No pod answers/);
  });
});
