'use client';
import { Switch } from 'radix-ui';
import { useState } from 'react';
import type { JudgedMessage } from '../../../core/build/index.ts';
import { DataTable, Empty, useLive } from '../../shared/index.ts';
import { useBuilds } from '../queries.ts';
import { MessageDetail } from './detail.tsx';
import { ORDER, SeverityWord } from './severity.tsx';

/** All messages of the newest build, worst first, and one of them explained. */
export function MessagesView() {
  const state = useLive('latest');
  const messages = useBuilds().data?.latest?.details.messages ?? [];
  const [all, setAll] = useState(false);
  const [chosen, setChosen] = useState<string | null>(null);
  const accepted = messages.filter((m) => m.accepted !== null).length;
  const shown = messages
    .filter((m) => all || m.accepted === null)
    .sort((a, b) => ORDER[a.severity] - ORDER[b.severity]);
  const message = shown.find((m) => keyOf(m) === chosen) ?? shown[0] ?? null;
  if (!state?.latest) return <Empty>Nothing has been built yet. Press Build.</Empty>;
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,5fr)_minmax(0,4fr)] gap-4">
      <div className="flex min-h-0 flex-col">
        <DataTable
          className="min-h-0 flex-1"
          name="messages"
          rows={shown}
          chosen={(m) => m === message}
          empty={accepted > 0 ? `Nothing but ${accepted} accepted messages.` : 'The build has nothing to say.'}
          onRow={(m) => setChosen(keyOf(m))}
          columns={[
            {
              accessorKey: 'severity',
              header: 'Severity',
              cell: ({ row }) => <SeverityWord of={row.original.severity} />,
            },
            { accessorKey: 'message', header: 'Message', cell: ({ row }) => <MessageText message={row.original} /> },
            {
              id: 'place',
              header: 'Place',
              accessorFn: (m) => `${m.file}:${m.line}`,
              cell: (cell) => <span className="code whitespace-nowrap text-xs">{String(cell.getValue())}</span>,
            },
          ]}
        />
        <div className="mt-1 flex items-center gap-2 text-sm">
          <Switch.Root
            aria-label="Show accepted messages"
            checked={all}
            onCheckedChange={setAll}
            className="h-4 w-7 rounded-full border border-quiet bg-well data-[state=checked]:bg-ink"
          >
            <Switch.Thumb className="block size-3 translate-x-0.5 rounded-full bg-quiet data-[state=checked]:translate-x-3 data-[state=checked]:bg-raised" />
          </Switch.Root>
          Show the {accepted} accepted
        </div>
      </div>
      {message ? <MessageDetail key={keyOf(message)} message={message} /> : <Empty>Nothing to explain.</Empty>}
    </div>
  );
}

const keyOf = (m: JudgedMessage): string => `${m.code} ${m.file}:${m.line}:${m.column} ${m.message}`;

function MessageText({ message }: { readonly message: JudgedMessage }) {
  return (
    <>
      {message.message}
      {message.accepted !== null && <span className="block text-quiet text-xs">accepted: {message.accepted}</span>}
    </>
  );
}
