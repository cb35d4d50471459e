'use client';
import { useQuery } from '@tanstack/react-query';
import { clsx } from 'clsx';
import { Play } from 'lucide-react';
import { type Dispatch, type SetStateAction, useState } from 'react';
import type { HierarchyNode } from '../../../core/hdl/index.ts';
import {
  Button,
  DataTable,
  dateTime,
  Empty,
  JobOutcome,
  Section,
  useStart,
  useLatestJob,
  useFiles,
  api,
  Select,
  Field,
} from '../../shared/index.ts';
import type { JobOrder } from '../../../server/index.ts';
import { useBuilds, useProject } from '../queries.ts';
import { resultRows } from './result.ts';
import { VectorWave } from './wave.tsx';
import type { SourceFile } from '../../shared/index.ts';

/** A table of inputs and expected outputs, run through a simulation of the sources as they stand. */
export function VectorsView() {
  const files = useFiles().data ?? [];
  const details = useBuilds().data?.latest?.details;
  const project = useProject().data;
  const job = useLatestJob('vectors');
  const start = useStart();
  const tables = files.filter(
    (f) => f.name.endsWith('.csv') && !f.name.endsWith('.boards.csv') && f.name !== project?.file.pins,
  );
  const [chosen, setChosen] = useState('');
  const [clock, setClock] = useState('');
  const [module, setModule] = useState('');
  const [row, setRow] = useState<number | null>(null);
  const file = tables.find((f) => f.name === chosen)?.name ?? tables[0]?.name ?? '';
  const run = useQuery({
    queryKey: ['vectors', job?.id ?? 0, job?.state],
    placeholderData: (before) => before,
    queryFn: () => api.design.vectors.query(),
  }).data;
  const running = job?.endedAt === null;
  const modules = [...new Set(details?.hierarchy ? modulesIn(details.hierarchy) : [])];
  const guessed = /([^/]+?)(\.vectors)?\.csv$/.exec(file)?.[1] ?? '';
  const top = module || (modules.includes(guessed) ? guessed : (details?.top ?? ''));
  const clocks = details?.ports.filter((p) => p.clock).map((p) => p.name) ?? [];
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <VectorTools
        file={file}
        setChosen={setChosen}
        tables={tables}
        top={top}
        setModule={setModule}
        modules={modules}
        clocks={clocks}
        clock={clock}
        setClock={setClock}
        running={running}
        start={start}
        run={run}
      />
      <JobOutcome job={job} />
      {tables.length === 0 && (
        <Empty>
          Add a .csv file to the sources: a header row of port names, =name for an expected output, cycles for clock
          edges; then a row for each step.
        </Empty>
      )}
      {run && (
        <>
          <RowTable run={run} row={row} setRow={setRow} />
          <Section
            title="Waveform"
            aside={run.result.trace.cut ? 'cut short: more changes than are kept' : undefined}
            className="mt-2 mb-0 h-56 shrink-0"
          >
            <VectorWave trace={run.result.trace} />
          </Section>
        </>
      )}
    </div>
  );
}

type Run = NonNullable<Awaited<ReturnType<typeof api.design.vectors.query>>>;

interface RowTableProps {
  readonly run: Run;
  readonly row: number | null;
  readonly setRow: Dispatch<SetStateAction<number | null>>;
}

function RowTable({ run, row, setRow }: RowTableProps) {
  return (
    <DataTable
      className="min-h-0 flex-1"
      name="rows"
      rows={resultRows(run.result)}
      empty="The table has no rows."
      chosen={(r) => r.row === row}
      onRow={(r) => setRow(r.row)}
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

interface VectorToolsProps {
  readonly file: string;
  readonly setChosen: Dispatch<SetStateAction<string>>;
  readonly tables: SourceFile[];
  readonly top: string;
  readonly setModule: Dispatch<SetStateAction<string>>;
  readonly modules: string[];
  readonly clocks: string[];
  readonly clock: string;
  readonly setClock: Dispatch<SetStateAction<string>>;
  readonly running: boolean;
  readonly start: (order: JobOrder) => Promise<void>;
  readonly run: Run | null | undefined;
}

function VectorTools({
  file,
  setChosen,
  tables,
  top,
  setModule,
  modules,
  clocks,
  clock,
  setClock,
  running,
  start,
  run,
}: VectorToolsProps) {
  return (
    <div className="mb-2 flex flex-wrap items-center gap-2 text-sm">
      <Field name="Table">
        <Select
          size="normal"
          isCode
          aria-label="Table"
          value={file}
          onChange={(event) => setChosen(event.target.value)}
        >
          {tables.map((f) => (
            <option key={f.name}>{f.name}</option>
          ))}
        </Select>
      </Field>
      <Field name="Module">
        <Select
          size="normal"
          isCode
          aria-label="Module"
          value={top}
          onChange={(event) => setModule(event.target.value)}
        >
          {[...new Set([...modules, top])].map((m) => (
            <option key={m}>{m}</option>
          ))}
        </Select>
      </Field>
      {clocks.length > 1 && (
        <Field name="Clock">
          <Select size="normal" aria-label="Clock" value={clock} onChange={(event) => setClock(event.target.value)}>
            <option value="">the only one</option>
            {clocks.map((c) => (
              <option key={c}>{c}</option>
            ))}
          </Select>
        </Field>
      )}
      <Button
        disabled={running || file === ''}
        onClick={() => start({ kind: 'vectors', file, ...(clock ? { clock } : {}), ...(top ? { top } : {}) })}
      >
        <Play aria-hidden className="size-4" /> Run
      </Button>
      {run && (
        <span className="text-quiet">
          {run.file}, {dateTime(run.created)}:{' '}
          <span className={clsx('tabular', run.result.failed > 0 && 'font-bold text-bad')}>
            {run.result.passed} passed, {run.result.failed} failed
          </span>
        </span>
      )}
    </div>
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
