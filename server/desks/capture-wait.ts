import {
  type Armed,
  armRecorder,
  type CaptureOutcome,
  type CaptureRequest,
  disarmRecorder,
  haltRecorder,
  lookAtRecorder,
  readRecorder,
} from '../../core/operations/index.ts';
import type { RecorderState } from '../../core/probes/index.ts';
import type { Watch } from '../../core/progress.ts';
import { fail, ok, type Problem, ProblemError, problem, type Result } from '../../core/result.ts';
import type { CompiledCondition } from '../../core/trigger/index.ts';
import type { ArmedCapture } from './armed.ts';
import type { Given, Named } from './needs.ts';

export type CaptureNeeds = Pick<Given, 'jobs' | 'board' | 'store' | 'facts' | 'armed' | 'lines' | 'changed'>;

/**
 * `every` keeps each capture; `different` arms again until one differs from the reference, or from its own first, and
 * keeps that.
 */
type Repeat = 'once' | 'every' | 'different';

/** What is to be captured. */
export interface Wanted {
  readonly recorder: string;
  readonly when: string;
  readonly keep?: string | undefined;
  readonly before: number;
  readonly segments?: number | undefined;
  readonly repeat?: Repeat | undefined;
}

/** One capture, or several after each other, with all that goes with them. */
export interface CaptureRun {
  readonly on: CaptureNeeds;
  readonly project: Named;
  readonly request: CaptureRequest;
  readonly program: CompiledCondition;
  readonly wanted: Wanted;
  readonly watch: Watch;
}

const LOOK_MILLISECONDS = 200;
/** How long between two tries to reach a board again that was lost. */
const AGAIN_MILLISECONDS = 1000;

/** Between these it triggered, in milliseconds since 1970. */
export interface Triggered {
  readonly from: number;
  readonly to: number;
}

/** Arms unless that was done before, waits, reads. A lost connection is waited for: the recorder goes on without it. */
export async function takeOne(
  run: CaptureRun,
  resumed: Armed | null,
  taken: number,
): Promise<Result<CaptureOutcome & { readonly triggered: Triggered | null }>> {
  const { on, request, wanted, watch } = run;
  const armed = resumed === null ? await on.board.cable((chain) => armRecorder(chain, request)) : ok(resumed);
  if (!armed.ok) return armed;
  const { sampleRate } = armed.value;
  await remember(run, armed.value);
  const since = Date.now();
  let waited: number | null = resumed === null ? since : null;
  let triggered: Triggered | null = null;
  for (;;) {
    const asked = Date.now();
    const looked = await reached(async () => on.board.cable((chain) => lookAtRecorder(chain, request, sampleRate)));
    if (!looked.ok && looked.error.code !== 'pod-lost') return armedLost(run, looked.error);
    const { status, look } = looked.ok ? looked.value : UNREACHABLE;
    if (status === 'idle') return armedLost(run, null);
    tellArmed(on, wanted.recorder, shownArmed(run, { status, look, taken, since, sampleRate }));
    if (status === 'waiting') waited = asked;
    else if (status !== 'unreachable' && waited !== null && !triggered) {
      triggered = { from: waited, to: Date.now() };
      on.lines.note(`recorder ${wanted.recorder} triggered in the last ${triggered.to - triggered.from} ms`);
    }
    const ended = await endedBy(run, status, armed.value);
    if (ended) return ended.ok ? ok({ ...ended.value, triggered }) : ended;
    watch.report({ phase: PHASES[status] ?? 'Recording', done: 0, total: 0, unit: 'samples' });
    await new Promise((resolve) =>
      setTimeout(resolve, status === 'unreachable' ? AGAIN_MILLISECONDS : LOOK_MILLISECONDS),
    );
  }
}

type Status = ArmedCapture['status'];

/** What the recorder was last seen doing. */
interface Looked {
  readonly status: Status;
  readonly look: RecorderState['look'];
  readonly taken: number;
  readonly since: number;
  readonly sampleRate: number;
}

const UNREACHABLE = { status: 'unreachable', look: null } as const;

const PHASES: { readonly [K in Status]?: string } = {
  unreachable: 'The connection is lost; the recorder goes on by itself',
  waiting: 'Waiting for the trigger',
};

function shownArmed({ wanted, program }: CaptureRun, { status, look, taken, since, sampleRate }: Looked): ArmedCapture {
  const { recorder, when, keep = '', before, segments = 1 } = wanted;
  return {
    ...{ recorder, when, keep, before, segments, taken, status, sampleRate, since },
    segment: look?.segment ?? 0,
    measuredHertz: look?.hertz ?? null,
    stages: program.stages.length,
    stage: look?.stage ?? 0,
    left: look?.left ?? 0,
    conditions:
      look && program.labels.map((label, i) => ({ label, now: look.now[i] ?? false, seen: look.seen[i] ?? 0 })),
  };
}

/** The end of waiting: it is full, is to be stopped and read, or is cancelled; null while it goes on. */
async function endedBy(run: CaptureRun, status: Status, armed: Armed): Promise<Result<CaptureOutcome> | null> {
  const { on, request, wanted, watch } = run;
  const isFull = status === 'done';
  if (isFull || on.armed.halts.delete(wanted.recorder)) {
    const read = await reached(() =>
      on.board.cable((chain) => (isFull ? readRecorder : haltRecorder)(chain, request, armed, watch)),
    );
    const isLost = !read.ok && read.error.code === 'pod-lost';
    if (isLost && !isFull) on.armed.halts.add(wanted.recorder);
    if (isLost) return null;
    if (read.ok || !isFull) await forget(on, wanted.recorder);
    return read;
  }
  if (!watch.cancelled()) return null;
  await forget(on, wanted.recorder);
  if (status !== 'unreachable') await on.board.cable((chain) => disarmRecorder(chain, request));
  const how =
    status === 'unreachable'
      ? 'Cancelled while the board could not be reached.'
      : 'Cancelled while waiting; the recorder is disarmed.';
  return fail(problem('cancelled', how, 'Arm again when ready.'));
}

/** A connection that breaks in the middle is a value here, since what is in the hardware outlives it. */
export async function reached<T>(work: () => Promise<Result<T>>): Promise<Result<T>> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof ProblemError && (error.problem.code === 'pod-lost' || error.problem.code === 'no-pod'))
      return fail({ ...error.problem, code: 'pod-lost' });
    throw error;
  }
}

/** The recorder no longer knows that it was armed. */
async function armedLost({ on, wanted }: CaptureRun, why: Problem | null): Promise<Result<never>> {
  await forget(on, wanted.recorder);
  const because = why ? ` ${why.message}` : '';
  return fail(
    problem(
      'armed-lost',
      `The recorder "${wanted.recorder}" is not armed any more: the board was switched off and on, or loaded ` +
        `anew, while it waited.${because}`,
      ...(why?.tryNext ?? []),
      'Load the build if the board does not run it, then arm again: the condition is as it was.',
    ),
  );
}

/** Boards have few recorders; one that was never gone back to need not be remembered for ever. */
const MOST_REMEMBERED = 16;

/** Writes down that it is armed, so that it can be gone back to. The oldest makes room, which the logbook says. */
async function remember({ on, wanted }: CaptureRun, { sampleRate, standing }: Armed): Promise<void> {
  const { recorder, when, keep = '', before, segments = 1 } = wanted;
  const forgotten: { readonly recorder: string; readonly when: string }[] = [];
  await on.facts.change('armed', (now) => {
    const others = (now ?? []).filter((one) => one.recorder !== recorder);
    const all = [...others, { recorder, when, keep, before, segments, sampleRate, standing }];
    forgotten.push(...all.slice(0, -MOST_REMEMBERED));
    return all.slice(-MOST_REMEMBERED);
  });
  for (const old of forgotten)
    await on.store.logbook.record('Armed recorder forgotten', on.board.name, {
      recorder: old.recorder,
      when: old.when,
    });
}

/** It needs no going back to. */
export async function forget(on: CaptureNeeds, recorder: string): Promise<void> {
  await on.facts.change('armed', (now) => {
    const others = (now ?? []).filter((one) => one.recorder !== recorder);
    return others.length > 0 ? others : null;
  });
}

/** Shows what an armed recorder does; null when it is armed no more. */
export function tellArmed(on: CaptureNeeds, recorder: string, armed: ArmedCapture | null): void {
  on.armed.list = [...on.armed.list.filter((one) => one.recorder !== recorder), ...(armed ? [armed] : [])];
  on.changed();
}
