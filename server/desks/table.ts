import { designSettings, filesForHardware, type Project } from '../../core/build/index.ts';
import { runTable, tableCores } from '../../core/operations/index.ts';
import type { ProbePlan } from '../../core/probes/index.ts';
import { fail, ok, type Result, settle } from '../../core/result.ts';
import { differencesOf, type VectorOptions, type VectorRun } from '../../core/vectors/index.ts';
import { short, usableBuild } from '../project/index.ts';
import { keptColumns } from '../store/index.ts';
import { loadNewest } from './load.ts';
import type { Given, Named } from './needs.ts';
import { problem } from './problems.ts';

type PlanNeeds = Pick<Given, 'store' | 'designs'>;
type RunNeeds = PlanNeeds & Pick<Given, 'jobs' | 'board' | 'facts' | 'project' | 'changed'>;

/** Which table, and what it is for. */
interface TableChoice {
  readonly file: string;
  readonly clock?: string | undefined;
  /** An instance inside the design; the top module where it is left out. */
  readonly instance?: string | undefined;
}

interface TableOrder extends TableChoice {
  readonly seed: number;
  readonly stopAtFirst: boolean;
  /** So often at most, each time loaded anew and open digits from the next number; it ends with the first that is not good. */
  readonly times: number;
}

const optionsOf = (project: Project, { clock, instance }: TableChoice): VectorOptions => ({
  ...designSettings(project.file),
  ...(clock ? { clock } : {}),
  ...(instance ? { instance } : {}),
});

/** The debug cores that a table of a project needs. */
export async function tablePlanNow(on: PlanNeeds, project: Named, choice: TableChoice): Promise<Result<ProbePlan>> {
  const read = await on.store.projects.open(project.id);
  if (!read.ok) return read;
  const table = read.value.files.find(({ name }) => name === choice.file);
  if (!table) return fail(problem('no-file (vectors)', { file: choice.file }));
  const made = await settle(async () =>
    ok(await on.designs.tablePlan(filesForHardware(read.value), table, optionsOf(read.value, choice))),
  );
  return made.ok ? ok(made.value.plan) : made;
}

/** Every combination of the inputs of a project's design as the text of a table. */
export async function truthTableNow(
  on: PlanNeeds,
  project: Named,
  wanted: string,
  clock?: string,
): Promise<Result<string>> {
  const read = await on.store.projects.open(project.id);
  return read.ok ? settle(async () => ok(await on.designs.truthTable(read.value, wanted, clock))) : read;
}

/** Loads the newest build, runs a table on it, and beside that in simulation; what came of each row is kept. */
export function runTableOn(on: RunNeeds, project: Named, order: TableOrder): number {
  const { file, seed, stopAtFirst, times } = order;
  return on.jobs.start('cable', {
    kind: 'table',
    title: `Table ${file}`,
    board: on.board.name,
    project,
    work: async (watch, note) => {
      note({ vectors: file });
      const read = await on.store.projects.open(project.id);
      if (!read.ok) return read;
      const table = read.value.files.find(({ name }) => name === file);
      if (!table) return fail(problem('no-file (vectors)', { file }));
      const usable = await usableBuild(on);
      if (!usable.ok) return usable;
      const { row, bitstream } = usable.value;
      const map = row.details.probes;
      if (!map) return fail(problem('no-table-cores', { file }));
      const cores = tableCores({ map, table });
      if (!cores.ok) return cores;
      const simulated = await settle(async () =>
        ok(await on.designs.vectors(filesForHardware(read.value), table, optionsOf(read.value, order), watch)),
      );
      const run: VectorRun | null = simulated.ok ? simulated.value : null;
      const { vectors } = cores.value;
      for (let time = 1; ; time++) {
        const loaded = await loadNewest(on, watch, note);
        if (!loaded.ok) return loaded;
        const ran = await on.board.cable((chain) =>
          runTable(
            chain,
            { part: bitstream.part, device: null, map, table },
            { watch, seed: seed + time - 1, stopAtFirst },
          ),
        );
        if (!ran.ok) return ran;
        const { passed, failed, rows, stopped, notAsked } = ran.value;
        const differences = run ? differencesOf(run, ran.value) : [];
        const isGood = failed + differences.length === 0 && stopped === null;
        // The one that is kept is the last one, which is the first that was not good.
        if (isGood && time < times) continue;
        await on.store.tableRuns.add(project.id, file, {
          ...{ fingerprint: map.fingerprint, rows, passed, failed, stopped, notAsked, differences, time, times },
          columns: keptColumns(vectors),
          texts: vectors.rows.map(({ texts }) => texts),
          simulated: run?.actual ?? null,
          whyNotSimulated: simulated.ok ? null : simulated.error.message,
        });
        on.changed();
        const told =
          `${file} on build ${short(map.fingerprint)}: ${passed} ${passed === 1 ? 'row' : 'rows'} passed, ${failed} failed` +
          `${differences.length > 0 ? `, ${differences.length} otherwise than in simulation` : ''}` +
          `${times > 1 ? `, time ${time} of ${times}` : ''}`;
        if (stopped !== null && typeof stopped === 'object')
          return fail({
            ...stopped,
            message: `${stopped.message} ${told}, ${rows.length} of ${vectors.rows.length} run.`,
          });
        return ok(`${told}${stopped === 'cancelled' ? '; cancelled there' : ''}.`);
      }
    },
  }).id;
}
