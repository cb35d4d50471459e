// The worker's half of a replay: a capture and its design in, every signal out, and what can be asked of it.
import { strToU8, zipSync } from 'fflate';
import type { TextFile } from '../../core/build/index.ts';
import {
  type ReplaySources,
  replayRegion,
  replaySources,
  replayTestbench,
  sourcesBeside,
} from '../../core/operations/index.ts';
import {
  type Explanation,
  isReadBehindTheEnd,
  meaningsOf,
  prepareReplay,
  type Replay,
  replay,
  sideBySide,
  tableOf,
  type TestbenchFill,
  whyIs,
} from '../../core/replay/index.ts';
import { ok, type Result } from '../../core/result.ts';
import { type ReadAt, type Recording, type Trace, VcdReader } from '../../core/wave/index.ts';
import type { ReplayAsk, ReplayFacts, SimulatedBeside } from './messages.ts';

interface TestbenchFiles {
  readonly name: string;
  readonly files: readonly TextFile[];
}

/** A replay that is open. */
export interface OpenReplay {
  readonly recording: Recording;
  readonly computed: ReadonlySet<string>;
  readonly facts: ReplayFacts;
  readonly notes: readonly string[];
  why(signal: string, tick: number): Explanation | null;
  files(instance: string, fill: TestbenchFill): Result<TestbenchFiles>;
  testbench(instance: string, fill: TestbenchFill): Result<{ readonly name: string; readonly zip: Uint8Array }>;
  table(instance: string): Promise<Result<{ readonly name: string; readonly text: string; readonly rows: number }>>;
}

export async function openReplay(
  { capture: { about }, project, see, beside: simulation }: ReplayAsk,
  record: Recording,
  onShare: (share: number) => void,
): Promise<Result<OpenReplay>> {
  const sources = replaySources(project);
  const levers = about.levers?.map(({ signal }) => signal) ?? [];
  const region = replayRegion(sources, { see, clock: about.plan?.clock }, levers);
  if (!region.ok) return region;
  const prepared = prepareReplay(region.value, record, 'samples', {
    synchronised: about.plan?.synchronised,
    readings: about.readings,
  });
  if (!prepared.ok) return prepared;
  const done = await replay(prepared.value, {
    cancelled: () => false,
    report: ({ done: so, total }) => onShare(so / total),
  });
  const beside = simulation ? await laid(done, simulation) : null;
  const meanings = meaningsOf(done);
  const { stored, seen, samples, cut, unknown, missing, unmatched } = done;
  const recording = beside
    ? { ...done.recording, traces: [...done.recording.traces, ...beside.traces] }
    : done.recording;
  return ok({
    recording,
    computed: done.computed,
    notes:
      cut === null
        ? []
        : [
            `Computed are the first ${cut.toLocaleString('en')} of ${samples.toLocaleString('en')} samples: more is not kept.`,
          ],
    facts: {
      ...{ stored, seen, samples, cut, unknown, missing, unmatched, clock: region.value.clock.name },
      disagreements: done.disagreements.map((one, i) => ({ ...one, means: meanings[i] ?? 'logic' })),
      readings: readingFacts(done, about.readings ?? []),
      isReadBehind: isReadBehindTheEnd(about.plan?.atTrigger ?? [], about.readings ?? []),
      simulation: beside?.facts ?? null,
    },
    why: (signal, tick) => whyIs(region.value, done.recording, signal, tick, (at) => earlier(done, at)),
    files: (instance, fill) => filesOf(sources, done, instance, fill),
    testbench: (instance, fill) => zipped(filesOf(sources, done, instance, fill), instance),
    table: async (instance) => {
      const made = await tableOf(done, fullPath(done, instance));
      return made.ok
        ? ok({ name: `${instance.split('.').at(-1)}.vectors.csv`, text: made.value.text, rows: made.value.rows })
        : made;
    },
  });
}

/** How many bits of what was read told something, by the sample. */
function readingFacts(done: Replay, read: readonly ReadAt[]): ReplayFacts['readings'] {
  const { prepared, detail } = done;
  const used = prepared.readings.filter((one) => !detail.unusedReadings.includes(one));
  return read.map(({ sample, how }) => ({
    ...{ sample, how },
    bits: used
      .filter(({ moment }) => moment === sample)
      .reduce((sum, { signal, is }) => sum + bitsIn(done, signal, is), 0),
  }));
}

function bitsIn({ prepared: { region } }: Replay, signal: string, { unknown }: { readonly unknown: bigint }): number {
  const width = region.design.signals.find(({ name }) => name === signal)?.width ?? 0;
  return Array.from({ length: width }, (_, bit) => Number(((unknown >> BigInt(bit)) & 1n) ^ 1n)).reduce(
    (a, b) => a + b,
    0,
  );
}

/** The sample before the one at a tick; null at the beginning and behind a gap. */
function earlier({ prepared: { moments } }: Replay, tick: number): number | null {
  let [low, high] = [0, moments.count];
  while (low < high) {
    const middle = (low + high) >>> 1;
    if ((moments.ticks[middle] ?? 0) <= tick) low = middle + 1;
    else high = middle;
  }
  const at = low - 1;
  return at <= 0 || moments.breaks.includes(at) ? null : (moments.ticks[at - 1] ?? null);
}

function filesOf(sources: ReplaySources, done: Replay, instance: string, fill: TestbenchFill): Result<TestbenchFiles> {
  const made = replayTestbench(sources, done, instance, fill);
  if (!made.ok) return made;
  const { name, files } = made.value;
  return ok({ name, files: [...sourcesBeside(sources), ...files] });
}

function zipped(
  made: Result<TestbenchFiles>,
  instance: string,
): Result<{ readonly name: string; readonly zip: Uint8Array }> {
  if (!made.ok) return made;
  const { name, files } = made.value;
  const readMe =
    `What was recorded of ${instance}, as a testbench. Any simulator of Verilog 2005 runs it: all sources in this\n` +
    `folder, top module ${name}, working directory here. It ends with $finish where nothing differs from the\n` +
    'hardware, with $stop where something does, and writes what happened to a value change dump.\n';
  const all = [...files, { name: 'README.txt', text: readMe }];
  return ok({ name: `${name}.zip`, zip: zipSync(Object.fromEntries(all.map((one) => [one.name, strToU8(one.text)]))) });
}

interface Simulation {
  readonly traces: readonly Trace[];
  readonly facts: NonNullable<ReplayFacts['simulation']>;
}

/** Lays what a simulation made of the record beside it. */
async function laid(done: Replay, beside: SimulatedBeside): Promise<Simulation> {
  const { instance, testbench, dump, finished, printed } = beside;
  const reader = new VcdReader();
  reader.push(new Uint8Array(await dump.arrayBuffer()));
  const { tickSeconds } = reader.finish();
  const path = fullPath(done, instance);
  const { traces, differences } = sideBySide(done, path, testbench, reader.recording(testbench).traces, tickSeconds);
  return { traces, facts: { instance: path, finished, printed, differences } };
}

function fullPath({ prepared: { region } }: Replay, instance: string): string {
  const top = region.design.signals[0]?.name.split('.')[0] ?? '';
  return instance === top || instance.startsWith(`${top}.`) ? instance : `${top}.${instance}`;
}
