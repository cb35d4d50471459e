// One server and one pod of the product, each on a port of its own, in a folder of their own.
import { cpSync, existsSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { spawn } from 'node:child_process';
import Database from 'better-sqlite3';
import { answers, Ended, freePort } from './processes.ts';

export const TOKEN = 'token-of-the-tests';

interface PlaceOptions {
  /** False: the pod is started by the test. */
  readonly pod?: boolean;
  readonly podOptions?: readonly string[];
}

/** Where a server and its pod run. Processes are started and ended again and again; ports and folder stay. */
export class Place {
  readonly home: string;
  readonly address: string;
  readonly podAddress: string;
  readonly pod: Ended;
  readonly web: Ended;
  readonly #hasPod: boolean;

  private constructor(home: string, webPort: number, podPort: number, { pod = true, podOptions = [] }: PlaceOptions) {
    this.home = home;
    this.address = `http://127.0.0.1:${webPort}`;
    this.podAddress = `ws://127.0.0.1:${podPort}`;
    this.#hasPod = pod;
    const env = { ...process.env, NIMBLE_POD_TOKEN: TOKEN };
    this.pod = new Ended(() => {
      const own = ['--port', String(podPort), '--state', join(home, 'board'), ...podOptions];
      return spawn(process.execPath, ['cli/pod.mjs', ...own], { env, stdio: ['ignore', 'pipe', 'inherit'] });
    });
    this.web = new Ended(() =>
      spawn(process.execPath, ['cli/web.mjs', '--port', String(webPort)], {
        env: { ...env, NODE_ENV: 'production', NIMBLE_HOME: home, NIMBLE_POD_ADDRESS: this.podAddress },
        stdio: ['ignore', 'ignore', 'inherit'],
      }),
    );
  }

  static async at(home: string, options: PlaceOptions): Promise<Place> {
    return new Place(home, await freePort(), await freePort(), options);
  }

  async start(): Promise<void> {
    await Promise.all([this.#hasPod ? this.startPod() : null, this.startWeb()]);
  }

  async startPod(): Promise<void> {
    const started = this.pod.start();
    await new Promise<void>((resolve) => started.stdout?.once('data', () => resolve()));
  }

  async startWeb(): Promise<void> {
    this.web.start();
    await answers(`${this.address}/bench`);
  }

  async end(): Promise<void> {
    await Promise.all([this.pod.kill(), this.web.kill()]);
  }

  empty(): void {
    rmSync(this.home, { recursive: true, force: true, maxRetries: 5 });
  }

  /** Takes over what another one left: what is said there of its pod's board is said here of this one's. */
  takeOver(kept: string, podAddress: string): void {
    this.empty();
    if (existsSync(kept)) cpSync(kept, this.home, { recursive: true });
    const file = join(this.home, 'nimble.sqlite');
    if (podAddress === this.podAddress || !existsSync(file)) return;
    const database = new Database(file);
    const tables = database.prepare("SELECT name FROM sqlite_master WHERE type = 'table'").all() as { name: string }[];
    for (const { name } of tables)
      for (const column of database.pragma(`table_info("${name}")`) as { name: string; type: string }[])
        if (/text|char/i.test(column.type))
          database
            .prepare(
              `UPDATE "${name}" SET "${column.name}" = replace("${column.name}", ?, ?) WHERE instr("${column.name}", ?)`,
            )
            .run(podAddress, this.podAddress, podAddress);
    database.close();
  }
}
