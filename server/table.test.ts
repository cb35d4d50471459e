// Drive from end to end, without a page: the plan for a table, the table on the board, and a clock that is stepped.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { benchTarget } from '../bench/index.ts';
import { servePod } from '../pod/index.ts';
import { lockhouse } from '../tests/support/lockhouse.ts';
import { endedJob } from '../tests/support/work.ts';
import { assemble, type Server } from './assemble.ts';
import { openDatabase } from './store/database.ts';

let folder: string;
let server: Server;
let pod: Awaited<ReturnType<typeof servePod>>;
let project: { readonly id: number; readonly name: string };
const { bench } = lockhouse();

const SOURCE = `module ff(input clk, en, input [7:0] d, output reg [7:0] q = 0, output reg [15:0] n = 0);
  always @(posedge clk) begin if (en) q <= d; n <= n + 1; end
endmodule
`;
const GOOD = 'en,d,cycles,=q,=n\n0,17,1,0,1\n1,17,1,17,2\n0,99,30,17,32\n';
const FILES = [
  {
    name: 'nimble.json',
    text: JSON.stringify({
      ...{ format: 'nimble-project', version: 3, grade: 2, accepted: [] },
      ...{ name: 'ff', part: 'CV25', top: 'ff', pins: 'pins.csv', clocks: { clk: 12e6 } },
    }),
  },
  { name: 'ff.v', text: SOURCE },
  { name: 'pins.csv', text: 'clk,P1\n' },
  { name: 'good.csv', text: GOOD },
  { name: 'bad.csv', text: GOOD.replace('0,99,30,17,32', '0,99,30,18,32') },
  { name: 'other.csv', text: 'en,more,=q\n1,2,3\n' },
];

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'nimble-table-'));
  pod = await servePod(benchTarget(bench), { host: '127.0.0.1', port: 0, token: 't' });
  server = assemble(await openDatabase(join(folder, 'test.sqlite')));
  project = { id: await server.store.projects.create('ff', FILES), name: 'ff' };
  await server.board.use(`ws://127.0.0.1:${pod.port}`, 't');
});
afterAll(async () => {
  server.board.hands().close();
  await pod.close();
  await server.close();
  rmSync(folder, { recursive: true });
});

const ended = (id: number) => endedJob(server, id);
const run = (file: string, over: Partial<Parameters<typeof server.desks.drive.runTableOn>[1]> = {}) =>
  ended(server.desks.drive.runTableOn(project, { file, seed: 1, stopAtFirst: false, times: 1, ...over }));
const latest = async () => (await server.store.tableRuns.latest(project.id))?.result;

describe('a table on the board', () => {
  test('needs a build with its panel, and says so', async () => {
    expect((await run('good.csv')).problem?.code).toBe('no-build');
    await ended(server.desks.design.build(project));
    expect((await run('good.csv')).problem?.code).toBe('no-table-cores');
    expect((await run('missing.csv')).problem?.code).toBe('no-file');
  });

  test('its plan is made from the sources, and what stands and goes on is known', async () => {
    const made = await server.desks.drive.tablePlanNow(project, { file: 'good.csv' });
    if (!made.ok) throw new Error(made.error.message);
    expect(made.value.panels[0]).toMatchObject({ levers: ['ff.en', 'ff.d'], gauges: ['ff.q', 'ff.n'] });
    const other = await server.desks.drive.tablePlanNow(project, { file: 'other.csv' });
    expect(other.ok ? null : other.error.code).toBe('vectors');
    const stands = await server.desks.probe.standstillNow('ff.clk');
    expect(stands.ok && stands.value).toMatchObject({ registers: 2, memories: 0, others: [], resets: 0 });
    await server.store.projects.saveShelf(project.id, [{ name: 'table', inBuild: true, plan: made.value }]);
    expect((await ended(server.desks.design.build(project))).state).toBe('done');
  });

  test('is loaded and run beside its simulation; what came of each row is kept', async () => {
    const job = await run('good.csv');
    expect([job.state, job.message]).toEqual(['done', expect.stringMatching(/3 rows passed, 0 failed\.$/)]);
    expect(await latest()).toMatchObject({ passed: 3, failed: 0, differences: [], stopped: null, notAsked: 0 });
    const log = await server.store.logbook.list();
    expect(log.some(({ action }) => action === 'Table good.csv')).toBe(true);
  });

  test('again and again until it is not good: the first that is not is what is kept', async () => {
    const good = await run('good.csv', { times: 3 });
    expect(good.message).toMatch(/time 3 of 3/);
    const bad = await run('bad.csv', { times: 3 });
    expect(bad.message).toMatch(/2 rows passed, 1 failed, time 1 of 3/);
    expect(await latest()).toMatchObject({ failed: 1, time: 1, times: 3 });
  });

  test('a table whose columns the build does not have is told, and the one before is kept', async () => {
    const before = await latest();
    expect((await run('other.csv')).problem?.code).toBe('vectors');
    expect(await latest()).toEqual(before);
  });
});

describe('a table for an instance', () => {
  /** The same flip-flop inside another design, which holds its enable and counts with it. */
  const TOP = `module top(input clk, input go, output [7:0] q, output [15:0] n);
  ff u_ff(.clk(clk), .en(go), .d(n[7:0]), .q(q), .n(n));
endmodule
`;

  test('runs on its ports in the running design, beside a simulation of its module alone', async () => {
    const files = FILES.map((file) =>
      file.name === 'nimble.json' ? { ...file, text: file.text.replace('"top":"ff"', '"top":"top"') } : file,
    );
    const id = await server.store.projects.create('top', [...files, { name: 'top.v', text: TOP }]);
    const inside = { id, name: 'top' };
    await server.store.projects.makeCurrent(id);
    const choice = { file: 'good.csv', instance: 'u_ff' };
    const made = await server.desks.drive.tablePlanNow(inside, choice);
    if (!made.ok) throw new Error(made.error.message);
    expect(made.value.panels[0]?.levers).toEqual(['top.u_ff.en', 'top.u_ff.d']);
    await server.store.projects.saveShelf(id, [{ name: 'table', inBuild: true, plan: made.value }]);
    expect((await ended(server.desks.design.build(inside))).state).toBe('done');
    const job = await ended(
      server.desks.drive.runTableOn(inside, { ...choice, seed: 1, stopAtFirst: false, times: 1 }),
    );
    expect(job.message).toMatch(/3 rows passed, 0 failed\.$/);
    const kept = (await server.store.tableRuns.latest(id))?.result;
    expect(kept).toMatchObject({ whyNotSimulated: null, differences: [] });
    expect(kept?.simulated).toHaveLength(3);
    await server.store.projects.makeCurrent(project.id);
  });
});

describe('a held clock', () => {
  test('is stepped from where the table left it, and its orders are in the logbook', async () => {
    await run('good.csv');
    const look = async () => {
      const driven = await server.desks.drive.driveNow({});
      if (!driven.ok) throw new Error(driven.error.message);
      return driven.value.reading.gauges;
    };
    expect(await look()).toMatchObject({ 'ff.n': 32n, 'ff.q': 17n });
    const stepped = await server.desks.drive.stepNow('table', { way: 'step', count: 10 });
    expect(stepped.ok && stepped.value).toMatchObject({ heard: true, running: false });
    await expect.poll(async () => (await look())['ff.n']).toBe(42n);
    const [entry] = await server.store.logbook.list();
    expect(entry).toMatchObject({ action: 'Step', outcome: 'done' });
    const wrong = await server.desks.drive.stepNow('other', { way: 'hold' });
    expect(wrong.ok ? null : wrong.error.code).toBe('no-such-stepper');
  });

  test('a truth table is made of the sources, or says why not', async () => {
    const made = await server.desks.drive.truthTableNow(project, 'q = d');
    expect(made.ok && made.value.split('\n')).toHaveLength(2 ** 9 + 2);
    const wrong = await server.desks.drive.truthTableNow(project, 'q = e');
    expect(wrong.ok ? null : wrong.error.code).toBe('expression');
  });
});
