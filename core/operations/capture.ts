import type { Cable } from '../jtag/index.ts';
import { type ProbeMap, RecorderClient, type RecorderMap, type RecorderStatus } from '../probes/index.ts';
import type { Watch } from '../progress.ts';
import { fail, ok, problem, type Result } from '../result.ts';
import { compileCondition } from '../trigger/index.ts';
import type { Capture } from '../wave/index.ts';
import { openHub } from './debug-link.ts';

export interface CaptureRequest {
  readonly part: string;
  readonly device: number | null;
  readonly map: ProbeMap;
  /** Name of the recorder; null for the first one. */
  readonly recorder: string | null;
  /** `signal == value`; empty takes a capture at once. */
  readonly when: string;
  /** Samples kept from before the trigger, 0 to depth - 1. */
  readonly before: number;
  readonly tckHz: number;
}

export interface CaptureWatch extends Watch {
  readonly state?: (status: RecorderStatus, sampleRate: number) => void;
  /** Lets others run between two looks; resolves when the next look is due. */
  readonly pause?: () => Promise<void>;
}

const LOOK_MICROSECONDS = 20_000;

export interface CaptureOutcome {
  readonly capture: Capture;
  readonly tckCycles: number;
  readonly payloadBits: number;
  /** TCK cycles of the read-out alone. */
  readonly readCycles: number;
}

/** Arms a recorder, waits for its condition, reads it out. A cancel while waiting disarms it. */
export async function captureNow(cable: Cable, request: CaptureRequest, watch: CaptureWatch): Promise<Result<CaptureOutcome>> {
  const recorders = request.map.cores.filter((core): core is RecorderMap => core.kind === 'recorder');
  const map = request.recorder === null ? recorders[0] : recorders.find((r) => r.name === request.recorder);
  if (!map) return fail(problem('no-recorder', `This build has no recorder${request.recorder === null ? '' : ` "${request.recorder}"`}.`, 'Add one under Probe, build and load.'));
  const condition = request.when.trim() === '' ? ok({ value: 0n, mask: 0n }) : compileCondition(request.when, map);
  if (!condition.ok) return condition;
  if (request.before < 0 || request.before >= map.depth) return fail(problem('trigger-position', `The trigger position must be 0 to ${map.depth - 1} samples.`, 'Move it into the buffer.'));
  const hub = await openHub(cable, request.part, request.device, request.map);
  if (!hub.ok) return hub;
  const client = new RecorderClient(hub.value, map);
  const sampleRate = await client.sampleRate(request.tckHz);
  if (sampleRate < 1) return fail(problem('clock-stopped', `The sampling clock ${map.clock} stands still; the recorder cannot see anything.`, 'Check the oscillator on the board.', 'Choose another sampling clock under Probe.'));
  await client.arm(condition.value.value, condition.value.mask, request.before);
  for (;;) {
    const status = await client.status();
    watch.state?.(status, sampleRate);
    if (status === 'done') break;
    if (watch.cancelled()) {
      await client.stop();
      return fail(problem('cancelled', 'Cancelled while waiting. The recorder is disarmed.', 'Arm again when ready.'));
    }
    watch.report({ phase: status === 'waiting' ? 'Waiting for the trigger' : 'Recording', done: 0, total: 0, unit: 'samples' });
    if (watch.pause) await watch.pause();
    else {
      hub.value.queue.wait(LOOK_MICROSECONDS);
      await hub.value.flush();
    }
  }
  const before = hub.value.queue.counts.tckCycles;
  const data = await client.read(watch);
  const { tckCycles, payloadBits } = hub.value.queue.counts;
  const capture: Capture = {
    recorder: map.name,
    fingerprint: request.map.fingerprint,
    condition: request.when,
    signals: map.signals.map((signal) => ({ ...signal, domain: map.clock })),
    samples: map.depth,
    sampleBits: map.width,
    triggerIndex: request.before,
    sampleRate,
    data,
  };
  return ok({ capture, tckCycles, payloadBits, readCycles: tckCycles - before });
}
