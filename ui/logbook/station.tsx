'use client';
import { useQuery } from '@tanstack/react-query';
import type { LogEntry } from '../../server/index.ts';
import { DataTable, dateTime, duration, StationHead, useLive, api } from '../shared/index.ts';

const TONE: Readonly<Record<LogEntry['outcome'], string>> = {
  done: 'text-good',
  failed: 'text-bad',
  cancelled: 'text-quiet',
  interrupted: 'text-bad',
  running: 'text-signal-deep',
};

export function LogbookStation() {
  const state = useLive('jobs', 'running', 'kept');
  const mark =
    `${(state?.jobs ?? []).map((job) => `${job.id}${job.state}`).join()} ${state?.running?.fingerprint ?? ''} ` +
    `${state?.kept?.time ?? ''}`;
  const log = useQuery({
    queryKey: ['log', mark],
    placeholderData: (before: LogEntry[] | undefined) => before,
    queryFn: () => api.logbook.list.query(),
  });
  return (
    <div className="flex h-full flex-col">
      <StationHead title="Logbook" hint="Every operation: when, on which board, from what, and how it ended." />
      <DataTable
        className="flex-1"
        name="the logbook"
        rows={log.data ?? []}
        empty="Nothing was done yet. Begin under Bench."
        columns={[
          {
            accessorKey: 'time',
            header: 'Time',
            accessorFn: (entry) => dateTime(entry.time),
            cell: (cell) => <span className="tabular whitespace-nowrap">{String(cell.getValue())}</span>,
          },
          {
            id: 'action',
            header: 'Action',
            accessorFn: ({ action, by }) => (by === '' ? action : `${action}, by ${by}`),
            cell: ({ row }) => <Action of={row.original} />,
          },
          {
            accessorKey: 'outcome',
            header: 'Outcome',
            cell: ({ row }) => <span className={TONE[row.original.outcome]}>{row.original.outcome}</span>,
          },
          {
            accessorKey: 'message',
            header: 'What came of it',
            cell: (cell) => <span className="block min-w-[11rem]">{String(cell.getValue())}</span>,
          },
          {
            id: 'inputs',
            header: 'Inputs',
            accessorFn: (entry) =>
              Object.entries(entry.inputs)
                .map(([key, value]) => `${key} ${value}`)
                .join(', '),
            cell: ({ row }) => <Inputs of={row.original.inputs} />,
          },
          { accessorKey: 'board', header: 'Board' },
          { accessorKey: 'project', header: 'Project' },
          {
            accessorKey: 'milliseconds',
            header: 'Took',
            cell: (cell) => <span className="tabular whitespace-nowrap">{duration(Number(cell.getValue()))}</span>,
          },
        ]}
      />
    </div>
  );
}

/** What was done, and by whom where that was not this workbench. */
function Action({ of: { action, by } }: { readonly of: LogEntry }) {
  return (
    <>
      <span className="font-bold">{action}</span>
      {by !== '' && <span className="block text-quiet text-xs [overflow-wrap:anywhere]">by {by}</span>}
    </>
  );
}

/** What went in, a line each. */
function Inputs({ of }: { readonly of: LogEntry['inputs'] }) {
  return (
    <dl className="min-w-[10rem] text-xs">
      {Object.entries(of).map(([key, value]) => (
        <div key={key} className="flex gap-2">
          <dt className="shrink-0 text-quiet">{key}</dt>
          <dd className="code [overflow-wrap:anywhere]">{value}</dd>
        </div>
      ))}
    </dl>
  );
}
