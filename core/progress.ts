// How long work tells how far it is and is told to stop.
import { ProblemError, problem } from './result.ts';

/** One step of a long operation. `done` and `total` are in `unit`; `total` may grow while the work is being planned. */
export interface Progress {
  readonly phase: string;
  readonly done: number;
  readonly total: number;
  readonly unit: string;
}

/** What a long operation is given by whoever started it. */
export interface Watch {
  report(progress: Progress): void;
  readonly cancelled: () => boolean;
  /**
   * Waited for before anything is done that cannot be taken back, such as each erase of a flash: whoever has to tell of
   * it later writes it down here, and knows even where the process ends in the middle.
   */
  readonly beforeChange?: () => Promise<void>;
}

export const unwatched: Watch = { report: () => {}, cancelled: () => false };

/** Stops the operation here if it was asked to stop; `left` says in words what state that leaves behind. */
export function stopIfCancelled(watch: Watch, left: string): void {
  if (watch.cancelled())
    throw new ProblemError(problem('cancelled', `Cancelled. ${left}`, 'Start it again when ready.'));
}
