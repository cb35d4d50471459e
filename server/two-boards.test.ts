// What is said of a board or a project is said of that one alone: two pods, two projects, a command beside the page.
import { chainOn } from '../tests/support/chain-on.ts';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { WebSocket } from 'ws';
import { benchTarget } from '../bench/index.ts';
import { servePod } from '../pod/index.ts';
import { readBitstream } from '../core/families/index.ts';
import { keepBitstream, loadBitstream } from '../core/operations/index.ts';
import { PodClient } from '../core/pod/index.ts';
import { unwatched } from '../core/progress.ts';
import type { ProbeMap } from '../core/probes/index.ts';
import { builtDemo, demoPlan, demoProject } from '../tests/support/demo.ts';
import { lockhouse } from '../tests/support/lockhouse.ts';
import { openDatabase } from './store/database.ts';
import type { Job } from './jobs/jobs.ts';
import { DEFAULT_PLAN } from './board/index.ts';
import { workOf } from '../tests/support/work.ts';
import { assemble, type Server } from './assemble.ts';

let folder: string;
let server: Server;
let db: Awaited<ReturnType<typeof openDatabase>>;
let lockhouseId: number;
let otherId: number;
let pods: { readonly a: Awaited<ReturnType<typeof servePod>>; readonly b: Awaited<ReturnType<typeof servePod>> };
const { bench: a, cable } = lockhouse();
const { bench: b } = lockhouse();
const probed = builtDemo(demoPlan());

const at = (pod: 'a' | 'b') => `ws://127.0.0.1:${pods[pod].port}`;
const state = () => workOf(server);
async function ended(id: number): Promise<Job> {
  const find = () => server.jobs.list.find((job) => job.id === id) as Job;
  await expect.poll(() => find().endedAt, { timeout: 60_000, interval: 20 }).not.toBeNull();
  return find();
}

/** Somebody else at the same pod, as the command is. */
async function command(pod: 'a' | 'b'): Promise<PodClient> {
  const socket = new WebSocket(at(pod));
  await new Promise((resolve, reject) => {
    socket.once('open', resolve);
    socket.once('error', reject);
  });
  const client = new PodClient({
    send: (text) => socket.send(text),
    close: () => socket.close(),
    onMessage: (listener) => socket.on('message', (data) => listener(String(data))),
    onClose: (listener) => socket.on('close', listener),
  });
  await client.hello('t', 'nimble command');
  // The page may be looking at the board just now.
  await expect
    .poll(
      () =>
        client.lease().then(
          () => true,
          () => false,
        ),
      { timeout: 5000 },
    )
    .toBe(true);
  return client;
}

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'nimble-two-'));
  // The same bytes lie in the flash already, so that writing them takes no time of the clock on the wall.
  const plain = readBitstream(builtDemo().bitstream);
  if (!plain.ok) throw new Error(plain.error.message);
  await keepBitstream(chainOn(cable), plain.value, null, unwatched);
  const serve = (bench: typeof a) => servePod(benchTarget(bench), { host: '127.0.0.1', port: 0, token: 't' });
  pods = { a: await serve(a), b: await serve(b) };
  db = await openDatabase(join(folder, 'test.sqlite'));
  server = assemble(db);
  const { file, files } = demoProject();
  const text = [
    { name: 'nimble.json', text: JSON.stringify(file) },
    ...files.filter(({ name }) => !name.endsWith('.chain.json')),
  ];
  otherId = await server.store.projects.create('Other', [
    { name: 'nimble.json', text: JSON.stringify({ ...file, name: 'Other' }) },
    ...text.slice(1),
  ]);
  lockhouseId = await server.store.projects.create('Lockhouse', text);
  await server.board.use(at('a'), 't');
});
afterAll(async () => {
  server.board.hands().close();
  await pods.a.close();
  await pods.b.close();
  await server.close();
  rmSync(folder, { recursive: true });
});

describe('a second pod of the same name', () => {
  test('is told nothing of what was written to the flash of the first, nor of its boot, its load and its log', async () => {
    // An empty FPGA is simulated too: nobody looks at the second board yet.
    b.setPower(false);
    await ended(server.desks.design.build((await server.store.projects.current()) as never));
    await ended(server.desks.bench.scan());
    expect((await ended(server.desks.load.load(DEFAULT_PLAN))).state).toBe('done');
    expect((await ended(server.desks.keep.keep())).state).toBe('done');
    await ended(server.desks.load.stageAndRun(DEFAULT_PLAN.steps[0] as never));
    await ended(server.desks.keep.lookAtFlash());
    const first = await state();
    expect([
      first.kept?.project,
      first.rehearsal?.done,
      first.stageLog?.log.length,
      first.flash?.device,
      first.running?.done,
    ]).toEqual([lockhouseId, true, expect.any(Number), 1, true]);
    b.setPower(true);
    await server.board.use(at('b'), 't');
    const second = await state();
    expect([
      second.kept,
      second.rehearsal,
      second.stageLog,
      second.flash,
      second.loadReport,
      second.scan,
      second.brokenWrite,
    ]).toEqual([null, null, null, null, null, null, null]);
    await expect.poll(async () => (await state()).running?.done ?? null, { timeout: 10_000 }).toBe(false);
    expect((await state()).jobs.filter(({ kind }) => kind !== 'build').every(({ isHere }) => !isHere)).toBe(true);
    b.setPower(false);
    await server.board.use(at('a'), 't');
    expect((await state()).kept?.fingerprint).toBe(first.kept?.fingerprint);
  });

  test('the chain that was accepted on one board is not expected on the other', async () => {
    await server.board.use(at('b'), 't');
    await server.facts.set('chain', {
      text: JSON.stringify({
        format: 'nimble-chain',
        version: 1,
        devices: [{ part: 'SP64', idcode: '0x1', irLength: 5 }],
      }),
    });
    expect((await server.project.expectedChain()).from).toBe('board');
    await server.board.use(at('a'), 't');
    expect(await server.project.expectedChain()).toMatchObject({ from: null, chain: null });
  });

  test('a ladder that was climbed without a pod is not shown once one answers', async () => {
    await server.board.use('ws://127.0.0.1:9', 't');
    await ended(server.desks.bench.diagnose());
    expect((await state()).ladder?.rungs[0]).toMatchObject({ name: 'pod', state: 'fail' });
    await server.board.use(at('a'), 't');
    expect((await state()).ladder).toBeNull();
  });
});

describe('another project', () => {
  test('sees neither checks nor choices nor failures of the first', async () => {
    await server.facts.set('keepChoice', {
      layout: 'two-images.layout.json',
      image: null,
      replaceGolden: false,
      rehearseBy: 'power',
      values: {},
    });
    await ended(server.desks.bench.scan());
    await ended(server.desks.load.load(DEFAULT_PLAN));
    expect((await state()).loadReport?.steps[0]?.checks.length).toBeGreaterThan(3);
    await server.store.projects.makeCurrent(otherId);
    const other = await state();
    expect([other.loadReport, other.flash, other.keepChoice.layout]).toEqual([null, null, null]);
    expect(other.kept?.project).toBe(lockhouseId);
    expect(other.jobs.filter(({ kind }) => kind === 'load' || kind === 'keep').some(({ isHere }) => isHere)).toBe(
      false,
    );
    expect((await server.store.logbook.list()).find(({ action }) => action === 'Load')?.project).toBe('Lockhouse');
    await server.store.projects.makeCurrent(lockhouseId);
    expect((await state()).keepChoice.layout).toBe('two-images.layout.json');
    await server.facts.set('keepChoice', null);
  });

  test('after the pod loaded by itself, the checks are those of that load', async () => {
    await ended(server.desks.load.load({ ...DEFAULT_PLAN, steps: [{ device: 0, source: { kind: 'build' } }] }));
    expect((await state()).loadReport?.steps[0]?.checks.find(({ name }) => name === 'part')?.state).toBe('stop');
    await ended(server.desks.load.stageAndRun(DEFAULT_PLAN.steps[0] as never));
    const report = (await state()).loadReport?.steps[0];
    expect([report?.source, report?.checks.find(({ name }) => name === 'part')?.state]).toEqual([
      expect.stringContaining('by the pod'),
      'warn',
    ]);
  });
});

describe('power that came back', () => {
  test('takes "no power" away from Bench by itself', async () => {
    a.setPower(false);
    await expect.poll(() => server.board.shown?.cable.referenceVolts, { timeout: 5000 }).toBe(0);
    await ended(server.desks.bench.scan());
    expect((await state()).scan?.problems[0]?.code).toBe('no-power');
    a.setPower(true);
    await expect.poll(async () => (await state()).scan?.problems.length, { timeout: 10_000 }).toBe(0);
  });
});

describe('a command beside the page', () => {
  test('while it works the board is not asked; afterwards it is, and what was done stands in history and logbook as the command’s', async () => {
    const client = await command('a');
    await expect.poll(async () => (await state()).usedBy, { timeout: 5000 }).toBe('nimble command');
    const read = readBitstream(probed.bitstream);
    if (!read.ok) throw new Error(read.error.message);
    const loaded = await loadBitstream(chainOn(client), read.value, null, unwatched, { verify: true });
    expect(loaded.ok && loaded.value.done).toBe(true);
    expect((await state()).running).toBeNull();
    await client.tell({
      kind: 'load',
      outcome: 'done',
      device: 1,
      part: 'CV25',
      fingerprint: probed.fingerprint,
      source: 'l.nbits',
      verified: true,
      chip: null,
      message: 'DONE is high.',
    });
    await client.release();
    await expect.poll(async () => (await state()).running?.fingerprint, { timeout: 10_000 }).toBe(probed.fingerprint);
    expect((await state()).usedBy).toBeNull();
    expect((await server.store.files.loads())[0]).toMatchObject({
      by: 'nimble command',
      fingerprint: probed.fingerprint,
      verified: true,
      source: 'l.nbits',
    });
    expect((await server.store.logbook.list())[0]).toMatchObject({
      action: 'Load',
      by: 'nimble command',
      outcome: 'done',
    });
    client.close();
  });

  test('what it wrote to the flash is what the flash is said to hold, and is told once however often the pod is found again', async () => {
    const client = await command('a');
    const read = readBitstream(probed.bitstream);
    if (!read.ok) throw new Error(read.error.message);
    const kept = await keepBitstream(chainOn(client), read.value, null, unwatched);
    expect(kept.ok).toBe(true);
    await client.tell({
      kind: 'flash',
      outcome: 'done',
      device: 1,
      part: 'CV25',
      fingerprint: probed.fingerprint,
      source: 'l.nbits',
      verified: true,
      chip: 'Ledger LR32',
      message: 'written',
    });
    await client.release();
    client.close();
    await expect.poll(async () => (await state()).kept?.by, { timeout: 10_000 }).toBe('nimble command');
    const entries = (await server.store.logbook.list()).length;
    await server.board.use(at('a'), 't');
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect((await server.store.logbook.list()).length).toBe(entries);
  });

  test('data that it wrote beside the image leaves what boots; what may have hit it does not', async () => {
    const boots = (await state()).kept;
    expect(boots).not.toBeNull();
    const said = {
      kind: 'flash',
      outcome: 'done',
      device: 1,
      part: 'CV25',
      fingerprint: null,
      source: 't.hex',
    } as const;
    const client = await command('a');
    await client.tell({ ...said, verified: true, leaves: true, chip: 'Ledger LR32', message: 'beside' });
    await expect.poll(async () => (await server.store.logbook.list())[0]?.message, { timeout: 10_000 }).toBe('beside');
    expect((await state()).kept).toEqual(boots);
    await client.tell({ ...said, verified: null, chip: 'Ledger LR32', message: 'erased' });
    await expect.poll(async () => (await server.store.logbook.list())[0]?.message, { timeout: 10_000 }).toBe('erased');
    await expect.poll(async () => (await state()).kept, { timeout: 10_000 }).toBeNull();
    await client.release();
    client.close();
  });
});

describe('a bitstream with debug cores that the project did not build', () => {
  test('is told from one that has none by its hub, and its cores are used once its map is given', async () => {
    await db('builds').where({ fingerprint: probed.fingerprint }).delete();
    const image = await server.store.files.addImage('f.nbits', probed.bitstream, {
      format: 'nbits',
      start: 0,
      end: probed.bitstream.length,
    });
    const load = () =>
      server.desks.load.load({ steps: [{ device: null, source: { kind: 'image', id: image } }], verify: false });
    await ended(load());
    expect((await state()).loadReport?.steps[0]?.after?.cores).toEqual({
      kind: 'unmapped',
      count: 2,
      fingerprint: probed.fingerprint,
    });
    // It is none of the project's builds, so nothing can be said of its age.
    expect((await state()).loadReport?.steps[0]?.checks.some(({ name }) => name === 'age')).toBe(false);
    expect((await state()).foreign).toEqual({ fingerprint: probed.fingerprint, map: null, name: null });
    await server.store.files.addProbeMap('f.probes.json', probed.probes as ProbeMap);
    await ended(load());
    expect((await state()).loadReport?.steps[0]?.after?.cores).toMatchObject({ kind: 'found' });
    expect((await state()).foreign?.map?.fingerprint).toBe(probed.fingerprint);
    const read = await server.desks.drive.driveNow({});
    expect(read.ok && Object.keys(read.value.reading.gauges)).toContain('lockhouse.state');
  });

  test('a design without a hub is said to have none', async () => {
    await ended(server.desks.load.load(DEFAULT_PLAN));
    expect((await state()).loadReport?.steps[0]?.after?.cores).toEqual({ kind: 'none' });
  });
});
