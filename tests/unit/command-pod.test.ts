// `nimble pod` beside a pod that runs in this process.
import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Bench, benchTarget } from '../../bench/index.ts';
import { diskShelf, servePod } from '../../pod/index.ts';
import { nimbleCommand } from '../support/command.ts';
import { builtDemo } from '../support/demo.ts';
import { lockhouse } from '../support/lockhouse.ts';

const command = nimbleCommand();
const shelf = mkdtempSync(join(tmpdir(), 'nimble-shelf-'));
let close = async () => {};
let port = 0;

beforeAll(async () => {
  const target = benchTarget(new Bench(lockhouse().bench.file, new Map()));
  const pod = await servePod(target, { host: '127.0.0.1', port: 0, token: 'right', shelf: diskShelf(shelf) });
  port = pod.port;
  close = async () => {
    target.stop();
    await pod.close();
  };
});
afterAll(() => close());

/** Beside this process, which has to answer it. */
function nimble(...args: string[]): Promise<{ status: number | null; json: Record<string, unknown>; stderr: string }> {
  const child = spawn(
    process.execPath,
    [command.file(), 'pod', ...args, '--pod', `ws://127.0.0.1:${port}`, '--token', 'right', '--json'],
    { stdio: ['ignore', 'pipe', 'pipe'] },
  );
  let [stdout, stderr] = ['', ''];
  child.stdout.on('data', (data) => {
    stdout += String(data);
  });
  child.stderr.on('data', (data) => {
    stderr += String(data);
  });
  return new Promise((resolve) =>
    child.on('close', (status) => resolve({ status, json: stdout ? JSON.parse(stdout) : {}, stderr })),
  );
}

test('a bitstream is sent once, runs by its name, its log stays, and it is dropped', async () => {
  const path = command.at('lock.nbits');
  writeFileSync(path, builtDemo().bitstream);
  const sha256 = createHash('sha256').update(builtDemo().bitstream).digest('hex');
  const sent = await nimble('send', path);
  expect(sent).toMatchObject({ status: 0, json: { name: 'lock.nbits', sha256, known: false } });
  expect(await nimble('send', path)).toMatchObject({ status: 0, json: { id: sent.json.id, known: true } });
  expect(readFileSync(join(shelf, `${sent.json.id}.staged`)).length).toBe(builtDemo().bitstream.length);
  const run = await nimble('run', 'lock.nbits', '--follow');
  expect(run).toMatchObject({ status: 0, json: { state: 'done', kind: 'load', problem: null } });
  expect(run.stderr).toMatch(/Load begun[\s\S]*DONE high/);
  expect(await nimble('log', String(sent.json.id))).toMatchObject({ status: 0, json: { state: 'done' } });
  expect(await nimble('files')).toMatchObject({ json: { files: [{ name: 'lock.nbits', state: 'done' }] } });
  expect((await nimble('drop', 'lock.nbits')).status).toBe(0);
  expect(await nimble('files')).toMatchObject({ status: 0, json: { files: [] } });
});

test('an SVF goes on when the command is gone, is stopped, and its log says so', async () => {
  const path = command.at('long.svf');
  writeFileSync(path, 'STATE IDLE;\nRUNTEST 60 SEC;\n');
  expect((await nimble('send', path)).status).toBe(0);
  expect(await nimble('run', 'long.svf')).toMatchObject({ status: 0, json: { begun: true } });
  expect(await nimble('files')).toMatchObject({ json: { files: [{ kind: 'svf', state: 'running' }] } });
  expect(await nimble('drop', 'long.svf')).toMatchObject({ status: 1, json: { problem: { code: 'stage-file' } } });
  expect((await nimble('stop', 'long.svf')).status).toBe(0);
  await expect
    .poll(async () => (await nimble('log', 'long.svf')).json, { timeout: 20_000 })
    .toMatchObject({ state: 'failed', problem: { code: 'cancelled' } });
  expect((await nimble('drop', 'long.svf')).status).toBe(0);
});

test('an SVF whose comparison fails ends as failed, with the line; a file that is no bitstream is not sent', async () => {
  const path = command.at('wrong.svf');
  writeFileSync(path, 'STATE RESET;\nSTATE IDLE;\nSDR 32 TDI (00000000) TDO (DEADBEEF) MASK (FFFFFFFF);\n');
  await nimble('send', path);
  const run = await nimble('run', 'wrong.svf', '--follow');
  expect(run).toMatchObject({ status: 1, json: { state: 'failed' } });
  expect(JSON.stringify(run.json.problem)).toMatch(/Line 3/);
  const bad = command.at('bad.nbits');
  writeFileSync(bad, 'no bitstream at all');
  expect((await nimble('send', bad)).status).toBe(1);
  expect(await nimble('run', 'bad.nbits')).toMatchObject({ status: 1, json: { problem: { code: 'no-staged' } } });
});

test('a wrong call is told as one', () => {
  expect(command.run('pod', 'files').status).toBe(2);
  expect(command.run('pod', 'send', command.at('none.svf'), '--pod', `ws://127.0.0.1:9`).status).toBe(1);
});
