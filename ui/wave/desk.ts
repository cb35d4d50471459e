import type { Call, Calls } from './messages.ts';

type Reply = { readonly id: number; readonly answer: unknown } | { readonly progress: number };

/** The page's end of a wave worker, which holds one recording. */
export class WaveDesk {
  readonly #worker: Worker;
  readonly #waiting = new Map<number, (answer: never) => void>();
  #next = 0;
  onProgress: (share: number) => void = () => undefined;

  constructor() {
    this.#worker = new Worker(new URL('./wave.worker.ts', import.meta.url), { type: 'module' });
    this.#worker.onmessage = ({ data }: MessageEvent<Reply>) => {
      if ('progress' in data) return this.onProgress(data.progress);
      this.#waiting.get(data.id)?.(data.answer as never);
      this.#waiting.delete(data.id);
    };
  }

  ask<C extends Call>(call: C, ask: Calls[C]['ask']): Promise<Calls[C]['answer']> {
    const id = this.#next++;
    return new Promise((resolve) => {
      this.#waiting.set(id, resolve);
      this.#worker.postMessage({ id, call, ask });
    });
  }

  close(): void {
    this.#worker.terminate();
  }
}
