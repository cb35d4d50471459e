// The contract as a page uses it: the client of the page on one side, the route handlers on the other, nothing between.
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createTRPCClient, httpLink } from '@trpc/client';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, test, vi } from 'vitest';
import { POST } from '../../app/api/call/[call]/route.ts';
import { guarded, MOST_CALL_BYTES, readBody } from '../../app/api/guard.ts';
import { jsonIntegers } from '../../core/json-integers.ts';
import { ok, ProblemError, problem } from '../../core/result.ts';
import { type Routes, server } from '../../server/index.ts';
import { answerOf, problemOf } from '../../ui/shared/ask.ts';

const ADDRESS = 'http://127.0.0.1:3210';
const from = (url: string, init: RequestInit = {}, more: Readonly<Record<string, string>> = {}) =>
  new Request(url, { ...init, headers: { ...(init.headers as object), host: '127.0.0.1:3210', ...more } });

const client = createTRPCClient<Routes>({
  links: [
    httpLink({
      url: `${ADDRESS}/api/call`,
      methodOverride: 'POST',
      transformer: jsonIntegers,
      headers: ({ op }) => (op.context.project ? { 'x-nimble-project': String(op.context.project) } : {}),
      fetch: (url, init) => POST(from(String(url), init as RequestInit), undefined),
    }),
  ],
});

describe('calls', () => {
  let folder: string;
  beforeAll(async () => {
    folder = mkdtempSync(join(tmpdir(), 'nimble-contract-'));
    vi.stubEnv('NIMBLE_HOME', folder);
    vi.stubEnv('NIMBLE_POD_ADDRESS', undefined);
    await server();
  });
  afterAll(async () => {
    await (await server()).close();
    vi.unstubAllEnvs();
    rmSync(folder, { recursive: true });
  });

  test('sources are those of the build in question, as they were; else those of now, and it is said which', async () => {
    const { id } = await client.project.create.mutate({ name: 'Played', part: 'CV10' });
    const on = await server();
    const inIt = { context: { project: id } };
    const build = await client.jobs.start.mutate({ kind: 'build' }, inIt);
    await expect
      .poll(() => on.jobs.list.find((one) => one.id === build.id)?.endedAt, { timeout: 30_000 })
      .not.toBeNull();
    const made = (await on.store.builds.latestGood(id))?.details;
    const before = await client.replay.sources.query({ fingerprint: made?.fingerprint ?? null }, inIt);
    expect(before.whose).toBe('build');
    const [source] = before.project.files.filter(({ name }) => name.endsWith('.v'));
    expect(await on.store.projects.save(id, source?.name ?? '', 'module other; endmodule')).toMatchObject({ ok: true });
    // The build was made of what stood there then.
    const after = await client.replay.sources.query({ fingerprint: made?.fingerprint ?? null }, inIt);
    expect(after).toEqual(before);
    const print = 'ab'.repeat(16);
    const gone = await client.replay.sources.query({ fingerprint: print, sources: print }, inIt);
    expect([gone.whose, gone.project.files.find(({ name }) => name === source?.name)?.text]).toEqual([
      'now',
      'module other; endmodule',
    ]);
    expect((await client.replay.sources.query({ fingerprint: null }, inIt)).whose).toBe('same');
    await expect(client.replay.sources.query({ fingerprint: 'no print' }, inIt)).rejects.toThrow();
    await client.project.remove.mutate({ id });
  });

  test('the testbench of a record runs as a job, and its waves are kept', async () => {
    const { id } = await client.project.create.mutate({ name: 'Simulated', part: 'CV10' });
    const on = await server();
    const inIt = { context: { project: id } };
    const files = [
      {
        name: 'tb.v',
        text: 'module tb; reg [3:0] m [0:1]; initial begin $readmemb("m.mem", m); $display("%0d", m[1]); $finish; end endmodule',
      },
      { name: 'm.mem', text: '0001\n1001\n' },
    ];
    const job = await client.replay.simulate.mutate({ testbench: 'tb', files }, inIt);
    await expect.poll(() => on.jobs.list.find((one) => one.id === job.id)?.endedAt, { timeout: 30_000 }).not.toBeNull();
    expect(await client.design.simulation.query(undefined, inIt)).toMatchObject({
      testbench: 'tb',
      result: { ending: 'finish', output: '9\n' },
    });
    await client.project.remove.mutate({ id });
  });

  test('a build is of the project it was asked for in; one that is deleted takes its work with it', async () => {
    const first = await client.project.create.mutate({ name: 'First', part: 'CV10' });
    const second = await client.project.create.mutate({ name: 'Second', part: 'CV10' });
    const on = await server();
    const held = Array.from({ length: 2 }, () =>
      on.jobs.start('build', {
        ...{ kind: 'build', title: 'Held', board: '', project: { id: second.id, name: 'Second' } },
        work: async (watch) => {
          while (!watch.cancelled()) await new Promise((resolve) => setTimeout(resolve, 1));
          await on.store.builds.add(second.id, {}, 0, {
            ...{ fingerprint: 'f', part: 'CV10', top: 't', messages: [], bitstream: new Uint8Array(400_000) },
          } as never);
          return ok('');
        },
      }),
    );
    const of = async (project: number) =>
      (await client.jobs.start.mutate({ kind: 'build' }, { context: { project } })).id;
    const [a, b] = [await of(first.id), await of(second.id)];
    const job = (id: number) => on.jobs.list.find((one) => one.id === id);
    expect([job(a)?.project, job(b)?.project]).toEqual([first.id, second.id]);
    await client.project.remove.mutate({ id: second.id });
    await Promise.all(held.map(({ ended }) => ended));
    await expect.poll(() => job(a)?.endedAt, { timeout: 30_000 }).not.toBeNull();
    expect([job(a)?.state, job(b)?.state]).toEqual(['done', 'cancelled']);
    expect(await on.store.builds.latestGood(first.id)).not.toBeNull();
    // What comes too late is a problem that says so, and carries nothing of what it was about.
    const late = on.store.builds.add(second.id, {}, 0, {
      ...{ fingerprint: 'f', part: 'CV10', top: 't', messages: [], bitstream: new Uint8Array(400_000) },
    } as never);
    await expect(late).rejects.toMatchObject({ problem: { code: 'no-project' } });
    const broken = on.store.projects.create(null as never, []);
    await expect(broken).rejects.toThrow(/^.{0,300}$/);
    await client.project.remove.mutate({ id: first.id });
  });

  test('a pod’s token is told to nobody', async () => {
    const on = await server();
    const secret = 'b6c2-a token nobody is told';
    const address = 'ws://127.0.0.1:9';
    await answerOf(client.bench.usePod.mutate({ address, token: secret }));
    await on.store.pods.remember(address, secret);
    const told = [await client.bench.pods.query(), await client.logbook.list.query(), on.jobs.list, on.board.pod];
    const facts = await Promise.all((['chain', 'kept', 'armed'] as const).map((name) => on.facts.get(name)));
    expect(JSON.stringify([told, facts])).toContain(address);
    expect(JSON.stringify([told, facts])).not.toContain(secret);
    expect(await client.bench.forgetPod.mutate({ address })).toEqual({ removed: true });
  });

  test('a project is made, renamed, copied and removed', async () => {
    const { id } = await client.project.create.mutate({ name: ' Lamp ', part: 'CV10' });
    await client.project.change.mutate({ name: 'Two lamps', top: null });
    const { file, board, migrated } = await client.project.settings.query();
    expect(file).toMatchObject({ name: 'Two lamps', part: 'CV10' });
    expect([file.top, board, migrated]).toEqual([undefined, null, null]);
    const copy = await client.project.duplicate.mutate({ id, name: 'Copy' });
    const { projects, current } = await client.project.list.query();
    expect(current).toBe(copy.id);
    expect(projects.map(({ name }) => name)).toContain('Two lamps');
    await client.project.remove.mutate({ id: copy.id });
    expect(await answerOf(client.project.open.mutate({ id: copy.id }))).toMatchObject({
      ok: false,
      problem: { code: 'no-project' },
    });
    await client.project.open.mutate({ id });
  });

  test('what is saved goes into the project it was written in, whichever is open by then', async () => {
    const { id: first } = await client.project.create.mutate({ name: 'First', part: 'CV10' });
    const about = { context: { project: first } };
    const text = async (context?: object) =>
      (await client.project.files.query(undefined, context)).find(({ name }) => name === 'top.v')?.text;
    const { id: second } = await client.project.create.mutate({ name: 'Second', part: 'CV10' });
    const before = await text();
    await client.project.saveFile.mutate({ name: 'top.v', text: '// of the first', read: null }, about);
    expect([await text(), await text(about)]).toEqual([before, '// of the first']);
    await client.probe.saveShelf.mutate([{ name: 'p', inBuild: true, plan: { recorders: [], panels: [] } }], about);
    await client.keep.choose.mutate({ replaceGolden: true }, about);
    await client.load.setPlan.mutate({ verify: true }, about);
    expect(await client.probe.shelf.query()).toEqual([]);
    const { facts } = await server();
    expect([await facts.get('keepChoice'), await facts.get('loadPlan')]).toEqual([null, null]);
    await client.project.remove.mutate({ id: first });
    const gone = await answerOf(client.project.saveFile.mutate({ name: 'top.v', text: 'x', read: null }, about));
    expect(gone).toMatchObject({ ok: false, problem: { code: 'no-project' } });
    expect(await text()).toBe(before);
    await client.project.remove.mutate({ id: second });
  });

  test('changes that come at once are all kept: of settings, of choices, of accepted messages', async () => {
    const { id } = await client.project.create.mutate({ name: 'Many', part: 'CV10' });
    const numbers = Array.from({ length: 48 }, (_, i) => i);
    await Promise.all([
      ...numbers.map((i) => client.design.fix.mutate({ kind: 'constrain-clock', clock: `c${i}`, hertz: 1e6 + i })),
      ...numbers.map((i) =>
        client.design.accept.mutate({ code: `m${i}`, file: 'top.v', line: 2, message: 'odd', reason: 'meant so' }),
      ),
      ...numbers.map((i) => client.keep.choose.mutate({ values: { [`field ${i}`]: String(i) } })),
      client.load.setPlan.mutate({ verify: true }),
      client.load.setPlan.mutate({ steps: [{ device: 3, source: { kind: 'build' } }] }),
    ]);
    const { file } = await client.project.settings.query();
    expect([Object.keys(file.clocks).length, file.accepted.length]).toEqual([48, 48]);
    const { facts } = await server();
    expect(Object.keys((await facts.get('keepChoice'))?.values ?? {})).toHaveLength(48);
    expect(await facts.get('loadPlan')).toEqual({ steps: [{ device: 3, source: { kind: 'build' } }], verify: true });
    await client.keep.choose.mutate({ values: { 'field 3': null } });
    expect(Object.keys((await facts.get('keepChoice'))?.values ?? {})).toHaveLength(47);
    await client.project.remove.mutate({ id });
  });

  test('files are added, saved over the version read, renamed, deleted', async () => {
    await client.project.addFiles.mutate({ files: [{ name: 'rtl/a.v', text: 'module a; endmodule\n' }] });
    const read = (await client.project.files.query()).find(({ name }) => name === 'rtl/a.v')?.version ?? '';
    const saved = await client.project.saveFile.mutate({ name: 'rtl/a.v', text: 'module a; // 1\nendmodule\n', read });
    expect(saved.version).not.toBe(read);
    expect(
      await answerOf(client.project.saveFile.mutate({ name: 'rtl/a.v', text: 'module b; endmodule\n', read })),
    ).toMatchObject({ ok: false, problem: { code: 'file-changed' } });
    await client.project.renameFile.mutate({ from: 'rtl/a.v', to: 'rtl/b.v' });
    await client.project.removeFile.mutate({ name: 'rtl/b.v' });
    expect((await client.project.files.query()).map(({ name }) => name)).toEqual(['nimble.json', 'pins.csv', 'top.v']);
    for (const name of ['nimble.json', 'gone.v'])
      expect(await answerOf(client.project.removeFile.mutate({ name }))).toMatchObject({
        problem: { code: 'no-file' },
      });
  });

  test('the sources as they stand: ports, a drawing, a fix, a clock', async () => {
    expect((await client.design.ports.query()).ports?.map(({ name }) => name)).toEqual(['clk', 'lamp']);
    const drawing = await client.design.draw.query({ kind: 'instance', path: 'top', expanded: [] });
    expect(JSON.stringify(drawing)).toContain('count');
    await client.design.fix.mutate({ kind: 'constrain-clock', clock: 'clk', hertz: 12e6 });
    await client.design.fix.mutate({ kind: 'set-top', top: 'top' });
    await client.design.fix.mutate({
      kind: 'insert',
      insertions: [{ file: 'top.v', line: 1, column: 0, insert: '// a lamp\n' }],
    });
    expect((await client.project.settings.query()).file).toMatchObject({ top: 'top', clocks: { clk: 12e6 } });
    expect((await client.project.files.query()).find(({ name }) => name === 'top.v')?.text).toMatch(/^\/\/ a lamp\n/);
    expect(await client.design.newest.query()).toEqual({ latest: null, usable: null });
    expect([await client.design.builds.query(), await client.design.vectors.query()]).toEqual([[], null]);
  });

  test('a job is started, seen, and cannot be cancelled when it has ended', async () => {
    const { id } = await client.jobs.start.mutate({ kind: 'build' });
    const { jobs } = await server();
    await vi.waitFor(() => expect(jobs.list.find((job) => job.id === id)?.endedAt).not.toBeNull(), 60_000);
    expect((await client.design.builds.query()).map(({ part, good }) => [part, good])).toEqual([['CV10', true]]);
    expect(await answerOf(client.jobs.cancel.mutate({ id }))).toMatchObject({ problem: { code: 'job-ended' } });
    const [entry] = await client.logbook.list.query();
    expect(entry).toMatchObject({ action: 'Build', outcome: 'done' });
  });

  test('what needs a pod, a capture, a comparison says so when there is none', async () => {
    const codes = await Promise.all(
      [
        client.bench.setFrequency.mutate({ hz: 1e6 }),
        client.bench.operate.mutate({ control: 'start', on: true }),
        client.bench.lookAtPins.query(),
        client.capture.read.query({ id: 99 }),
        client.capture.remove.mutate({ id: 99 }),
        client.keep.comparison.query(),
        client.design.compareBuilds.query({ before: 1, after: 2 }),
        client.drive.move.mutate({ set: { 'top.lamp': 3n } }),
      ].map(async (call) => {
        const answer = await answerOf<unknown>(call);
        return answer.ok ? 'ok' : answer.problem.code;
      }),
    );
    expect(codes).toEqual([
      'no-pod',
      'no-pod',
      'no-pod',
      'no-capture',
      'no-capture',
      'no-comparison',
      'no-build',
      'no-probes',
    ]);
  });

  test('a call that is not as agreed is refused with the place; one that is not there, too', async () => {
    const wrong = await answerOf(client.bench.setFrequency.mutate({ hz: -1 }));
    expect(wrong).toMatchObject({ problem: { code: 'request', message: expect.stringContaining('at hz') as string } });
    const asAny = client as unknown as { readonly nothing: { readonly here: { query(): Promise<unknown> } } };
    expect(await answerOf(asAny.nothing.here.query())).toMatchObject({ problem: { code: 'request' } });
    const raw = (more: Readonly<Record<string, string>>) =>
      POST(from(`${ADDRESS}/api/call/project.open`, { method: 'POST', body: '{' }, more), undefined);
    expect((await raw({ 'content-type': 'application/json' })).status).toBe(400);
    // A form of another page cannot send JSON.
    expect((await raw({ 'content-type': 'text/plain' })).status).toBe(415);
  });

  test('a larger call than is read ends as that', async () => {
    const answer = await answerOf(
      client.project.addFiles.mutate({ files: [{ name: 'big.v', text: ' '.repeat(MOST_CALL_BYTES) }] }),
    );
    expect(answer).toMatchObject({ ok: false, problem: { code: 'too-large' } });
  });
});

describe('integers of any width', () => {
  test('go over JSON and come back as they were, wherever they stand', () =>
    fc.assert(
      fc.property(
        fc.letrec((again) => ({
          value: fc.oneof(
            { depthSize: 'small' },
            fc.bigInt(),
            fc.string(),
            fc.integer(),
            fc.constant(null),
            fc.array(again('value')),
            fc.dictionary(fc.string(), again('value')),
          ),
        })).value,
        (value) => {
          const text = JSON.stringify(jsonIntegers.serialize(value));
          expect(jsonIntegers.deserialize(JSON.parse(text))).toEqual(value);
        },
      ),
    ));

  test('what holds none is not copied', () => {
    const value = { a: [1, 'x', { b: null }] };
    expect(jsonIntegers.serialize(value)).toBe(value);
    expect(jsonIntegers.deserialize(value)).toBe(value);
  });
});

describe('the guard of the routes', () => {
  const route = guarded<undefined>(async (request) =>
    Response.json({ length: request.method === 'GET' ? null : (await readBody(request, 1 << 20)).length }),
  );
  const call = (init: RequestInit, more: Readonly<Record<string, string>> = {}) =>
    route(from(`${ADDRESS}/api/x`, init, more), undefined);

  test('lets its own page and scripts in', async () => {
    expect((await call({})).status).toBe(403);
    expect((await call({}, { 'x-nimble-page': '1' })).status).toBe(200);
    expect((await call({ method: 'POST', body: '{}' }, { origin: ADDRESS })).status).toBe(200);
  });

  test('keeps other origins and other names out', async () => {
    expect((await call({}, { origin: 'http://elsewhere.example' })).status).toBe(403);
    expect((await call({}, { host: 'rebound.example' })).status).toBe(403);
    expect((await call({ method: 'POST', body: '{}' }, { 'sec-fetch-site': 'cross-site' })).status).toBe(403);
  });

  test('answers a problem with words, and lets a defect through', async () => {
    const failing = guarded<undefined>(async () => {
      throw new ProblemError(problem('a', 'b'));
    });
    const answer = await failing(from(`${ADDRESS}/api/x`, { method: 'POST' }), undefined);
    expect([answer.status, await answer.json()]).toEqual([422, { problem: { code: 'a', message: 'b', tryNext: [] } }]);
    const broken = guarded<undefined>(() => Promise.reject(new TypeError('x')));
    await expect(broken(from(`${ADDRESS}/api/x`, { method: 'POST' }), undefined)).rejects.toThrow(TypeError);
  });

  test('stops reading what is too large, told beforehand or not', async () => {
    const big = { method: 'POST', body: new Uint8Array(3 << 20) };
    expect((await call(big)).status).toBe(422);
    expect((await call({ method: 'POST', body: 'x' }, { 'content-length': String(9 << 20) })).status).toBe(422);
    expect(await (await call({ method: 'POST', body: 'abc' })).json()).toEqual({ length: 3 });
  });

  test('stands before every route there is', () => {
    const files = readdirSync('app/api', { recursive: true, encoding: 'utf8' }).filter((name) =>
      name.endsWith('route.ts'),
    );
    expect(files.length).toBeGreaterThan(10);
    for (const name of files) {
      const text = readFileSync(join('app/api', name), 'utf8');
      const handlers = [...text.matchAll(/export const (GET|POST|PUT|DELETE|PATCH)\b = (\w+)\(/g)];
      const isCall = name.startsWith('call/') && text.includes('const handle = guarded(');
      expect([name, isCall || handlers.length > 0]).toEqual([name, true]);
      for (const [, , by] of handlers) expect([name, by]).toEqual([name, 'guarded']);
      expect(text).not.toMatch(/export (async )?function (GET|POST|PUT|DELETE|PATCH)/);
    }
  });
});

test('whatever went wrong becomes words', () => {
  expect(problemOf(new ProblemError(problem('a', 'b'))).code).toBe('a');
  expect(problemOf(new TypeError('x is undefined'))).toMatchObject({ code: 'defect', message: 'x is undefined' });
});
