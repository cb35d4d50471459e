import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { MessageChannel, type MessagePort } from 'node:worker_threads';
import PQueue from 'p-queue';
import { Tinypool } from 'tinypool';
import type { Progress, Watch } from '../../core/progress.ts';
import { type Problem, ProblemError } from '../../core/result.ts';
import { problem } from './problems.ts';

/** What a thread can do: for each work what it takes, and what comes of it. */
type Works<W> = { readonly [K in keyof W]: (given: never, watch: Watch) => unknown };

/** A work, what it takes, and where its progress goes. */
export interface Asked<W extends Works<W>> {
  readonly work: keyof W;
  readonly given: Parameters<W[keyof W]>[0];
  readonly progress: MessagePort;
}

/** What comes of it; errors lose what they carry on their way between threads, problems do not. */
export type Came = { readonly value: unknown } | { readonly problem: Problem };

/** What one work may take before it is given up. */
interface Limits {
  readonly seconds: number;
  readonly megabytes: number;
}

const POLL_MILLISECONDS = 100;
const UNWATCHED: Watch = { cancelled: () => false, report: () => {} };

/**
 * A worker thread that lives from one request to the next and takes them one after another. A cancel, and a limit that
 * is reached, end the thread; the next request finds a new one.
 */
export class WorkerThread<W extends Works<W>> {
  readonly #name: string;
  readonly #limits: Limits | null;
  #pool: Tinypool | null = null;
  readonly #turns = new PQueue({ concurrency: 1 });
  #asked = 0;

  /** `name` is that of its file in `workers/`. */
  constructor(name: string, limits: Limits | null = null) {
    this.#name = name;
    this.#limits = limits;
  }

  warm(): void {
    this.#start();
  }

  ask<K extends keyof W>(work: K, given: Parameters<W[K]>[0], watch = UNWATCHED): Promise<ReturnType<W[K]>> {
    return this.#turns.add(() => this.#run(work, given, watch));
  }

  /** Of requests that come faster than they are answered the newest counts. */
  askNewest<K extends keyof W>(work: K, given: Parameters<W[K]>[0]): Promise<ReturnType<W[K]>> {
    const asked = ++this.#asked;
    return this.#turns.add(() => {
      if (asked !== this.#asked) throw new ProblemError(problem('superseded'));
      return this.#run(work, given, UNWATCHED);
    });
  }

  #start(): Tinypool {
    this.#pool ??= new Tinypool({
      filename: /* turbopackIgnore: true */ pathToFileURL(
        /* turbopackIgnore: true */ join(folderOfThreads(), `${this.#name}.mjs`),
      ).href,
      ...{ minThreads: 1, maxThreads: 1, isolateWorkers: false, runtime: 'worker_threads' },
      ...(this.#limits ? { resourceLimits: { maxOldGenerationSizeMb: this.#limits.megabytes } } : {}),
    });
    return this.#pool;
  }

  async #run<K extends keyof W>(work: K, given: Parameters<W[K]>[0], watch: Watch): Promise<ReturnType<W[K]>> {
    const { port1: heard, port2: progress } = new MessageChannel();
    const gone = new AbortController();
    const until = this.#limits ? Date.now() + this.#limits.seconds * 1000 : Infinity;
    const poll = setInterval(() => (watch.cancelled() || Date.now() > until) && gone.abort(), POLL_MILLISECONDS);
    heard.on('message', (step: Progress) => watch.report(step));
    try {
      const came: Came = await this.#start().run(
        { work, given, progress },
        { transferList: [progress], signal: gone.signal },
      );
      if (watch.cancelled()) throw new ProblemError(problem('cancelled'));
      if ('problem' in came) throw new ProblemError(came.problem);
      return came.value as ReturnType<W[K]>;
    } catch (error) {
      if (watch.cancelled()) throw new ProblemError(problem('cancelled'));
      if (gone.signal.aborted) throw new ProblemError(problem('too-heavy', { what: `${this.#limits?.seconds} s` }));
      if (isOutOfMemory(error)) throw new ProblemError(problem('too-heavy', { what: `${this.#limits?.megabytes} MB` }));
      throw error;
    } finally {
      clearInterval(poll);
      heard.close();
    }
  }
}

/** Bundled by whoever starts the product; as they are written elsewhere. */
const folderOfThreads = (): string =>
  process.env.NIMBLE_THREADS ?? join(/* turbopackIgnore: true */ process.cwd(), 'server', 'threads', 'workers');

const isOutOfMemory = (error: unknown): boolean =>
  error instanceof Error && 'code' in error && error.code === 'ERR_WORKER_OUT_OF_MEMORY';
