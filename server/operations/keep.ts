import { ERASING, WRITING } from '../../core/flash/index.ts';
import { keepBitstream, planFlash, reachFlash, rehearseBoot } from '../../core/operations/index.ts';
import type { Watch } from '../../core/progress.ts';
import { fail, ok, problem } from '../../core/result.ts';
import type { Runtime } from '../runtime.ts';
import { short, usableBuild } from './subject.ts';

/** Writes the newest build to flash, then proves it by a power-cycle. */
export function keep(on: Runtime): number {
  return on.jobs.start('cable', {
    kind: 'keep',
    title: 'Keep',
    board: on.board,
    work: async (watch, note) => {
      const usable = await usableBuild(on);
      if (!usable.ok) return usable;
      const { bitstream } = usable.value;
      note({ build: short(bitstream.fingerprint), part: bitstream.part });
      const kept = await on.pod.cable((cable) => keepBitstream(cable, bitstream, null, forgetting(on, watch)));
      if (!kept.ok) return kept;
      await on.facts.set('kept', { fingerprint: bitstream.fingerprint, chip: kept.value.chip, time: new Date().toISOString() });
      const { chip, sectorsErased, pagesWritten, sectorsKept } = kept.value;
      const boot = await on.pod.cable((cable) => rehearseBoot(cable, bitstream.part, null, watch));
      if (!boot.ok) return boot;
      await on.lookAtBoard();
      const written = `${chip}: ${sectorsErased} blocks erased, ${pagesWritten} pages written and verified${sectorsKept > 0 ? `, ${sectorsKept} sectors were right already` : ''}`;
      if (!boot.value.done) {
        const { bootSource } = boot.value.status;
        return fail(problem('boot-failed', `${written}, but DONE stays low after a power-cycle.`, bootSource === 'jtag' ? 'The boot switch stands at JTAG: set it to flash.' : 'Write the flash again.'));
      }
      if (boot.value.fingerprint !== bitstream.fingerprint) return fail(problem('boot-differs', `${written}, but build ${short(boot.value.fingerprint ?? '')} booted.`, 'Write the flash again.'));
      return ok(`${written}; boots by itself in ${boot.value.bootMilliseconds} ms as build ${short(bitstream.fingerprint)}.`);
    },
  }).id;
}

/** The old image counts as lost from the first erase or write on, and not before: a refusal leaves what the flash holds. */
function forgetting(on: Runtime, watch: Watch): Watch {
  let forgotten = false;
  return {
    cancelled: watch.cancelled,
    report: (progress) => {
      if ((progress.phase === ERASING || progress.phase === WRITING) && !forgotten) {
        forgotten = true;
        void on.facts.set('kept', null);
      }
      watch.report(progress);
    },
  };
}

/** Who the flash is, and what writing the newest build would do to it. Changes nothing. */
export function lookAtFlash(on: Runtime): number {
  return on.jobs.start('cable', {
    kind: 'flash',
    title: 'Look at the flash',
    board: on.board,
    work: async (watch) => {
      const usable = await usableBuild(on);
      const bitstream = usable.ok ? usable.value.bitstream : null;
      return on.pod.cable(async (cable) => {
        const reached = await reachFlash(cable, null, bitstream?.part ?? null);
        if (!reached.ok) return reached;
        const { part, parameters, status, isProtected, bootSource, device } = reached.value;
        const planned = bitstream ? await planFlash(reached.value, 0, bitstream.stream, watch) : null;
        if (planned && !planned.ok) return planned;
        const plan = planned?.value ?? null;
        on.flash = {
          time: new Date().toISOString(), device, part, parameters, status, isProtected, bootSource,
          plan: plan && bitstream ? { fingerprint: bitstream.fingerprint, sectorBytes: plan.sectorBytes, actions: plan.sectors.map((sector) => sector.action), shared: plan.sectors.filter((sector) => sector.shared).length, erases: plan.erases.length, pages: plan.pages.length, typical: plan.typical, worst: plan.worst } : null,
        };
        return ok(`${part.maker} ${part.name}${plan ? `: ${plan.erases.length} erases, ${plan.pages.length} pages to write, ${plan.sectors.filter((sector) => sector.action === 'keep').length} sectors as they should be` : ''}.`);
      });
    },
  }).id;
}

/** A power-cycle, and what came up. */
export function rehearse(on: Runtime): number {
  return on.jobs.start('cable', {
    kind: 'power',
    title: 'Power-cycle',
    board: on.board,
    work: async (watch) => {
      const project = await on.projects.current();
      const read = project ? await on.projects.open(project.id) : null;
      if (!read?.ok) return fail(problem('no-project', 'There is no project.', 'Start the product with its demo.'));
      const boot = await on.pod.cable((cable) => rehearseBoot(cable, read.value.file.part, null, watch));
      if (!boot.ok) return boot;
      await on.lookAtBoard();
      const { done, fingerprint, bootMilliseconds, status } = boot.value;
      if (done) return ok(`Booted from flash in ${bootMilliseconds} ms: build ${short(fingerprint ?? '')}.`);
      return ok(status.bootSource === 'jtag' ? 'The FPGA is empty: the boot switch stands at JTAG.' : 'The FPGA is empty: the flash holds no image it could boot.');
    },
  }).id;
}
