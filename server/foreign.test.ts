// A part that nothing is built for here, behind the server: taken along, loaded by its makers' SVF, driven, captured.
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Bench, benchTarget, readBenchFile } from '../bench/index.ts';
import { readPlanFile } from '../core/probes/index.ts';
import { servePod } from '../pod/index.ts';
import { marrowSvf } from '../scripts/marrow/index.ts';
import { workOf } from '../tests/support/work.ts';
import { assemble, type Server } from './assemble.ts';
import { DEFAULT_PLAN } from './board/index.ts';
import type { Job } from './jobs/jobs.ts';
import { openDatabase } from './store/database.ts';

const DESK = 'demo/marrow';
let folder: string;
let server: Server;
let close = async () => {};

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'nimble-foreign-'));
  const file = readBenchFile(readFileSync('demo/benches/marrow.bench.json', 'utf8'), 'marrow.bench.json');
  if (!file.ok) throw new Error(file.error.message);
  const target = benchTarget(new Bench(file.value));
  const pod = await servePod(target, { host: '127.0.0.1', port: 0, token: 't' });
  server = assemble(await openDatabase(join(folder, 'test.sqlite')));
  const names = readdirSync(DESK, { recursive: true }).map(String);
  const files = names
    .filter((name) => /\.(json|v|csv|bsd)$/.test(name) && !name.startsWith('plans'))
    .map((name) => ({ name, text: readFileSync(join(DESK, name), 'utf8') }));
  const project = await server.store.projects.create('Tide lamp', files);
  const plan = readPlanFile(readFileSync(join(DESK, 'plans/tide.plan.json'), 'utf8'), 'tide.plan.json');
  if (!plan.ok) throw new Error(plan.error.message);
  await server.store.projects.saveShelf(project, [{ name: 'tide', inBuild: true, plan: plan.value.plan }]);
  await server.board.use(`ws://127.0.0.1:${pod.port}`, 't');
  close = async () => {
    server.board.hands().close();
    await pod.close();
    await server.close();
    target.stop();
    rmSync(folder, { recursive: true });
  };
});
afterAll(() => close());

async function ended(id: number): Promise<Job> {
  const find = () => server.jobs.list.find((job) => job.id === id);
  await expect.poll(() => find()?.endedAt ?? null, { timeout: 60_000, interval: 20 }).not.toBeNull();
  const job = find();
  if (!job) throw new Error(`no job ${id}`);
  return job;
}

test('from the scan to a capture', async () => {
  await ended(server.desks.bench.scan());
  expect(server.board.said.scan?.devices.map(({ part }) => part)).toEqual(['MW40']);
  const current = await server.store.projects.current();
  if (!current) throw new Error('no project');
  const built = await ended(server.desks.design.build(current));
  expect([built.state, built.message]).toEqual(['done', expect.stringContaining('take it along under Probe')]);
  // There is no stream to load; what to do is said.
  expect((await ended(server.desks.load.load(DEFAULT_PLAN))).problem).toMatchObject({ code: 'foreign-build' });

  const [design, wrapper] = [
    await server.desks.probe.takeAlongNow('design'),
    await server.desks.probe.takeAlongNow('wrapper'),
  ];
  if (!design.ok || !wrapper.ok) throw new Error('nothing to take along');
  expect([design.value.name, wrapper.value.name]).toEqual(['tide_lamp_probed.v', 'tide_lamp_on_board.v']);
  const svf = marrowSvf({
    sources: [{ name: 'probed.v', text: design.value.verilog }],
    top: 'tide_lamp_probed',
    pins: readFileSync(join(DESK, 'pins.csv'), 'utf8'),
  });
  if (!svf.ok) throw new Error(svf.error.message);
  await server.board.look();
  expect((await workOf(server)).running).toMatchObject({ done: false, fingerprint: null, status: null });

  const pieces = (async function* () {
    yield new TextEncoder().encode(svf.value);
  })();
  const { id } = await server.svf.add('tide.svf', pieces);
  const played = await ended(server.desks.bench.playFile({ file: id, device: null, goOn: false, pauseAt: null }));
  expect(played).toMatchObject({ state: 'done' });
  const { running, usable } = await workOf(server);
  expect(running).toMatchObject({ done: true, status: null, fingerprint: usable?.fingerprint });

  const captured = await server.desks.capture.capture({ recorder: 'tide', when: '', before: 0 });
  if (!captured.ok) throw new Error(captured.error.message);
  const job = await ended(captured.value);
  expect([job.state, job.message]).toEqual(['done', expect.stringMatching(/256 samples/)]);
}, 120_000);
