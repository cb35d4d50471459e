// A simulated pod that is given another bench, and its serial line from outside the process.
import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { WebSocket } from 'ws';
import { Bench, benchTarget, readBenchFile } from '../bench/index.ts';
import { PodClient } from '../core/pod/index.ts';
import { ProblemError } from '../core/result.ts';
import { lockhouse } from '../tests/support/lockhouse.ts';
import { nimbleCommand } from '../tests/support/command.ts';
import { servePod } from './index.ts';

const LONE = readFileSync('demo/benches/lone.bench.json', 'utf8');
const LOCKHOUSE = readFileSync('demo/benches/lockhouse.bench.json', 'utf8');

let pod: Awaited<ReturnType<typeof servePod>>;
let stands: Bench;
let target: ReturnType<typeof benchTarget>;
const command = nimbleCommand();

beforeEach(async () => {
  stands = new Bench(lockhouse().bench.file, new Map([[1, new Uint8Array(4 << 20).fill(0xff)]]));
  target = benchTarget(stands, (bench) => {
    stands = bench;
  });
  pod = await servePod(target, { host: '127.0.0.1', port: 0, token: 'right' });
});
afterEach(async () => {
  await pod.close();
  target.stop();
});

async function client(
  name = 'test',
): Promise<{ readonly made: PodClient; readonly pod: string; readonly gone: Promise<void> }> {
  const socket = await new Promise<WebSocket>((resolve, reject) => {
    const opening = new WebSocket(`ws://127.0.0.1:${pod.port}`);
    opening.once('open', () => resolve(opening));
    opening.once('error', reject);
  });
  const made = new PodClient({
    send: (text) => socket.send(text),
    close: () => socket.close(),
    onMessage: (listener) => socket.on('message', (data) => listener(String(data))),
    onClose: (listener) => socket.on('close', listener),
  });
  const gone = new Promise<void>((resolve) => made.onLost(() => resolve()));
  const { pod: met } = await made.hello('right', name);
  return { made, pod: met, gone };
}

const codeOf = (work: Promise<unknown>) =>
  work.then(
    () => 'fine',
    (error: unknown) => (error instanceof ProblemError ? error.problem.code : String(error)),
  );

describe('another bench', () => {
  test('ends every connection, and whoever comes then meets it, with its own line', async () => {
    const [one, two] = [await client(), await client('somebody else')];
    expect(one.made.capabilities.bench).toBe(true);
    await one.made.useBenchFile(LONE);
    await Promise.all([one.gone, two.gone]);
    const after = await client();
    expect([one.pod, after.pod]).toEqual(['Lockhouse', 'Lone bench']);
    expect(stands.file.name).toBe('Lone bench');
    expect((await after.made.listenToLine(null, () => {})).next).toBe(0);
  });

  test('on the same chain the flash keeps what it holds; on another one there are other chips', async () => {
    const memory = stands.flashContents.get(1);
    memory?.set([1, 2, 3]);
    const { made, gone } = await client();
    await made.useBenchFile(LOCKHOUSE.replace('"label": "sluice"', '"label": "first"'));
    await gone;
    expect([...(stands.flashContents.get(1)?.subarray(0, 3) ?? [])]).toEqual([1, 2, 3]);
    const next = await client();
    await next.made.useBenchFile(LONE);
    await next.gone;
    expect(stands.flashContents.get(0)?.[0]).toBe(0xff);
  });

  test('is refused while somebody else has the pod, and where the file is none; what stands stays', async () => {
    const [one, other] = [await client(), await client('somebody else')];
    await other.made.lease();
    expect(await codeOf(one.made.useBenchFile(LONE))).toBe('pod-busy');
    await other.made.release();
    expect(await codeOf(one.made.useBenchFile('{"chain": 3}'))).toBe('bench-file');
    expect(await codeOf(one.made.useBenchFile('no json'))).toBe('bench-file');
    expect(stands.file.name).toBe('Lockhouse');
    expect(one.made.closed).toBe(false);
  });
});

/** The command beside this process, whose pod it has to reach. */
function nimble(
  ...args: string[]
): Promise<{ readonly status: number | null; readonly stdout: string; readonly stderr: string }> {
  const child = spawn(process.execPath, [command.file(), ...args], {
    env: { ...process.env, NIMBLE_POD_TOKEN: 'right' },
  });
  const said = { stdout: '', stderr: '' };
  child.stdout.on('data', (data) => {
    said.stdout += String(data);
  });
  child.stderr.on('data', (data) => {
    said.stderr += String(data);
  });
  child.stdin.end();
  return new Promise((resolve) => child.on('close', (status) => resolve({ status, ...said })));
}

describe('nimble serial at a running pod', () => {
  const at = () => ['--pod', `ws://127.0.0.1:${pod.port}`];

  test('hears what comes while somebody else has the cable, and leaves the pod’s settings as they are', async () => {
    const { made } = await client('who has the cable');
    await made.lease();
    await made.setLine({ rate: 9600, dataBits: 7, parity: 'even', stopBits: 1, flow: 'none' });
    const said = nimble('serial', ...at(), '--until', 'hi', '--timeout', '10s', '--json');
    const line = stands.serial;
    if (!line) throw new Error('no line');
    // The board says it: even parity of seven bits, at 9 600.
    const bits = (byte: number) => {
      const data = Array.from({ length: 7 }, (_, i) => (byte >>> i) & 1);
      return [0, ...data, data.reduce((sum, bit) => sum ^ bit, 0), 1];
    };
    const say = setInterval(() => {
      const from = stands.time + 100;
      for (const [i, bit] of [...bits(0x68), ...bits(0x69)].entries()) line.moved(from + i * (1e6 / 9600), bit);
    }, 400);
    const { status, stdout } = await said;
    clearInterval(say);
    expect(status).toBe(0);
    expect(JSON.parse(stdout)).toMatchObject({ found: true, settings: { rate: 9600, dataBits: 7, parity: 'even' } });
  });

  test('a pod without a line is told as such, a wrong address too', async () => {
    const { name, cable } = target;
    const bare = await servePod({ name, cable }, { host: '127.0.0.1', port: 0, token: 'right' });
    const none = await nimble('serial', '--pod', `ws://127.0.0.1:${bare.port}`, '--timeout', '1s');
    await bare.close();
    expect([none.status, none.stderr]).toEqual([
      1,
      expect.stringContaining('There is no serial line at ws://127.0.0.1'),
    ]);
    const gone = await nimble('serial', '--pod', 'ws://127.0.0.1:9', '--timeout', '1s');
    expect([gone.status, gone.stderr]).toEqual([1, expect.stringContaining('No pod answers')]);
  });
});

test('a bench file of parts that talk is read, with what is wrong in it named', () => {
  const read = (board: object) => readBenchFile(JSON.stringify({ chain: [{ kind: 'sprig' }], board }), 'b.bench.json');
  expect(read({ serial: { tx: 'P1', rx: 'P2' } }).ok).toBe(true);
  const said = (board: object) => {
    const found = read(board);
    return found.ok ? 'fine' : found.error.message;
  };
  expect(said({ serial: { tx: 'P1' } })).toMatch(/board\.serial\.rx/);
  expect(said({ displays: [{ name: 'D', enable: 'P1', select: 'P2', data: ['P3'] }] })).toMatch(
    /board\.displays\.0\.data/,
  );
  expect(said({ sensors: [{ name: 'T', clock: 'P1', select: 'P2', out: 'P3', high: 5000 }] })).toMatch(
    /sensors\.0\.high/,
  );
});
