import { item } from '../core/lists.ts';
import type { Progress, Watch } from '../core/progress.ts';
import { type Problem, ProblemError, type Result } from '../core/result.ts';
import type { Logbook } from './logbook.ts';

/** Something long that was asked for. `etaMilliseconds` is null until it can be told. */
export interface Job {
  readonly id: number;
  readonly kind:
    | 'scan'
    | 'build'
    | 'load'
    | 'keep'
    | 'power'
    | 'capture'
    | 'drive'
    | 'vectors'
    | 'diagnose'
    | 'sweep'
    | 'integrity'
    | 'interconnect'
    | 'svf'
    | 'stage'
    | 'flash';
  readonly title: string;
  readonly state: 'waiting' | 'running' | 'done' | 'failed' | 'cancelled' | 'interrupted';
  readonly progress: Progress | null;
  readonly startedAt: number;
  readonly endedAt: number | null;
  readonly etaMilliseconds: number | null;
  readonly message: string;
  readonly problem: Problem | null;
  /** Whose it was: the key of the board and the project; empty and null while it waits its turn. */
  readonly boardKey: string;
  readonly project: number | null;
}

interface JobSpec {
  readonly kind: Job['kind'];
  readonly title: string;
  readonly board: string;
  /** Resolves to a sentence that says what came of it. `note` names for the logbook what goes in. */
  readonly work: (watch: Watch, note: (inputs: Readonly<Record<string, string>>) => void) => Promise<Result<string>>;
}

/** Which board and project work belongs to. */
interface Where {
  readonly boardKey: string;
  readonly project: number | null;
  readonly projectName: string;
}

const NOWHERE: Where = { boardKey: '', project: null, projectName: '' };

const KEPT_JOBS = 30;
const REPORT_MILLISECONDS = 60;

/** Runs jobs one after another in each lane, tells their progress, writes the logbook. */
export class Jobs {
  readonly #logbook: Logbook;
  readonly #changed: () => void;
  readonly #where: () => Promise<Where>;
  readonly #jobs: Job[] = [];
  readonly #cancelled = new Set<number>();
  readonly #lanes = new Map<string, Promise<unknown>>();
  #next = 1;
  #lastTold = 0;

  constructor(logbook: Logbook, changed: () => void, where: () => Promise<Where> = async () => NOWHERE) {
    this.#where = where;
    this.#logbook = logbook;
    this.#changed = changed;
  }

  get list(): readonly Job[] {
    return this.#jobs;
  }

  /** Jobs that wait for the same thing share a lane: builds one, the cable another. */
  start(lane: string, spec: JobSpec): { readonly id: number; readonly ended: Promise<Job> } {
    const id = this.#next++;
    this.#jobs.unshift({
      id,
      kind: spec.kind,
      title: spec.title,
      state: 'waiting',
      progress: null,
      startedAt: Date.now(),
      endedAt: null,
      etaMilliseconds: null,
      message: '',
      problem: null,
      boardKey: '',
      project: null,
    });
    this.#jobs.length = Math.min(this.#jobs.length, KEPT_JOBS);
    const before = this.#lanes.get(lane) ?? Promise.resolve();
    const ended = before.then(() => this.#run(id, spec));
    this.#lanes.set(lane, ended);
    this.#changed();
    return { id, ended };
  }

  /** False when it has ended already. */
  cancel(id: number): boolean {
    const job = this.#jobs.find((j) => j.id === id);
    if (!job || job.endedAt !== null) return false;
    this.#cancelled.add(id);
    this.#update(id, { message: 'Cancelling at the next safe point.' });
    return true;
  }

  async #run(id: number, spec: JobSpec): Promise<Job> {
    const startedAt = Date.now();
    const { boardKey, project, projectName } = await this.#where();
    this.#update(id, { boardKey, project });
    const entry = await this.#logbook.open(spec.title, spec.board, {}, projectName);
    const noted: Record<string, string> = {};
    const note = (inputs: Readonly<Record<string, string>>) => {
      Object.assign(noted, inputs);
      void this.#logbook.note(entry, noted);
    };
    this.#update(id, { state: 'running', startedAt });
    let phase = '';
    let phaseStart = startedAt;
    const watch: Watch = {
      cancelled: () => this.#cancelled.has(id),
      report: (progress) => {
        const now = Date.now();
        if (progress.phase !== phase) {
          phase = progress.phase;
          phaseStart = now;
        } else if (now - this.#lastTold < REPORT_MILLISECONDS) return;
        this.#lastTold = now;
        const left =
          progress.done > 0 && progress.total > 0
            ? Math.round(((now - phaseStart) * (progress.total - progress.done)) / progress.done)
            : null;
        this.#update(id, { progress, etaMilliseconds: left });
      },
    };
    const outcome = await this.#outcome(spec, watch, note);
    const state =
      outcome.problem === null
        ? 'done'
        : outcome.problem.code === 'cancelled'
          ? 'cancelled'
          : outcome.problem.code === 'pod-lost'
            ? 'interrupted'
            : 'failed';
    await this.#logbook.close(entry, state, outcome.message, Date.now() - startedAt);
    this.#cancelled.delete(id);
    return this.#update(id, { state, endedAt: Date.now(), etaMilliseconds: null, ...outcome });
  }

  async #outcome(
    spec: JobSpec,
    watch: Watch,
    note: Parameters<JobSpec['work']>[1],
  ): Promise<{ message: string; problem: Problem | null }> {
    try {
      const result = await spec.work(watch, note);
      return result.ok
        ? { message: result.value, problem: null }
        : { message: result.error.message, problem: result.error };
    } catch (error) {
      if (error instanceof ProblemError) return { message: error.problem.message, problem: error.problem };
      console.error(error);
      const message = `This is a defect of the product: ${error instanceof Error ? error.message : String(error)}`;
      return { message, problem: { code: 'defect', message, tryNext: ['Report it with the server’s output.'] } };
    }
  }

  #update(id: number, change: Partial<Job>): Job {
    const at = this.#jobs.findIndex((job) => job.id === id);
    const job = { ...item(this.#jobs, at), ...change };
    if (at >= 0) this.#jobs[at] = job;
    this.#changed();
    return job;
  }
}
