import { createTRPCClient, httpLink, type TRPCClient } from '@trpc/client';
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { jsonIntegers } from '../../core/json-integers.ts';
import type { Job, Routes, Slices } from '../../server/index.ts';
import type { Chance } from '../fuzz/index.ts';
import { answers, Ended, freePort } from '../support/processes.ts';
import { Wire } from './wire.ts';

export type Api = TRPCClient<Routes>;
export type Order = Parameters<Api['jobs']['start']['mutate']>[0];

const TOKEN = 'token-of-the-torture';
/** No answer of the workbench takes as long, however long the work is that it starts. */
const CALL_MILLISECONDS = 30_000;

/** A workbench and its bench in a folder of their own, with a wire between them that can be made worse. */
export class Rig {
  readonly home = mkdtempSync(join(tmpdir(), 'nimble-torture-'));
  readonly address: string;
  readonly podAddress: string;
  readonly ports: { readonly web: number; readonly pod: number };
  readonly token = TOKEN;
  readonly api: Api;
  readonly wire: Wire;
  readonly #web: Ended;
  readonly #pod: Ended;
  #told: Partial<Slices> = {};
  #listening = new AbortController();
  /** Processes that were ended without a word. */
  kills = 0;

  private constructor({ web, pod, near }: { web: number; pod: number; near: number }, wire: Wire) {
    this.address = `http://127.0.0.1:${web}`;
    this.wire = wire;
    this.podAddress = `ws://127.0.0.1:${near}`;
    this.ports = { web, pod };
    const env = { ...process.env, NIMBLE_POD_TOKEN: TOKEN };
    // What they say goes to the log of the run; a torture has enough to say itself.
    const stdio: ['ignore', 'ignore', 'ignore'] = ['ignore', 'ignore', 'ignore'];
    this.#web = new Ended(() =>
      spawn(process.execPath, ['cli/web.mjs', '--port', String(web)], {
        env: { ...env, NODE_ENV: 'production', NIMBLE_HOME: this.home, NIMBLE_POD_ADDRESS: `ws://127.0.0.1:${near}` },
        stdio,
      }),
    );
    this.#pod = new Ended(() =>
      spawn(process.execPath, ['cli/pod.mjs', '--port', String(pod), '--state', join(this.home, 'board')], {
        env,
        stdio,
      }),
    );
    this.api = createTRPCClient<Routes>({
      links: [
        httpLink({
          url: `${this.address}/api/call`,
          methodOverride: 'POST',
          transformer: jsonIntegers,
          fetch: (url, init) =>
            fetch(url, { ...(init as RequestInit), signal: AbortSignal.timeout(CALL_MILLISECONDS) }),
        }),
      ],
    });
  }

  static async made(chance: Chance): Promise<Rig> {
    const [web, pod, near] = [await freePort(), await freePort(), await freePort()];
    const rig = new Rig({ web, pod, near }, await Wire.to(pod, near, chance));
    await rig.start();
    return rig;
  }

  /** Starts what does not run, and listens to it. */
  async start(): Promise<void> {
    if (this.#pod.pid === 0) this.#pod.start();
    if (this.#web.pid === 0) {
      this.#web.start();
      await answers(`${this.address}/logbook`);
      void this.#listen();
    }
  }

  /** 0 where it does not run, or has ended by itself. */
  get pids(): { readonly web: number; readonly pod: number } {
    return { web: this.#web.livingPid, pod: this.#pod.livingPid };
  }

  async kill(what: 'web' | 'pod'): Promise<void> {
    this.kills++;
    if (what === 'web') {
      this.#listening.abort();
      this.#told = {};
    }
    await (what === 'web' ? this.#web : this.#pod).kill();
  }

  async close(): Promise<void> {
    this.#listening.abort();
    this.wire.close();
    await Promise.all([this.#web.kill(), this.#pod.kill()]);
    rmSync(this.home, { recursive: true, force: true, maxRetries: 5 });
  }

  /** What the workbench tells its pages now; absent where it has not told it yet. */
  told<S extends keyof Slices>(slice: S): Slices[S] | undefined {
    return this.#told[slice];
  }

  job(id: number): Job | undefined {
    return this.told('jobs')?.jobs.find((one) => one.id === id);
  }

  /** Starts work and waits for its end; null where the workbench went before it, or within the time. */
  async did(order: Order, milliseconds = 60_000): Promise<Job | null> {
    const { id } = await this.api.jobs.start.mutate(order);
    return this.ended(id, milliseconds);
  }

  async ended(id: number, milliseconds = 60_000): Promise<Job | null> {
    const signal = this.#listening.signal;
    const found = await until(() => {
      const job = this.job(id);
      return signal.aborted ? 'gone' : job && job.endedAt !== null ? job : null;
    }, milliseconds);
    return found === 'gone' ? null : found;
  }

  async upload(path: string, bytes: Uint8Array): Promise<unknown> {
    const answer = await fetch(`${this.address}/api/${path}`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream', origin: this.address },
      body: Buffer.from(bytes),
      signal: AbortSignal.timeout(CALL_MILLISECONDS),
    });
    if (!answer.ok) throw new Error(`${path}: ${answer.status} ${(await answer.text()).slice(0, 300)}`);
    return answer.json();
  }

  async #listen(): Promise<void> {
    this.#listening = new AbortController();
    const { signal } = this.#listening;
    while (!signal.aborted)
      try {
        const events = await fetch(`${this.address}/api/events`, { signal });
        let rest = '';
        for await (const piece of events.body ?? []) {
          const lines = (rest + new TextDecoder().decode(piece)).split('\n');
          rest = lines.pop() ?? '';
          for (const line of lines.filter((one) => one.startsWith('data: '))) {
            const { slice, value } = JSON.parse(line.slice(6)) as { slice?: keyof Slices; value?: never };
            if (slice && !signal.aborted) this.#told = { ...this.#told, [slice]: value };
          }
        }
      } catch {
        await wait(200);
      }
  }
}

export const wait = (milliseconds: number) => new Promise<void>((resolve) => setTimeout(resolve, milliseconds));

/** Asks again and again; null where the time is over. */
export async function until<T>(
  ask: () => T | null | undefined | false | Promise<T | null | undefined | false>,
  milliseconds: number,
): Promise<T | null> {
  const end = Date.now() + milliseconds;
  for (;;) {
    const found = await ask();
    if (found) return found;
    if (Date.now() > end) return null;
    await wait(25);
  }
}
