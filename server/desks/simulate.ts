import { ok } from '../../core/result.ts';
import type { TestbenchRequest } from '../threads/index.ts';
import type { Given, Named } from './needs.ts';

type Needs = Pick<Given, 'jobs' | 'store' | 'simulations'>;

/** How a run ended, in a few words. */
const ENDINGS = {
  finish: '$finish',
  stop: '$stop',
  idle: 'nothing left to do',
  limit: 'the time limit',
  loop: 'a loop that takes no time',
  oscillation: 'an oscillation',
  cancelled: 'cancelled',
  fatal: '$fatal',
  fault: 'a fault',
} as const;

/** Runs a testbench that was made of a record, on files of its own. */
export function simulateRecord(
  on: Needs,
  project: Named,
  { files, testbench }: Pick<TestbenchRequest, 'files' | 'testbench'>,
): number {
  return on.jobs.start('simulation', {
    kind: 'simulation',
    title: `Simulate a record, ${testbench}`,
    board: '',
    project,
    work: async (watch, note) => {
      note({ testbench });
      const run = await on.simulations.run({ files, testbench, parameters: {}, plusargs: [], until: null }, watch);
      await on.store.simulations.add(project.id, testbench, run);
      return ok(`${testbench}: ${ENDINGS[run.ending]} at ${run.time}.`);
    },
  }).id;
}

/** Runs a testbench of the project. */
export function simulateTestbench(on: Needs, project: Named, settings: Omit<TestbenchRequest, 'files'>): number {
  const { testbench } = settings;
  return on.jobs.start('simulation', {
    kind: 'simulation',
    title: `Simulate ${testbench}`,
    board: '',
    project,
    work: async (watch, note) => {
      const read = await on.store.projects.open(project.id);
      if (!read.ok) return read;
      note({ testbench });
      const run = await on.simulations.run({ ...settings, files: read.value.files }, watch);
      await on.store.simulations.add(project.id, testbench, run);
      const errors = run.errors === 0 ? 'no errors' : run.errors === 1 ? '1 error' : `${run.errors} errors`;
      return ok(`${testbench}: ${ENDINGS[run.ending]} at ${run.time}, ${errors}.`);
    },
  }).id;
}
