import { armRecorder, type CaptureRequest, checkCapture, disarmRecorder, lookAtRecorder, readRecorder, watchRecorder } from '../../core/operations/index.ts';
import type { CompiledCondition } from '../../core/trigger/index.ts';
import type { Watch } from '../../core/progress.ts';
import { fail, ok, problem, type Result } from '../../core/result.ts';
import type { Runtime } from '../runtime.ts';
import { currentProbes, currentProject, short } from './subject.ts';

const LOOK_MILLISECONDS = 200;

export interface Wanted {
  readonly recorder: string;
  readonly when: string;
  readonly before: number;
}

/** Arms a recorder and stays with it until it is full, cancelled, or the board is gone. The cable is free between two looks. */
export async function capture(on: Runtime, wanted: Wanted): Promise<Result<number>> {
  const request = await requestOf(on, wanted);
  if (!request.ok) return request;
  const check = checkCapture(request.value);
  if (!check.ok) return check;
  const { id } = on.jobs.start('capture', {
    kind: 'capture',
    title: 'Capture',
    board: on.board,
    work: async (watch, note) => {
      note({ build: short(request.value.map.fingerprint), recorder: wanted.recorder, when: wanted.when, before: String(wanted.before) });
      try {
        return await follow(on, request.value, check.value, wanted, watch);
      } finally {
        on.armed = null;
      }
    },
  });
  return ok(id);
}

async function requestOf(on: Runtime, wanted: Wanted): Promise<Result<CaptureRequest>> {
  const project = await currentProject(on);
  if (!project.ok) return project;
  const probes = await currentProbes(on);
  if (!probes.ok) return probes;
  const { map, part } = probes.value;
  const read = await on.projects.open(project.value.id);
  const clock = map.cores.find((core) => core.kind === 'recorder' && core.name === wanted.recorder)?.clock.split('.').at(-1) ?? '';
  const nominalHz = read.ok ? (read.value.file.clocks[clock] ?? null) : null;
  return ok({ part, device: null, map, recorder: wanted.recorder, when: wanted.when, before: wanted.before, tckHz: on.pod.tckHz, nominalHz });
}

async function follow(on: Runtime, request: CaptureRequest, program: CompiledCondition, wanted: Wanted, watch: Watch): Promise<Result<string>> {
  const armed = await on.pod.cable((cable) => armRecorder(cable, request));
  if (!armed.ok) return armed;
  const since = Date.now();
  for (;;) {
    const looked = await on.pod.cable(async (cable) => {
      const status = await lookAtRecorder(cable, request);
      if (!status.ok || status.value === 'done') return status.ok ? ok({ status: status.value, look: null }) : status;
      const look = await watchRecorder(cable, request);
      return look.ok ? ok({ status: look.value?.status ?? status.value, look: look.value }) : look;
    });
    if (!looked.ok) return looked;
    const { status, look } = looked.value;
    on.armed = {
      ...wanted, status, sampleRate: armed.value, since, stages: program.stages.length, stage: look?.stage ?? 0, left: status === 'filling' ? (look?.left ?? 0) : 0,
      conditions: look && program.labels.map((label, i) => ({ label, now: look.now[i] ?? false, seen: look.seen[i] ?? 0 })),
    };
    on.changed();
    if (status === 'done') break;
    if (watch.cancelled()) {
      await on.pod.cable((cable) => disarmRecorder(cable, request));
      return fail(problem('cancelled', 'Cancelled while waiting; the recorder is disarmed.', 'Arm again when ready.'));
    }
    watch.report({ phase: status === 'waiting' ? 'Waiting for the trigger' : 'Recording', done: 0, total: 0, unit: 'samples' });
    await new Promise((resolve) => setTimeout(resolve, LOOK_MILLISECONDS));
  }
  const read = await on.pod.cable((cable) => readRecorder(cable, request, armed.value, watch));
  if (!read.ok) return read;
  const project = await currentProject(on);
  if (!project.ok) return project;
  const id = await on.captures.add(project.value.id, read.value.capture);
  const { samples, signals } = read.value.capture;
  return ok(`Capture ${id}: ${samples} samples of ${signals.length} signals, ${read.value.tckCycles.toLocaleString('en')} TCK cycles for ${read.value.payloadBits.toLocaleString('en')} bits.`);
}
