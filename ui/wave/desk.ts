import { proxy, type Remote, wrap } from 'comlink';
import type { Problem } from '../../core/result.ts';
import { problem } from './problems.ts';
import type { Call, Calls, WaveWorker } from './messages.ts';

interface Listeners {
  /** Share of a file that was read. */
  readonly onProgress: (share: number) => void;
  /** The worker ended by itself; nothing it was asked is answered any more. */
  readonly onCrash: (why: Problem) => void;
}

/** The page's end of a wave worker, which holds one recording. */
export class WaveDesk {
  readonly #worker: Worker;
  readonly #remote: Remote<WaveWorker>;

  constructor({ onProgress, onCrash }: Listeners) {
    this.#worker = new Worker(new URL('./wave.worker.ts', import.meta.url), { type: 'module' });
    this.#worker.onerror = (event) => {
      event.preventDefault();
      onCrash(problem('worker', { messageText: event.message ? ` (${event.message})` : '' }));
    };
    this.#remote = wrap<WaveWorker>(this.#worker);
    void this.#remote.follow(proxy(onProgress));
  }

  async ask<C extends Call>(call: C, ask: Calls[C]['ask']): Promise<Calls[C]['answer']> {
    return (await this.#remote.answer(call, ask)) as Calls[C]['answer'];
  }

  close(): void {
    this.#worker.terminate();
  }
}
