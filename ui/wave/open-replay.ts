// The worker's half of a replay: a capture and its design in, every signal out, and what can be asked of it.
import { strToU8, zipSync } from 'fflate';
import {
  type ReplaySources,
  replayRegion,
  replaySources,
  replayTestbench,
  sourcesBeside,
} from '../../core/operations/index.ts';
import {
  type Explanation,
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
import { simulateWatched } from '../../core/sim/events/index.ts';
import { type Recording, type Trace, VcdReader } from '../../core/wave/index.ts';
import type { ReplayAsk, ReplayFacts } from './messages.ts';

/** A replay that is open. */
export interface OpenReplay {
  readonly recording: Recording;
  readonly computed: ReadonlySet<string>;
  readonly facts: ReplayFacts;
  readonly notes: readonly string[];
  why(signal: string, tick: number): Explanation | null;
  testbench(instance: string, fill: TestbenchFill): Result<{ readonly name: string; readonly zip: Uint8Array }>;
  table(instance: string): Promise<Result<{ readonly name: string; readonly text: string; readonly rows: number }>>;
}

export async function openReplay(
  { capture: { about }, project, see, simulate }: ReplayAsk,
  record: Recording,
  onShare: (share: number) => void,
): Promise<Result<OpenReplay>> {
  const sources = replaySources(project);
  const levers = about.levers?.map(({ signal }) => signal) ?? [];
  const region = replayRegion(sources, { see, clock: about.plan?.clock }, levers);
  if (!region.ok) return region;
  const prepared = prepareReplay(region.value, record, 'samples', about.plan?.synchronised);
  if (!prepared.ok) return prepared;
  const done = await replay(prepared.value, {
    cancelled: () => false,
    report: ({ done: so, total }) => onShare(so / total),
  });
  const beside = simulate ? await simulated(sources, done, simulate) : null;
  if (beside && !beside.ok) return beside;
  const meanings = meaningsOf(done);
  const { stored, seen, samples, unknown, missing, unmatched } = done;
  const recording = beside
    ? { ...done.recording, traces: [...done.recording.traces, ...beside.value.traces] }
    : done.recording;
  return ok({
    recording,
    computed: done.computed,
    notes: [],
    facts: {
      ...{ stored, seen, samples, unknown, missing, unmatched, clock: region.value.clock.name },
      disagreements: done.disagreements.map((one, i) => ({ ...one, means: meanings[i] ?? 'logic' })),
      simulation: beside ? beside.value.facts : null,
    },
    why: (signal, tick) => whyIs(region.value, done.recording, signal, tick, (at) => earlier(done, at)),
    testbench: (instance, fill) => zipped(sources, done, instance, fill),
    table: async (instance) => {
      const made = await tableOf(done, instance);
      return made.ok
        ? ok({ name: `${instance.split('.').at(-1)}.vectors.csv`, text: made.value.text, rows: made.value.rows })
        : made;
    },
  });
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

function zipped(
  sources: ReplaySources,
  done: Replay,
  instance: string,
  fill: TestbenchFill,
): Result<{ readonly name: string; readonly zip: Uint8Array }> {
  const made = replayTestbench(sources, done, instance, fill);
  if (!made.ok) return made;
  const { name, files, samples } = made.value;
  const readMe =
    `${samples} samples of ${instance}, as a testbench. Any simulator of Verilog 2005 runs it: all sources in this\n` +
    `folder, top module ${name}, working directory here. It ends with $finish where nothing differs from the\n` +
    'hardware, with $stop where something does, and writes what happened to a value change dump.\n';
  const all = [...sourcesBeside(sources), ...files, { name: 'README.txt', text: readMe }];
  const zip = zipSync(Object.fromEntries(all.map((one) => [one.name, strToU8(one.text)])));
  return ok({ name: `${name}.zip`, zip });
}

interface Simulation {
  readonly traces: readonly Trace[];
  readonly facts: NonNullable<ReplayFacts['simulation']>;
}

/** Runs the testbench of the record here, and lays what it made beside it. */
async function simulated(
  sources: ReplaySources,
  done: Replay,
  { instance, fill }: NonNullable<ReplayAsk['simulate']>,
): Promise<Result<Simulation>> {
  const made = replayTestbench(sources, done, instance, fill);
  if (!made.ok) return made;
  const { name, files } = made.value;
  const data = new Map([...sourcesBeside(sources), ...files].map((one) => [one.name, one.text]));
  const reader = new VcdReader();
  const bytes = new TextEncoder();
  let printed = '';
  const { run, messages } = await simulateWatched(
    [...sources.files, ...files].filter((one) => /\.s?vh?$/.test(one.name)),
    {
      top: name,
      ...(sources.options.cells ? { cells: sources.options.cells } : {}),
      host: {
        read: (file) => data.get(file) ?? null,
        print: (text) => {
          printed += text;
        },
      },
      dump: { write: (text) => reader.push(bytes.encode(text)) },
      dumpAll: true,
    },
    { cancelled: () => false, report: () => {} },
  );
  const { tickSeconds } = reader.finish();
  const top = done.prepared.region.design.signals[0]?.name.split('.')[0] ?? '';
  const path = instance === top || instance.startsWith(`${top}.`) ? instance : `${top}.${instance}`;
  const beside = sideBySide(done, path, name, reader.recording(name).traces, tickSeconds);
  const errors = messages
    .filter(({ severity }) => severity === 'error')
    .map((one) => `${one.file}:${one.line}: ${one.message}`);
  return ok({
    traces: beside.traces,
    facts: {
      instance: path,
      finished: run?.ending === 'finish',
      printed: [...errors, printed].join('\n').trim(),
      differences: beside.differences,
    },
  });
}
