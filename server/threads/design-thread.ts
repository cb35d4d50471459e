import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
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

export type DesignRequest =
  | { readonly kind: 'build'; readonly inputs: BuildInputs }
  /** `key` tells one state of the sources from another. */
  | { readonly kind: 'schematic'; readonly key: string; readonly project: Project; readonly view: SchematicView }
  | { readonly kind: 'take-along'; readonly project: Project; readonly plan: ProbePlan; readonly fingerprint: string }
  | { readonly kind: 'ports'; readonly project: Project }
  | (PricedPlan & { readonly kind: 'cost' | 'cheaper' })
  | {
      readonly kind: 'vectors';
      readonly files: readonly TextFile[];
      readonly table: TextFile;
      readonly options: VectorOptions;
    };

export type DesignAnswer =
  | { readonly kind: 'ports'; readonly ports: SourcePorts }
  | { readonly kind: 'build'; readonly result: BuildResult }
  | { readonly kind: 'schematic'; readonly drawing: Schematic }
  | { readonly kind: 'vectors'; readonly run: VectorRun }
  | { readonly kind: 'cost'; readonly cost: PlanCost }
  | { readonly kind: 'cheaper'; readonly cheaper: CheaperPlan | null }
  | { readonly kind: 'take-along'; readonly verilog: string };

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

type Reply = { readonly progress: Progress } | { readonly answer: DesignAnswer } | { readonly problem: Problem };

const POLL_MILLISECONDS = 100;

/**
 * A worker thread that lives from one request to the next and takes them one after another. A cancel ends the thread.
 */
export class DesignThread {
  #worker: Worker | null = null;
  #queue: Promise<unknown> = Promise.resolve();
  #asked = 0;

  /** Starts the thread, so that the first build does not wait for it. */
  warm(): void {
    this.#start();
  }

  async build(inputs: BuildInputs, watch: Watch): Promise<BuildResult> {
    const answer = await this.#ask({ kind: 'build', inputs }, watch);
    return (answer as DesignAnswer & { kind: 'build' }).result;
  }

  async draw(key: string, project: Project, view: SchematicView): Promise<Schematic> {
    const answer = await this.#ask(
      { kind: 'schematic', key, project, view },
      { cancelled: () => false, report: () => {} },
    );
    return (answer as DesignAnswer & { kind: 'schematic' }).drawing;
  }

  async vectors(files: readonly TextFile[], table: TextFile, options: VectorOptions, watch: Watch): Promise<VectorRun> {
    const answer = await this.#ask({ kind: 'vectors', files, table, options }, watch);
    return (answer as DesignAnswer & { kind: 'vectors' }).run;
  }

  /** The design with its probes as plain Verilog. */
  async takeAlong(project: Project, plan: ProbePlan, fingerprint: string): Promise<string> {
    const answer = await this.#ask(
      { kind: 'take-along', project, plan, fingerprint },
      { cancelled: () => false, report: () => {} },
    );
    return (answer as DesignAnswer & { kind: 'take-along' }).verilog;
  }

  /** The ports of a design as its sources stand. */
  async ports(project: Project): Promise<SourcePorts> {
    const answer = await this.#ask({ kind: 'ports', project }, { cancelled: () => false, report: () => {} });
    return (answer as DesignAnswer & { kind: 'ports' }).ports;
  }

  /** What a plan takes together with others. */
  async cost(priced: PricedPlan): Promise<PlanCost> {
    const answer = await this.#askNewest({ kind: 'cost', ...priced });
    return (answer as DesignAnswer & { kind: 'cost' }).cost;
  }

  /** What of a plan it would be enough to give up where it is more than there is room for. */
  async cheaper(priced: PricedPlan): Promise<CheaperPlan | null> {
    const answer = await this.#askNewest({ kind: 'cheaper', ...priced });
    return (answer as DesignAnswer & { kind: 'cheaper' }).cheaper;
  }

  /** Of plans that change faster than they are priced the newest counts. */
  async #askNewest(request: DesignRequest & PricedPlan): Promise<DesignAnswer> {
    const asked = ++this.#asked;
    await this.#queue;
    if (asked !== this.#asked) throw new ProblemError(problem('superseded'));
    return this.#ask(request, { cancelled: () => false, report: () => {} });
  }

  #start(): Worker {
    this.#worker ??= new Worker(
      /* turbopackIgnore: true */ join(
        /* turbopackIgnore: true */ process.cwd(),
        'server',
        'threads',
        'workers',
        'design.mjs',
      ),
    );
    return this.#worker;
  }

  #ask(request: DesignRequest, watch: Watch): Promise<DesignAnswer> {
    const turn = this.#queue.then(() => this.#run(request, watch));
    this.#queue = turn.catch(() => {});
    return turn;
  }

  #run(request: DesignRequest, watch: Watch): Promise<DesignAnswer> {
    const worker = this.#start();
    return new Promise((resolve, reject) => {
      const cancel = (kill: boolean) => end(() => reject(new ProblemError(problem('cancelled'))), kill);
      const poll = setInterval(() => watch.cancelled() && cancel(true), POLL_MILLISECONDS);
      const onMessage = (reply: Reply) => {
        if ('progress' in reply) watch.report(reply.progress);
        else if (watch.cancelled()) cancel(false);
        else if ('answer' in reply) end(() => resolve(reply.answer), false);
        else end(() => reject(new ProblemError(reply.problem)), false);
      };
      const onError = (error: Error) => end(() => reject(error), true);
      const onExit = (code: number) => end(() => reject(new Error(`the design thread ended with ${code}`)), true);
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
      worker.postMessage(request);
    });
  }
}
