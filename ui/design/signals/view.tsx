'use client';
import { Network } from 'lucide-react';
import type { SignalInfo } from '../../../core/build/index.ts';
import { DataTable, Empty, IconButton } from '../../shared/index.ts';
import { useOpenSchematic, useOpenSource } from '../places.ts';
import { useBuilds } from '../queries.ts';

/** Every name of the design. The filter takes parts of names, several with spaces between, and * for anything. */
export function SignalsView() {
  const details = useBuilds().data?.latest?.details;
  const open = useOpenSource();
  const draw = useOpenSchematic();
  if (!details || details.signals.length === 0)
    return <Empty>The names inside the design come from a build. Press Build.</Empty>;
  return (
    <DataTable
      className="min-h-0 flex-1"
      name="signals"
      rows={details.signals}
      empty=""
      onRow={open}
      columns={[
        {
          accessorKey: 'name',
          header: 'Signal',
          cell: (c) => <span className="code text-xs">{String(c.getValue())}</span>,
        },
        { accessorKey: 'width', header: 'Bits', cell: (c) => <span className="tabular">{String(c.getValue())}</span> },
        { id: 'kind', header: 'Kind', accessorFn: (s: SignalInfo) => `${s.kind}${s.signed ? ', signed' : ''}` },
        { accessorKey: 'domain', header: 'Clock' },
        {
          id: 'kept',
          header: 'In hardware',
          accessorFn: (s: SignalInfo) => (s.free ? 'nothing drives it' : s.kept ? 'yes' : 'removed'),
        },
        {
          id: 'names',
          header: 'Value names',
          accessorFn: (s: SignalInfo) => s.names.map(({ name, value }) => `${value} ${name}`).join(', '),
          cell: (c) => (
            <span className="block max-w-56 truncate text-quiet text-xs" title={String(c.getValue())}>
              {String(c.getValue())}
            </span>
          ),
        },
        {
          id: 'cone',
          header: '',
          accessorFn: () => '',
          cell: ({ row }) =>
            row.original.kept && (
              <IconButton
                title="Draw what decides it"
                label={`Draw what decides ${row.original.name}`}
                onClick={(event) => {
                  event.stopPropagation();
                  draw({ cone: row.original.name });
                }}
              >
                <Network aria-hidden className="size-4" />
              </IconButton>
            ),
        },
      ]}
    />
  );
}
