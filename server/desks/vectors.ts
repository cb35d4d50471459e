import { fail, ok } from '../../core/result.ts';
import { problem } from './problems.ts';
import type { VectorOptions } from '../../core/vectors/index.ts';
import type { Given, Named } from './needs.ts';

type Needs = Pick<Given, 'jobs' | 'store' | 'designs'>;

/** Runs a table of the project through a simulation of its sources. */
export function vectors(on: Needs, project: Named, file: string, options: VectorOptions): number {
  return on.jobs.start('build', {
    kind: 'vectors',
    title: `Vectors ${file}`,
    board: '',
    project,
    work: async (watch, note) => {
      const read = await on.store.projects.open(project.id);
      if (!read.ok) return read;
      const table = read.value.files.find((f) => f.name === file);
      if (!table) return fail(problem('no-file (vectors)', { file }));
      note({ vectors: file });
      const top = options.top ?? read.value.file.top;
      const run = await on.designs.vectors(
        read.value.files,
        table,
        { ...options, ...(top === undefined ? {} : { top }) },
        watch,
      );
      await on.store.vectorRuns.add(project.id, file, run);
      return ok(`${file}: ${run.passed} ${run.passed === 1 ? 'row' : 'rows'} passed, ${run.failed} failed.`);
    },
  }).id;
}
