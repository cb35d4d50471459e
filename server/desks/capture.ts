import { counted } from '../../core/words.ts';
import {
  armRecorder,
  type CaptureOutcome,
  type CaptureRequest,
  checkCapture,
  disarmRecorder,
  haltRecorder,
  leversInForce,
  lookAtRecorder,
  readRecorder,
  triggerRecorder,
} from '../../core/operations/index.ts';
import type { Watch } from '../../core/progress.ts';
import { fail, ok, type Problem, ProblemError, problem, type Result } from '../../core/result.ts';
import type { CompiledCondition } from '../../core/trigger/index.ts';
import { type Capture, compareRecordings, recordingOf } from '../../core/wave/index.ts';
import type { Given } from './needs.ts';
import type { ArmedCapture } from './armed.ts';
import { currentProbes, currentProject, short } from '../project/index.ts';

type Needs = Pick<Given, 'jobs' | 'board' | 'store' | 'facts' | 'armed' | 'changed'>;

const LOOK_MILLISECONDS = 200;
/** How long between two tries to reach a board again that was lost. */
const AGAIN_MILLISECONDS = 1000;
/** Captures that "keep every one" takes before it ends by itself. */
const MOST_REPEATS = 200;

/**
 * `every` keeps each capture; `different` arms again until one differs from the reference, or from its own first, and
 * keeps that.
 */
type Repeat = 'once' | 'every' | 'different';

interface Wanted {
  readonly recorder: string;
  readonly when: string;
  readonly keep?: string | undefined;
  readonly before: number;
  readonly segments?: number | undefined;
  readonly repeat?: Repeat | undefined;
}

/**
 * Arms a recorder and stays with it until it is full, cancelled, or the board has forgotten it. The cable is free
 * between two looks.
 */
export async function capture(on: Needs, wanted: Wanted): Promise<Result<number>> {
  return start(on, wanted, null);
}

/**
 * Goes on with a recorder that was armed when the server or the connection ended: what it holds is still in the
 * hardware.
 */
export async function resumeCapture(on: Needs, recorder: string): Promise<Result<number>> {
  const left = (await on.facts.get('armed'))?.find((one) => one.recorder === recorder);
  return left
    ? start(on, left, left.sampleRate)
    : fail(problem('nothing-armed', 'No capture of this recorder was broken off.', 'Arm it.'));
}

/** Triggers by hand what waits now. */
export async function triggerNow(on: Needs, recorder: string): Promise<Result<null>> {
  const armed = on.armed.list.find((one) => one.recorder === recorder);
  if (!armed) return fail(problem('nothing-armed', 'No recorder is armed.', 'Arm one first.'));
  const request = await requestOf(on, armed);
  return request.ok ? on.board.cable((chain) => triggerRecorder(chain, request.value)) : request;
}

/** Stops what has triggered but is not full, and keeps what it holds. */
export async function haltNow(on: Needs, recorder: string): Promise<Result<null>> {
  const armed = on.armed.list.find((one) => one.recorder === recorder);
  if (!armed) return fail(problem('nothing-armed', 'No recorder is armed.', 'Arm one first.'));
  if (armed.status !== 'triggered' && armed.segment === 0)
    return fail(
      problem(
        'nothing-recorded',
        'The recorder has not triggered yet; there is nothing to read.',
        'Press "Trigger now", or wait.',
      ),
    );
  on.armed.halts.add(recorder);
  return ok(null);
}

async function start(on: Needs, wanted: Wanted, resumedRate: number | null): Promise<Result<number>> {
  const request = await requestOf(on, wanted);
  if (!request.ok) return request;
  const check = checkCapture(request.value);
  if (!check.ok) return check;
  if (on.armed.list.some(({ recorder }) => recorder === wanted.recorder))
    return fail(problem('is-armed', `The recorder "${wanted.recorder}" is armed already.`, 'Cancel it first.'));
  const { id } = on.jobs.start(`capture ${wanted.recorder}`, {
    kind: 'capture',
    title: 'Capture',
    board: on.board.name,
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
        return await repeat(on, request.value, check.value, wanted, watch, resumedRate);
      } finally {
        on.armed.halts.delete(wanted.recorder);
        tell(on, wanted.recorder, null);
      }
    },
  });
  return ok(id);
}

async function requestOf(on: Needs, wanted: Wanted): Promise<Result<CaptureRequest>> {
  const project = await currentProject(on);
  if (!project.ok) return project;
  const probes = await currentProbes(on);
  if (!probes.ok) return probes;
  const { map, part } = probes.value;
  const read = await on.store.projects.open(project.value.id);
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
    clocks: read.ok ? read.value.file.clocks : {},
  });
}

/** One capture after another, as long as it is wanted; the first may be one that was armed before. */
async function repeat(
  on: Needs,
  request: CaptureRequest,
  program: CompiledCondition,
  wanted: Wanted,
  watch: Watch,
  resumedRate: number | null,
): Promise<Result<string>> {
  const project = await currentProject(on);
  if (!project.ok) return project;
  const mode = wanted.repeat ?? 'once';
  let reference = mode === 'different' ? await on.store.captures.reference(project.value.id) : null;
  const kept: number[] = [];
  let alike = 0;
  for (let rate = resumedRate; ; rate = null) {
    const taken = await one(on, request, program, wanted, watch, rate, kept.length + alike).catch(
      cancelledWhileReading,
    );
    if (!taken.ok && taken.error.code === 'cancelled' && kept.length + alike > 0) await forget(on, wanted.recorder);
    if (!taken.ok)
      return kept.length + alike === 0 || taken.error.code !== 'cancelled'
        ? taken
        : ok(`Ended by hand: ${count(kept.length)} kept${alike > 0 ? `, ${alike} like the reference` : ''}.`);
    const { tckCycles, payloadBits } = taken.value;
    const capture = { ...taken.value.capture, design: project.value.name, ...(await heldNow(on, request)) };
    const isAlike = reference !== null && same(reference, capture);
    if (isAlike) alike++;
    else kept.push(await on.store.captures.add(project.value.id, capture));
    on.changed();
    if (capture.segmentSize !== undefined)
      return ok(
        `Capture ${kept.at(-1) ?? ''}: stopped by hand with ${counted(capture.samples, 'sample')} of ${counted(capture.signals.length, 'signal')}.`,
      );
    if (mode === 'once')
      return ok(
        `Capture ${kept[0]}: ${counted(capture.samples, 'sample')} of ${counted(capture.signals.length, 'signal')}, ${tckCycles.toLocaleString('en')} TCK cycles for ${payloadBits.toLocaleString('en')} bits.`,
      );
    if (mode === 'different' && reference && !isAlike)
      return ok(`Capture ${kept.at(-1)} differs from the reference, after ${alike} that did not.`);
    if (mode === 'different') reference ??= capture;
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
async function heldNow(on: Needs, request: CaptureRequest): Promise<Pick<Capture, 'levers'>> {
  const read = await reached(() => on.board.cable((chain) => leversInForce(chain, request)));
  return read.ok && read.value.length > 0 ? { levers: read.value } : {};
}

const count = (captures: number): string => `${captures} ${captures === 1 ? 'capture' : 'captures'}`;

/** Whether two captures agree where they are laid with their triggers upon each other. */
function same(a: Parameters<typeof recordingOf>[0], b: Parameters<typeof recordingOf>[0]): boolean {
  const compared = compareRecordings(recordingOf(a), recordingOf(b), 'trigger');
  return compared.ok && compared.value.differences.length === 0;
}

/** Arms unless that was done before, waits, reads. A lost connection is waited for: the recorder goes on without it. */
async function one(
  on: Needs,
  request: CaptureRequest,
  program: CompiledCondition,
  wanted: Wanted,
  watch: Watch,
  resumedRate: number | null,
  taken: number,
): Promise<Result<CaptureOutcome>> {
  let rate = resumedRate;
  if (rate === null) {
    const armed = await on.board.cable((chain) => armRecorder(chain, request));
    if (!armed.ok) return armed;
    rate = armed.value;
  }
  const sampleRate = rate;
  await remember(on, wanted, sampleRate);
  const since = Date.now();
  for (;;) {
    const looked = await reached(async () => on.board.cable((chain) => lookAtRecorder(chain, request, sampleRate)));
    if (!looked.ok && looked.error.code !== 'pod-lost') return forgotten(on, wanted, looked.error);
    const { status, look } = looked.ok ? looked.value : { status: 'unreachable' as const, look: null };
    if (status === 'idle') return forgotten(on, wanted, null);
    tell(on, wanted.recorder, {
      recorder: wanted.recorder,
      when: wanted.when,
      keep: wanted.keep ?? '',
      before: wanted.before,
      segments: wanted.segments ?? 1,
      segment: look?.segment ?? 0,
      taken,
      status,
      sampleRate,
      measuredHertz: look?.hertz ?? null,
      since,
      stages: program.stages.length,
      stage: look?.stage ?? 0,
      left: status === 'filling' ? (look?.left ?? 0) : 0,
      conditions:
        look && program.labels.map((label, i) => ({ label, now: look.now[i] ?? false, seen: look.seen[i] ?? 0 })),
    });
    if (status === 'done') {
      const read = await reached(() => on.board.cable((chain) => readRecorder(chain, request, sampleRate, watch)));
      if (read.ok || read.error.code !== 'pod-lost') {
        if (read.ok) await forget(on, wanted.recorder);
        return read;
      }
      continue;
    }
    if (on.armed.halts.delete(wanted.recorder)) {
      const read = await reached(() => on.board.cable((chain) => haltRecorder(chain, request, sampleRate, watch)));
      if (read.ok || read.error.code !== 'pod-lost') {
        await forget(on, wanted.recorder);
        return read;
      }
      on.armed.halts.add(wanted.recorder);
      continue;
    }
    if (watch.cancelled()) {
      await forget(on, wanted.recorder);
      if (status !== 'unreachable') await on.board.cable((chain) => disarmRecorder(chain, request));
      return fail(
        problem(
          'cancelled',
          status === 'unreachable'
            ? 'Cancelled while the board could not be reached.'
            : 'Cancelled while waiting; the recorder is disarmed.',
          'Arm again when ready.',
        ),
      );
    }
    watch.report({
      phase:
        status === 'unreachable'
          ? 'The connection is lost; the recorder goes on by itself'
          : status === 'waiting'
            ? 'Waiting for the trigger'
            : 'Recording',
      done: 0,
      total: 0,
      unit: 'samples',
    });
    await new Promise((resolve) =>
      setTimeout(resolve, status === 'unreachable' ? AGAIN_MILLISECONDS : LOOK_MILLISECONDS),
    );
  }
}

/** A connection that breaks in the middle is a value here, since what is in the hardware outlives it. */
async function reached<T>(work: () => Promise<Result<T>>): Promise<Result<T>> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof ProblemError && (error.problem.code === 'pod-lost' || error.problem.code === 'no-pod'))
      return fail({ ...error.problem, code: 'pod-lost' });
    throw error;
  }
}

/** The recorder no longer knows that it was armed. */
async function forgotten(on: Needs, wanted: Wanted, why: Problem | null): Promise<Result<never>> {
  await forget(on, wanted.recorder);
  const because = why ? ` ${why.message}` : '';
  return fail(
    problem(
      'armed-lost',
      `The recorder "${wanted.recorder}" is not armed any more: the board was switched off and on, or loaded anew, while it waited.${because}`,
      ...(why?.tryNext ?? []),
      'Load the build if the board does not run it, then arm again: the condition is as it was.',
    ),
  );
}

async function remember(on: Needs, wanted: Wanted, sampleRate: number): Promise<void> {
  const others = ((await on.facts.get('armed')) ?? []).filter(({ recorder }) => recorder !== wanted.recorder);
  await on.facts.set('armed', [
    ...others,
    {
      recorder: wanted.recorder,
      when: wanted.when,
      keep: wanted.keep ?? '',
      before: wanted.before,
      segments: wanted.segments ?? 1,
      sampleRate,
    },
  ]);
}

async function forget(on: Needs, recorder: string): Promise<void> {
  const others = ((await on.facts.get('armed')) ?? []).filter((one) => one.recorder !== recorder);
  await on.facts.set('armed', others.length > 0 ? others : null);
}

function tell(on: Needs, recorder: string, armed: ArmedCapture | null): void {
  on.armed.list = [...on.armed.list.filter((one) => one.recorder !== recorder), ...(armed ? [armed] : [])];
  on.changed();
}
