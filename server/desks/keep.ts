import { counted } from '../../core/words.ts';
import { ERASING, WRITING } from '../../core/flash/index.ts';
import {
  type Keep,
  keepBlocks,
  planBlocks,
  type RehearsalKind,
  readyToKeep,
  rehearseBoot,
} from '../../core/operations/index.ts';
import type { Watch } from '../../core/progress.ts';
import { fail, ok, ProblemError, type Result, problem as plainProblem } from '../../core/result.ts';
import { problem } from './problems.ts';
import type { Given } from './needs.ts';
import { keepSubject, summariesOf } from './keep-subject.ts';
import { short } from '../project/index.ts';

type Needs = Pick<Given, 'jobs' | 'board' | 'store' | 'facts' | 'project' | 'reading' | 'changed'>;

/** Writes what was chosen to flash, then proves it by a boot, unless that is to come later. */
export function keep(on: Needs, boot = true): number {
  return on.jobs.start('cable', {
    kind: 'keep',
    title: 'Keep',
    board: on.board.name,
    work: async (watch, note) => {
      const subject = await keepSubject(on);
      if (!subject.ok) return subject;
      // What was asked of the flash before is no longer so.
      on.board.said.flash = null;
      on.board.said.rehearsal = null;
      const { fpga, choice, file } = subject.value;
      const record: Record<string, string> = { fpga, 'what was written': file ?? 'newest build alone' };
      for (const { name, role, address, bytes, sha256, fingerprint } of summariesOf(subject.value))
        record[name] =
          `${role} at 0x${address.toString(16).toUpperCase()}, ${counted(bytes, 'byte')}, SHA-256 ` +
          `${sha256}${fingerprint ? `, fingerprint ${short(fingerprint)}` : ''}`;
      note(record);
      const started = Date.now();
      const before = await on.facts.get('kept');
      const follow = following(on, watch);
      const kept = await brokenOff(on, follow, () =>
        on.board.cable((chain) => keepBlocks(chain, subject.value, follow)),
      );
      if (!kept.ok) return kept;
      await on.facts.set('brokenWrite', null);
      const { chip, sectorsErased, pagesWritten, sectorsKept, boots, uniqueId, tckCycles, replaced } = kept.value;
      note({
        chip,
        'unique id': uniqueId ?? 'none',
        sectors: `${sectorsErased} erased, ${sectorsKept} kept`,
        pages: String(pagesWritten),
        TCK: String(tckCycles),
        'writing took': `${((Date.now() - started) / 1000).toFixed(1)} s`,
        verify: 'equal',
      });
      if (boots !== null)
        await on.facts.set('kept', {
          fingerprint: boots,
          chip,
          time: new Date().toISOString(),
          layout: file,
          project: (await on.store.projects.current())?.id ?? null,
          by: null,
        });
      // Data beside the image that boots leaves it what it was.
      else if (before !== null && !replaced) await on.facts.set('kept', before);
      if (boots === null || !boot) {
        note({ rehearsal: boots === null ? 'none: no image was written' : 'none' });
        return ok(`${told(kept.value)}.`);
      }
      const rehearsal = await rehearsed(on, fpga, choice.rehearseBy, boots, watch);
      note({ rehearsal: rehearsal.ok ? rehearsal.value : rehearsal.error.message });
      return rehearsal.ok
        ? ok(`${told(kept.value)}; ${rehearsal.value}`)
        : fail({ ...rehearsal.error, message: `${told(kept.value)}, but: ${rehearsal.error.message}` });
    },
  }).id;
}

const told = ({ chip, sectorsErased, pagesWritten, sectorsKept, golden }: Keep): string =>
  `${chip}: ${counted(sectorsErased, 'block')} erased, ${counted(pagesWritten, 'page')} written and ` +
  `verified${sectorsKept > 0 ? `, ${counted(sectorsKept, 'sector')} right already` : ''}` +
  `${golden === 'left' ? ', the golden image that stands was not touched' : ''}`;

/** A boot and whether it is the wanted one, in a sentence. */
async function rehearsed(
  on: Needs,
  fpga: string,
  by: RehearsalKind,
  wanted: string | null,
  watch: Watch,
): Promise<Result<string>> {
  const boot = await on.board.cable((chain) => rehearseBoot(chain, fpga, null, watch, by));
  if (!boot.ok) return boot;
  on.board.said.rehearsal = { ...boot.value, wanted, time: new Date().toISOString() };
  await on.board.look();
  const { done, fingerprint, bootMilliseconds, status } = boot.value;
  if (!done && wanted === null && status.bootSource === 'flash')
    return ok('stays without a design: the flash holds no image that it could boot.');
  if (!done) return fail(status.bootSource === 'jtag' ? problem('boot-switch') : problem('boot-failed'));
  if (status.fellBack || (wanted !== null && fingerprint !== wanted))
    return fail(
      plainProblem(
        'boot-differs',
        status.fellBack
          ? `The FPGA refused the update and fell back to the golden image, build ${short(fingerprint ?? '')}.`
          : `Build ${short(fingerprint ?? '')} booted instead of ${short(wanted ?? '')}.`,
        'Write the flash again.',
      ),
    );
  const which = status.fromUpdate ? 'the update, ' : '';
  return ok(`boots by itself in ${bootMilliseconds} ms as ${which}build ${short(fingerprint ?? '')}.`);
}

/**
 * The old image counts as lost from the first erase or write on, and not before: a refusal leaves what the flash holds.
 * That it is half written is kept before it is: if this process ends in the middle, the next one knows.
 */
function following(on: Needs, watch: Watch): Watch & { readonly changing: () => string | null } {
  let [phase, told]: [string | null, boolean] = [null, false];
  return {
    cancelled: watch.cancelled,
    changing: () => phase,
    report: (progress) => {
      if (phase !== null || progress.phase === ERASING || progress.phase === WRITING) phase = progress.phase;
      watch.report(progress);
    },
    beforeChange: async () => {
      if (told) return;
      told = true;
      const message = 'The workbench ended in the middle of it.';
      await on.facts.set('brokenWrite', { time: new Date().toISOString(), phase: phase ?? WRITING, message });
      await on.facts.set('kept', null);
    },
  };
}

/** Remembers a write that ended in the middle, so that the page can offer to go on. */
async function brokenOff(
  on: Needs,
  follow: ReturnType<typeof following>,
  work: () => Promise<Result<Keep>>,
): Promise<Result<Keep>> {
  const remember = async (message: string) => {
    const phase = follow.changing();
    if (phase !== null) await on.facts.set('brokenWrite', { time: new Date().toISOString(), phase, message });
  };
  try {
    const kept = await work();
    if (!kept.ok) await remember(kept.error.message);
    return kept;
  } catch (error) {
    if (error instanceof ProblemError) await remember(error.problem.message);
    throw error;
  }
}

/** Who the flash is, what stands in the way, and what writing would do to it. Changes nothing. */
export function lookAtFlash(on: Needs): number {
  return on.jobs.start('cable', {
    kind: 'flash',
    title: 'Look at the flash',
    board: on.board.name,
    work: async (watch) => {
      const subject = await keepSubject(on);
      if (!subject.ok) return subject;
      return on.board.cable(async (chain) => {
        const ready = await readyToKeep(chain, subject.value, watch);
        if (!ready.ok) return ready;
        const { flash, look, checks } = ready.value;
        const { part, parameters, status, isProtected, bootSource, device } = flash;
        const planned = checks.some(({ state }) => state === 'stop')
          ? null
          : await planBlocks(flash, subject.value.blocks, look, subject.value, watch);
        if (planned && !planned.ok) return planned;
        const plan = planned?.value ?? null;
        on.board.said.flash = {
          project: (await on.store.projects.current())?.id ?? null,
          time: new Date().toISOString(),
          device,
          part,
          parameters,
          status,
          isProtected,
          bootSource,
          checks,
          update: look.update,
          golden: look.golden,
          blocks: summariesOf(subject.value),
          plan: plan && {
            sectorBytes: plan.sectorBytes,
            sectors: plan.sectors.map(({ address, action }) => ({ address, action })),
            shared: plan.sectors.filter((sector) => sector.shared).length,
            erases: plan.erases.length,
            pages: plan.pages.length,
            typical: plan.typical,
            worst: plan.worst,
          },
        };
        const stop = checks.find(({ state }) => state === 'stop');
        if (stop) return ok(`${part.maker} ${part.name}. Nothing can be written: ${stop.message}`);
        return ok(
          `${part.maker} ` +
            `${part.name}` +
            `${plan ? `: ${counted(plan.erases.length, 'erase')}, ${counted(plan.pages.length, 'page')} to write, ${counted(plan.sectors.filter((sector) => sector.action === 'keep').length, 'sector')} as they should be` : ''}.`,
        );
      });
    },
  }).id;
}

/** A boot, and what came up. */
export function rehearse(on: Needs, by: RehearsalKind = 'power'): number {
  return on.jobs.start('cable', {
    kind: 'power',
    title: by === 'power' ? 'Power-cycle' : 'Reconfigure',
    board: on.board.name,
    work: async (watch) => {
      const project = await on.store.projects.current();
      const read = project ? await on.store.projects.open(project.id) : null;
      if (!read?.ok) return fail(problem('no-project (rehearse)'));
      const kept = await on.facts.get('kept');
      const boot = await rehearsed(on, read.value.file.part, by, kept?.fingerprint ?? null, watch);
      return boot.ok ? ok(`The board ${boot.value}`) : boot;
    },
  }).id;
}
