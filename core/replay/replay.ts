// From a record and a design to every signal of a region.
import { item } from '../lists.ts';
import { fail, ok, type Result } from '../result.ts';
import { unwatched, type Watch } from '../progress.ts';
import type { ReadAt, Recording, Trace } from '../wave/index.ts';
import { CONSTANT, type Vertex } from './bit-graph.ts';
import { followingFrom, lostIn } from './closure.ts';
import { coneOf } from './feedback.ts';
import type { NamedSignal } from './design.ts';
import { letThroughIn } from './let-through.ts';
import { clocksAmong, matchNames, type Matched } from './match.ts';
import { hasEdges, type Moments, momentsOfClocks, momentsOfSamples, momentsOfStamps } from './moments.ts';
import { problem } from './problems.ts';
import { type Recorded, type ReplayProgram, replayProgram } from './program.ts';
import { type Reading, readingsOf } from './readings.ts';
import type { KnownClock, Reason, Region } from './region.ts';
import type { Disagreement } from './agreement.ts';
import { compute, type Computed, type ComputeOptions } from './run.ts';

/** How the times of a record are to be read. */
type Timing = 'samples' | { readonly stamps: Float64Array };

/** A signal that is not known in some samples, and what keeps it so. */
interface LeftUnknown {
  readonly signal: string;
  readonly samples: number;
  readonly why: Reason | null;
}

/** Everything of a region over a record. */
export interface Replay {
  readonly prepared: Prepared;
  readonly detail: Computed;
  /** What was recorded and what was computed, on the axis of the record. */
  readonly recording: Recording;
  /** Names of those that were computed. */
  readonly computed: ReadonlySet<string>;
  /** Bits of the record that the design has, and bits that are seen by them, each counted once. */
  readonly stored: number;
  readonly seen: number;
  readonly samples: number;
  /** The sample from which on nothing was computed, for want of room; null where all was. */
  readonly cut: number | null;
  /** Signals of the region that are not known throughout, worst first. */
  readonly unknown: readonly LeftUnknown[];
  readonly disagreements: readonly Disagreement[];
  /** Names of the record that the design does not have, or has in another width. */
  readonly unmatched: Pick<Matched, 'misfits'> & { readonly names: readonly string[] };
  /** Why parts of the region cannot be computed from this record. */
  readonly missing: readonly Reason[];
}

/** A replay made ready: what is computed from what. */
interface Prepared {
  readonly region: Region;
  readonly record: Recording;
  readonly matched: Matched;
  /** What of the record stands in for the design's own logic, and its traces. */
  readonly recorded: readonly Recorded[];
  readonly traces: readonly Trace[];
  readonly clocks: readonly KnownClock[];
  readonly timing: Timing;
  /** Traces of the record that say when registers take part: its clocks, and what a stepper let through. */
  readonly timeTraces: readonly Trace[];
  readonly moments: Moments;
  readonly program: ReplayProgram;
  /** What was read of signals other than by recording them, as far as that is sure. */
  readonly readings: readonly Reading[];
  /** Why parts of the region cannot be computed from this record, once for each signal. */
  readonly missing: readonly Reason[];
}

/** What else a record says of itself. */
interface About {
  /** Names of it that are late: they came in through registers of the recorder. */
  readonly synchronised?: readonly string[] | undefined;
  readonly readings?: readonly ReadAt[] | undefined;
}

/** Finds the record's names in the design and makes the logic that computes the rest. */
export function prepareReplay(
  region: Region,
  record: Recording,
  timing: Timing,
  { synchronised = [], readings: read = [] }: About = {},
): Result<Prepared> {
  const matched = matchNames(region, record.traces);
  const lets = letThroughIn(region, record);
  const clocksAt = timing === 'samples' ? new Map<string, number>() : clocksAmong(region, matched.found);
  const inRecord = new Set(clocksAt.values());
  const recorded: Recorded[] = [];
  const traces: Trace[] = [];
  for (const [i, one] of matched.found.entries()) {
    const trace = record.traces[i];
    if (!one || !trace || inRecord.has(i) || trace === lets || synchronised.includes(trace.name)) continue;
    recorded.push(one);
    traces.push(trace);
  }
  if (recorded.length === 0 && region.graph.netlist.inputs.length > 1)
    return fail(problem('nothing-recorded', { missing: neededBy(region).slice(0, 8).join(', ') }));
  const clockTraces = [...clocksAt].flatMap(([input, i]) => {
    const trace = record.traces[i];
    return trace ? [{ input, trace }] : [];
  });
  const still = clockTraces.find(({ trace }) => !hasEdges(trace, { input: '', falls: true }));
  if (still) return fail(problem('never-rises', { clock: still.trace.name }));
  const clocks: KnownClock[] =
    clockTraces.length > 0
      ? clockTraces.map(({ input }) => ({ input, falls: true }))
      : [{ input: region.clock.input, falls: false }];
  const moments =
    timing === 'samples'
      ? momentsOfSamples(record, lets)
      : clockTraces.length > 0
        ? momentsOfClocks(
            clockTraces.map(({ trace }) => trace),
            traces,
          )
        : momentsOfStamps(timing.stamps, lets);
  if (moments.count === 0) return fail(problem('no-samples'));
  const known = knownBits(region, recorded);
  const lost = lostIn(region, known, clocks);
  const readings = readingsOf(region, clocks, read);
  const readNames = new Set(readings.map(({ signal }) => signal));
  const wasRead = region.design.signals.filter(({ name }) => readNames.has(name));
  const shown = shownIn(region, recorded, [...new Set([...wasRead, ...followingFrom(region, lost)])]);
  const memories = region.design.netlist.memories.flatMap(({ name, writes }) =>
    writes.length > 0 && region.signals.some((one) => scopeOf(one.name) === scopeOf(name)) ? [name] : [],
  );
  const program = replayProgram(region, recorded, clocks, { shown, memories });
  const missing = missingIn(region, known, clocks);
  const timeTraces = [...clockTraces.map(({ trace }) => trace), ...(lets ? [lets] : [])];
  return ok({
    timing,
    timeTraces,
    missing,
    region,
    record,
    matched,
    recorded,
    traces,
    clocks,
    moments,
    program,
    readings,
  });
}

const scopeOf = (name: string): string => name.slice(0, name.lastIndexOf('.'));

/** Signals at the edge of the design that the region follows from. */
const neededBy = (region: Region): string[] => [
  ...new Set(region.design.netlist.inputs.map(({ name }) => name).filter((name) => name !== region.clock.input)),
];

function knownBits({ graph }: Region, recorded: readonly Recorded[]): Set<Vertex> {
  const known = new Set<Vertex>();
  for (const { signal, lo, width } of recorded)
    for (let bit = lo; bit < lo + width; bit++) {
      const vertex = graph.bit(signal.node, bit);
      if (vertex !== CONSTANT) known.add(vertex);
    }
  return known;
}

/** What the region depends on that nothing tells. */
function missingIn(region: Region, known: ReadonlySet<Vertex>, clocks: readonly KnownClock[]): Reason[] {
  const { graph } = region;
  const cone = coneOf(graph, region.targets, (v) => known.has(v) || region.reasonOf(v, clocks) !== null);
  const found = new Map<string, Reason>();
  for (const v of cone.vertices) {
    const reason = known.has(v) ? null : region.reasonOf(v, clocks);
    if (reason) found.set(`${reason.kind} ${reason.name.replace(/\[\d+\]$/, '')}`, reason);
  }
  return [...found.values()];
}

/** All of the region, then what else follows; what was recorded whole is there already. */
function shownIn(region: Region, recorded: readonly Recorded[], following: readonly NamedSignal[]): NamedSignal[] {
  const whole = new Set(recorded.flatMap(({ signal, width }) => (width === signal.width ? [signal] : [])));
  const own = new Set(region.signals);
  return [...region.signals, ...following.filter((signal) => !own.has(signal))].filter((signal) => !whole.has(signal));
}

/** Computes it, and puts it beside what was recorded. */
export async function replay(
  prepared: Prepared,
  watch: Watch = unwatched,
  options: Omit<ComputeOptions, 'watch'> = {},
): Promise<Replay> {
  const { traces, clocks, moments, program, readings } = prepared;
  const computed = await compute(
    program,
    traces,
    moments,
    clocks.map(({ input }) => input),
    { watch, readings, ...options },
  );
  return assembled(prepared, computed);
}

function assembled(prepared: Prepared, computed: Computed): Replay {
  const { region, record, recorded, traces, moments, program, matched, timeTraces } = prepared;
  const seenNames = new Set(region.signals);
  const domain = region.clock.name;
  const made: Trace[] = [];
  for (const [i, trace] of computed.traces.entries()) {
    const signal = program.shown[i]?.signal;
    // Of what is outside the region only what came to be known is worth a row.
    const isWorth = signal === undefined || seenNames.has(signal) || (computed.unknown[i] ?? 0) < moments.count;
    if (isWorth) made.push({ ...trace, domain });
  }
  const ofTime = new Set<Trace>(timeTraces);
  const named = traces.map((trace, i): Trace => {
    const { signal, lo, width } = item(recorded, i);
    const isWhole = width === signal.width;
    const part = width === 1 ? `[${lo}]` : `[${lo + width - 1}:${lo}]`;
    return { ...trace, name: isWhole ? signal.name : `${signal.name}${part}` };
  });
  const unknown = program.shown.flatMap(({ signal }, i): LeftUnknown[] => {
    const samples = computed.unknown[i] ?? 0;
    return samples > 0 && seenNames.has(signal)
      ? [{ signal: signal.name, samples, why: prepared.missing.find(({ name }) => name === signal.name) ?? null }]
      : [];
  });
  return {
    prepared,
    detail: computed,
    recording: { ...record, traces: [...named, ...besides(prepared), ...made] },
    computed: new Set(made.map(({ name }) => name)),
    stored: recorded.reduce((sum, { width }) => sum + width, 0),
    seen: seenIn(prepared, computed),
    samples: moments.count,
    cut: computed.cut,
    unknown: unknown.sort((a, b) => b.samples - a.samples),
    disagreements: computed.disagreements,
    unmatched: {
      misfits: matched.misfits,
      names: record.traces.flatMap((trace, i) => (matched.found[i] || ofTime.has(trace) ? [] : [trace.name])),
    },
    missing: prepared.missing,
  };
}

/** Traces of the record that stand for nothing in the design, under names that nothing in the design has. */
function besides({ record, traces, region }: Prepared): Trace[] {
  const used = new Set(traces);
  const names = new Set(region.design.signals.map(({ name }) => name));
  return record.traces.flatMap((trace) =>
    used.has(trace) ? [] : [names.has(trace.name) ? { ...trace, name: `${trace.name} as recorded` } : trace],
  );
}

/** Bits that are known in some sample, each counted once however many names it has. */
function seenIn({ region: { graph }, recorded, program }: Prepared, { ever }: Computed): number {
  const bits = new Set<Vertex>();
  const see = ({ node }: NamedSignal, bit: number) => {
    const vertex = graph.bit(node, bit);
    if (vertex !== CONSTANT) bits.add(vertex);
  };
  for (const { signal, lo, width } of recorded) for (let bit = lo; bit < lo + width; bit++) see(signal, bit);
  for (const [i, { signal }] of program.shown.entries())
    for (let bit = 0; bit < signal.width; bit++)
      if ((((ever[i]?.[bit >>> 5] ?? 0) >>> (bit & 31)) & 1) === 1) see(signal, bit);
  return bits.size;
}
