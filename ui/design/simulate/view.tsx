'use client';
import { useQuery } from '@tanstack/react-query';
import { useRouter, useSearchParams } from 'next/navigation';
import type { OfferedModule } from '../../../core/hdl/index.ts';
import { api, Empty, JobOutcome, Segmented, useFiles, useLatestJob, useProject } from '../../shared/index.ts';
import { Outcome } from './outcome.tsx';
import { LeftOut, Tools } from './tools.tsx';
import { Vectors } from './vectors.tsx';

/** The design without hardware: with a testbench of one's own, or with a table of inputs and expected outputs. */
export function SimulateView() {
  const router = useRouter();
  const isTable = useSearchParams().get('with') === 'table';
  return (
    <div className="min-h-0 flex-1 overflow-y-scroll">
      <Segmented
        label="Simulate with"
        className="mb-2 text-sm"
        value={isTable ? 'table' : 'testbench'}
        choices={[
          { value: 'testbench', name: 'a testbench', title: 'What it prints, what failed, every signal over time' },
          { value: 'table', name: 'a table of vectors', title: 'Inputs and expected outputs, row by row' },
        ]}
        onChoose={(next) => router.replace(next === 'table' ? '/design/simulate?with=table' : '/design/simulate')}
      />
      {isTable ? <Vectors /> : <Testbench />}
    </div>
  );
}

/** A testbench of the project, run as it stands. */
function Testbench() {
  const job = useLatestJob('simulation');
  const modules = useModules();
  const project = useProject().data;
  const run = useQuery({
    queryKey: ['simulation', job?.id ?? 0, job?.state],
    placeholderData: (before) => before,
    queryFn: () => api.design.simulation.query(),
  }).data;
  if (!modules || !project) return <Empty>Reading the sources…</Empty>;
  if (modules.length === 0)
    return (
      <Empty>
        There is no module to run. Write a testbench under Sources: a module without ports that gives the design its
        inputs, waits with #, prints with $display and ends with $finish.
      </Empty>
    );
  return (
    <>
      <Tools modules={modules} kept={project.file.simulation} running={job?.endedAt === null} />
      <LeftOut modules={modules} kept={project.file.simulation} />
      <JobOutcome job={job} />
      {run ? <Outcome run={run} /> : <Empty>Nothing was run yet. Choose a testbench, then Run.</Empty>}
    </>
  );
}

/** Modules of all files, read anew when a file was saved. */
function useModules(): readonly OfferedModule[] | null {
  const files = useFiles().data ?? [];
  return (
    useQuery({
      queryKey: ['modules', files.map(({ name, changed }) => `${name} ${changed}`).join()],
      enabled: files.length > 0,
      placeholderData: (before: OfferedModule[] | undefined) => before,
      queryFn: () => api.design.modules.query(),
    }).data ?? null
  );
}
