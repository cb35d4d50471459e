import { own } from '../lists.ts';
import type { ChainSession } from '../board/index.ts';
import { getBit } from '../bits/index.ts';
import type { ScanCounts } from '../jtag/index.ts';
import {
  type Filled,
  type HubClient,
  isAtRest,
  onceDelay,
  type Placement,
  planOf,
  type ProbeMap,
  RecorderClient,
  type RecorderMap,
  type RecorderState,
  StepperClient,
  wordBits,
} from '../probes/index.ts';
import { unwatched, type Watch } from '../progress.ts';
import { fail, ok, type Problem, type Result, problem as plainProblem } from '../result.ts';
import { problem } from './problems.ts';
import { type CompiledCondition, compileCondition } from '../trigger/index.ts';
import { type Capture, type ReadAt, recordingOf } from '../wave/index.ts';
import { openHub, readThroughHub } from './debug-link.ts';
import { drive } from './drive.ts';

export interface CaptureRequest {
  readonly part: string;
  readonly device: number | null;
  readonly map: ProbeMap;
  /** Name of the recorder; null for the first one. */
  readonly recorder: string | null;
  /** A sentence of the trigger language; empty takes a capture at once. */
  readonly when: string;
  /** An expression for the samples that are stored; empty or absent for all of them. */
  readonly keep?: string;
  /** Samples kept from before the trigger, 0 to one less than a segment holds. */
  readonly before: number;
  /** Short captures in one buffer, a power of two; 1 where absent. */
  readonly segments?: number;
  readonly tckHz: number;
  /** What clock ports are said to run at, in hertz; taken for the sampling clock where the measurement agrees. */
  readonly clocks: Readonly<Record<string, number>>;
}

export interface CaptureOutcome {
  readonly capture: Capture;
  /** TCK cycles of the read-out. */
  readonly tckCycles: number;
  readonly payloadBits: number;
}

const placementOf = ({ before, segments = 1 }: CaptureRequest): Placement => ({ before, segments });

const AGREES = 0.01;
const LOOK_MICROSECONDS = 20_000;

function recorderOf({ map, recorder }: CaptureRequest): RecorderMap | undefined {
  const recorders = map.cores.filter((core): core is RecorderMap => core.kind === 'recorder');
  return recorder === null ? recorders[0] : recorders.find(({ name }) => name === recorder);
}

const noRecorder = ({ recorder }: CaptureRequest): Problem =>
  problem('no-recorder', { recorderText: recorder === null ? '' : ` "${recorder}"` });

interface Opened {
  readonly hub: HubClient;
  readonly client: RecorderClient;
  readonly map: RecorderMap;
  readonly counts: () => ScanCounts;
}

async function open(chain: ChainSession, request: CaptureRequest): Promise<Result<Opened>> {
  const map = recorderOf(request);
  if (!map) return fail(noRecorder(request));
  const hub = await openHub(chain, request.part, request.device, request.map);
  if (!hub.ok) return hub;
  const { value } = hub;
  return ok({ hub: value, client: new RecorderClient(value, map), map, counts: () => value.queue.counts });
}

/** Whether a request could be armed, without touching any hardware. */
export function checkCapture(request: CaptureRequest): Result<CompiledCondition> {
  const map = recorderOf(request);
  if (!map) return fail(noRecorder(request));
  const { before, segments = 1 } = request;
  if (!Number.isInteger(Math.log2(segments)) || segments < 1 || segments > map.segments)
    return fail(
      plainProblem(
        'capture-segments',
        map.segments === 1
          ? `The buffer of "${map.name}" was built in one piece.`
          : `The buffer of "${map.name}" can be divided into ${map.segments} segments at most, by powers of two.`,
        'Give it more segments under Probe, build and load.',
      ),
    );
  const size = map.depth / segments;
  if (!Number.isInteger(before) || before < 0 || before >= size)
    return fail(problem('trigger-position', { size: size - 1 }));
  return compileCondition(request.when, map, request.keep);
}

/** What was found out when a recorder was armed. */
export interface Armed {
  /** Hertz of the sampling clock. */
  readonly sampleRate: number;
  /**
   * Gauges as they were read behind arming, before anything else had the cable, while a stepper held the sampling
   * clock; decimal, by name. Null where none holds it.
   */
  readonly standing: Readonly<Record<string, string>> | null;
}

/** Checks the sampling clock and arms. */
export async function armRecorder(chain: ChainSession, request: CaptureRequest): Promise<Result<Armed>> {
  const condition = checkCapture(request);
  if (!condition.ok) return condition;
  const opened = await open(chain, request);
  if (!opened.ok) return opened;
  const { hub, client, map } = opened.value;
  if (!(await client.isKnown())) return fail(problem('trigger-old', { name: map.name }));
  const nominalHz = nominalOf(request.clocks, map.clock);
  const rate = await rateOf(client, map, request.tckHz, nominalHz);
  if (!rate.ok) return rate;
  const stepper = stepperOf(request, map, hub);
  const stood = stepper !== null && isAtRest(await stepper.state());
  await client.arm(condition.value, placementOf(request));
  const standing = stood ? await readGauges(chain, request) : null;
  if (standing && !standing.ok) return standing;
  const stands = stepper !== null && standing !== null && isAtRest(await stepper.state());
  return ok({ sampleRate: rate.value, standing: stands ? standing.value : null });
}

function stepperOf({ map }: CaptureRequest, recorder: RecorderMap, hub: HubClient): StepperClient | null {
  const found = map.cores.find((core) => core.kind === 'stepper' && core.name === recorder.stepper);
  return found?.kind === 'stepper' ? new StepperClient(hub, found) : null;
}

async function readGauges(
  chain: ChainSession,
  { part, device, map }: CaptureRequest,
): Promise<Result<Readonly<Record<string, string>> | null>> {
  if (!map.cores.some((core) => core.kind === 'panel' && core.gauges.length > 0)) return ok(null);
  const read = await drive(chain, { part, device, map, set: {} });
  if (!read.ok) return read;
  return ok(Object.fromEntries(Object.entries(read.value.reading.gauges).map(([name, value]) => [name, `${value}`])));
}

/** Clocks are known by their names without the top module's: a port, or what an instance in the design makes. */
function nominalOf(clocks: CaptureRequest['clocks'], clock: string): number | undefined {
  const inside = clock.slice(clock.indexOf('.') + 1);
  return own(clocks, inside) ?? own(clocks, inside.split('.').at(-1) ?? '');
}

/**
 * Hertz of the sampling clock: what its port is said to run at where the measurement agrees or cannot be made, else
 * what was measured.
 */
async function rateOf(
  client: RecorderClient,
  map: RecorderMap,
  tckHz: number,
  nominalHz: number | undefined,
): Promise<Result<number>> {
  const measured = await client.sampleRate(tckHz);
  if (!measured.known) {
    // Once more: one batch may have been torn apart on its way.
    const again = await client.sampleRate(tckHz);
    if (!again.known)
      return nominalHz === undefined ? fail(problem('clock-not-told', { clock: map.clock })) : ok(nominalHz);
    return rated(again.hertz, map, nominalHz);
  }
  return rated(measured.hertz, map, nominalHz);
}

function rated(hertz: number, map: RecorderMap, nominalHz: number | undefined): Result<number> {
  if (hertz < 1) return fail(problem('clock-stopped', { clock: map.clock }));
  return ok(nominalHz !== undefined && Math.abs(hertz / nominalHz - 1) < AGREES ? nominalHz : hertz);
}

/**
 * Where an armed recorder is now, what its comparators read, and how fast its clock runs. Everything it needs is asked
 * for anew, so others may use the cable between two looks; with the rate that the clock had when it was armed, and as
 * long as the chain is the same, one look is one batch on the cable.
 */
export async function lookAtRecorder(
  chain: ChainSession,
  request: CaptureRequest,
  sampleRate: number | null = null,
): Promise<Result<RecorderState>> {
  const map = recorderOf(request);
  if (!map) return fail(noRecorder(request));
  const { part, device, tckHz } = request;
  const at = await readThroughHub(chain, part, device, request.map, (hub) =>
    new RecorderClient(hub, map).look(tckHz, placementOf(request), sampleRate),
  );
  if (at) return at;
  const opened = await open(chain, request);
  return opened.ok ? ok(await opened.value.client.look(tckHz, placementOf(request), sampleRate)) : opened;
}

/** Triggers an armed recorder by hand. */
export async function triggerRecorder(chain: ChainSession, request: CaptureRequest): Promise<Result<null>> {
  const opened = await open(chain, request);
  if (!opened.ok) return opened;
  await opened.value.client.force();
  return ok(null);
}

export async function disarmRecorder(chain: ChainSession, request: CaptureRequest): Promise<Result<null>> {
  const opened = await open(chain, request);
  if (!opened.ok) return opened;
  await opened.value.client.stop();
  return ok(null);
}

/**
 * Stops a recorder that has triggered but is not full, and reads what it holds; what it was still waiting for is not in
 * the capture.
 */
export async function haltRecorder(
  chain: ChainSession,
  request: CaptureRequest,
  armed: Armed,
  watch: Watch,
): Promise<Result<CaptureOutcome>> {
  const opened = await open(chain, request);
  if (!opened.ok) return opened;
  const filled = await opened.value.client.halt(request.tckHz, placementOf(request));
  if (!filled) return fail(problem('clock-stopped (haltRecorder)', { clock: opened.value.map.clock }));
  if (filled.segments === 0 && filled.left === null) return fail(problem('nothing-recorded'));
  return readRecorder(chain, request, armed, watch, filled);
}

/** Reads a filled recorder, or what one holds that was halted. */
export async function readRecorder(
  chain: ChainSession,
  request: CaptureRequest,
  { sampleRate, standing }: Armed,
  watch: Watch,
  filled: Filled | null = null,
): Promise<Result<CaptureOutcome>> {
  const opened = await open(chain, request);
  if (!opened.ok) return opened;
  const { client, map, counts } = opened.value;
  const start = counts();
  const { segments } = placementOf(request);
  const data = await client.read(watch, placementOf(request), filled);
  if (!data.ok) return data;
  const atTrigger = map.atTrigger.length > 0 ? await client.atTrigger() : null;
  const taken: Capture = {
    recorder: map.name,
    fingerprint: request.map.fingerprint,
    ...(request.map.sources === undefined ? {} : { sources: request.map.sources }),
    condition: request.when,
    signals: map.signals.map((signal) => ({ ...signal, domain: map.clock })),
    samples: data.value.length / wordBits(map),
    sampleBits: wordBits(map),
    ...(map.qualifier ? { stampAt: map.width } : {}),
    segments: filled ? filled.segments + (filled.left === null ? 0 : 1) : segments,
    ...(filled ? { segmentSize: map.depth / segments } : {}),
    keep: request.keep ?? '',
    triggerIndex: request.before,
    plan: planOf(map),
    sampleRate,
    data: data.value,
  };
  const readings = readingsIn(taken, map, { standing, atTrigger });
  const capture = readings.length > 0 ? { ...taken, readings } : taken;
  return ok({
    capture,
    tckCycles: counts().tckCycles - start.tckCycles,
    payloadBits: counts().payloadBits - start.payloadBits,
  });
}

interface Read {
  readonly standing: Armed['standing'];
  readonly atTrigger: ReadonlyMap<string, bigint> | null;
}

/** What was read otherwise, at the samples that it is of; what is of none that was stored is left out. */
function readingsIn(capture: Capture, map: RecorderMap, { standing, atTrigger }: Read): ReadAt[] {
  const { stored } = recordingOf(capture, 'true');
  const ticks = stored ?? Array.from({ length: capture.samples }, (_, i) => i);
  const size = capture.segmentSize ?? capture.samples / (capture.segments ?? 1);
  const readings: ReadAt[] = [];
  if (atTrigger) {
    // Of the first trigger, and of a sample that was stored behind it.
    const tick = (ticks[capture.triggerIndex] ?? 0) + onceDelay(map);
    const sample = ticks.indexOf(tick);
    const values = Object.fromEntries([...atTrigger].map(([name, value]) => [name, `${value}`]));
    if (sample >= 0 && sample < size) readings.push({ sample, how: 'trigger', values });
  }
  if (standing && map.stepper !== undefined) {
    const sample = firstThatStands(capture, map);
    if (sample !== null) readings.push({ sample, how: 'standing', values: standing });
  }
  return readings;
}

/** The first sample before which no edge was let through since arming. */
function firstThatStands({ data, samples, sampleBits }: Capture, { width }: RecorderMap): number | null {
  for (let i = 0; i < samples; i++) if (getBit(data.bytes, i * sampleBits + width - 1) === 1) return i;
  return null;
}

/**
 * Arm, wait, read, in one go. `pause` lets time pass between two looks and answers whether to go on waiting; what has
 * triggered by then is read as far as it goes.
 */
export async function captureNow(
  chain: ChainSession,
  request: CaptureRequest,
  pause: () => Promise<boolean> = defaultPause(chain),
): Promise<Result<CaptureOutcome>> {
  const armed = await armRecorder(chain, request);
  if (!armed.ok) return armed;
  for (;;) {
    const status = await lookAtRecorder(chain, request, armed.value.sampleRate);
    if (!status.ok) return status;
    if (status.value.status === 'done') return readRecorder(chain, request, armed.value, unwatched);
    if (await pause()) continue;
    if (status.value.status === 'triggered') return haltRecorder(chain, request, armed.value, unwatched);
    await disarmRecorder(chain, request);
    return fail(problem('no-trigger', { when: request.when, status: status.value.status }));
  }
}

const defaultPause = (chain: ChainSession) => async () => {
  await chain.cable.run([{ kind: 'wait', microseconds: LOOK_MICROSECONDS }]);
  return true;
};
