import type { OfferedModule } from '../../core/hdl/index.ts';
import type { BuildInputs, BuildResult, Project, SignalInfo, SourcePorts, TextFile } from '../../core/build/index.ts';
import type { CheaperPlan, ProbeCost, ProbePlan, Room, Standstill, TablePlan } from '../../core/probes/index.ts';
import type { Watch } from '../../core/progress.ts';
import type { Schematic } from '../../core/schematic/index.ts';
import type { VectorOptions, VectorRun } from '../../core/vectors/index.ts';
import { WorkerThread } from './worker-thread.ts';

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

interface TablePlanRequest {
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
  warmUp(): void;
  build(inputs: BuildInputs, watch: Watch): BuildResult;
  draw(request: DrawRequest): Schematic;
  vectors(request: VectorRequest, watch: Watch): VectorRun;
  tablePlan(request: TablePlanRequest): TablePlan;
  truthTable(request: { readonly project: Project; readonly wanted: string; readonly clock?: string }): string;
  takeAlong(request: TakeAlongRequest): string;
  standstill(request: { readonly project: Project; readonly clock: string }): Standstill | null;
  ports(project: Project): SourcePorts;
  modules(files: readonly TextFile[]): OfferedModule[];
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

/** A page that is opened at once is served first. */
const WARM_UP_AFTER_MILLISECONDS = 4000;

/** Designs are built, drawn and tried here. Builds take what they need: they can be cancelled. */
export class DesignThread {
  readonly #thread = new WorkerThread<DesignWork>('design');
  #hasBuilt = false;

  /**
   * Starts the thread. With `byBuilding` it builds something while nobody waits, so that the first build is as quick as
   * others.
   */
  warm(byBuilding: boolean): void {
    this.#thread.warm();
    if (!byBuilding) return;
    const later = setTimeout(() => {
      // A thread that is ended meanwhile has nobody to answer.
      if (!this.#hasBuilt) this.#thread.ask('warmUp', undefined).catch(() => {});
    }, WARM_UP_AFTER_MILLISECONDS);
    later.unref();
  }

  build(inputs: BuildInputs, watch: Watch): Promise<BuildResult> {
    this.#hasBuilt = true;
    return this.#thread.ask('build', inputs, watch);
  }

  draw(key: string, project: Project, view: SchematicView): Promise<Schematic> {
    return this.#thread.ask('draw', { key, project, view });
  }

  vectors(files: readonly TextFile[], table: TextFile, options: VectorOptions, watch: Watch): Promise<VectorRun> {
    return this.#thread.ask('vectors', { files, table, options }, watch);
  }

  /** What has to be built in so that a table can be run on the hardware. */
  tablePlan(files: readonly TextFile[], table: TextFile, options: VectorOptions): Promise<TablePlan> {
    return this.#thread.ask('tablePlan', { files, table, options });
  }

  /** Every combination of the inputs as a table. */
  truthTable(project: Project, wanted: string, clock?: string): Promise<string> {
    return this.#thread.ask('truthTable', { project, wanted, ...(clock === undefined ? {} : { clock }) });
  }

  /** The design with its probes as plain Verilog. */
  takeAlong(project: Project, plan: ProbePlan, fingerprint: string): Promise<string> {
    return this.#thread.ask('takeAlong', { project, plan, fingerprint });
  }

  /** What stands while a clock of the design is held; null where there is no such clock. */
  standstill(project: Project, clock: string): Promise<Standstill | null> {
    return this.#thread.ask('standstill', { project, clock });
  }

  /** The ports of a design as its sources stand. */
  ports(project: Project): Promise<SourcePorts> {
    return this.#thread.ask('ports', project);
  }

  /** Modules of all files, for a simulation to choose from. */
  modules(files: readonly TextFile[]): Promise<OfferedModule[]> {
    return this.#thread.ask('modules', files);
  }

  /** What a plan takes together with others. */
  cost(priced: PricedPlan): Promise<PlanCost> {
    return this.#thread.askNewest('cost', priced);
  }

  /** What of a plan it would be enough to give up where it is more than there is room for. */
  cheaper(priced: PricedPlan): Promise<CheaperPlan | null> {
    return this.#thread.askNewest('cheaper', priced);
  }
}
