// Starts the built application with its own bench on free ports and a fresh folder, and a browser in front of it.
import { createTRPCClient, httpLink, type TRPCClient } from '@trpc/client';
import { zipSync } from 'fflate';
import { jsonIntegers } from '../../core/json-integers.ts';
import type { ProbePlan } from '../../core/probes/index.ts';
import type { Job, Routes } from '../../server/index.ts';
import { spawn } from 'node:child_process';
import { cpSync, existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Page, type Request } from 'playwright-core';
import { answers, Ended, freePort } from './processes.ts';

export { PROBED } from './plans.ts';

const FLAGS = [
  '--headless',
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];
type Api = TRPCClient<Routes>;
export const TOKEN = 'token-of-the-tests';

export interface Workbench {
  readonly page: Page;
  readonly address: string;
  /** The server's calls, as a script makes them. */
  readonly api: TRPCClient<Routes>;
  readonly home: string;
  readonly podAddress: string;
  startPod(): Promise<void>;
  /** Ends the pod without letting it say goodbye. */
  killPod(): Promise<void>;
  /** Ends the server without letting it say goodbye. */
  killWeb(): Promise<void>;
  restartWeb(): Promise<void>;
  /** The hand at the supply switch of a board whose pod has none. */
  throwSwitch(): void;
  pids(): { readonly pod: number; readonly web: number };
  /** Keeps all that lasts as it is now: files of the server, the flash on the board. */
  keep(): Promise<void>;
  /** As it was kept, with everything started anew and a browser that knows nothing. */
  again(): Promise<void>;
  stop(): Promise<void>;
}

export interface WorkbenchOptions {
  /** False: the pod is started by the test. */
  readonly pod?: boolean;
  readonly podOptions?: readonly string[];
}

export async function openWorkbench(options: WorkbenchOptions = {}): Promise<Workbench> {
  const home = mkdtempSync(join(tmpdir(), 'nimble-test-'));
  const kept = `${home}-kept`;
  const [webPort, podPort] = [await freePort(), await freePort()];
  const podAddress = `ws://127.0.0.1:${podPort}`;
  const address = `http://127.0.0.1:${webPort}`;
  const env = { ...process.env, NIMBLE_POD_TOKEN: TOKEN, NIMBLE_WARM_UP: 'off' };
  const pod = new Ended(() => {
    const own = ['--port', String(podPort), '--state', join(home, 'board'), ...(options.podOptions ?? [])];
    return spawn(process.execPath, ['cli/pod.mjs', ...own], { env, stdio: ['ignore', 'pipe', 'inherit'] });
  });
  const web = new Ended(() =>
    spawn(process.execPath, ['cli/web.mjs', '--port', String(webPort)], {
      env: { ...env, NODE_ENV: 'production', NIMBLE_HOME: home, NIMBLE_POD_ADDRESS: podAddress },
      stdio: ['ignore', 'ignore', 'inherit'],
    }),
  );
  const startPod = async () => {
    const started = pod.start();
    await new Promise<void>((resolve) => started.stdout?.once('data', () => resolve()));
  };
  const restartWeb = async () => {
    web.start();
    await answers(`${address}/bench`);
  };
  const browser = await chromium.launch({
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
    args: FLAGS,
    // Users have scrollbars, and what they push aside must be seen.
    ignoreDefaultArgs: ['--hide-scrollbars'],
  });
  let page: Page;
  const forbidden: string[] = [];
  const start = async () => {
    await Promise.all([(options.pod ?? true) ? startPod() : null, restartWeb()]);
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true });
    context.on('console', (message) => {
      // What the policy of our own pages forbids would be missing without a word.
      if (message.text().includes('Content Security Policy')) forbidden.push(message.text());
    });
    page = await context.newPage();
    page.setDefaultTimeout(60_000);
    await page.goto(`${address}/bench`);
    // The page takes clicks once it has heard of the server: the track then has words.
    await page.getByTestId('state-bench').getByText(/./).waitFor();
  };
  const end = async () => {
    if (forbidden.length > 0) throw new Error(`The page may not do what it does: ${forbidden.join('; ')}`);
    await Promise.all(browser.contexts().map((context) => context.close()));
    await Promise.all([pod.kill(), web.kill()]);
  };
  await start();
  return {
    get page() {
      return page;
    },
    ...{ address, home, podAddress, startPod, restartWeb },
    api: createTRPCClient<Routes>({
      links: [httpLink({ url: `${address}/api/call`, methodOverride: 'POST', transformer: jsonIntegers })],
    }),
    killPod: () => pod.kill(),
    killWeb: () => web.kill(),
    throwSwitch: () => pod.signal('SIGUSR2'),
    pids: () => ({ pod: pod.pid, web: web.pid }),
    keep: async () => {
      await end();
      rmSync(kept, { recursive: true, force: true });
      cpSync(home, kept, { recursive: true });
      await start();
    },
    again: async () => {
      await end();
      rmSync(home, { recursive: true, force: true, maxRetries: 5 });
      if (existsSync(kept)) cpSync(kept, home, { recursive: true });
      await start();
    },
    stop: async () => {
      await end();
      await browser.close();
      for (const folder of [home, kept]) rmSync(folder, { recursive: true, force: true, maxRetries: 5 });
    },
  };
}

/** A job that a script asks for; waits for its end, good or bad, and gives what it said. */
export async function did({ api, address }: Workbench, order: Parameters<Api['jobs']['start']['mutate']>[0]) {
  const { id } = await api.jobs.start.mutate(order);
  for await (const jobs of toldJobs(address)) {
    const job = jobs.find((one) => one.id === id);
    if (job && job.endedAt !== null) return job;
  }
  throw new Error(`The server ended before the job ${id} did.`);
}

/** The jobs that a server tells of, now and whenever they change. */
async function* toldJobs(address: string): AsyncGenerator<readonly Job[]> {
  const events = await fetch(`${address}/api/events`);
  let rest = '';
  for await (const piece of events.body ?? []) {
    const lines = (rest + new TextDecoder().decode(piece)).split('\n');
    rest = lines.pop() ?? '';
    for (const line of lines.filter((one) => one.startsWith('data: '))) {
      const told = JSON.parse(line.slice(6)) as { slice?: string; value?: { jobs?: readonly Job[] } };
      if (told.slice === 'jobs' && told.value?.jobs) yield told.value.jobs;
    }
  }
}

/** Number of the newest job; a page may not have heard of it yet. */
async function newestJob(address: string): Promise<number> {
  for await (const jobs of toldJobs(address)) return Math.max(0, ...jobs.map(({ id }) => id));
  return 0;
}

/** Brings a project by its files, as a zip of a desk holds them, and opens it. */
export async function imported(bench: Workbench, files: Readonly<Record<string, Uint8Array>>): Promise<void> {
  const answer = await fetch(`${bench.address}/api/projects/import`, {
    method: 'POST',
    headers: { 'content-type': 'application/zip', origin: bench.address },
    body: Buffer.from(zipSync({ ...files })),
  });
  if (!answer.ok) throw new Error(`The project is not taken: ${await answer.text()}`);
}

/** Does such jobs one after another; each must end well. */
export async function all(bench: Workbench, ...kinds: readonly ('scan' | 'build' | 'load' | 'keep')[]): Promise<void> {
  for (const kind of kinds) {
    const job = await did(bench, { kind });
    if (job.state !== 'done') throw new Error(`${job.title}: ${job.message}`);
  }
}

/** Puts a plan of debug cores into the build, beside nothing else. */
export const planned = ({ api }: Workbench, plan: ProbePlan) =>
  api.probe.saveShelf.mutate([{ name: 'plan', inBuild: true, plan }]);

export const station = (page: Page, name: string) =>
  page
    .getByRole('navigation', { name: 'Stations' })
    .getByRole('link', { name: new RegExp(`^${name}`) })
    .click();

/** Opens a view of a station; done when its page stands, not the one that it takes the place of. */
export async function openView(page: Page, of: string, name: string): Promise<void> {
  const views = page.getByRole('navigation', { name: of });
  if (!(await views.isVisible())) await station(page, of);
  const link = views.getByRole('link', { name: new RegExp(`^${name}`) });
  const to = await link.getAttribute('href');
  const asked: string[] = [];
  const note = (request: Request) => void asked.push(request.url());
  page.on('request', note);
  await link.click();
  await page
    .waitForURL(({ pathname }) => pathname === to)
    .catch((error) => {
      throw new Error(`${to} does not come, the page is ${page.url()} and asked for ${asked.join(', ') || 'nothing'}`, {
        cause: error,
      });
    })
    .finally(() => page.off('request', note));
}

/** A step of a test that walks; what fails says in which. */
export async function step(name: string, take: () => Promise<void>): Promise<void> {
  try {
    await take();
  } catch (error) {
    throw new Error(`${name}: ${error instanceof Error ? error.message : error}`, { cause: error });
  }
}

/** Does something that starts a job, and waits for how that very job ends. */
export async function ended(page: Page, outcome: RegExp, start: () => Promise<unknown>): Promise<void> {
  const before = await newestJob(new URL(page.url()).origin);
  await start();
  const line = page.getByTestId('job-line');
  const until = Date.now() + 90_000;
  while (Number(await line.getAttribute('data-job')) <= before) {
    if (Date.now() > until) throw new Error(`No job has come after the job ${before}.`);
    await page.waitForTimeout(50);
  }
  await line.getByText(outcome).waitFor({ timeout: 90_000 });
}

/** Puts a signal into the plan, found by its name: the list shows what is in sight alone. `what`: Record, Lever, Gauge. */
export async function choose(page: Page, what: string, name: string): Promise<void> {
  const filter = page.getByLabel('Filter signals');
  await filter.fill(name.slice(name.indexOf('.') + 1));
  await page.getByRole('button', { name: `${what} ${name}`, exact: true }).click();
  await filter.fill('');
}

/** Builds the demo, then with a recorder, a lever and a gauge in it, and loads that. */
export async function loadProbed(page: Page): Promise<void> {
  await station(page, 'Design');
  await ended(page, /^Build [0-9a-f]{8} for CV25/, () =>
    page.getByRole('button', { name: 'Build', exact: true }).click(),
  );
  await station(page, 'Probe');
  await choose(page, 'Record', 'lockhouse.u_sequencer.state');
  await choose(page, 'Lever', 'lockhouse.level_trim');
  await choose(page, 'Gauge', 'lockhouse.level_shown');
  await ended(page, /for CV25: [\d,]+ LUTs/, () => page.getByRole('button', { name: 'Build with probes' }).click());
  await station(page, 'Load');
  await ended(page, /DONE is high/, () => page.getByRole('button', { name: 'Load', exact: true }).click());
}
