import { type Design, type DesignOptions, type Message, readDesign, type SourceFile } from '../../hdl/index.ts';
import { own } from '../../lists.ts';
import { unwatched, type Watch } from '../../progress.ts';
import { buildSimulation, type Built } from './build.ts';
import { Dump, type DumpSink } from './dump.ts';
import type { FileHost } from './files.ts';
import type { Ending } from './kernel.ts';
import { Machine } from './machine.ts';
import { timeText } from './time-text.ts';
import type { Report } from './runtime.ts';

interface SimulateOptions extends Omit<DesignOptions, 'top'> {
  /** The testbench. */
  readonly top?: string;
  /** In seconds, or in ticks of the finest precision; null for as long as it takes. */
  readonly until?: { readonly seconds: number } | { readonly ticks: number } | null;
  readonly plusargs?: readonly string[];
  /** Turns of loops that take no time, at one moment, before the run is ended. */
  readonly turns?: number;
  readonly host: FileHost;
  /** Takes the value change dump of all signals, or of what `$dumpvars` names. */
  readonly dump?: DumpSink;
  /** Dump everything, whether `$dumpvars` is called or not. */
  readonly dumpAll?: boolean;
  readonly onReport?: (report: Report) => void;
}

export interface Simulated {
  readonly ending: Ending;
  /** Why, where the ending does not say it all. */
  readonly told: string;
  /** With its unit. */
  readonly time: string;
  /** In ticks of the finest precision. */
  readonly ticks: number;
  /** Power of ten of a second that a tick lasts. */
  readonly precision: number;
  readonly errors: number;
  readonly reports: readonly Report[];
  readonly events: number;
  /** Files that were written, by name. */
  readonly files: ReadonlyMap<string, string>;
  /** Name that `$dumpfile` gave. */
  readonly dumpFile: string | null;
}

interface Outcome {
  /** Null where the sources cannot be understood. */
  readonly run: Simulated | null;
  readonly messages: readonly Message[];
}

/** Reads sources and runs the testbench in them. Progress is told between slices of it. */
export function simulate(files: readonly SourceFile[], options: SimulateOptions, watch: Watch = unwatched): Outcome {
  const run = started(files, options);
  if (!(run instanceof Run)) return run;
  for (;;) {
    const ended = run.step(SLICE_EVENTS);
    if (ended.ending !== 'paused') return run.outcome(ended);
    watch.report(run.progress);
    if (watch.cancelled()) return run.outcome({ ending: 'cancelled', told: '' });
  }
}

const SECONDS: Readonly<Record<string, number>> = { s: 1, ms: 1e-3, us: 1e-6, ns: 1e-9, ps: 1e-12, fs: 1e-15 };

/** `10us`, or a number of ticks of the finest precision; null for what is neither. */
export function untilText(text: string): NonNullable<SimulateOptions['until']> | null {
  const [, digits, unit] = /^(\d+(?:\.\d+)?) ?([munpf]?s)?$/.exec(text.trim()) ?? [];
  if (digits === undefined) return null;
  return unit === undefined ? { ticks: Number(digits) } : { seconds: Number(digits) * (own(SECONDS, unit) ?? 1) };
}

/** The same in slices, between which progress is told and a cancel is heard. */
export async function simulateWatched(
  files: readonly SourceFile[],
  options: SimulateOptions,
  watch: Watch,
): Promise<Outcome> {
  const run = started(files, options);
  if (!(run instanceof Run)) return run;
  for (;;) {
    const ended = run.step(SLICE_EVENTS);
    if (ended.ending !== 'paused') return run.outcome(ended);
    watch.report(run.progress);
    await new Promise((resolve) => setTimeout(resolve, 0));
    if (watch.cancelled()) return run.outcome({ ending: 'cancelled', told: '' });
  }
}

/** About a tenth of a second. */
const SLICE_EVENTS = 200_000;

function started(files: readonly SourceFile[], options: SimulateOptions): Run | Outcome {
  const design = readDesign(files, options);
  const built = buildSimulation(design);
  return built ? new Run(design, built, options) : { run: null, messages: design.messages.list };
}

/** One simulation under way. */
class Run {
  readonly #design: Design;
  readonly #built: Built;
  readonly #machine: Machine;
  readonly #dump: Dump | null;
  readonly #until: number;
  readonly #turns: number | undefined;

  constructor(design: Design, built: Built, options: SimulateOptions) {
    this.#design = design;
    this.#built = built;
    this.#machine = new Machine(built, {
      read: options.host.read,
      print: options.host.print,
      plusargs: options.plusargs ?? [],
      readData: design.names.readData,
      ...(options.onReport ? { onReport: options.onReport } : {}),
    });
    this.#dump = options.dump ? new Dump(this.#machine, design, built, options.dump) : null;
    if (options.dumpAll) this.#dump?.begin();
    this.#until = untilOf(options.until ?? null, built.precision);
    this.#turns = options.turns;
  }

  step(slice: number): { ending: Ending | 'paused'; told: string } {
    return this.#machine.run({
      until: this.#until,
      slice,
      ...(this.#turns === undefined ? {} : { turns: this.#turns }),
    });
  }

  get progress(): Parameters<Watch['report']>[0] {
    const { time } = this.#machine.runtime.kernel;
    const total = Number.isFinite(this.#until) ? this.#until : 0;
    return { phase: `Simulating, ${timeText(time, this.#built.precision)}`, done: time, total, unit: 'ticks' };
  }

  outcome({ ending, told }: { readonly ending: Ending | 'paused'; readonly told: string }): Outcome {
    this.#dump?.end();
    const { runtime } = this.#machine;
    const { kernel } = runtime;
    const { precision } = this.#built;
    const messages = this.#design.messages.list;
    const run: Simulated = {
      ending: ending === 'paused' ? 'cancelled' : ending,
      told,
      time: timeText(kernel.time, precision),
      ticks: kernel.time,
      precision,
      errors: runtime.errors,
      reports: runtime.reports,
      events: kernel.events,
      files: new Map([...runtime.files.written].map(([name, parts]) => [name, parts.join('')])),
      dumpFile: runtime.dumpFile,
    };
    return { run, messages };
  }
}

function untilOf(until: NonNullable<SimulateOptions['until']> | null, precision: number): number {
  if (until === null) return Number.POSITIVE_INFINITY;
  return 'ticks' in until ? until.ticks : Math.round(until.seconds / 10 ** precision);
}
