'use client';
import { useQuery } from '@tanstack/react-query';
import { clsx } from 'clsx';
import { useMemo, useState } from 'react';
import type { ProjectFile } from '../../../core/build/index.ts';
import type { HierarchyNode } from '../../../core/hdl/index.ts';
import {
  clockRate,
  api,
  DataTable,
  dateTime,
  Empty,
  Field,
  JobOutcome,
  Section,
  Select,
  useFiles,
  useLatestJob,
  useStart,
  TextField,
  useProject,
} from '../../shared/index.ts';
import type { Incident, Source } from '../../wave/index.ts';
import { readParameters, writeParameters } from '../parameters.ts';
import { useBuilds } from '../queries.ts';
import { RunForm, useKeepSettings } from './run-form.tsx';
import { incidentsOf, resultRows } from './vector-rows.ts';
import { Waves } from './waves.tsx';

type Run = NonNullable<Awaited<ReturnType<typeof api.design.vectors.query>>>;
type Kept = ProjectFile['simulation'];

/** A table of inputs and expected outputs, run through a simulation of the sources as they stand. */
export function Vectors() {
  const files = useFiles().data ?? [];
  const project = useProject().data;
  const job = useLatestJob('vectors');
  const run = useQuery({
    queryKey: ['vectors', job?.id ?? 0, job?.state],
    placeholderData: (before) => before,
    queryFn: () => api.design.vectors.query(),
  }).data;
  const tables = files
    .map(({ name }) => name)
    .filter((name) => name.endsWith('.csv') && !name.endsWith('.boards.csv') && name !== project?.file.pins);
  if (!project) return <Empty>Reading the sources…</Empty>;
  return (
    <>
      {tables.length === 0 ? (
        <Empty>
          Add a .csv file to the sources: a header row of port names, =name for an expected output, cycles for clock
          edges; then a row for each step.
        </Empty>
      ) : (
        <VectorTools tables={tables} kept={project.file.simulation} running={job?.endedAt === null} />
      )}
      <JobOutcome job={job} />
      {run && <VectorOutcome key={run.id} run={run} />}
    </>
  );
}

interface VectorToolsProps {
  readonly tables: readonly string[];
  readonly kept: Kept;
  readonly running: boolean;
}

const asTyped = (kept: NonNullable<Kept>['vectors']) => ({
  file: kept?.file ?? '',
  module: kept?.module ?? '',
  clock: kept?.clock ?? '',
  parameters: writeParameters(kept?.parameters),
});

function VectorTools({ tables, kept, running }: VectorToolsProps) {
  const start = useStart();
  const { keep } = useKeepSettings();
  const details = useBuilds().data?.latest?.details;
  const [typed, setTyped] = useState(() => asTyped(kept?.vectors));
  const [wrong, setWrong] = useState<string | null>(null);
  const set = (part: Partial<typeof typed>) => setTyped((now) => ({ ...now, ...part }));
  const file = tables.includes(typed.file) ? typed.file : (tables[0] ?? '');
  const modules = [...new Set(details?.hierarchy ? modulesIn(details.hierarchy) : [])];
  const guessed = /([^/]+?)(\.vectors)?\.csv$/.exec(file)?.[1] ?? '';
  const top = typed.module || (modules.includes(guessed) ? guessed : (details?.top ?? ''));
  const clocks = details?.ports.filter((port) => port.clock).map(({ name }) => name) ?? [];
  const rateOf = (name: string): string => {
    const found = details?.timing?.clocks.find(({ clock }) => clock === name);
    return found ? clockRate(found) : '';
  };
  const go = async () => {
    const read = readParameters(typed.parameters);
    setWrong('wrong' in read ? read.wrong : null);
    if ('wrong' in read) return;
    const { clock, module } = typed;
    const vectors = { file, ...(module && { module }), ...(clock && { clock }), parameters: { ...read.parameters } };
    const settings = { only: [], parameters: {}, plusargs: [], ...kept, vectors };
    if (!(await keep(settings))) return;
    await start({ kind: 'vectors', file, ...(clock && { clock }), ...(top && { top }), parameters: read.parameters });
  };
  return (
    <RunForm disabled={running || file === ''} wrong={wrong} onRun={go}>
      <Field name="Table">
        <Select
          size="normal"
          isCode
          className="w-44"
          aria-label="Table"
          value={file}
          // Another table is one of another module, until somebody says otherwise.
          onChange={(e) => set({ file: e.target.value, module: '' })}
        >
          {tables.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </Select>
      </Field>
      <Field name="Module">
        <Select size="normal" isCode aria-label="Module" value={top} onChange={(e) => set({ module: e.target.value })}>
          {[...new Set([...modules, top])].map((name) => (
            <option key={name}>{name}</option>
          ))}
        </Select>
      </Field>
      {clocks.length > 1 && (
        <Field name="Clock">
          <Select
            size="normal"
            aria-label="Clock"
            value={typed.clock}
            onChange={(event) => set({ clock: event.target.value })}
          >
            <option value="">the only one</option>
            {clocks.map((name) => (
              <option key={name} value={name}>
                {[name, rateOf(name)].filter((part) => part !== '').join(', ')}
              </option>
            ))}
          </Select>
        </Field>
      )}
      <TextField
        name="Parameters"
        className="w-32"
        placeholder="NAME=8"
        value={typed.parameters}
        onText={(parameters) => set({ parameters })}
      />
    </RunForm>
  );
}

/** Row by row what was asked and what came, and every signal over the steps. */
function VectorOutcome({ run }: { readonly run: Run }) {
  const { file, created, result } = run;
  const [row, setRow] = useState<number | null>(null);
  const [goTo, setGoTo] = useState<{ readonly tick: number } | null>(null);
  const source = useMemo((): Source => ({ kind: 'steps', steps: result.trace, title: file }), [result, file]);
  const incidents = useMemo((): readonly Incident[] => incidentsOf(result), [result]);
  const choose = (next: number) => {
    setRow(next);
    const tick = result.ends?.[next - 1];
    if (tick !== undefined) setGoTo({ tick });
  };
  return (
    <>
      <p className="mb-2 text-sm">
        <span className="code text-xs">{file}</span>:{' '}
        <span className={clsx('tabular font-bold', result.failed > 0 ? 'text-bad' : 'text-good')}>
          {result.passed} passed, {result.failed} failed
        </span>{' '}
        <span className="text-quiet">{dateTime(created)}</span>
      </p>
      <RowTable run={run} row={row} onRow={choose} />
      <Section
        title="Waves"
        aside={result.trace.cut ? 'cut short: more changes than are kept' : 'a step is half a cycle, or a row'}
        className="mt-3"
      >
        <Waves of={file} source={source} incidents={incidents} goTo={goTo} />
      </Section>
    </>
  );
}

interface RowTableProps {
  readonly run: Run;
  readonly row: number | null;
  readonly onRow: (row: number) => void;
}

function RowTable({ run, row, onRow }: RowTableProps) {
  return (
    <DataTable
      className="max-h-72"
      name="rows"
      rows={resultRows(run.result)}
      empty="The table has no rows."
      chosen={(r) => r.row === row}
      onRow={(r) => onRow(r.row)}
      columns={[
        {
          accessorKey: 'row',
          header: 'Row',
          cell: (c) => <span className="tabular">{String(c.getValue())}</span>,
        },
        {
          id: 'verdict',
          header: 'Verdict',
          accessorFn: (r) => (r.failed ? 'failed' : 'passed'),
          cell: ({ row: r }) => (
            <span className={r.original.failed ? 'font-bold text-bad' : 'text-good'}>
              {r.original.failed ? 'failed' : 'passed'}
            </span>
          ),
        },
        ...run.result.vectors.columns.map((column, i) => ({
          id: `c${i}`,
          header: column.kind === 'cycles' ? 'cycles' : column.kind === 'expect' ? `=${column.port}` : column.port,
          accessorFn: (r: ReturnType<typeof resultRows>[number]) => r.cells[i]?.text ?? '',
          cell: ({ row: r }: { row: { original: ReturnType<typeof resultRows>[number] } }) => (
            <Cell cell={r.original.cells[i]} />
          ),
        })),
      ]}
    />
  );
}

const modulesIn = (node: HierarchyNode): string[] => [node.module, ...node.children.flatMap(modulesIn)];

function Cell({ cell }: { readonly cell: ReturnType<typeof resultRows>[number]['cells'][number] | undefined }) {
  if (!cell) return null;
  return (
    <span className={clsx('code whitespace-nowrap text-xs', cell.failed && 'bg-bad/10 px-1 font-bold text-bad')}>
      {cell.text}
      {cell.failed && <span className="font-normal"> but is {cell.actual}</span>}
      {!cell.failed && cell.actual !== null && (cell.text === '' || /x/i.test(cell.text.replace(/^0x/i, ''))) && (
        <span className="text-quiet">
          {cell.text !== '' && ' came '}
          {cell.actual}
        </span>
      )}
    </span>
  );
}
