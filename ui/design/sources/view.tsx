'use client';
import { useEffect, useState } from 'react';
import type { JudgedMessage } from '../../../core/build/index.ts';
import { Button, DataTable, Empty, useLive, useFiles } from '../../shared/index.ts';
import { SeverityWord } from '../messages/index.ts';
import { useAskedPlace, useProbeSignal } from '../places.ts';
import { useBuilds } from '../queries.ts';
import { useSaving } from '../saving.ts';
import type { ViewProps } from '../view-props.ts';
import { Editor } from './editor.tsx';
import { FileList } from './file-list.tsx';

/** The files and, below, what the last build says of them. */
export function SourcesView({ beforeBuild }: ViewProps) {
  const state = useLive('stale', 'latest');
  const files = useFiles().data ?? [];
  const details = useBuilds().data?.latest?.details;
  const messages = details?.messages ?? [];
  const asked = useAskedPlace();
  const [chosen, setChosen] = useState<string | null>(asked?.file ?? null);
  const [goTo, setGoTo] = useState<{ line: number; column: number } | null>(
    asked ? { line: asked.line, column: asked.column ?? 1 } : null,
  );
  const { save, flush } = useSaving();
  const [caret, setCaret] = useState('');
  const probe = useProbeSignal();
  useEffect(() => {
    beforeBuild(flush);
    return () => beforeBuild(null);
  });
  const [file, line, column] = [asked?.file, asked?.line, asked?.column];
  useEffect(() => {
    if (file === undefined || line === undefined) return;
    setChosen(file);
    setGoTo({ line, column: column ?? 1 });
  }, [file, line, column]);
  const shown = files.find((f) => f.name === chosen) ?? files.find((f) => /\.s?v$/.test(f.name)) ?? files[0];
  const named =
    caret === ''
      ? undefined
      : details?.signals.find((signal) => signal.name.endsWith(`.${caret}`) && signal.file === shown?.name);
  const open = (message: JudgedMessage) => {
    if (files.some((f) => f.name === message.file)) setChosen(message.file);
    setGoTo({ line: message.line, column: message.column });
  };
  return (
    <>
      <div className="grid min-h-0 flex-1 grid-cols-[12.5rem_minmax(0,1fr)] gap-3">
        <FileList
          files={files}
          chosen={shown?.name ?? null}
          stale={(state?.stale ?? []).map((edit) => edit.what)}
          messages={messages}
          onChoose={setChosen}
        />
        <div className="relative min-h-0">
          {named && (
            <Button className="absolute top-1 right-3 z-10 h-7" onClick={() => probe(named.name)}>
              Probe {caret}
            </Button>
          )}
          {shown ? (
            <Editor
              key={`${shown.name} ${shown.loaded}`}
              name={shown.name}
              text={shown.text}
              messages={messages.filter((m) => m.accepted === null)}
              goTo={goTo}
              onChange={(text) => save(shown.name, text)}
              onCaret={setCaret}
            />
          ) : (
            <Empty>The project has no files. Drop some onto the list.</Empty>
          )}
        </div>
      </div>
      <DataTable
        className="mt-3 h-36 shrink-0"
        name="messages"
        rows={messages.filter((m) => m.accepted === null)}
        empty={state?.latest ? 'The build has nothing to say.' : 'Nothing has been built yet. Press Build.'}
        onRow={open}
        columns={[
          {
            accessorKey: 'severity',
            header: 'Severity',
            cell: ({ row }) => <SeverityWord of={row.original.severity} />,
          },
          { accessorKey: 'message', header: 'Message' },
          {
            id: 'place',
            header: 'Place',
            accessorFn: (m) => `${m.file}:${m.line}:${m.column}`,
            cell: (cell) => <span className="code whitespace-nowrap text-xs">{String(cell.getValue())}</span>,
          },
          {
            accessorKey: 'code',
            header: 'Code',
            cell: (cell) => (
              <span className="code whitespace-nowrap text-quiet text-xs">{String(cell.getValue())}</span>
            ),
          },
        ]}
      />
    </>
  );
}
