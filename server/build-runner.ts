import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import type { BuildInputs, BuildResult } from '../core/build/index.ts';
import type { Progress, Watch } from '../core/progress.ts';
import { type Problem, ProblemError, problem } from '../core/result.ts';

type Reply = { readonly progress: Progress } | { readonly result: BuildResult } | { readonly problem: Problem };

const POLL_MILLISECONDS = 100;

/** Runs builds in a worker thread that lives from one build to the next. A cancel ends the thread. */
export class BuildRunner {
  #worker: Worker | null = null;

  run(inputs: BuildInputs, watch: Watch): Promise<BuildResult> {
    const worker = (this.#worker ??= new Worker(/* turbopackIgnore: true */ join(/* turbopackIgnore: true */ process.cwd(), 'server', 'workers', 'build.mjs')));
    return new Promise((resolve, reject) => {
      const cancel = (kill: boolean) => end(() => reject(new ProblemError(problem('cancelled', 'Cancelled. Nothing of the last build was replaced.', 'Build again when ready.'))), kill);
      const poll = setInterval(() => watch.cancelled() && cancel(true), POLL_MILLISECONDS);
      const onMessage = (reply: Reply) => {
        if ('progress' in reply) watch.report(reply.progress);
        else if (watch.cancelled()) cancel(false);
        else if ('result' in reply) end(() => resolve(reply.result), false);
        else end(() => reject(new ProblemError(reply.problem)), false);
      };
      const onError = (error: Error) => end(() => reject(error), true);
      const onExit = (code: number) => end(() => reject(new Error(`the build thread ended with ${code}`)), true);
      const end = (then: () => void, kill: boolean) => {
        clearInterval(poll);
        worker.off('message', onMessage).off('error', onError).off('exit', onExit);
        if (kill) {
          void worker.terminate();
          this.#worker = null;
        }
        then();
      };
      worker.on('message', onMessage).on('error', onError).on('exit', onExit);
      worker.postMessage(inputs);
    });
  }
}
