import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { MessageChannel, type MessagePort } from 'node:worker_threads';
import PQueue from 'p-queue';
import { Tinypool } from 'tinypool';
import type { BuildInputs, BuildResult, Project, SignalInfo, SourcePorts, TextFile } from '../../core/build/index.ts';
import type { CheaperPlan, ProbeCost, ProbePlan, Room } from '../../core/probes/index.ts';
import type { Progress, Watch } from '../../core/progress.ts';
import { type Problem, ProblemError } from '../../core/result.ts';
import { problem } from './problems.ts';
import type { Schematic } from '../../core/schematic/index.ts';
import type { VectorOptions, VectorRun } from '../../core/vectors/index.ts';

type SchematicView =
  | { readonly kind: 'instance'; readonly path: string; readonly expanded: readonly string[] }
  | { readonly kind: 'cone'; readonly signal: string };

/** A plan beside the others in the build, and what it stands in. */
export interface PricedPlan {
  readonly plan: ProbePlan;
  readonly others: ProbePlan;
  readonly signals: readonly SignalInfo[];
  /** What is left for the case that the sources cannot be read as they stand. */
  readonly room: Room;
  readonly project: Project;
  /** Of the part. */
  readonly whole: Room;
  /** Tells one state of the sources from another. */
  readonly key: string;
}

/** A part of a design that is drawn; `key` tells one state of the sources from another. */
export interface DrawRequest {
  readonly key: string;
  readonly project: Project;
  readonly view: SchematicView;
}

interface VectorRequest {
  readonly files: readonly TextFile[];
  readonly table: TextFile;
  readonly options: VectorOptions;
}

interface TakeAlongRequest {
  readonly project: Project;
  readonly plan: ProbePlan;
  readonly fingerprint: string;
}

/** What the thread can do: for each work what it takes, and what comes of it. */
export interface DesignWork {
  build(inputs: BuildInputs, watch: Watch): BuildResult;
  draw(request: DrawRequest): Schematic;
  vectors(request: VectorRequest, watch: Watch): VectorRun;
  takeAlong(request: TakeAlongRequest): string;
  ports(project: Project): SourcePorts;
  cost(priced: PricedPlan): PlanCost;
  cheaper(priced: PricedPlan): CheaperPlan | null;
}

/** What the cores of a plan take of what the design leaves. */
export interface PlanCost {
  /** Of this plan and the others in the build. */
  readonly total: ProbeCost;
  /**
   * Counted in the design itself, as the build will; false where the sources do not make one as they stand, and only
   * the cores were counted.
   */
  readonly isExact: boolean;
  readonly room: Room;
  /** Each core by itself, with the hub in front of it. */
  readonly cores: readonly { readonly name: string; readonly cost: ProbeCost }[];
}

/** A work, what it takes, and where its progress goes. */
export type Asked = {
  readonly [K in keyof DesignWork]: {
    readonly work: K;
    readonly given: Parameters<DesignWork[K]>[0];
    readonly progress: MessagePort;
  };
}[keyof DesignWork];

/** What comes of it; errors lose what they carry on their way between threads, problems do not. */
export type Came = { readonly value: unknown } | { readonly problem: Problem };

const POLL_MILLISECONDS = 100;
const UNWATCHED: Watch = { cancelled: () => false, report: () => {} };

/**
 * A worker thread that lives from one request to the next and takes them one after another. A cancel ends the thread;
 * the next request finds a new one.
 */
export class DesignThread {
  #pool: Tinypool | null = null;
  readonly #turns = new PQueue({ concurrency: 1 });
  #asked = 0;

  /** Starts the thread, so that the first build does not wait for it. */
  warm(): void {
    this.#start();
  }

  build(inputs: BuildInputs, watch: Watch): Promise<BuildResult> {
    return this.#ask('build', inputs, watch);
  }

  draw(key: string, project: Project, view: SchematicView): Promise<Schematic> {
    return this.#ask('draw', { key, project, view });
  }

  vectors(files: readonly TextFile[], table: TextFile, options: VectorOptions, watch: Watch): Promise<VectorRun> {
    return this.#ask('vectors', { files, table, options }, watch);
  }

  /** The design with its probes as plain Verilog. */
  takeAlong(project: Project, plan: ProbePlan, fingerprint: string): Promise<string> {
    return this.#ask('takeAlong', { project, plan, fingerprint });
  }

  /** The ports of a design as its sources stand. */
  ports(project: Project): Promise<SourcePorts> {
    return this.#ask('ports', project);
  }

  /** What a plan takes together with others. */
  cost(priced: PricedPlan): Promise<PlanCost> {
    return this.#askNewest('cost', priced);
  }

  /** What of a plan it would be enough to give up where it is more than there is room for. */
  cheaper(priced: PricedPlan): Promise<CheaperPlan | null> {
    return this.#askNewest('cheaper', priced);
  }

  #start(): Tinypool {
    this.#pool ??= new Tinypool({
      filename: /* turbopackIgnore: true */ pathToFileURL(
        /* turbopackIgnore: true */ join(process.cwd(), 'server', 'threads', 'workers', 'design.mjs'),
      ).href,
      ...{ minThreads: 1, maxThreads: 1, isolateWorkers: false, runtime: 'worker_threads' },
    });
    return this.#pool;
  }

  /** Of plans that change faster than they are priced the newest counts. */
  #askNewest<K extends 'cost' | 'cheaper'>(work: K, given: PricedPlan): Promise<ReturnType<DesignWork[K]>> {
    const asked = ++this.#asked;
    return this.#turns.add(() => {
      if (asked !== this.#asked) throw new ProblemError(problem('superseded'));
      return this.#run(work, given, UNWATCHED);
    });
  }

  #ask<K extends keyof DesignWork>(work: K, given: Parameters<DesignWork[K]>[0], watch = UNWATCHED) {
    return this.#turns.add(() => this.#run(work, given, watch));
  }

  async #run<K extends keyof DesignWork>(
    work: K,
    given: Parameters<DesignWork[K]>[0],
    watch: Watch,
  ): Promise<ReturnType<DesignWork[K]>> {
    const { port1: heard, port2: progress } = new MessageChannel();
    const gone = new AbortController();
    const poll = setInterval(() => watch.cancelled() && gone.abort(), POLL_MILLISECONDS);
    heard.on('message', (step: Progress) => watch.report(step));
    try {
      const came: Came = await this.#start().run(
        { work, given, progress },
        { transferList: [progress], signal: gone.signal },
      );
      if (watch.cancelled()) throw new ProblemError(problem('cancelled'));
      if ('problem' in came) throw new ProblemError(came.problem);
      return came.value as ReturnType<DesignWork[K]>;
    } catch (error) {
      if (gone.signal.aborted) throw new ProblemError(problem('cancelled'));
      throw error;
    } finally {
      clearInterval(poll);
      heard.close();
    }
  }
}
