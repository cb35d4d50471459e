// Processes of the product as tests start and end them.
import type { ChildProcess } from 'node:child_process';
import { createServer } from 'node:net';

/** A process that is started and ended again and again. */
export class Ended {
  readonly #make: () => ChildProcess;
  #now: ChildProcess | null = null;

  constructor(make: () => ChildProcess) {
    this.#make = make;
  }

  get pid(): number {
    return this.#now?.pid ?? 0;
  }

  /** 0 where it does not run, or has ended by itself. */
  get livingPid(): number {
    return this.#now && this.#now.exitCode === null && this.#now.signalCode === null ? this.pid : 0;
  }

  start(): ChildProcess {
    this.#now = this.#make();
    return this.#now;
  }

  signal(name: NodeJS.Signals): void {
    this.#now?.kill(name);
  }

  async kill(): Promise<void> {
    const ending = this.#now;
    this.#now = null;
    if (!ending || ending.exitCode !== null || ending.signalCode !== null) return;
    await new Promise<void>((resolve) => {
      ending.once('exit', () => resolve());
      ending.kill('SIGKILL');
    });
  }
}

export function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const probe = createServer();
    probe.listen(0, '127.0.0.1', () => {
      const address = probe.address();
      probe.close(() => resolve(typeof address === 'object' && address ? address.port : 0));
    });
  });
}

/** Resolves when something answers there. */
export async function answers(url: string): Promise<void> {
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
