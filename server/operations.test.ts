// The server's operations from end to end, with a pod of its own, without a page.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import { benchTarget } from '../bench/index.ts';
import { servePod } from '../pod/index.ts';
import { readBitstream } from '../core/families/index.ts';
import { imageOf, writeImage } from '../core/images/index.ts';
import { emptyPlan } from '../core/probes/index.ts';
import { builtDemo, demoPlan, demoProject } from '../tests/support/demo.ts';
import { lockhouse } from '../tests/support/lockhouse.ts';
import { openDatabase } from './store/database.ts';
import type { Job } from './jobs/jobs.ts';
import { ALONE } from './store/index.ts';
import { DEFAULT_PLAN } from './board/index.ts';
import { workOf } from '../tests/support/work.ts';
import { assemble, type Server } from './assemble.ts';

let folder: string;
let server: Server;
let project: number;
let pod: Awaited<ReturnType<typeof servePod>>;
const { bench } = lockhouse();

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'nimble-ops-'));
  pod = await servePod(benchTarget(bench), { host: '127.0.0.1', port: 0, token: 't' });
  server = assemble(await openDatabase(join(folder, 'test.sqlite')));
  const { file, files } = demoProject();
  project = await server.store.projects.create('Lockhouse', [
    { name: 'nimble.json', text: JSON.stringify(file) },
    ...files,
  ]);
  await server.board.use(`ws://127.0.0.1:${pod.port}`, 't');
});
afterAll(async () => {
  server.board.hands().close();
  await pod.close();
  await server.close();
  rmSync(folder, { recursive: true });
});
beforeEach(() => expect(server.board.pod.state).toBe('connected'));

const build = async () => server.desks.design.build((await server.store.projects.current()) as never);

async function ended(id: number): Promise<Job> {
  const find = () => server.jobs.list.find((job) => job.id === id) as Job;
  await expect.poll(() => find().endedAt, { timeout: 60_000, interval: 20 }).not.toBeNull();
  return find();
}

const nbits = (bytes: Uint8Array) => {
  const read = readBitstream(bytes);
  if (!read.ok) throw new Error(read.error.message);
  return read.value;
};

describe('operations', () => {
  test('without a build there is nothing to load, keep or capture, and each says what to do', async () => {
    expect((await ended(server.desks.load.load(DEFAULT_PLAN))).problem).toMatchObject({
      code: 'no-build',
      tryNext: [expect.stringContaining('Design')],
    });
    expect((await ended(server.desks.keep.keep())).problem?.code).toBe('no-build');
    const armed = await server.desks.capture.capture({ recorder: 'passage', when: '', before: 0 });
    expect(armed.ok ? 'armed' : armed.error.code).toBe('no-build');
  });

  test('scan tells the state to all who listen', async () => {
    const states: (number | null)[] = [];
    const leave = server.state.listen(({ slice }) => {
      if (slice === 'chain') states.push(server.board.said.scan?.devices.length ?? null);
    });
    expect(await ended(server.desks.bench.scan())).toMatchObject({
      state: 'done',
      message: expect.stringContaining('3 devices'),
    });
    await expect.poll(() => states.at(-1), { timeout: 15_000 }).toBe(3);
    leave();
  });

  test('build, load, keep: the state knows what runs and what is kept', async () => {
    await server.store.projects.saveShelf(project, [{ name: 'passage', inBuild: true, plan: demoPlan() }]);
    expect((await ended(await build())).state).toBe('done');
    const { usable, stale } = await workOf(server);
    expect(stale).toEqual([]);
    expect(usable?.cores).toEqual(['recorder passage', 'panel water']);
    expect((await ended(server.desks.load.load(DEFAULT_PLAN))).message).toMatch(/^DONE is high/);
    expect((await workOf(server)).running?.fingerprint).toBe(usable?.fingerprint);
    expect((await ended(server.desks.keep.keep())).message).toMatch(/boots by itself/);
    const state = await workOf(server);
    expect([state.kept?.fingerprint, state.running?.status?.source]).toEqual([usable?.fingerprint, 'flash']);
  });

  test('a refusal before the first erase leaves what is known to be kept', async () => {
    const { kept } = await workOf(server);
    await ended(server.desks.bench.setPower(false));
    expect((await ended(server.desks.keep.keep())).problem?.code).toBe('no-power');
    expect((await workOf(server)).kept).toEqual(kept);
    await ended(server.desks.bench.setPower(true));
    await expect
      .poll(async () => (await workOf(server)).running?.fingerprint, { timeout: 10_000 })
      .toBe(kept?.fingerprint);
  });

  test('the cable is free while a capture waits', async () => {
    const armed = await server.desks.capture.capture({ recorder: 'passage', when: 'want_upper == 1', before: 8 });
    if (!armed.ok) throw new Error(armed.error.message);
    await expect.poll(() => server.armed.list[0]?.status, { timeout: 15_000 }).toBe('waiting');
    expect((server.armed.list[0]?.measuredHertz ?? 0) / 12e6, 'the clock is measured while it waits').toBeCloseTo(1, 2);
    const driven = await server.desks.drive.driveNow({ 'lockhouse.level_trim': 7n });
    expect(driven.ok && driven.value.reading.levers['lockhouse.level_trim']?.value).toBe(7n);
    expect((await ended(server.desks.bench.scan())).state).toBe('done');
    // What the board says just before is kept with the record, on its own time.
    await server.desks.line.sayNow(new TextEncoder().encode('s'));
    await expect.poll(() => server.lines.state.received).toBeGreaterThan(30);
    bench.operate('B0', true);
    expect((await ended(armed.value)).message).toMatch(/1,024 samples of 7 signals/);
    bench.operate('B0', false);
    expect(server.armed.list).toEqual([]);
    const listed = await server.store.captures.list(project);
    expect(listed.captures[0]).toMatchObject({ condition: 'want_upper == 1', samples: 1024, recorder: 'passage' });
    const latest = await server.store.captures.get(project, listed.captures[0]?.id ?? 0);
    expect([latest?.capture.data.bytes.length, listed.kept.count]).toEqual([listed.captures[0]?.bytes, 1]);
    expect(latest?.capture).toMatchObject({
      triggerIndex: 8,
      sampleRate: 12e6,
      condition: 'want_upper == 1',
      design: 'Lockhouse',
      line: {
        within: expect.any(Number),
        lines: expect.arrayContaining([{ at: expect.any(Number), way: 'in', text: 'level 0000 cm' }]),
      },
      plan: { name: 'passage', depth: 1024, comparators: 2, signals: expect.arrayContaining(['lockhouse.level']) },
    });
  });

  test('a capture that waits can be cancelled, and a condition that cannot be armed is refused at once', async () => {
    const refused = await server.desks.capture.capture({ recorder: 'passage', when: 'nothing == 1', before: 0 });
    expect(refused.ok ? 'armed' : refused.error.code).toBe('trigger-signal');
    const armed = await server.desks.capture.capture({ recorder: 'passage', when: 'state == 7', before: 0 });
    if (!armed.ok) throw new Error(armed.error.message);
    await expect.poll(() => server.armed.list[0]?.status, { timeout: 15_000 }).toBe('waiting');
    server.jobs.cancel(armed.value);
    expect(await ended(armed.value)).toMatchObject({
      state: 'cancelled',
      message: expect.stringContaining('disarmed'),
    });
  });

  test('a connection that breaks while a recorder waits is waited for; what it took meanwhile is fetched', async () => {
    const armed = await server.desks.capture.capture({ recorder: 'passage', when: 'want_upper == 1', before: 8 });
    if (!armed.ok) throw new Error(armed.error.message);
    await expect.poll(() => server.armed.list[0]?.status, { timeout: 15_000 }).toBe('waiting');
    await server.board
      .hands()
      .setFault('pod-lost', true)
      .catch(() => {});
    await expect.poll(() => server.armed.list[0]?.status, { timeout: 15_000 }).toBe('unreachable');
    bench.operate('B0', true);
    expect((await ended(armed.value)).message).toMatch(/1,024 samples of 7 signals/);
    bench.operate('B0', false);
    expect(await server.facts.get('armed')).toBeNull();
  });

  test('a board that was switched off under an armed recorder has forgotten it, and that is said; the condition is as it was', async () => {
    const armed = await server.desks.capture.capture({ recorder: 'passage', when: 'state == 7', before: 0 });
    if (!armed.ok) throw new Error(armed.error.message);
    await expect.poll(() => server.armed.list[0]?.status, { timeout: 15_000 }).toBe('waiting');
    await ended(server.desks.bench.setPower(false));
    await ended(server.desks.bench.setPower(true));
    expect((await ended(armed.value)).problem).toMatchObject({
      code: 'armed-lost',
      message: expect.stringContaining('passage'),
      tryNext: expect.arrayContaining([expect.stringContaining('arm again')]),
    });
    expect([server.armed.list, await server.facts.get('armed')]).toEqual([[], null]);
    const { kept } = await workOf(server);
    await expect
      .poll(async () => (await workOf(server)).running?.fingerprint, { timeout: 10_000 })
      .toBe(kept?.fingerprint);
  });

  test('what was armed when the server ended is gone back to; a trigger by hand, segments, and until one differs', async () => {
    await server.facts.set('armed', [
      {
        recorder: 'passage',
        when: 'want_upper == 1',
        keep: '',
        before: 8,
        segments: 1,
        sampleRate: 12e6,
        standing: null,
      },
    ]);
    const idle = await server.desks.capture.resumeCapture('passage');
    expect(idle.ok && (await ended(idle.value)).problem?.code).toBe('armed-lost');
    expect((await server.desks.capture.resumeCapture('passage')).ok).toBe(false);
    const divided = await server.desks.capture.capture({ recorder: 'passage', when: '', before: 0, segments: 4 });
    expect(divided.ok ? null : divided.error.code).toBe('capture-segments');
    const armed = await server.desks.capture.capture({ recorder: 'passage', when: 'state == 7', before: 100 });
    if (!armed.ok) throw new Error(armed.error.message);
    await expect.poll(() => server.armed.list[0]?.status, { timeout: 15_000 }).toBe('waiting');
    const twice = await server.desks.capture.capture({ recorder: 'passage', when: '', before: 0 });
    expect(twice.ok ? null : twice.error.code).toBe('is-armed');
    expect((await server.desks.capture.triggerNow('passage')).ok).toBe(true);
    expect((await ended(armed.value)).message).toMatch(/1,024 samples/);
    const [latest] = (await server.store.captures.list(project)).captures;
    await server.store.captures.setReference(project, latest?.id ?? 0);
    const until = await server.desks.capture.capture({
      recorder: 'passage',
      when: 'want_upper == 1',
      before: 100,
      repeat: 'different',
    });
    if (!until.ok) throw new Error(until.error.message);
    await expect.poll(() => server.armed.list[0]?.status, { timeout: 15_000 }).toBe('waiting');
    bench.operate('B0', true);
    expect((await ended(until.value)).message).toMatch(/differs from the reference, after 0/);
    bench.operate('B0', false);
    await server.store.captures.setReference(project, null);
  });

  test('a plan is priced and taken along only as it was built', async () => {
    const cost = await server.desks.probe.planCostNow(demoPlan(), emptyPlan);
    expect(cost.ok && [cost.value.total.luts > 300, cost.value.cores.map(({ name }) => name)]).toEqual([
      true,
      ['passage', 'water'],
    ]);
    const deep = { ...demoPlan(), recorders: demoPlan().recorders.map((one) => ({ ...one, depth: 8192 })) };
    const cheaper = await server.desks.probe.cheaperPlanNow(deep, emptyPlan);
    expect(cheaper.ok && cheaper.value?.change).toMatch(/^passage: [\d,]+ samples deep$/);
    const taken = await server.desks.probe.takeAlongNow('design');
    expect(taken.ok && taken.value.verilog).toContain(`build ${(await workOf(server)).usable?.fingerprint}`);
    await server.store.projects.saveShelf(project, []);
    const stale = await server.desks.probe.takeAlongNow('design');
    expect(stale.ok ? null : stale.error.code).toBe('stale-build');
    await server.store.projects.saveShelf(project, [{ name: 'passage', inBuild: true, plan: demoPlan() }]);
  });

  test('a build that fails leaves the last good one usable', async () => {
    const before = (await workOf(server)).usable?.fingerprint;
    await server.store.projects.save(project, 'rtl/tick.v', 'module tick(; endmodule');
    const job = await ended(await build());
    expect(job).toMatchObject({ state: 'failed', problem: { code: 'build-failed' } });
    const state = await workOf(server);
    expect([state.latest?.good, state.usable?.fingerprint]).toEqual([false, before]);
    const tick = demoProject().files.find((file) => file.name === 'rtl/tick.v');
    await server.store.projects.save(project, 'rtl/tick.v', tick?.text ?? '');
  });

  test('power off forgets what runs; power on boots what was kept', async () => {
    await ended(server.desks.bench.setPower(false));
    expect((await workOf(server)).running).toBeNull();
    expect((await ended(server.desks.load.load(DEFAULT_PLAN))).problem?.code).toBe('no-power');
    await ended(server.desks.bench.setPower(true));
    const { kept } = await workOf(server);
    await expect
      .poll(async () => (await workOf(server)).running?.fingerprint, { timeout: 10_000 })
      .toBe(kept?.fingerprint);
    expect((await ended(server.desks.keep.rehearse())).message).toMatch(/^The board boots by itself/);
  });

  test('a memory file goes into the flash by one choice, at the addresses it carries, and nothing else is touched', async () => {
    const hex = new TextEncoder().encode(':020000040030CA\n:0400000001020304F2\n:02100000AABB89\n:00000001FF\n');
    // The image that boots, and the block below the file.
    const sums = async () => [
      (await ended(server.desks.keep.flashStep({ what: 'crc', address: 0, length: 0x60000 }))).message,
      (await ended(server.desks.keep.flashStep({ what: 'crc', address: 0x2f0000, length: 0x10000 }))).message,
    ];
    const before = await sums();
    const id = await server.store.files.addImage('table.hex', hex, {
      format: 'intel-hex',
      start: 0x300000,
      end: 0x301002,
    });
    await server.facts.set('keepChoice', { ...ALONE, image: { id, name: 'table.hex', at: 0 } });
    const boots = await server.facts.get('kept');
    expect(boots).not.toBeNull();
    const kept = await ended(server.desks.keep.keep());
    expect(kept).toMatchObject({
      state: 'done',
      message: expect.stringMatching(/^\w+ LR32: 0 blocks erased, 2 pages written and verified\.$/),
    });
    expect((await server.store.logbook.list())[0]?.inputs).toMatchObject({ 'what was written': 'table.hex' });
    expect((await ended(server.desks.keep.flashStep({ what: 'read', address: 0x300000, length: 0x1002 }))).state).toBe(
      'done',
    );
    const held = server.board.said.flashRead?.bytes ?? new Uint8Array(0);
    expect([...held.slice(0, 4), ...held.slice(0x1000, 0x1002), held[4]]).toEqual([1, 2, 3, 4, 0xaa, 0xbb, 0xff]);
    expect(await sums()).toEqual(before);
    // The image that boots is what it was, so what is said of it stays.
    expect(await server.facts.get('kept')).toEqual(boots);
    await server.store.files.removeImage(id);
    expect((await ended(server.desks.keep.keep())).problem).toMatchObject({
      code: 'no-image',
      message: 'The file table.hex was removed.',
    });
    await server.facts.set('keepChoice', ALONE);
  });

  test('data laid over the image is warned of, and afterwards nobody says that it boots', async () => {
    const id = await server.store.files.addImage('over.bin', Uint8Array.of(1, 2, 3), {
      format: 'binary',
      start: 0,
      end: 3,
    });
    await server.facts.set('keepChoice', { ...ALONE, image: { id, name: 'over.bin', at: 0x100 } });
    await ended(server.desks.keep.lookAtFlash());
    expect(server.board.said.flash?.checks.find(({ name }) => name === 'replaced')).toMatchObject({
      state: 'warn',
      message: expect.stringContaining('would be written over by "over.bin" at 0x100'),
    });
    expect((await ended(server.desks.keep.keep())).state).toBe('done');
    expect(await server.facts.get('kept')).toBeNull();
  });

  test('a bitstream as a memory file at 0x0 is what boots; elsewhere it is data', async () => {
    const image = imageOf(nbits(builtDemo().bitstream).stream);
    const hex = writeImage(image, 'intel-hex', []);
    if (!hex.ok) throw new Error(hex.error.message);
    const id = await server.store.files.addImage('board.hex', hex.value, {
      format: 'intel-hex',
      start: 0,
      end: nbits(builtDemo().bitstream).stream.length,
    });
    await server.facts.set('keepChoice', { ...ALONE, image: { id, name: 'board.hex', at: 0 } });
    const kept = await ended(server.desks.keep.keep());
    expect(kept).toMatchObject({ state: 'done', message: expect.stringContaining('boots by itself') });
    expect(await server.facts.get('kept')).toMatchObject({ layout: 'board.hex', fingerprint: builtDemo().fingerprint });
    await server.facts.set('keepChoice', ALONE);
  });

  test('without a board description it is said that nothing guards the write', async () => {
    const here = server.board.said.flash;
    await ended(server.desks.keep.lookAtFlash());
    expect(server.board.said.flash?.checks.find(({ name }) => name === 'chip')).toMatchObject({ state: 'pass' });
    const own = (await server.store.projects.current())?.id ?? 0;
    const { file, files } = demoProject();
    await server.store.projects.create('Bare', [
      { name: 'nimble.json', text: JSON.stringify({ ...file, board: undefined }) },
      ...files.filter(({ name }) => !name.endsWith('.board.json')),
    ]);
    await ended(await build());
    await ended(server.desks.keep.lookAtFlash());
    expect(server.board.said.flash?.checks.find(({ name }) => name === 'chip')).toMatchObject({
      state: 'warn',
      message: expect.stringContaining('Nothing says which chip should be here'),
    });
    await server.store.projects.makeCurrent(own);
    server.board.said.flash = here;
  });

  test('a file of somebody else’s is loaded, or refused by its name', async () => {
    const refused = await ended(
      server.desks.load.load({
        steps: [
          {
            device: null,
            source: {
              kind: 'image',
              id: await server.store.files.addImage('photo.nbits', Uint8Array.of(1, 2, 3), {
                format: 'nbits',
                start: 0,
                end: 3,
              }),
            },
          },
        ],
        verify: false,
      }),
    );
    expect(refused.message).toMatch(/^photo\.nbits: This file is no \.nbits bitstream/);
    const entries = await server.store.logbook.list();
    expect(entries[0]).toMatchObject({
      action: 'Load',
      outcome: 'failed',
      board: 'Lockhouse',
      inputs: { file: 'photo.nbits' },
    });
  });

  test('what is done by hand stands in the logbook with its project too', async () => {
    expect((await server.desks.bench.drivePin(1, 'P26', null)).ok).toBe(true);
    await server.desks.bench.releasePins();
    const entries = (await server.store.logbook.list()).slice(0, 2);
    expect(entries.map(({ action, project: name }) => [action, name])).toEqual([
      ['Release pins', 'Lockhouse'],
      ['Drive pin', 'Lockhouse'],
    ]);
  });
});
