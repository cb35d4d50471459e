// Starts the built application with its own bench on free ports and a fresh folder, and a browser in front of it.
import { createTRPCClient, httpLink, type TRPCClient } from '@trpc/client';
import { jsonIntegers } from '../../core/json-integers.ts';
import type { Routes } from '../../server/index.ts';
import { type ChildProcess, spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type BrowserContext, chromium, type Page } from 'playwright-core';

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
  stop(): Promise<void>;
}

export async function openWorkbench(
  options: { readonly pod?: boolean; readonly podOptions?: readonly string[] } = {},
): Promise<Workbench> {
  const home = mkdtempSync(join(tmpdir(), 'nimble-test-'));
  const [webPort, podPort] = [await freePort(), await freePort()];
  const podAddress = `ws://127.0.0.1:${podPort}`;
  let pod: ChildProcess | null = null;
  const startPod = async () => {
    const own = ['--port', String(podPort), '--state', join(home, 'board'), ...(options.podOptions ?? [])];
    pod = spawn(process.execPath, ['cli/pod.mjs', ...own], {
      env: { ...process.env, NIMBLE_POD_TOKEN: TOKEN },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    await new Promise<void>((resolve) => pod?.stdout?.once('data', () => resolve()));
  };
  const killPod = async () => {
    const ending = pod;
    pod = null;
    if (!ending || ending.exitCode !== null) return;
    await new Promise<void>((resolve) => {
      ending.once('exit', () => resolve());
      ending.kill('SIGKILL');
    });
  };
  if (options.pod ?? true) await startPod();
  const startWeb = () =>
    spawn(
      process.execPath,
      [
        join('node_modules', 'next', 'dist', 'bin', 'next'),
        'start',
        '--hostname',
        '127.0.0.1',
        '--port',
        String(webPort),
      ],
      {
        env: {
          ...process.env,
          NODE_ENV: 'production',
          NIMBLE_HOME: home,
          NIMBLE_POD_ADDRESS: podAddress,
          NIMBLE_POD_TOKEN: TOKEN,
        },
        stdio: ['ignore', 'ignore', 'inherit'],
      },
    );
  let web = startWeb();
  const address = `http://127.0.0.1:${webPort}`;
  await answers(`${address}/bench`);
  const profile = mkdtempSync(join(tmpdir(), 'nimble-browser-'));
  const context: BrowserContext = await chromium.launchPersistentContext(profile, {
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
    args: FLAGS,
    // Users have scrollbars, and what they push aside must be seen.
    ignoreDefaultArgs: ['--hide-scrollbars'],
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
  });
  const page = context.pages()[0] ?? (await context.newPage());
  page.setDefaultTimeout(60_000);
  await page.goto(`${address}/bench`);
  const stop = async () => {
    await context.close();
    await killPod();
    web.kill('SIGKILL');
    for (const folder of [home, profile]) rmSync(folder, { recursive: true, force: true, maxRetries: 5 });
  };
  const killWeb = () =>
    new Promise<void>((resolve) => {
      web.once('exit', () => resolve());
      web.kill('SIGKILL');
    });
  const restartWeb = async () => {
    web = startWeb();
    await answers(`${address}/bench`);
  };
  const throwSwitch = () => void pod?.kill('SIGUSR2');
  const pids = () => ({ pod: pod?.pid ?? 0, web: web.pid ?? 0 });
  const api = createTRPCClient<Routes>({
    links: [httpLink({ url: `${address}/api/call`, methodOverride: 'POST', transformer: jsonIntegers })],
  });
  return { page, address, api, home, podAddress, startPod, killPod, killWeb, restartWeb, throwSwitch, pids, stop };
}

export const station = (page: Page, name: string) =>
  page
    .getByRole('navigation', { name: 'Stations' })
    .getByRole('link', { name: new RegExp(`^${name}`) })
    .click();

/** Does something that starts a job, and waits for how that very job ends. */
export async function ended(page: Page, outcome: RegExp, start: () => Promise<unknown>): Promise<void> {
  const line = page.getByTestId('job-line');
  const before = await line.getAttribute('data-job');
  await start();
  await page.locator(`[data-testid="job-line"]:not([data-job="${before}"])`).getByText(outcome).waitFor({
    timeout: 90_000,
  });
}

/** Builds the demo, then with a recorder, a lever and a gauge in it, and loads that. */
export async function loadProbed(page: Page): Promise<void> {
  await station(page, 'Design');
  await ended(page, /^Build [0-9a-f]{8} for CV25/, () =>
    page.getByRole('button', { name: 'Build', exact: true }).click(),
  );
  await station(page, 'Probe');
  for (const name of [
    'Record lockhouse.u_sequencer.state',
    'Lever lockhouse.level_trim',
    'Gauge lockhouse.level_shown',
  ])
    await page.getByRole('button', { name, exact: true }).click();
  await ended(page, /for CV25: [\d,]+ LUTs/, () => page.getByRole('button', { name: 'Build with probes' }).click());
  await station(page, 'Load');
  await ended(page, /DONE is high/, () => page.getByRole('button', { name: 'Load', exact: true }).click());
}

function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.listen(0, '127.0.0.1', () => {
      const address = probe.address();
      probe.close(() => resolve(typeof address === 'object' && address ? address.port : 0));
    });
  });
}

async function answers(url: string): Promise<void> {
  for (let tries = 0; tries < 300; tries++) {
    try {
      if ((await fetch(url)).ok) return;
    } catch {
      // not listening yet
    }
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  throw new Error(`${url} does not answer`);
}
