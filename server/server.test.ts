import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Knex } from 'knex';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { builtDemo, demoPlan, demoProject } from '../tests/support/demo.ts';
import { emptyPlan } from '../core/probes/index.ts';
import { fail, ok, ProblemError, problem } from '../core/result.ts';
import { DesignThread } from './threads/design-thread.ts';
import { SvfDesk } from './desks/svf-desk.ts';
import { BenchStore } from './store/bench-store.ts';
import { Builds, staleBecause } from './store/builds.ts';
import { Captures } from './store/captures.ts';
import { openDatabase } from './store/database.ts';
import { FactStore } from './store/facts.ts';
import { Jobs } from './jobs/jobs.ts';
import { Logbook } from './store/logbook.ts';
import { Projects } from './store/projects.ts';

let folder: string;
let db: Knex;

const jobsWith = (logbook: Logbook) =>
  new Jobs({ logbook, changed: () => {}, where: async () => ({ boardKey: '', project: null, projectName: '' }) });

beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'nimble-db-'));
  vi.stubEnv('NIMBLE_HOME', folder);
  db = await openDatabase(join(folder, 'test.sqlite'));
});
afterEach(async () => {
  vi.unstubAllEnvs();
  await db.destroy();
  rmSync(folder, { recursive: true });
});

describe('the database', () => {
  test('a file is saved over the version it was read at, and over no other', async () => {
    const projects = new Projects(db);
    const id = await projects.create('Two tabs', [{ name: 'rtl/a.v', text: 'module a; endmodule\n' }]);
    const read = (await projects.files(id))[0]?.version ?? '';
    expect(await projects.versions(id)).toEqual({ 'rtl/a.v': read });
    const first = await projects.save(id, 'rtl/a.v', 'module a(input x); endmodule\n', read);
    expect(first).toMatchObject({ ok: true });
    // The other tab still has what was there before.
    expect(await projects.save(id, 'rtl/a.v', 'module a(input y); endmodule\n', read)).toMatchObject({
      error: { code: 'file-changed', message: '"rtl/a.v" was changed elsewhere after it was read here.' },
    });
    expect(await projects.text(id, 'rtl/a.v')).toBe('module a(input x); endmodule\n');
    expect(await projects.versions(id)).toEqual({ 'rtl/a.v': first.ok ? first.value : null });
    // Saved over it when that is what was asked for.
    expect(await projects.save(id, 'rtl/a.v', 'module a(input y); endmodule\n')).toMatchObject({ ok: true });
    expect(await projects.text(id, 'rtl/a.v')).toBe('module a(input y); endmodule\n');
    // Files of an older release have no digest: they get theirs when it is asked for.
    await db('files').where({ project: id }).update({ digest: null });
    const [old] = await projects.files(id);
    await db('files').where({ project: id }).update({ digest: null });
    expect(await projects.save(id, 'rtl/a.v', 'module a; endmodule\n', old?.version)).toEqual({
      ok: true,
      value: read,
    });
  });

  test('is made by migrations, and opening it again changes nothing', async () => {
    const again = await openDatabase(join(folder, 'test.sqlite'));
    expect(await again.migrate.currentVersion({})).toBeTruthy();
    await again.destroy();
  });

  test('a project keeps its files and plan; what changed since a build is named', async () => {
    const projects = new Projects(db);
    const builds = new Builds(db);
    const id = await projects.create('Lockhouse', [
      { name: 'nimble.json', text: JSON.stringify(demoProject().file) },
      ...demoProject().files,
    ]);
    const result = builtDemo();
    await builds.add(id, await projects.digests(id), 12, result);
    expect(staleBecause(await builds.latest(id), await projects.digests(id))).toEqual([]);
    expect(await projects.save(id, 'rtl/tick.v', 'module tick; endmodule')).toMatchObject({ ok: true });
    expect(await projects.save(id, '../tick.v', '')).toMatchObject({ error: { code: 'no-file' } });
    await projects.saveShelf(id, [{ name: 'passage', inBuild: true, plan: demoPlan() }]);
    expect(staleBecause(await builds.latest(id), await projects.digests(id)).map((edit) => edit.what)).toEqual([
      'probe plan',
      'rtl/tick.v',
    ]);
    const row = await builds.byFingerprint(id, result.fingerprint);
    expect(Buffer.from((await builds.bitstream(row?.id ?? 0)) ?? []).equals(Buffer.from(result.bitstream))).toBe(true);
  });

  test('projects are opened, copied, renamed by their own file, and deleted with all they have', async () => {
    const projects = new Projects(db);
    const settings = { name: 'nimble.json', text: JSON.stringify(demoProject().file) };
    const first = await projects.create('Lockhouse', [settings, ...demoProject().files]);
    const copy = await projects.duplicate(first, 'Second');
    expect((await projects.current())?.id).toBe(copy);
    const opened = await projects.open(copy ?? 0);
    expect(opened.ok && opened.value.file.name).toBe('Second');
    await projects.makeCurrent(first);
    expect((await projects.current())?.id).toBe(first);
    await projects.change(first, (file) => ({ ...file, name: 'Renamed' }));
    expect((await projects.list()).map((p) => p.name)).toEqual(['Renamed', 'Second']);
    await new Builds(db).add(first, {}, 1, builtDemo());
    expect(await projects.remove(first)).toBe(true);
    expect((await db('builds').count('id as n'))[0]).toEqual({ n: 0 });
    expect((await db('files').where({ project: first }).count('name as n'))[0]).toEqual({ n: 0 });
    expect(await projects.remove(first)).toBe(false);
  });

  test('files are put in together or not at all; names that lead elsewhere and nimble.json are safe', async () => {
    const projects = new Projects(db);
    const id = await projects.create('x', [
      { name: 'nimble.json', text: JSON.stringify(demoProject().file) },
      { name: 'a.v', text: '1' },
    ]);
    expect(
      (
        await projects.put(id, [
          { name: 'b.v', text: '2' },
          { name: '../c.v', text: '3' },
        ])
      ).ok,
    ).toBe(false);
    expect((await projects.files(id)).map((f) => f.name)).toEqual(['a.v', 'nimble.json']);
    expect(
      (
        await projects.put(id, [
          { name: 'a.v', text: 'new' },
          { name: 'rtl/b.v', text: '2' },
        ])
      ).ok,
    ).toBe(true);
    expect((await projects.renameFile(id, 'a.v', 'rtl/b.v')).ok).toBe(false);
    expect((await projects.renameFile(id, 'nimble.json', 'x.json')).ok).toBe(false);
    expect((await projects.renameFile(id, 'a.v', 'rtl/a.v')).ok).toBe(true);
    expect(await projects.removeFile(id, 'nimble.json')).toBe(false);
    expect(await projects.removeFile(id, 'rtl/a.v')).toBe(true);
    expect((await projects.files(id)).map((f) => f.name)).toEqual(['nimble.json', 'rtl/b.v']);
  });

  test('an accepted message is marked in the newest build at once', async () => {
    const projects = new Projects(db);
    const builds = new Builds(db);
    const { file, files } = demoProject();
    const id = await projects.create('x', [{ name: 'nimble.json', text: JSON.stringify(file) }, ...files]);
    await builds.add(id, await projects.digests(id), 1, builtDemo());
    const [message] = (await builds.latest(id))?.details.messages ?? [];
    if (!message) throw new Error('the demo has no message');
    const line =
      files
        .find((f) => f.name === message.file)
        ?.text.split('\n')
        [message.line - 1]?.trim() ?? '';
    await projects.change(id, (settings) => ({
      ...settings,
      accepted: [
        { code: message.code, file: message.file, message: message.message, line, reason: 'a lever drives it' },
      ],
    }));
    const opened = await projects.open(id);
    if (opened.ok) await builds.rejudge(id, opened.value);
    expect((await builds.latest(id))?.details.messages[0]?.accepted).toBe('a lever drives it');
    expect(staleBecause(await builds.latest(id), await projects.digests(id))).toEqual([]);
  });

  test('old builds make room, the newest stay', async () => {
    const projects = new Projects(db);
    const builds = new Builds(db);
    const id = await projects.create('x', []);
    const result = { ...builtDemo(), bitstream: new Uint8Array(1) };
    for (let i = 0; i < 25; i++) await builds.add(id, {}, i, result);
    expect((await db('builds').count('id as n'))[0]).toEqual({ n: 20 });
    expect((await builds.latest(id))?.milliseconds).toBe(24);
  });

  test('files make room for newer ones: five of a name, and never what is in use', async () => {
    const files = new BenchStore(db);
    const added: number[] = [];
    for (let i = 0; i < 7; i++)
      added.push(await files.addImage('table.hex', Uint8Array.of(i), { format: 'intel-hex', start: 0, end: 1 }));
    const other = await files.addImage('other.bin', Uint8Array.of(9), { format: 'binary', start: 0, end: 1 });
    // The oldest is chosen for Keep: it stays beside the newest five.
    expect(await files.makeRoom(new Set(added.slice(0, 1)))).toEqual(['table.hex']);
    expect((await files.images()).map(({ id }) => id)).toEqual([other, ...added.slice(2).reverse(), added[0]]);
    expect(await files.makeRoom(new Set())).toEqual(['table.hex']);
    expect(await files.makeRoom(new Set())).toEqual([]);
    for (let i = 0; i < 200; i++)
      await files.addImage(`file ${i}.bin`, Uint8Array.of(i), { format: 'binary', start: 0, end: 1 });
    expect(await files.makeRoom(new Set())).toEqual(['other.bin', ...Array(5).fill('table.hex')]);
    expect(await files.images()).toHaveLength(200);
  });

  test('vector files that the list no longer shows are deleted with their bytes, not the one that is played', async () => {
    const desk = new SvfDesk(db, () => undefined);
    const one = async function* () {
      yield new TextEncoder().encode('STATE RESET;\n');
    };
    const first = await desk.add('first.svf', one());
    desk.begin(first, null);
    for (let i = 0; i < 100; i++) expect((await desk.add(`${i}.svf`, one())).dropped).toEqual([]);
    expect((await desk.add('100.svf', one())).dropped).toEqual(['0.svf']);
    expect(desk.read(first.id)).not.toBeNull();
    expect(desk.read(first.id + 1)).toBeNull();
    desk.end(null, 'ended');
    expect((await desk.add('101.svf', one())).dropped).toEqual(['1.svf', 'first.svf']);
    expect(await desk.files()).toHaveLength(100);
  });

  test('a capture comes back bit for bit', async () => {
    const id = await new Projects(db).create('x', []);
    const captures = new Captures(db);
    const capture = {
      recorder: 'r',
      fingerprint: '0',
      condition: 'a == 1',
      signals: [],
      samples: 4,
      sampleBits: 7,
      triggerIndex: 1,
      sampleRate: 12e6,
      data: { length: 28, bytes: Uint8Array.of(1, 2, 3, 4) },
    };
    const at = await captures.add(id, capture);
    expect((await captures.get(id, at))?.capture).toEqual(capture);
    expect(await captures.get(id + 1, at)).toBeNull();
  });

  test('facts are kept, replaced and forgotten, each for its own board, chain and project', async () => {
    let whom = { board: 'ws://a A', chain: 'one two' as string | null, project: 1 as number | null };
    const facts = new FactStore(db, async () => whom);
    const held = (fingerprint: string) => ({ fingerprint, chip: 'b', time: 'c', layout: null, project: 1, by: null });
    expect(await facts.get('kept')).toBeNull();
    await facts.set('kept', held('a'));
    await facts.set('kept', held('d'));
    expect((await facts.get('kept'))?.fingerprint).toBe('d');
    whom = { ...whom, board: 'ws://b A' };
    expect(await facts.get('kept')).toBeNull();
    // Behind the same pod stands another board: what answers there is another chain.
    whom = { ...whom, board: 'ws://a A', chain: 'three' };
    expect(await facts.get('kept')).toBeNull();
    whom = { ...whom, chain: null };
    expect((await facts.get('kept'))?.fingerprint).toBe('d');
    await facts.set('keepChoice', {
      layout: 'x.layout.json',
      image: null,
      replaceGolden: true,
      rehearseBy: 'power',
      values: {},
    });
    whom = { ...whom, project: 2 };
    expect(await facts.get('keepChoice')).toBeNull();
    whom = { ...whom, project: 1 };
    expect((await facts.get('keepChoice'))?.layout).toBe('x.layout.json');
    await facts.forgetProject(1);
    expect(await facts.get('keepChoice')).toBeNull();
    await facts.set('kept', null);
    expect(await facts.get('kept')).toBeNull();
  });
});

describe('jobs', () => {
  const spec = { kind: 'scan', title: 'Scan', board: 'b' } as const;

  test('run one after another in a lane, write the logbook, and survive their own defects', async () => {
    const logbook = new Logbook(db);
    const jobs = jobsWith(logbook);
    const order: string[] = [];
    const slow = jobs.start('cable', {
      ...spec,
      work: async (_, note) => {
        note({ build: 'abc' });
        await new Promise((r) => setTimeout(r, 30));
        order.push('slow');
        return ok('fine');
      },
    });
    const quick = jobs.start('cable', {
      ...spec,
      work: async () => {
        order.push('quick');
        return fail(problem('no', 'No.', 'Try.'));
      },
    });
    const broken = jobs.start('cable', {
      ...spec,
      work: async () => {
        throw new ProblemError(problem('pod-lost', 'Gone.'));
      },
    });
    expect((await slow.ended).state).toBe('done');
    expect((await quick.ended).problem?.code).toBe('no');
    expect((await broken.ended).state).toBe('interrupted');
    expect(order).toEqual(['slow', 'quick']);
    const entries = await logbook.list();
    expect(entries.map((e) => e.outcome)).toEqual(['interrupted', 'failed', 'done']);
    expect(entries[2]?.inputs).toEqual({ build: 'abc' });
  });

  test('a cancel is heard at the next safe point; one that ended cannot be cancelled', async () => {
    const jobs = jobsWith(new Logbook(db));
    const { id, ended } = jobs.start('cable', {
      ...spec,
      work: async (watch) => {
        while (!watch.cancelled()) await new Promise((r) => setTimeout(r, 5));
        return fail(problem('cancelled', 'Cancelled.'));
      },
    });
    expect(jobs.cancel(id)).toBe(true);
    expect((await ended).state).toBe('cancelled');
    expect(jobs.cancel(id)).toBe(false);
  });

  test('what was running when the server died is marked', async () => {
    const logbook = new Logbook(db);
    await logbook.open('Load', 'b', {});
    await logbook.markInterrupted();
    expect((await logbook.list())[0]?.outcome).toBe('interrupted');
  });
});

describe('the build thread', () => {
  test('builds twice with progress, to the same bytes as in this thread', async () => {
    const runner = new DesignThread();
    const phases: string[] = [];
    const inputs = { project: demoProject(), plan: demoPlan() };
    const watch = { report: ({ phase }: { phase: string }) => void phases.push(phase), cancelled: () => false };
    const first = await runner.build(inputs, watch);
    const second = await runner.build(inputs, watch);
    expect(phases).toContain('Optimising');
    expect(first.fingerprint).toBe(second.fingerprint);
    expect(Buffer.from(first.bitstream ?? []).equals(Buffer.from(builtDemo(demoPlan()).bitstream))).toBe(true);
    await expect(runner.build(inputs, { report: () => {}, cancelled: () => true })).rejects.toBeInstanceOf(
      ProblemError,
    );
    expect((await runner.build(inputs, watch)).fingerprint, 'a thread that was ended is followed by another').toBe(
      first.fingerprint,
    );
  });

  test('of plans that change faster than they are priced the newest counts; what is wrong comes back as what it is', async () => {
    const runner = new DesignThread();
    const room = { luts: 100, registers: 100, blockRams: 1 };
    const project = demoProject();
    const priced = { plan: emptyPlan, others: emptyPlan, signals: [], room, project, whole: room, key: 'one' };
    const [first, older, newer] = [runner.cost(priced), runner.cost(priced), runner.cost(priced)];
    expect((await first).total).toEqual({ luts: 0, registers: 0, blockRams: 0 });
    await expect(older).rejects.toMatchObject({ problem: { code: 'superseded' } });
    expect((await newer).total).toEqual({ luts: 0, registers: 0, blockRams: 0 });
    await expect(
      runner.draw('k', { ...project, files: [{ name: 'a.v', text: 'modle' }] }, { kind: 'cone', signal: 'x' }),
    ).rejects.toMatchObject({ problem: { code: 'not-understood' } });
  });
});
