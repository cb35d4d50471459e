import { existsSync, mkdtempSync, readdirSync, writeFileSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
import { WebSocket } from 'ws';
import { Bench, benchTarget } from '../bench/index.ts';
import { PodClient } from '../core/pod/index.ts';
import { lockhouse } from '../tests/support/lockhouse.ts';
import { diskShelf, servePod } from './index.ts';

const opened: (() => unknown)[] = [];
afterEach(async () => {
  for (const close of opened.splice(0).reverse()) await close();
});

async function podWith(folder: string) {
  const target = benchTarget(new Bench(lockhouse().bench.file, new Map()));
  const pod = await servePod(target, { host: '127.0.0.1', port: 0, token: 'right', shelf: diskShelf(folder) });
  opened.push(
    () => target.stop(),
    () => pod.close(),
  );
  const socket = await new Promise<WebSocket>((resolve) => {
    const made = new WebSocket(`ws://127.0.0.1:${pod.port}`);
    made.once('open', () => resolve(made));
  });
  const client = new PodClient({
    send: (text) => socket.send(text),
    close: () => socket.close(),
    onMessage: (listener) => socket.on('message', (data) => listener(String(data))),
    onClose: (listener) => socket.on('close', listener),
  });
  opened.push(() => client.close());
  await client.hello('right', 'test');
  return { client, close: pod.close };
}

/** An SVF of so many lines, in pieces, and its digest. */
function longSvf(lines: number) {
  const line = (i: number) => new TextEncoder().encode(`! line ${i}\nRUNTEST 10 TCK;\n`);
  const digest = createHash('sha256');
  let size = 0;
  for (let i = 0; i < lines; i++) {
    digest.update(line(i));
    size += line(i).length;
  }
  const bytes = (function* () {
    for (let i = 0; i < lines; i++) yield line(i);
  })();
  return { name: 'long.svf', size, sha256: digest.digest('hex'), bytes };
}

test('a file that was sent outlives the pod’s process, and runs from the disk', async () => {
  const folder = join(mkdtempSync(join(tmpdir(), 'nimble-shelf-')), 'staged');
  const first = await podWith(folder);
  const id = await first.client.stage(longSvf(2000));
  expect(readdirSync(folder).sort()).toEqual([`${id}.staged`, 'files.json']);
  await first.close();
  const second = await podWith(folder);
  expect(await second.client.staged()).toMatchObject([{ id, name: 'long.svf', state: 'ready' }]);
  await second.client.execute(id, 'svf', null);
  await expect.poll(async () => (await second.client.staged())[0]?.state, { timeout: 20_000 }).toBe('done');
  const [file] = await second.client.staged();
  expect(file?.log.join('\n')).toMatch(/2000 commands, 20\d\d\d TCK cycles/);
  await second.client.dropStaged(id);
  expect(readdirSync(folder)).toEqual(['files.json']);
});

test('what had not arrived whole is gone after a start, and a list that is none drops all', async () => {
  const folder = join(mkdtempSync(join(tmpdir(), 'nimble-shelf-')), 'staged');
  const first = await podWith(folder);
  const { bytes, ...half } = longSvf(10);
  const cut = (function* () {
    yield* [...bytes].slice(0, 3);
    throw new Error('the network is gone');
  })();
  await expect(first.client.stage({ ...half, bytes: cut })).rejects.toThrow('the network is gone');
  expect(await first.client.staged()).toEqual([]);
  writeFileSync(join(folder, '9.staged'), 'half a file');
  expect(diskShelf(folder).known()).toEqual([]);
  expect(existsSync(join(folder, '9.staged'))).toBe(false);
  const id = await first.client.stage(longSvf(3));
  writeFileSync(join(folder, 'files.json'), 'no json');
  expect(diskShelf(folder).known()).toEqual([]);
  expect(existsSync(join(folder, `${id}.staged`))).toBe(false);
});
