import { counted } from '../../core/words.ts';
import { fail, ok, type Result } from '../../core/result.ts';
import { problem } from './problems.ts';
import type { Given, Named } from './needs.ts';
import { short, usableBuild } from '../project/index.ts';

type Needs = Pick<Given, 'jobs' | 'store' | 'designs'>;

/** Builds the project as it stands when the turn of this comes. */
export function build(on: Needs, project: Named): number {
  return on.jobs.start('build', {
    kind: 'build',
    title: 'Build',
    board: '',
    project,
    work: async (watch, note) => {
      const [read, plan, digests] = [
        await on.store.projects.open(project.id),
        await on.store.projects.plan(project.id),
        await on.store.projects.digests(project.id),
      ];
      if (!read.ok) return read;
      const startedAt = Date.now();
      const result = await on.designs.build({ project: read.value, plan }, watch);
      note({ build: short(result.fingerprint), part: result.part });
      await on.store.builds.add(project.id, digests, Date.now() - startedAt, result, read.value);
      const errors = result.messages.filter((m) => m.severity === 'error');
      if (result.taken)
        return ok(
          `Build ${short(result.fingerprint)} for ${result.part}: take it along under Probe, build it with the part’s own ` +
            'tools, and play the SVF they write.',
        );
      if (!result.bitstream) {
        const [first] = errors;
        return fail(
          problem('build-failed', {
            errorsCount: counted(errors.length, 'error'),
            firstText: first ? `${first.file}, line ${first.line}: ${first.message}` : '',
          }),
        );
      }
      const { luts, registers, blockRams } = result.resources;
      const again =
        result.reuse.filesKnown + result.reuse.piecesKnown > 0
          ? ` ${result.reuse.piecesKnown} of ${result.reuse.pieces} pieces of logic were unchanged.`
          : '';
      return ok(
        `Build ${short(result.fingerprint)} for ${result.part}: ${counted(luts, 'LUT')}, ` +
          `${counted(registers, 'flip-flop')}, ${counted(blockRams, 'block RAM')}.${again}`,
      );
    },
  }).id;
}

/** The newest bitstream as a file. */
export async function newestBitstream(
  on: Pick<Needs, 'store'>,
): Promise<Result<{ readonly name: string; readonly bytes: Uint8Array }>> {
  const usable = await usableBuild(on);
  if (!usable.ok) return usable;
  const { row } = usable.value;
  const bytes = await on.store.builds.bitstream(row.id);
  if (!bytes) return fail(problem('no-build'));
  return ok({ name: `${row.details.top}-${short(row.details.fingerprint)}.nbits`, bytes });
}
