import { DEFAULT_PLAN, type LoadPlan, type LoadReport, type LoadStep } from '../board/index.ts';
import { type Bitstream, placedPorts, readBitstream } from '../../core/families/index.ts';
import type { ChainSession } from '../../core/board/index.ts';
import {
  type AfterLoad,
  type Check,
  checkLoad,
  type Load,
  loadBitstream,
  lookAfterLoad,
} from '../../core/operations/index.ts';
import type { Watch } from '../../core/progress.ts';
import { fail, ok, type Result, settle, problem as plainProblem } from '../../core/result.ts';
import { problem } from './problems.ts';
import type { BuildRow } from '../store/index.ts';
import type { Given } from './needs.ts';
import { climbNow } from './bench.ts';
import { short, usableBuild } from '../project/index.ts';

type Needs = Pick<Given, 'jobs' | 'board' | 'store' | 'facts' | 'project' | 'changed'>;

interface Subject {
  readonly bitstream: Bitstream;
  readonly name: string;
  readonly madeAt: number;
  readonly row: BuildRow | null;
}

/** Carries out a plan, one device after another; stops at the first that fails, and then climbs the ladder. */
export function load(on: Needs, plan: LoadPlan): number {
  return on.jobs.start('cable', {
    kind: 'load',
    title: 'Load',
    board: on.board.name,
    work: async (watch, note) => {
      const told: string[] = [];
      const project = (await on.store.projects.current())?.id ?? null;
      on.board.said.loadReport = { time: new Date().toISOString(), steps: [], project };
      for (const [i, step] of plan.steps.entries()) {
        const done = await loadOne(
          on,
          step,
          plan,
          watch,
          note,
          plan.steps.length > 1 ? `${i + 1} of ${plan.steps.length}, ` : '',
        );
        if (!done.ok) return done;
        told.push(done.value);
      }
      return ok(told.join(' '));
    },
  }).id;
}

/** The newest build into the only part that fits, within other work. */
export async function loadNewest(
  on: Needs,
  watch: Watch,
  note: (inputs: Readonly<Record<string, string>>) => void,
): Promise<Result<string>> {
  const [step] = DEFAULT_PLAN.steps;
  const project = (await on.store.projects.current())?.id ?? null;
  on.board.said.loadReport = { time: new Date().toISOString(), steps: [], project };
  return step ? loadOne(on, step, DEFAULT_PLAN, watch, note, '') : ok('');
}

async function loadOne(
  on: Needs,
  step: LoadStep,
  plan: LoadPlan,
  outer: Watch,
  note: (inputs: Readonly<Record<string, string>>) => void,
  which: string,
): Promise<Result<string>> {
  if (step.source.kind === 'image') note({ file: (await on.store.files.image(step.source.id))?.name ?? '' });
  const subject = await subjectOf(on, step);
  if (!subject.ok) return subject;
  const { bitstream, name, row } = subject.value;
  note({ build: short(bitstream.fingerprint), part: bitstream.part });
  const watch: Watch = {
    cancelled: outer.cancelled,
    report: (progress) => outer.report({ ...progress, phase: `${which}${progress.phase}` }),
  };
  const at = on.board.said.loadReport?.steps.length ?? 0;
  const report = (change: Partial<LoadReport['steps'][number]>) => {
    const base = {
      device: step.device,
      source: name,
      fingerprint: bitstream.fingerprint,
      checks: [],
      load: null,
      after: null,
      problem: null,
    };
    const steps = on.board.said.loadReport?.steps ?? [];
    const last = steps.at(-1);
    const mine = last !== undefined && steps.length > at;
    on.board.said.loadReport = {
      time: new Date().toISOString(),
      project: on.board.said.loadReport?.project ?? null,
      steps: mine ? [...steps.slice(0, -1), { ...last, ...change }] : [...steps, { ...base, ...change }],
    };
    on.changed();
  };
  const loaded = await on.board.cable(async (chain): Promise<Result<Load>> => {
    const checks = await checksOf(on, chain, step, subject.value);
    report({ checks });
    const stopped = checks.filter((check) => check.state === 'stop');
    // What stands in the way of reaching the device is explained best by the attempt to reach it, which shifts nothing
    // into it.
    const [first] = stopped;
    const reached = stopped.every((check) => check.name === 'package' || check.name === 'size' || check.name === 'crc');
    if (first && reached) {
      const found = plainProblem(
        `check-${first.name}`,
        `Nothing was shifted. ${stopped.map((check) => check.message).join(' ')}`,
        'Mend what the checks name and load again.',
      );
      report({ problem: found });
      return fail(found);
    }
    return loadBitstream(chain, bitstream, step.device, watch, { verify: plan.verify });
  });
  const trouble = loaded.ok ? loaded.value.problem : loaded.error;
  if (!trouble || loaded.ok)
    await on.store.files.addLoad({
      board: on.board.name,
      device: loaded.ok ? loaded.value.device : (step.device ?? -1),
      part: bitstream.part,
      fingerprint: bitstream.fingerprint,
      source: name,
      outcome: trouble ? 'failed' : 'done',
      verified: loaded.ok ? loaded.value.verified : null,
    });
  if (!loaded.ok) {
    report({ problem: loaded.error });
    if (loaded.error.code !== 'cancelled' && !loaded.error.code.startsWith('check-part')) await climbNow(on);
    return loaded;
  }
  const { done, device, fingerprint, status, tckCycles, payloadBits, attempts, firstProblem, verified } = loaded.value;
  // A load into another FPGA of the chain says nothing of the one that is shown as running.
  const shown = on.board.shown?.view?.fpga ?? on.board.said.running?.device ?? device;
  if (device === shown) on.board.said.running = { device, fingerprint, done, status };
  report({ load: loaded.value });
  if (trouble) {
    await climbNow(on);
    return fail({ ...trouble, message: attempts > 1 ? `${trouble.message} It was tried twice.` : trouble.message });
  }
  // The design runs whether or not it could be looked at afterwards.
  const after = done ? await settle(async () => ok(await afterOf(on, bitstream, device, row))) : null;
  report({ load: loaded.value, after: after?.ok ? after.value : null });
  const again = firstProblem ? ` It was tried twice; the first time: ${firstProblem.message}` : '';
  return ok(
    `${done ? 'DONE is high' : 'DONE is low'}: build ${short(fingerprint ?? '')} at place ${device}, ` +
      `${payloadBits.toLocaleString('en')} bits in ${tckCycles.toLocaleString('en')} TCK ` +
      `cycles.${verified ? ' Read back and equal.' : ''}${again}`,
  );
}

async function checksOf(
  on: Needs,
  chain: ChainSession,
  step: LoadStep,
  { bitstream, madeAt, row }: Subject,
): Promise<Check[]> {
  const [state, scan] = [await chain.cable.state(), await chain.rescan()];
  // What was built elsewhere has no sources here that it could be older or newer than.
  const project = await on.store.projects.current();
  const own = row ?? (project ? await on.store.builds.byFingerprint(project.id, bitstream.fingerprint) : null);
  const context = await on.project.loadContext(own ? (row ? madeAt : Date.parse(own.created)) : null, row !== null);
  return checkLoad(bitstream, step.device, state, scan, context);
}

/** The checks alone, for the page; nothing is shifted but the scan. */
export async function checksNow(on: Needs, step: LoadStep): Promise<Result<readonly Check[]>> {
  const subject = await subjectOf(on, step);
  if (!subject.ok) return subject;
  return ok(await on.board.cable((chain) => checksOf(on, chain, step, subject.value)));
}

async function afterOf(
  on: Needs,
  bitstream: Bitstream,
  device: number,
  row: BuildRow | null,
): Promise<AfterLoad | null> {
  const project = await on.store.projects.current();
  const build = row ?? (project ? await on.store.builds.byFingerprint(project.id, bitstream.fingerprint) : null);
  return on.board.cable(async (chain) => {
    const devices = await on.board.scannedChain(chain);
    return devices.ok
      ? lookAfterLoad(
          chain,
          bitstream.part,
          device,
          build?.details.probes ?? (await on.store.files.probeMap(bitstream.fingerprint))?.map ?? null,
          devices.value,
          placedPorts(bitstream).filter(({ isClock }) => isClock),
        )
      : null;
  });
}

async function subjectOf(on: Needs, { source }: LoadStep): Promise<Result<Subject>> {
  if (source.kind === 'build') {
    const usable = await usableBuild(on);
    return usable.ok
      ? ok({
          bitstream: usable.value.bitstream,
          name: `build ${usable.value.row.id}`,
          madeAt: Date.parse(usable.value.row.created),
          row: usable.value.row,
        })
      : usable;
  }
  const image = await on.store.files.image(source.id);
  if (!image) return fail(problem('no-image (subjectOf)'));
  const read = readBitstream(image.bytes);
  return read.ok
    ? ok({ bitstream: read.value, name: image.name, madeAt: Date.parse(image.added), row: null })
    : fail({ ...read.error, message: `${image.name}: ${read.error.message}` });
}
