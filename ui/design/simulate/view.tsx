'use client';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { clsx } from 'clsx';
import { Play } from 'lucide-react';
import { useEffect, useMemo, useState } from 'react';
import type { OfferedModule } from '../../../core/hdl/index.ts';
import {
  api,
  Button,
  dateTime,
  DownloadLink,
  Empty,
  Field,
  JobOutcome,
  Section,
  Select,
  TextButton,
  TextInput,
  useAct,
  useFiles,
  useLatestJob,
  useStart,
} from '../../shared/index.ts';
import { type Panel, type Source, WaveRecord } from '../../wave/index.ts';
import { useOpenSource } from '../places.ts';
import { useProject } from '../queries.ts';
import { Console } from './console.tsx';
import { keptOf, type Typed, typedOf } from './settings.ts';

type Run = NonNullable<Awaited<ReturnType<typeof api.design.simulation.query>>>;

/** A testbench of the project, run as it stands. */
export function SimulateView() {
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
    <div className="min-h-0 flex-1 overflow-y-scroll">
      <Tools modules={modules} kept={project.file.simulation} running={job?.endedAt === null} />
      <LeftOut modules={modules} kept={project.file.simulation} />
      <JobOutcome job={job} />
      {run ? <Outcome run={run} /> : <Empty>Nothing was run yet. Choose a testbench, then Run.</Empty>}
    </div>
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

type Kept = Parameters<typeof typedOf>[0];

interface ToolsProps {
  readonly modules: readonly OfferedModule[];
  readonly kept: Kept;
  readonly running: boolean;
}

function Tools({ modules, kept, running }: ToolsProps) {
  const start = useStart();
  const queries = useQueryClient();
  const { act } = useAct();
  const [typed, setTyped] = useState<Typed>(() => typedOf(kept, modules[0]?.name ?? ''));
  const [wrong, setWrong] = useState<string | null>(null);
  const set = (part: Partial<Typed>) => setTyped((now) => ({ ...now, ...part }));
  const chosen = modules.find(({ name }) => name === typed.testbench);
  const go = async () => {
    const settings = keptOf(typed, kept?.only ?? []);
    if ('wrong' in settings) return setWrong(settings.wrong);
    setWrong(null);
    if (!(await act(() => api.design.setSimulation.mutate(settings)))) return;
    await queries.invalidateQueries({ queryKey: ['project'] });
    const { testbench = '', parameters, plusargs, until = null } = settings;
    await start({ kind: 'simulation', testbench, parameters, plusargs, until });
  };
  return (
    <form
      className="mb-2 flex flex-wrap items-center gap-2 text-sm"
      onSubmit={(event) => {
        event.preventDefault();
        void go();
      }}
    >
      <Field name="Testbench">
        <Select
          size="normal"
          isCode
          className="w-44"
          aria-label="Testbench"
          value={typed.testbench}
          onChange={(event) => set({ testbench: event.target.value })}
        >
          {modules.map(({ name, isTestbench }) => (
            <option key={name} value={name}>
              {name}
              {isTestbench ? '' : ' (a module of the design)'}
            </option>
          ))}
        </Select>
      </Field>
      <Field name="Until">
        <TextInput
          size="normal"
          isCode
          className="w-20"
          aria-label="Until"
          placeholder="its end"
          value={typed.until}
          onChange={(event) => set({ until: event.target.value })}
        />
      </Field>
      <Field name="Parameters">
        <TextInput
          size="normal"
          isCode
          className="w-44"
          aria-label="Parameters"
          placeholder={chosen && chosen.parameters.length > 0 ? `${chosen.parameters[0]}=…` : 'NAME=8'}
          value={typed.parameters}
          onChange={(event) => set({ parameters: event.target.value })}
        />
      </Field>
      <Field name="Plusargs">
        <TextInput
          size="normal"
          isCode
          className="w-36"
          aria-label="Plusargs"
          placeholder="name=value"
          value={typed.plusargs}
          onChange={(event) => set({ plusargs: event.target.value })}
        />
      </Field>
      <Button type="submit" disabled={running || typed.testbench === ''}>
        <Play aria-hidden className="size-4" /> Run
      </Button>
      {wrong !== null && (
        <span className="text-bad" role="alert">
          "{wrong}" is no parameter: write NAME=VALUE with a decimal, 0x or 0b value.
        </span>
      )}
    </form>
  );
}

/** Files of testbenches that a build still reads, with the way to leave them out. */
function LeftOut({ modules, kept }: Omit<ToolsProps, 'running'>) {
  const queries = useQueryClient();
  const { act, busy } = useAct();
  const only = kept?.only ?? [];
  const files = [...new Set(modules.filter(({ isTestbench }) => isTestbench).map(({ file }) => file))];
  const proposed = files.filter(
    (file) => !only.includes(file) && modules.every((one) => one.file !== file || one.isTestbench),
  );
  const mark = async (next: readonly string[]) => {
    const settings = { parameters: {}, plusargs: [], ...kept, only: [...next] };
    if (await act(() => api.design.setSimulation.mutate(settings)))
      await queries.invalidateQueries({ queryKey: ['project'] });
  };
  if (proposed.length === 0 && only.length === 0) return null;
  return (
    <p className="mb-2 text-quiet text-sm">
      {only.length > 0 && (
        <>
          For simulation only: <span className="code text-xs">{only.join(', ')}</span>
          <TextButton className="ml-2" disabled={busy} onClick={() => mark([])}>
            let builds read them again
          </TextButton>
        </>
      )}
      {proposed.length > 0 && (
        <span className={clsx(only.length > 0 && 'ml-4')}>
          <span className="code text-xs">{proposed.join(', ')}</span>: testbenches alone.
          <TextButton className="ml-2" disabled={busy} onClick={() => mark([...only, ...proposed])}>
            leave them out of builds
          </TextButton>
        </span>
      )}
    </p>
  );
}

const ENDINGS = {
  finish: 'ended by $finish',
  stop: 'ended by $stop',
  idle: 'ended: nothing was left to do',
  limit: 'stopped at its time limit',
  loop: 'stands still',
  oscillation: 'stands still',
  cancelled: 'was cancelled',
  fatal: 'ended by $fatal',
  fault: 'could not go on',
} as const;

function Outcome({ run }: { readonly run: Run }) {
  const { result, testbench, created } = run;
  const isGood = result.errors === 0 && (result.ending === 'finish' || result.ending === 'idle');
  return (
    <>
      <p className="mb-2 text-sm">
        <Word isGood={isGood}>{isGood ? 'Passed' : 'Failed'}</Word> <span className="code text-xs">{testbench}</span>{' '}
        {ENDINGS[result.ending]} at <span className="tabular">{result.time}</span>,{' '}
        {result.errors === 0 ? 'no errors' : `${result.errors} errors`}. {result.told}{' '}
        <span className="text-quiet">{dateTime(created)}</span>
      </p>
      <div className="mb-3 grid grid-cols-[minmax(0,1fr)_minmax(18rem,26rem)] gap-4">
        <Section title="Printed" aside={result.cut ? 'cut short' : undefined} className="mb-0">
          <Console text={result.output} />
        </Section>
        <Section title="Said" aside={`${result.reports.length}`} className="mb-0">
          <Reports run={run} />
        </Section>
      </div>
      <Waves key={run.id} run={run} />
    </>
  );
}

const Word = ({ isGood, children }: { readonly isGood: boolean; readonly children: string }) => (
  <span className={clsx('font-bold', isGood ? 'text-good' : 'text-bad')}>{children}</span>
);

/** Errors, warnings and failed assertions, each with its place. */
function Reports({ run: { result } }: { readonly run: Run }) {
  const open = useOpenSource();
  if (result.reports.length === 0) return <Empty>No $error, no $warning, and every assertion held.</Empty>;
  return (
    <ul className="max-h-36 overflow-y-auto text-sm" aria-label="Said by the testbench">
      {result.reports.map((one, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: the list never changes
        <li key={i} className="border-line border-b py-1">
          <Word isGood={one.severity === 'info'}>{one.severity}</Word> {one.message}
          <div className="text-quiet text-xs">
            <TextButton onClick={() => open(one.at)}>
              {one.at.file}:{one.at.line}
            </TextButton>{' '}
            in <span className="code">{one.path}</span> at <span className="tabular">{one.moment}</span>
          </div>
        </li>
      ))}
    </ul>
  );
}

/** A run is looked at anew each time. */
const forgotten = () => {};
const NO_OTHERS: readonly never[] = [];

/** Every signal of the run over time. */
function Waves({ run }: { readonly run: Run }) {
  const [panel, setPanel] = useState<Panel>('measure');
  const [file, setFile] = useState<File | null>(null);
  const [failed, setFailed] = useState(false);
  const { id, testbench } = run;
  useEffect(() => {
    const gone = new AbortController();
    fetch(`/api/simulations/${id}`, { headers: { 'x-nimble-page': '1' }, signal: gone.signal })
      .then(async (answer) => {
        if (!answer.ok) throw new Error(String(answer.status));
        setFile(new File([await answer.blob()], `${testbench}.vcd`));
      })
      .catch(() => {
        if (!gone.signal.aborted) setFailed(true);
      });
    return () => gone.abort();
  }, [id, testbench]);
  const source = useMemo((): Source | null => (file ? { kind: 'file', file } : null), [file]);
  return (
    <Section
      title="Waves"
      aside={
        <DownloadLink href={`/api/simulations/${id}`} className="text-quiet text-sm hover:underline">
          {testbench}.vcd
        </DownloadLink>
      }
    >
      {run.result.dumpCut && (
        <p className="mb-1 text-quiet text-sm">The waves end before the run does: there was more than is kept.</p>
      )}
      {failed && <Empty>The waves of this run cannot be had. Run it again.</Empty>}
      {source && (
        <WaveRecord
          source={source}
          saved={null}
          onSave={forgotten}
          panel={panel}
          onPanel={setPanel}
          others={NO_OTHERS}
        />
      )}
    </Section>
  );
}
