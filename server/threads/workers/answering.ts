import type { Watch } from '../../../core/progress.ts';
import { ProblemError } from '../../../core/result.ts';
import type { Asked, Came } from '../worker-thread.ts';

/** What a thread does with one request; what it is to do is in it. */
export const answering =
  <W extends { readonly [K in keyof W]: (given: never, watch: Watch) => unknown }>(works: W) =>
  ({ work, given, progress }: Asked<W>): Came => {
    const watch: Watch = { cancelled: () => false, report: (step) => progress.postMessage(step) };
    try {
      // What it takes is of this work: whoever asked was held to that.
      return { value: works[work](given as never, watch) };
    } catch (error) {
      if (error instanceof ProblemError) return { problem: error.problem };
      throw error;
    } finally {
      progress.close();
    }
  };
