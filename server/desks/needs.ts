import type { Board } from '../board/index.ts';
import type { Jobs } from '../jobs/index.ts';
import type { LineBook } from '../line/index.ts';
import type { OpenProject } from '../project/index.ts';
import type { FactStore, Store } from '../store/index.ts';
import type { DesignThread, ReadingThread, SimulationThread } from '../threads/index.ts';
import type { ArmedRecorders } from './armed.ts';
import type { SvfDesk } from './svf-desk.ts';

/** A project by its number, with its name for the logbook. */
export interface Named {
  readonly id: number;
  readonly name: string;
}

/** Everything that some desk needs. A desk names what it takes of this, and is given no more by its type. */
export interface Given {
  readonly store: Store;
  readonly facts: FactStore;
  readonly jobs: Jobs;
  readonly board: Board;
  readonly project: OpenProject;
  readonly designs: DesignThread;
  /** Testbenches run beside builds. */
  readonly simulations: SimulationThread;
  /** Prices plans while they are being put together, beside builds. */
  readonly pricing: DesignThread;
  /** Reads files that somebody gave. */
  readonly reading: ReadingThread;
  readonly armed: ArmedRecorders;
  readonly svf: SvfDesk;
  /** What is said over serial lines. */
  readonly lines: LineBook;
  /** Something that pages show is otherwise now. */
  readonly changed: () => void;
}
