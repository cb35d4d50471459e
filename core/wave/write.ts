import { entry, item } from '../lists.ts';
import type { Capture } from './capture.ts';
import { recordingOf } from './from-capture.ts';
import { keepsIn } from './known.ts';
import { type Recording, secondsAt } from './recording.ts';
import { digitsOf, hasUnknown, indexAt, numberOf, type Trace } from './trace.ts';

const FIRST_CODE = 33;
const CODES = 94;
const PICOSECOND = 1e-12;

/**
 * A capture as a value change dump. Time is in picoseconds from the first sample; modules follow the dots of the names.
 * Where nothing was stored a signal is x unless the qualifier stores its every change, and so is the time between
 * segments without time stamps, which is shown short.
 *
 * @source IEEE 1364-2005, clause 18
 */
export function writeVcd(capture: Capture, date: string): string {
  const recording = recordingOf(capture, 'true');
  const { triggers } = recording;
  const where =
    triggers.length > 1
      ? `triggers at ${triggers.map((tick) => `${placeIn(recording, tick)} ps`).join(', ')}`
      : `trigger at sample ${capture.triggerIndex}`;
  return writeRecordVcd(recording, date, `recorder ${capture.recorder}, ${where}, build ${capture.fingerprint}`);
}

const placeIn = ({ tickSeconds }: Recording, tick: number): number => Math.round((tick * tickSeconds) / PICOSECOND);

/**
 * Any record as a value change dump. Of samples every one has its time stamp, whether something changes in it or not;
 * times are in picoseconds, or in `unit` where the record's ticks are that long.
 */
export function writeRecordVcd(recording: Recording, date: string, comment: string, unit = '1 ps'): string {
  const { traces, gaps } = recording;
  const place = (tick: number) => (unit === '1 ps' ? placeIn(recording, tick) : tick);
  const lines = [
    `$date ${date} $end`,
    '$version Nimble Signal $end',
    `$comment ${comment} $end`,
    `$timescale ${unit} $end`,
  ];
  const codes = new Map(traces.map((trace, i) => [trace, codeOf(i)]));
  declare(traces, 0, codes, lines);
  lines.push('$enddefinitions $end');
  const events = new Map<number, string[]>();
  const put = (tick: number, text: string) => {
    const at = events.get(tick);
    if (at) at.push(text);
    else events.set(tick, [text]);
  };
  for (const trace of traces) {
    const code = entry(codes, trace);
    const valueText = (index: number) =>
      trace.width === 1 ? `${digitsOf(trace, index)}${code}` : `b${shortened(digitsOf(trace, index))} ${code}`;
    const open = gaps.filter((gap) => !keepsIn(gap, trace));
    const resumes = new Set(open.map(({ to }) => to));
    for (let i = 0; i < trace.at.length; i++) if (!resumes.has(item(trace.at, i))) put(item(trace.at, i), valueText(i));
    for (const gap of open) {
      put(gap.from, trace.width === 1 ? `x${code}` : `bx ${code}`);
      put(gap.to, valueText(indexAt(trace, gap.to)));
    }
  }
  const text = new Pieces(lines);
  const samples = recording.sampled ? storedTicks(recording) : [][Symbol.iterator]();
  let sample = samples.next();
  for (const [tick, texts] of [...events].sort(([a], [b]) => a - b)) {
    for (; !sample.done && sample.value < tick; sample = samples.next()) text.add(`#${place(sample.value)}`);
    if (!sample.done && sample.value === tick) sample = samples.next();
    text.add(`#${place(tick)}`);
    if (tick === 0) text.add('$dumpvars');
    for (const one of texts) text.add(one);
    if (tick === 0) text.add('$end');
  }
  for (; !sample.done; sample = samples.next()) text.add(`#${place(sample.value)}`);
  text.add(`#${place(recording.length)}`);
  return text.done();
}

const LINES_OF_PIECE = 1 << 14;

/** Lines that are joined a piece at a time: millions of them apart would take ten times the room. */
class Pieces {
  readonly #pieces: string[] = [];
  #lines: string[];

  constructor(lines: readonly string[]) {
    this.#lines = [...lines];
  }

  add(line: string): void {
    this.#lines.push(line);
    if (this.#lines.length < LINES_OF_PIECE) return;
    this.#pieces.push(`${this.#lines.join('\n')}\n`);
    this.#lines = [];
  }

  done(): string {
    if (this.#lines.length > 0) this.#pieces.push(`${this.#lines.join('\n')}\n`);
    this.#lines = [];
    return this.#pieces.join('');
  }
}

/** Leading zeros say nothing: a short value is extended with them. */
const shortened = (digits: string): string => digits.replace(/^0+(?=[01])/, '');

/** Identifier codes from ! to ~, as short as they can be. */
function codeOf(index: number): string {
  let code = '';
  for (let rest = index + 1; rest > 0; rest = Math.floor((rest - 1) / CODES))
    code += String.fromCharCode(FIRST_CODE + ((rest - 1) % CODES));
  return code;
}

function declare(traces: readonly Trace[], depth: number, codes: ReadonlyMap<Trace, string>, lines: string[]): void {
  const scopes = new Map<string, Trace[]>();
  for (const trace of traces) {
    const path = trace.name.split('.');
    if (path.length === depth + 1) {
      const range = trace.width === 1 ? '' : ` [${trace.width - 1}:0]`;
      lines.push(`$var wire ${trace.width} ${codes.get(trace)} ${path[depth]}${range} $end`);
    } else scopes.set(item(path, depth), [...(scopes.get(item(path, depth)) ?? []), trace]);
  }
  for (const [name, inner] of scopes) {
    lines.push(`$scope module ${name} $end`);
    declare(inner, depth + 1, codes, lines);
    lines.push('$upscope $end');
  }
}

/** Ticks that were stored, with their seconds from the trigger. */
function* storedTicks({ stored, length }: Recording): Generator<number> {
  if (stored) yield* stored;
  else for (let tick = 0; tick < length; tick++) yield tick;
}

const plainValue = (trace: Trace, index: number): string =>
  index < 0 || hasUnknown(trace, index)
    ? digitsOf(trace, index)
    : String(trace.signed ? BigInt.asIntN(trace.width, numberOf(trace, index) as bigint) : numberOf(trace, index));

/**
 * One line a stored sample: its number, seconds from the trigger (empty where that is not known), each signal as a
 * decimal number.
 */
export function writeCsv(capture: Capture): string {
  const recording = recordingOf(capture, 'true');
  const lines = [['sample', 'seconds', ...recording.traces.map(({ name }) => name)].join(',')];
  let sample = 0;
  const index = recording.traces.map(() => 0);
  for (const tick of storedTicks(recording)) {
    const values = recording.traces.map((trace, i) => {
      while ((trace.at[item(index, i) + 1] ?? Number.POSITIVE_INFINITY) <= tick) index[i] = item(index, i) + 1;
      return plainValue(trace, item(index, i));
    });
    const seconds = secondsAt(recording, tick);
    lines.push([sample++, seconds === null ? '' : Number(seconds.toPrecision(9)), ...values].join(','));
  }
  return `${lines.join('\r\n')}\r\n`;
}

/**
 * What the capture is, and the changes of each signal as pairs of stored sample and decimal value. docs/formats.md,
 * section 6
 */
export function writeJson(capture: Capture): string {
  const { data: _, signals, ...about } = capture;
  const recording = recordingOf(capture, 'true');
  const sampleOf = new Map(recording.stored ? [...recording.stored].map((tick, i) => [tick, i]) : []);
  const gaps = recording.gaps.map(({ to, ticks }) => [sampleOf.get(to) ?? to, ticks]);
  const changes = recording.traces.map((trace, i) => ({
    ...signals[i],
    changes: Array.from(trace.at, (tick, index) => [sampleOf.get(tick) ?? tick, plainValue(trace, index)]),
  }));
  return JSON.stringify({
    format: 'nimble-capture',
    version: 1,
    ...about,
    ...(gaps.length > 0 ? { gaps } : {}),
    signals: changes,
  });
}
