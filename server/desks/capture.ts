import { frequenciesByName } from '../../core/build/index.ts';
import { counted } from '../../core/words.ts';
import {
  type Armed,
  type CaptureRequest,
  checkCapture,
  leversInForce,
  triggerRecorder,
} from '../../core/operations/index.ts';
import { fail, ok, ProblemError, type Result } from '../../core/result.ts';
import { problem } from './problems.ts';
import { readable } from '../../core/serial/index.ts';
import { type Capture, compareRecordings, recordingOf, type SaidMeanwhile } from '../../core/wave/index.ts';
import {
  type CaptureNeeds,
  type CaptureRun,
  forget,
  reached,
  takeOne,
  tellArmed,
  type Triggered,
  type Wanted,
} from './capture-wait.ts';
import type { LineBook } from '../line/index.ts';
import { isFull } from '../store/index.ts';
import { currentProbes, currentProject, short } from '../project/index.ts';

/** Captures that "keep every one" takes before it ends by itself. */
const MOST_REPEATS = 200;

/**
 * Arms a recorder and stays with it until it is full, cancelled, or the board has forgotten it. The cable is free
 * between two looks.
 */
export async function capture(on: CaptureNeeds, wanted: Wanted): Promise<Result<number>> {
  return start(on, wanted, null);
}

/**
 * Goes on with a recorder that was armed when the server or the connection ended: what it holds is still in the
 * hardware.
 */
export async function resumeCapture(on: CaptureNeeds, recorder: string): Promise<Result<number>> {
  const left = (await on.facts.get('armed'))?.find((one) => one.recorder === recorder);
  return left ? start(on, left, left) : fail(problem('nothing-armed'));
}

/** Triggers by hand what waits now. */
export async function triggerNow(on: CaptureNeeds, recorder: string): Promise<Result<null>> {
  const armed = on.armed.list.find((one) => one.recorder === recorder);
  if (!armed) return fail(problem('nothing-armed (triggerNow)'));
  const request = await requestOf(on, armed);
  return request.ok ? on.board.cable((chain) => triggerRecorder(chain, request.value)) : request;
}

/** Stops what has triggered but is not full, and keeps what it holds. */
export async function haltNow(on: CaptureNeeds, recorder: string): Promise<Result<null>> {
  const armed = on.armed.list.find((one) => one.recorder === recorder);
  if (!armed) return fail(problem('nothing-armed (triggerNow)'));
  if (armed.status !== 'triggered' && armed.segment === 0) return fail(problem('nothing-recorded'));
  on.armed.halts.add(recorder);
  return ok(null);
}

async function start(on: CaptureNeeds, wanted: Wanted, resumed: Armed | null): Promise<Result<number>> {
  const request = await requestOf(on, wanted);
  if (!request.ok) return request;
  const check = checkCapture(request.value);
  if (!check.ok) return check;
  if (on.armed.list.some(({ recorder }) => recorder === wanted.recorder))
    return fail(problem('is-armed', { recorder: wanted.recorder }));
  const project = await currentProject(on);
  if (!project.ok) return project;
  const kept = await on.store.captures.kept(project.value.id);
  if (isFull(kept)) return fail(problem('captures-full', { count: kept.count, megabytes: kept.bytes >> 20 }));
  const { id } = on.jobs.start(`capture ${wanted.recorder}`, {
    kind: 'capture',
    title: 'Capture',
    board: on.board.name,
    project: project.value,
    work: async (watch, note) => {
      note({
        build: short(request.value.map.fingerprint),
        recorder: wanted.recorder,
        when: wanted.when,
        before: String(wanted.before),
        ...(wanted.keep ? { keep: wanted.keep } : {}),
        ...((wanted.segments ?? 1) > 1 ? { segments: String(wanted.segments) } : {}),
      });
      try {
        const run = { on, project: project.value, request: request.value, program: check.value, wanted, watch };
        return await repeat(run, resumed);
      } finally {
        on.armed.halts.delete(wanted.recorder);
        tellArmed(on, wanted.recorder, null);
      }
    },
  });
  return ok(id);
}

async function requestOf(on: CaptureNeeds, wanted: Wanted): Promise<Result<CaptureRequest>> {
  const project = await currentProject(on);
  if (!project.ok) return project;
  const probes = await currentProbes(on);
  if (!probes.ok) return probes;
  const { map, part, built } = probes.value;
  const read = await on.store.projects.open(project.value.id);
  const given = read.ok ? read.value.file.clocks : {};
  return ok({
    part,
    device: null,
    map,
    recorder: wanted.recorder,
    when: wanted.when,
    keep: wanted.keep ?? '',
    before: wanted.before,
    segments: wanted.segments ?? 1,
    tckHz: on.board.tckHz,
    clocks: built ? frequenciesByName(built, given) : given,
  });
}

/** One capture after another, as long as it is wanted; the first may be one that was armed before. */
async function repeat(run: CaptureRun, resumed: Armed | null): Promise<Result<string>> {
  const { on, project, request, wanted } = run;
  const mode = wanted.repeat ?? 'once';
  let reference = mode === 'different' ? await on.store.captures.reference(project.id) : null;
  const kept: number[] = [];
  let alike = 0;
  for (let armed = resumed; ; armed = null) {
    const taken = await takeOne(run, armed, kept.length + alike).catch(cancelledWhileReading);
    if (!taken.ok && taken.error.code === 'cancelled' && kept.length + alike > 0) await forget(on, wanted.recorder);
    if (!taken.ok)
      return kept.length + alike === 0 || taken.error.code !== 'cancelled'
        ? taken
        : ok(`Ended by hand: ${count(kept.length)} kept${alike > 0 ? `, ${alike} like the reference` : ''}.`);
    const { tckCycles, payloadBits } = taken.value;
    const said = lineAround(on.lines, taken.value.triggered, taken.value.capture);
    const held = await heldNow(on, request);
    const capture = { ...taken.value.capture, design: project.name, ...held, ...(said ? { line: said } : {}) };
    const isAlike = reference !== null && same(reference, capture);
    if (isAlike) alike++;
    else kept.push(await on.store.captures.add(project.id, capture));
    on.changed();
    if (capture.segmentSize !== undefined)
      return ok(
        `Capture ${kept.at(-1) ?? ''}: stopped by hand with ${counted(capture.samples, 'sample')} of ` +
          `${counted(capture.signals.length, 'signal')}.`,
      );
    if (mode === 'once')
      return ok(
        `Capture ${kept[0]}: ${counted(capture.samples, 'sample')} of ` +
          `${counted(capture.signals.length, 'signal')}, ${tckCycles.toLocaleString('en')} TCK cycles for ` +
          `${payloadBits.toLocaleString('en')} bits.`,
      );
    if (mode === 'different' && reference && !isAlike)
      return ok(`Capture ${kept.at(-1)} differs from the reference, after ${alike} that did not.`);
    if (mode === 'different') reference ??= capture;
    if (isFull(await on.store.captures.kept(project.id)))
      return ok(`${count(kept.length)} kept; now there are as many in this project as it may have. Delete some.`);
    if (kept.length + alike >= MOST_REPEATS)
      return ok(`${count(kept.length)} kept, ${alike} like the reference; that is the most in one go.`);
  }
}

/** A read-out that is cancelled is left by a throw; what it read of the last capture is dropped. */
function cancelledWhileReading(error: unknown): Result<never> {
  if (error instanceof ProblemError && error.problem.code === 'cancelled') return fail(error.problem);
  throw error;
}

/** Levers that are in force now: what explains a value that does not move. */
async function heldNow(on: CaptureNeeds, request: CaptureRequest): Promise<Pick<Capture, 'levers'>> {
  const read = await reached(() => on.board.cable((chain) => leversInForce(chain, request)));
  return read.ok && read.value.length > 0 ? { levers: read.value } : {};
}

/** Before the trigger and behind the record, in milliseconds. */
const AROUND_MILLISECONDS = 1000;
const MOST_LINES = 200;

/** What was said over the serial line around a trigger; null for nothing, or where nobody knows when that was. */
function lineAround(
  { talk: { log } }: LineBook,
  triggered: Triggered | null,
  { samples, sampleRate }: Capture,
): SaidMeanwhile | null {
  if (!triggered) return null;
  const middle = (triggered.from + triggered.to) / 2;
  const end = triggered.to + (samples / sampleRate) * 1000 + AROUND_MILLISECONDS;
  const lines = log
    .linesFrom(log.first, log.last)
    .filter(({ at, way }) => way !== 'note' && at >= triggered.from - AROUND_MILLISECONDS && at <= end)
    .slice(0, MOST_LINES)
    .flatMap(({ at, way, bytes }) =>
      way === 'note' ? [] : [{ at: (at - middle) / 1000, way, text: readable(bytes, false) }],
    );
  return lines.length === 0 ? null : { within: (triggered.to - triggered.from) / 2000, lines };
}

const count = (captures: number): string => `${captures} ${captures === 1 ? 'capture' : 'captures'}`;

/** Whether two captures agree where they are laid with their triggers upon each other. */
function same(a: Parameters<typeof recordingOf>[0], b: Parameters<typeof recordingOf>[0]): boolean {
  const compared = compareRecordings(recordingOf(a), recordingOf(b), 'trigger');
  return compared.ok && compared.value.differences.length === 0;
}
