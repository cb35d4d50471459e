import { item } from '../../core/lists.ts';
import PQueue from 'p-queue';
import type { Progress, Watch } from '../../core/progress.ts';
import { type Problem, ProblemError, type Result } from '../../core/result.ts';
import type { Logbook } from '../store/index.ts';

/** Work on a design alone: no board takes part in it. */
export const DESIGN_JOBS = ['build', 'vectors', 'simulation'] as const;

export const isDesignJob = (kind: Job['kind']): boolean => DESIGN_JOBS.some((one) => one === kind);

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
    | 'table'
    | 'simulation'
    | 'diagnose'
    | 'sweep'
    | 'integrity'
    | 'interconnect'
    | 'svf'
    | 'stage'
    | 'pod-send'
    | 'pod-run'
    | 'line'
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
  /** Project it was asked for; absent where it is for whichever is open when its turn comes. */
  readonly project?: { readonly id: number; readonly name: string };
  /** Resolves to a sentence that says what came of it. `note` names for the logbook what goes in. */
  readonly work: (watch: Watch, note: (inputs: Readonly<Record<string, string>>) => void) => Promise<Result<string>>;
}

/** Which board and project work belongs to. */
interface Where {
  readonly boardKey: string;
  readonly project: number | null;
  readonly projectName: string;
}

const NOBODYS = { boardKey: '', project: null };
const NOWHERE: Where = { ...NOBODYS, projectName: '' };

const KEPT_JOBS = 30;
const REPORT_MILLISECONDS = 60;

/** Where jobs are written down. */
type Log = Pick<Logbook, 'open' | 'note' | 'close'>;

interface Needs {
  readonly logbook: Log;
  /** A job stands otherwise; `ended` when it has come to its end. */
  readonly changed: (ended: boolean) => void;
  readonly where: () => Promise<Where>;
}

/**
 * Runs jobs one after another in each lane, tells their progress, writes the logbook. A job that throws, and a logbook
 * that cannot be written, end or hinder that job alone: its lane goes on.
 */
export class Jobs {
  readonly #needs: Needs;
  #jobs: readonly Job[] = [];
  readonly #cancelled = new Set<number>();
  readonly #ends = new Map<number, Promise<Job>>();
  readonly #lanes = new Map<string, PQueue>();
  #next = 1;
  #lastTold = 0;

  constructor(needs: Needs) {
    this.#needs = needs;
  }

  /** The newest first: all that have not ended, and the last of those that have. */
  get list(): readonly Job[] {
    return this.#jobs;
  }

  /** Jobs that wait for the same thing share a lane: builds one, the cable another. */
  start(lane: string, spec: JobSpec): { readonly id: number; readonly ended: Promise<Job> } {
    const id = this.#next++;
    const job: Job = {
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
      ...NOBODYS,
      project: spec.project?.id ?? null,
    };
    const older = this.#jobs.filter(({ endedAt }, i) => endedAt === null || i < KEPT_JOBS - 1);
    this.#jobs = [job, ...older];
    const queue = this.#lanes.get(lane) ?? new PQueue({ concurrency: 1 });
    this.#lanes.set(lane, queue);
    const ended = queue.add(() => this.#run(id, spec)).finally(() => this.#ends.delete(id));
    this.#ends.set(id, ended);
    this.#needs.changed(false);
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

  /**
   * Cancels the jobs of these kinds that a project has asked for, and resolves when they have ended: after that none of
   * them writes anything any more.
   */
  async endAll(project: number, kinds: readonly Job['kind'][]): Promise<void> {
    await Promise.all(this.cancelAll(project, kinds).map((id) => this.#ends.get(id)));
  }

  /** Asks them to stop; gives their numbers. */
  cancelAll(project: number, kinds: readonly Job['kind'][]): number[] {
    const own = this.#jobs.filter((job) => job.project === project && job.endedAt === null && kinds.includes(job.kind));
    for (const { id } of own) this.cancel(id);
    return own.map(({ id }) => id);
  }

  async #run(id: number, spec: JobSpec): Promise<Job> {
    if (this.#cancelled.delete(id))
      return this.#end(id, { state: 'cancelled', message: 'Cancelled before it began.', problem: null });
    const startedAt = Date.now();
    const { projectName, ...whose } = await this.#whose(spec);
    this.#update(id, whose);
    const entry = await this.#needs.logbook.open(spec.title, spec.board, {}, projectName).catch(unwritten(null));
    const noted: Record<string, string> = {};
    const note = (inputs: Readonly<Record<string, string>>) => {
      Object.assign(noted, inputs);
      if (entry !== null) void this.#needs.logbook.note(entry, noted).catch(unwritten(null));
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
    const written =
      entry !== null &&
      (await this.#needs.logbook
        .close(entry, state, outcome.message, Date.now() - startedAt)
        .then(() => true, unwritten(false)));
    this.#cancelled.delete(id);
    const message = written ? outcome.message : `${outcome.message} The logbook could not be written.`;
    return this.#end(id, { ...outcome, state, message });
  }

  async #whose({ project }: JobSpec): Promise<Where> {
    const where = await this.#needs.where().catch(unwritten(NOWHERE));
    return project ? { ...where, project: project.id, projectName: project.name } : where;
  }

  #end(id: number, outcome: Pick<Job, 'state' | 'message' | 'problem'>): Job {
    const ended = this.#update(id, { ...outcome, endedAt: Date.now(), etaMilliseconds: null });
    this.#needs.changed(true);
    return ended;
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

  /** Jobs that have not ended are always in the list. */
  #update(id: number, change: Partial<Job>): Job {
    const at = this.#jobs.findIndex((job) => job.id === id);
    const job = { ...item(this.#jobs, at), ...change };
    this.#jobs = this.#jobs.with(at, job);
    this.#needs.changed(false);
    return job;
  }
}

/** What the store could not do is said where the server writes, and the work goes on without it. */
const unwritten =
  <T>(instead: T) =>
  (error: unknown): T => {
    console.error(error);
    return instead;
  };
