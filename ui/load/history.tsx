'use client';
import { useQuery } from '@tanstack/react-query';
import { DataTable, dateTime, Section, shortPrint, useLatestJob, useLive, api } from '../shared/index.ts';

/** What was in which FPGA, when, and where it came from. */
export function History() {
  const job = useLatestJob('load', 'stage');
  const heard = useLive('running')?.running?.fingerprint ?? null;
  const answer = useQuery({
    queryKey: ['loads', job?.id, job?.state, heard],
    queryFn: () => api.load.history.query(),
    placeholderData: (before) => before,
  }).data;
  const rows = answer ?? [];
  return (
    <Section title="What was loaded">
      <DataTable
        name="loads"
        rows={rows.map((row) => ({
          ...row,
          time: dateTime(row.time),
          fingerprint: shortPrint(row.fingerprint),
          place: row.device < 0 ? '' : String(row.device),
          verified: row.verified === null ? '' : row.verified ? 'equal' : 'differs',
        }))}
        empty="Nothing yet."
        columns={[
          {
            accessorKey: 'time',
            header: 'Time',
            cell: (cell) => <span className="tabular whitespace-nowrap">{String(cell.getValue())}</span>,
          },
          { accessorKey: 'board', header: 'Board' },
          { accessorKey: 'place', header: 'Place' },
          { accessorKey: 'part', header: 'Part' },
          {
            accessorKey: 'fingerprint',
            header: 'Fingerprint',
            cell: (cell) => <span className="code text-xs">{String(cell.getValue())}</span>,
          },
          {
            accessorKey: 'source',
            header: 'From',
            accessorFn: ({ source, by }) => (by === '' ? source : `${source}, by ${by}`),
          },
          { accessorKey: 'verified', header: 'Read back' },
          { accessorKey: 'outcome', header: 'Outcome' },
        ]}
      />
    </Section>
  );
}
