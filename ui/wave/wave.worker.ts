import { expose } from 'comlink';
import { bytesFromBase64 } from '../../core/bits/index.ts';
import { floatAt, wordAt } from '../../core/lists.ts';
import { fail, ok, type Result } from '../../core/result.ts';
import { problem } from './problems.ts';
import { type OpenReplay, openReplay } from './open-replay.ts';
import {
  type Capture,
  checkRule,
  compareRecordings,
  decode,
  findAll,
  joinRecordings,
  type Laid,
  measure,
  measureBaud,
  odditiesOf,
  type Recording,
  rangesOf,
  recordingOf,
  recordingOfSteps,
  secondsText,
  sharedOffset,
  stepsOf,
  traceOfRow,
  VcdReader,
} from '../../core/wave/index.ts';
import type { Call, Calls, Opened, ReceivedCapture, WaveWorker } from './messages.ts';

/** More than this of a file is not kept: about 200 MB of memory. */
const MOST_CHANGES = 12_000_000;
/** A file is read up to here. */
const MOST_FILE_BYTES = 1 << 30;

let recording: Recording | null = null;
let replayed: OpenReplay | null = null;
let onProgress: (share: number) => void = () => {};

const received = ({ about, data }: ReceivedCapture): Capture => ({
  ...about,
  data: { length: about.samples * about.sampleBits, bytes: bytesFromBase64(data) },
});

const opened = (
  made: Recording,
  hints: Calls['open']['ask']['hints'],
  notes: readonly string[],
  computed: ReadonlySet<string> = new Set(),
): Opened => {
  recording = made;
  const { traces, ...axis } = made;
  return {
    axis,
    signals: traces.map(({ name, width, signed, domain, names, real }) => ({
      name,
      width,
      signed,
      domain,
      ...(names ? { names } : {}),
      ...(real ? { real } : {}),
      ...(computed.has(name) ? { computed: true as const } : {}),
    })),
    oddities: odditiesOf(made, hints),
    notes,
  };
};

function current(): Recording {
  if (!recording) throw new Error('nothing is open');
  return recording;
}

const answers: { readonly [C in Call]: (ask: Calls[C]['ask']) => Calls[C]['answer'] | Promise<Calls[C]['answer']> } = {
  open: ({ captures, gaps, laid, hints }) => {
    const [only, another] = captures;
    if (only && !another) return ok(opened(recordingOf(received(only), gaps), hints, []));
    const made = captures.map((capture) => recordingOf(received(capture), 'true'));
    const offset = offsetOf(made, laid);
    if (!offset.ok) return offset;
    const joined = joinRecordings(made, [0, offset.value]);
    return joined.ok ? ok(opened(joined.value, hints, [laidNote(laid, offset.value)])) : joined;
  },
  openFile: async ({ file }) => {
    const read = await readFile(file);
    return read.ok ? ok(opened(read.value.recording, {}, read.value.notes)) : read;
  },
  openSteps: ({ steps, title }) => ok(opened(recordingOfSteps(steps, title), {}, [])),
  openReplay: async (ask) => {
    const made = await openReplay(ask, recordingOf(received(ask.capture), ask.gaps), (share) => onProgress(share));
    if (!made.ok) return made;
    replayed = made.value;
    return ok({ ...opened(made.value.recording, {}, made.value.notes, made.value.computed), replay: made.value.facts });
  },
  why: ({ signal, tick }) => replayed?.why(signal, tick) ?? null,
  testbenchFiles: ({ instance, fill }) => replayed?.files(instance, fill) ?? fail(problem('not-replayed')),
  testbench: ({ instance, fill }) => replayed?.testbench(instance, fill) ?? fail(problem('not-replayed')),
  table: async ({ instance }) => (await replayed?.table(instance)) ?? fail(problem('not-replayed')),
  row: ({ row, analog, signed }) => {
    const trace = traceOfRow(current(), row);
    return trace && { trace, steps: stepsOf(trace, current().length), ranges: analog ? rangesOf(trace, signed) : null };
  },
  overview: ({ columns }) => {
    const { traces, length } = current();
    const counts = new Uint32Array(columns);
    for (const { at } of traces)
      for (let i = 1; i < at.length; i++) {
        const column = Math.min(columns - 1, Math.floor((floatAt(at, i) / length) * columns));
        counts[column] = wordAt(counts, column) + 1;
      }
    return counts;
  },
  find: ({ text }) => findAll(current(), text),
  check: ({ text }) => checkRule(current(), text),
  measure: ({ rows, from, to }) =>
    rows.flatMap((row) => {
      const trace = traceOfRow(current(), row);
      return trace ? [{ rowId: row.id, measures: measure(current(), trace, from, to) }] : [];
    }),
  decode: ({ decoder }) => {
    const frames = decode(current(), decoder);
    return frames.ok
      ? ok({ frames: frames.value, note: decoder.kind === 'serial' ? speedNote(decoder.line, decoder.baud) : null })
      : frames;
  },
  compare: async ({ other, alignment, by }) => {
    if (!(other instanceof File)) return compareRecordings(current(), recordingOf(received(other)), alignment, by);
    const read = await readFile(other);
    return read.ok ? compareRecordings(current(), read.value.recording, alignment, by) : read;
  },
};

function offsetOf([first, second]: readonly Recording[], laid: Laid): Result<number> {
  if (laid === 'trigger' || !first || !second) return ok(0);
  return laid === 'shared' ? sharedOffset(first, second) : ok(laid.seconds);
}

function laidNote(laid: Laid, seconds: number): string {
  if (laid === 'trigger')
    return 'The two records are laid with their triggers upon each other, as if those were one event.';
  const text =
    `the trigger of the second stands ${secondsText(Math.abs(seconds))} ${seconds < 0 ? 'before' : 'after'} that ` +
    'of the first';
  return laid === 'shared' ? `By the edges of what both records hold, ${text}.` : `As set, ${text}.`;
}

/** What a line's pulses say of its speed, beside what it was read with. */
function speedNote(line: string, baud: number | null): string | null {
  const trace = current().traces.find(({ name }) => name === line);
  const measured = trace && measureBaud(current(), trace);
  if (!measured?.ok) return null;
  const { baud: real, usual } = measured.value;
  const wanted = baud ?? usual ?? real;
  const off = (real / wanted - 1) * 100;
  return (
    `Measured ${Math.round(real).toLocaleString('en')} bit/s, ` +
    `${Math.abs(off) < 0.05 ? 'as set' : `${Math.abs(off).toFixed(1)} % ${off > 0 ? 'faster' : 'slower'} than ${wanted.toLocaleString('en')}`}` +
    `${usual !== null && Math.abs(off) > 4 ? `; ${usual.toLocaleString('en')} fits` : ''}.`
  );
}

interface ReadFile {
  readonly recording: Recording;
  readonly notes: readonly string[];
}

async function readFile(file: File): Promise<Result<ReadFile>> {
  const reader = new VcdReader({ mostChanges: MOST_CHANGES });
  const stream = file.slice(0, MOST_FILE_BYTES).stream().getReader();
  let read = 0;
  for (;;) {
    const { done, value } = await stream.read();
    if (done) break;
    reader.push(value);
    read += value.length;
    onProgress(read / Math.min(file.size, MOST_FILE_BYTES));
  }
  const isWhole = file.size <= MOST_FILE_BYTES;
  const facts = reader.finish();
  if (facts.names.length === 0) {
    const [first] = facts.problems;
    return fail(problem('vcd', { name: file.name, firstText: first ? `: line ${first.line}: ${first.message}` : '.' }));
  }
  const notes = [
    ...(isWhole
      ? []
      : [`Of ${Math.round(file.size / 2 ** 20).toLocaleString('en')} MiB the first 1,024 MiB were read.`]),
    ...(facts.cut ? [`The record is cut: after ${MOST_CHANGES.toLocaleString('en')} changes no more were kept.`] : []),
    // The last line of a part is broken off; that is no mistake of the file.
    ...facts.problems
      .filter(({ code }) => isWhole || code !== 'vcd-truncated')
      .map(({ line, message }) => `Line ${line}: ${message}`),
  ];
  return ok({ recording: reader.recording(file.name), notes });
}

const worker: WaveWorker = {
  answer: async (call, ask) => answers[call](ask),
  follow: (listener) => {
    onProgress = listener;
  },
};

expose(worker);
