// What comes on a serial line, from a pod to those who listen: numbered, at each one's own pace, bounded.
import { describe, expect, test, vi } from 'vitest';
import { type LineSettings, type PulseRun, type SerialFrame, USUAL_LINE } from '../serial/index.ts';
import {
  bytesHeard,
  type HeardOnLine,
  lineAt,
  PodClient,
  PodServer,
  type PodTarget,
  type SerialLine,
} from './index.ts';

/** A line that is played: what comes is said by the test, what is sent is kept. */
function playedLine() {
  let frames: SerialFrame[] = [];
  let news = () => {};
  let lost = 0;
  let pulses: PulseRun | null = null;
  const sent: number[] = [];
  const at = { room: 1000, settings: USUAL_LINE as LineSettings, low: 0, dropped: 0 };
  const line: SerialLine = {
    set: async (settings) => {
      at.settings = settings;
      return settings;
    },
    send: async (bytes) => {
      const taken = bytes.subarray(0, at.room);
      sent.push(...taken);
      return taken.length;
    },
    holdLow: async (milliseconds) => {
      at.low = milliseconds;
    },
    drop: async () => {
      at.dropped++;
    },
    get state() {
      return { settings: at.settings, queued: 0, waits: false };
    },
    onNews: (listener) => {
      news = listener;
    },
    take: () => {
      const taken = { now: 1e6, frames, lost, pulses };
      frames = [];
      lost = 0;
      pulses = null;
      return taken;
    },
  };
  const say = (text: string, from = 0, gone = 0, heard: PulseRun | null = null) => {
    frames = [...text].map((char, i) => ({ at: from + i * 100, value: char.charCodeAt(0), trouble: null }));
    lost = gone;
    pulses = heard;
    news();
  };
  return { line, say, sent, at };
}

const TARGET: Omit<PodTarget, 'line'> = {
  name: 'p',
  cable: {
    tckHz: 1e6,
    state: async () => ({ attached: true, referenceVolts: 3.3, tckHz: 1e6, leastHz: 1e3, mostHz: 1e7 }),
    setFrequency: async (hz) => hz,
    run: async () => [],
  },
};

/** A client at a pod with that line; `pending` is what has not left for it yet. */
async function joined(line: SerialLine | null, more: { pending?: () => number } = {}) {
  const server = new PodServer(line ? { ...TARGET, line } : TARGET, {
    ...{ isToken: () => true, startedAs: 'now', carryOut: async () => null },
  });
  const ends = { pod: (_: string) => {}, client: (_: string) => {} };
  server.connect({
    ...{ close: () => {}, terminate: () => {}, pending: more.pending ?? (() => 0), onClose: () => {} },
    send: (text) => queueMicrotask(() => ends.client(text)),
    onMessage: (listener) => {
      ends.pod = listener;
    },
  });
  const client = new PodClient({
    send: (text) => queueMicrotask(() => ends.pod(text)),
    ...{ close: () => {}, onClose: () => {} },
    onMessage: (listener) => {
      ends.client = listener;
    },
  });
  await client.hello('t', 'test');
  return { client, server };
}

const textOf = (heard: readonly HeardOnLine[]) =>
  heard.flatMap((one) => bytesHeard(one, 0).map(({ value }) => String.fromCharCode(value))).join('');
const soon = () => new Promise((resolve) => setTimeout(resolve, 60));

describe('a serial line at a pod', () => {
  test('the pod says that it has one, and one that has none refuses in words', async () => {
    const { client } = await joined(playedLine().line);
    expect(client.capabilities.line).toBe(true);
    const bare = await joined(null);
    expect(bare.client.capabilities.line).toBe(false);
    await expect(bare.client.setLine(USUAL_LINE)).rejects.toThrow('This pod has no serial line.');
  });

  test('who listens from a number on hears what was kept, who listens from now on does not', async () => {
    const { line, say } = playedLine();
    const { client } = await joined(line);
    say('banner');
    await soon();
    const heard: HeardOnLine[] = [];
    const { next, settings } = await client.listenToLine(2, (one) => void heard.push(one));
    expect([next, settings]).toEqual([2, USUAL_LINE]);
    await soon();
    expect([textOf(heard), heard[0]?.first]).toEqual(['nner', 2]);
    heard.length = 0;
    expect((await client.listenToLine(null, (one) => void heard.push(one))).next).toBe(6);
    say('more');
    await soon();
    expect([textOf(heard), heard[0]?.first]).toEqual(['more', 6]);
  });

  test('bytes keep their times, pauses between them too', async () => {
    const { line, say } = playedLine();
    const access = lineAt(line);
    const heard: HeardOnLine[] = [];
    await access.listenToLine(0, (one) => void heard.push(one));
    say('ab', 999_000);
    await soon();
    say('c', 999_900);
    await soon();
    // The pod's clock stands at one second while the desk's stands at 5 s.
    const bytes = heard.flatMap((one) => bytesHeard(one, 5000));
    expect(bytes.map(({ at }) => at)).toEqual([4999, 4999.1, 4999.9]);
    access.close();
  });

  test('what nobody took in time leaves a gap in the numbers, and is said', async () => {
    const { line, say } = playedLine();
    const { client } = await joined(line);
    const heard: HeardOnLine[] = [];
    await client.listenToLine(0, (one) => void heard.push(one));
    say('one');
    await soon();
    say('two', 0, 100);
    await soon();
    expect(heard.map(({ first, lost }) => [first, lost])).toEqual([
      [0, 0],
      [103, 100],
    ]);
  });

  test('somebody who takes nothing is left behind, and goes on with what is still kept', async () => {
    const { line, say } = playedLine();
    let pending = 1 << 20;
    const { client } = await joined(line, { pending: () => pending });
    const heard: HeardOnLine[] = [];
    await client.listenToLine(0, (one) => void heard.push(one));
    for (let i = 0; i < 9; i++) {
      say('x'.repeat(10_000), i * 1e6);
      await soon();
    }
    expect(heard).toEqual([]);
    pending = 0;
    await vi.waitFor(() => expect(textOf(heard).length).toBe(1 << 16), { timeout: 5000 });
    expect(heard[0]?.lost).toBe(90_000 - (1 << 16));
    expect(Math.max(...heard.map((one) => textOf([one]).length))).toBeLessThanOrEqual(4096);
  });

  test('what is sent, held low, dropped and set reaches the line; a full one takes less', async () => {
    const { line, sent, at } = playedLine();
    const { client } = await joined(line);
    at.room = 2;
    expect(await client.sendOnLine(Uint8Array.of(1, 2, 3))).toBe(2);
    expect(sent).toEqual([1, 2]);
    await client.holdLineLow(250);
    await client.dropOnLine();
    expect([at.low, at.dropped]).toEqual([250, 1]);
    expect(await client.setLine({ ...USUAL_LINE, rate: 9600 })).toMatchObject({ rate: 9600 });
    await expect(client.setLine({ ...USUAL_LINE, rate: 3 })).rejects.toThrow('does not understand');
  });

  test('pulses travel in nanoseconds', async () => {
    const { line, say } = playedLine();
    const { client } = await joined(line);
    const heard: HeardOnLine[] = [];
    await client.listenToLine(0, (one) => void heard.push(one));
    say('a', 0, 0, { level: 0, widths: [8.68e-6, 17.36e-6] });
    await soon();
    expect(heard[0]?.pulses).toEqual({ level: 0, nanoseconds: [8680, 17360] });
  });
});
