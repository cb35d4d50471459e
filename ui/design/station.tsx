'use client';
import { useQueryClient } from '@tanstack/react-query';
import { clsx } from 'clsx';
import { Download, Hammer } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import type { Message } from '../../core/hdl/index.ts';
import { Button, DataTable, duration, Empty, JobOutcome, send, shortPrint, StationHead, useAct, useLatestJob, useLive } from '../shared/index.ts';
import { Editor } from './editor.tsx';
import { type SourceFile, useBuilds, useFiles } from './queries.ts';

const SAVE_MILLISECONDS = 400;

export function DesignStation() {
  const state = useLive();
  const { act } = useAct();
  const job = useLatestJob('build');
  const files = useFiles().data ?? [];
  const messages = useBuilds().data?.latest?.details.messages ?? [];
  const [chosen, setChosen] = useState<string | null>(null);
  const [goTo, setGoTo] = useState<{ line: number; column: number } | null>(null);
  const { save, flush } = useSaving();
  const file = files.find((f) => f.name === chosen) ?? files.find((f) => f.name.endsWith('.v')) ?? files[0];
  const running = job?.endedAt === null;
  const open = (message: Message) => {
    if (files.some((f) => f.name === message.file)) setChosen(message.file);
    setGoTo({ line: message.line, column: message.column });
  };
  const build = async () => {
    await flush();
    await act(() => send('/api/jobs', 'POST', { kind: 'build' }));
  };
  return (
    <div className="flex h-full min-h-[32rem] flex-col">
      <StationHead title="Design" hint="Sources in, bitstream out. Every message points at its place.">
        {state?.usable && (
          <a href="/api/bitstream" className="inline-flex h-8 items-center gap-1.5 px-2 text-quiet text-sm hover:text-ink hover:underline">
            <Download aria-hidden className="size-4" /> .nbits
          </a>
        )}
        <Button look="main" onClick={build} disabled={running}>
          <Hammer aria-hidden className="size-4" /> Build
        </Button>
      </StationHead>
      <JobOutcome job={job} except="build-failed" />
      <BuildFacts />
      <div className="mt-2 grid min-h-0 flex-1 grid-cols-[11.5rem_1fr] gap-3">
        <FileList files={files} chosen={file?.name ?? null} stale={state?.stale ?? []} messages={messages} onChoose={setChosen} />
        {file ? <Editor key={file.name} name={file.name} text={file.text} messages={messages} goTo={goTo} onChange={(text) => save(file.name, text)} /> : <Empty>The project has no files.</Empty>}
      </div>
      <DataTable
        className="mt-3 h-40 shrink-0"
        name="messages"
        rows={messages}
        empty={state?.latest ? 'The build has nothing to say.' : 'Nothing has been built yet. Press Build.'}
        onRow={open}
        columns={[
          { accessorKey: 'severity', header: 'Severity', cell: ({ row }) => <Severity of={row.original.severity} /> },
          { accessorKey: 'message', header: 'Message' },
          { id: 'place', header: 'Place', accessorFn: (m) => `${m.file}:${m.line}:${m.column}`, cell: (cell) => <span className="code whitespace-nowrap text-xs">{String(cell.getValue())}</span> },
          { accessorKey: 'code', header: 'Code', cell: (cell) => <span className="code whitespace-nowrap text-quiet text-xs">{String(cell.getValue())}</span> },
        ]}
      />
    </div>
  );
}

function Severity({ of }: { readonly of: Message['severity'] }) {
  return <span className={clsx('font-bold', of === 'error' ? 'text-bad' : of === 'warning' ? 'text-doubt' : 'text-quiet')}>{of}</span>;
}

function BuildFacts() {
  const state = useLive();
  const latest = state?.latest;
  if (!latest) return <p className="text-quiet text-sm">Not built yet.</p>;
  const { luts, registers, blockRams, lutsOfPart, blockRamsOfPart } = latest.resources;
  return (
    <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1 border-line border-y py-1.5 text-sm">
      {latest.good ? (
        <span>
          Fingerprint <span className="code font-bold" title={latest.fingerprint} data-testid="fingerprint">{shortPrint(latest.fingerprint)}</span>
        </span>
      ) : (
        <span className="font-bold text-bad">{latest.errors} {latest.errors === 1 ? 'error' : 'errors'}, no bitstream</span>
      )}
      {luts + registers > 0 && (
        <span className="tabular" data-testid="cells">
          {luts} of {lutsOfPart} LUTs (estimate) · {registers} flip-flops · {blockRams} of {blockRamsOfPart} block RAMs
        </span>
      )}
      <span className="text-quiet">{duration(latest.milliseconds)}</span>
      {state.stale.length > 0 && (
        <span className="text-doubt" data-testid="stale">
          stale: {state.stale.join(', ')} changed since
        </span>
      )}
    </div>
  );
}

interface FileListProps {
  readonly files: readonly SourceFile[];
  readonly chosen: string | null;
  readonly stale: readonly string[];
  readonly messages: readonly Message[];
  readonly onChoose: (name: string) => void;
}

function FileList({ files, chosen, stale, messages, onChoose }: FileListProps) {
  return (
    <ul className="overflow-auto border border-line bg-raised text-sm" aria-label="Files">
      {files.map(({ name }) => {
        const errors = messages.filter((m) => m.file === name && m.severity === 'error').length;
        return (
          <li key={name}>
            <button type="button" onClick={() => onChoose(name)} aria-current={name === chosen} className={clsx('flex w-full items-center gap-2 px-2 py-1 text-left hover:bg-well', name === chosen && 'bg-well font-bold')}>
              <span className="min-w-0 flex-1 truncate" title={name}>
                {name}
              </span>
              {errors > 0 && <span className="tabular text-bad">{errors}</span>}
              {stale.includes(name) && <span className="text-doubt text-xs">edited</span>}
            </button>
          </li>
        );
      })}
    </ul>
  );
}

/** Saves a little after the last key, and at once when asked. */
function useSaving(): { readonly save: (name: string, text: string) => void; readonly flush: () => Promise<void> } {
  const queries = useQueryClient();
  const pending = useRef<{ name: string; text: string; timer: ReturnType<typeof setTimeout> } | null>(null);
  const flush = async () => {
    const due = pending.current;
    if (!due) return;
    clearTimeout(due.timer);
    pending.current = null;
    const saved = await send('/api/files', 'PUT', { name: due.name, text: due.text });
    if (!saved.ok) toast.error(saved.problem.message);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: only once, at the end
  useEffect(() => () => void flush(), []);
  const save = (name: string, text: string) => {
    if (pending.current && pending.current.name !== name) void flush();
    if (pending.current) clearTimeout(pending.current.timer);
    queries.setQueryData<SourceFile[]>(['files'], (old) => old?.map((file) => (file.name === name ? { ...file, text } : file)));
    pending.current = { name, text, timer: setTimeout(() => void flush(), SAVE_MILLISECONDS) };
  };
  return { save, flush };
}
