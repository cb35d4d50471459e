import type { TextFile } from '../../core/build/index.ts';
import type { Message } from '../../core/hdl/index.ts';
import type { Watch } from '../../core/progress.ts';
import type { Report, Simulated } from '../../core/sim/events/index.ts';
import { WorkerThread } from './worker-thread.ts';

/** What is to be run. */
export interface TestbenchRequest {
  readonly files: readonly TextFile[];
  readonly testbench: string;
  readonly parameters: Readonly<Record<string, string>>;
  readonly plusargs: readonly string[];
  /** A time with its unit, or a number of ticks; null for as long as it takes. */
  readonly until: string | null;
}

/** What came of it. */
export interface TestbenchRun
  extends Pick<Simulated, 'ending' | 'told' | 'time' | 'ticks' | 'precision' | 'errors' | 'events'> {
  readonly reports: readonly Report[];
  /** What it printed; `cut` where there was more than is kept. */
  readonly output: string;
  readonly cut: boolean;
  readonly messages: readonly Message[];
  /** Names of the files it wrote. */
  readonly files: readonly string[];
  /** Value change dump of all signals; null where nothing ran. */
  readonly dump: Uint8Array | null;
  /** The dump ends before the run does. */
  readonly dumpCut: boolean;
}

/** What the thread can do. */
export interface SimulationWork {
  run(request: TestbenchRequest, watch: Watch): TestbenchRun;
}

/** A run may take as long as it likes: it can be cancelled. */
const LIMITS = { seconds: 24 * 3600, megabytes: 2048 };

/** Testbenches run here, apart from builds. */
export class SimulationThread {
  readonly #thread = new WorkerThread<SimulationWork>('simulation', LIMITS);

  run(request: TestbenchRequest, watch: Watch): Promise<TestbenchRun> {
    return this.#thread.ask('run', request, watch);
  }
}
