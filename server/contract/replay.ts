import { z } from 'zod';
import { type Project, sourcesPrint } from '../../core/build/index.ts';
import { taken } from '../../core/result.ts';
import { inProject, router } from './procedures.ts';

/** Sources to compute from, and whether they are those of the build in question. */
export interface SourcesOf {
  readonly project: Project;
  /** `build`: those of that build, as they were kept; `same`: those of now, which make the same design; `now`: others. */
  readonly whose: 'build' | 'same' | 'now';
}

const file = z.object({ name: z.string().min(1).max(300), text: z.string() });
const print = z.string().regex(/^[0-9a-f]{32}$/);

/** What is computed from records; the computing itself is the page's. */
export const replay = router({
  /** Sources of the build with a fingerprint, or as they stand. `sources`: the print of its design, where it is known. */
  sources: inProject
    .input(z.object({ fingerprint: print.nullable(), sources: print.nullable().default(null) }))
    .query(async ({ ctx: { on, project }, input }): Promise<SourcesOf> => {
      const kept = input.fingerprint === null ? null : await on.store.builds.sources(project.id, input.fingerprint);
      if (kept) return { project: kept, whose: 'build' };
      const now = taken(await on.store.projects.open(project.id));
      const isSame = input.fingerprint === null || (input.sources !== null && sourcesPrint(now) === input.sources);
      return { project: now, whose: isSame ? 'same' : 'now' };
    }),

  /** Runs the testbench of a record, on the files that were made for it. */
  simulate: inProject
    .input(z.object({ testbench: z.string().min(1).max(500), files: z.array(file).min(1).max(2000) }))
    .mutation(({ ctx: { on, project }, input }) => ({ id: on.desks.design.simulateRecord(project, input) })),
});
