'use client';
import { counted } from '../../../core/words.ts';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { type Dispatch, type ReactNode, type SetStateAction, useEffect, useRef, useState } from 'react';
import type { SvfFile, WorkState } from '../../../server/index.ts';
import {
  upload,
  Button,
  JobProgress,
  Section,
  useAct,
  KeptList,
  sizeText,
  NearlyFull,
  useLatestJob,
  useLive,
  api,
  Select,
  TextInput,
  Checkbox,
  Field,
  FileButton,
  DownloadLink,
} from '../../shared/index.ts';

/** The player: a file, where to begin to look closely, and the log. */
export function SvfView() {
  const state = useLive('svf', 'scan', 'pod');
  const { busy, act } = useAct();
  const cache = useQueryClient();
  const log = useRef<HTMLPreElement>(null);
  const job = useLatestJob('svf');
  const answer = useQuery({ queryKey: ['svf'], queryFn: () => api.bench.svfFiles.query() }).data;
  const files = answer?.files ?? [];
  const [chosen, setChosen] = useState<number | null>(null);
  const [device, setDevice] = useState('');
  const [pauseAt, setPauseAt] = useState('');
  const [goOn, setGoOn] = useState(false);
  const desk = state?.svf ?? null;
  const running = desk !== null && desk.mode !== 'idle';
  const file = files.find(({ id }) => id === chosen) ?? files[0] ?? null;
  const line = pauseAt === '' ? null : Math.max(1, Number(pauseAt));
  const control = (action: 'pause' | 'go' | 'step') =>
    act(() => api.bench.controlSvf.mutate({ action, pauseAt: action === 'go' ? line : null }));
  const add = async (picked: File) => {
    const added = await act(() => upload<SvfFile>('/api/svf', picked));
    if (added) setChosen(added.id);
    await cache.invalidateQueries({ queryKey: ['svf'] });
  };
  const lines = desk?.log ?? [];
  // biome-ignore lint/correctness/useExhaustiveDependencies: the end of the log is shown whenever it grows
  useEffect(() => {
    log.current?.scrollTo({ top: log.current.scrollHeight });
  }, [lines.length]);
  const remove = async (id: number) => {
    await act(() => api.bench.removeSvfFile.mutate({ id }));
    await cache.invalidateQueries({ queryKey: ['svf'] });
  };
  const then = 'At the end the oldest is deleted for a new one.';
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      {answer && <NearlyFull kept={answer.kept} what="file" then={then} />}
      <FileTools
        add={add}
        busy={busy}
        running={running}
        files={files}
        file={file}
        setChosen={setChosen}
        device={device}
        setDevice={setDevice}
        state={state}
        pauseAt={pauseAt}
        setPauseAt={setPauseAt}
        goOn={goOn}
        setGoOn={setGoOn}
      >
        {answer && answer.kept.count > 0 && (
          <KeptList
            what="file"
            rows={files.map(({ id, name, added, bytes }) => ({ id, title: name, time: added, bytes }))}
            kept={answer.kept}
            then={then}
            disabled={running}
            onDelete={(id) => void remove(id)}
            onChoose={setChosen}
          />
        )}
      </FileTools>
      <PlayTools
        busy={busy}
        running={running}
        file={file}
        state={state}
        act={act}
        device={device}
        goOn={goOn}
        line={line}
        desk={desk}
        control={control}
      />
      {job && job.endedAt === null && <JobProgress job={job} />}
      <Outcome />
      <Section title="Log" className="flex min-h-0 flex-1 flex-col">
        <pre
          ref={log}
          className="code min-h-32 flex-1 overflow-auto whitespace-pre-wrap border border-line bg-raised p-2 text-xs"
          data-testid="svf-log"
        >
          {lines.length === 0 ? 'Nothing played yet. Files of any size: they are read as they play.' : lines.join('\n')}
        </pre>
      </Section>
    </div>
  );
}

interface PlayToolsProps {
  readonly busy: boolean;
  readonly running: boolean;
  readonly file: SvfFile | null;
  readonly state: Pick<WorkState, 'pod' | 'svf' | 'scan'> | null;
  readonly act: <T>(call: () => Promise<T>) => Promise<T | null>;
  readonly device: string;
  readonly goOn: boolean;
  readonly line: number | null;
  readonly desk: WorkState['svf'] | null;
  readonly control: (action: 'pause' | 'go' | 'step') => Promise<{ readonly done: true } | null>;
}

function PlayTools({ busy, running, file, state, act, device, goOn, line, desk, control }: PlayToolsProps) {
  return (
    <div className="mb-2 flex flex-wrap items-center gap-2 text-sm">
      <Button
        look="main"
        disabled={busy || running || !file || state?.pod.state !== 'connected'}
        onClick={() =>
          file &&
          act(() =>
            api.jobs.start.mutate({
              kind: 'svf',
              file: file.id,
              device: device === '' ? null : Number(device),
              goOn,
              pauseAt: line,
            }),
          )
        }
      >
        Play
      </Button>
      <Button disabled={desk?.mode !== 'playing'} onClick={() => control('pause')}>
        Pause
      </Button>
      <Button disabled={desk?.mode !== 'paused'} onClick={() => control('step')}>
        Next command
      </Button>
      <Button disabled={desk?.mode !== 'paused'} onClick={() => control('go')}>
        Go on
      </Button>
      <span className="tabular text-quiet" data-testid="svf-where">
        {desk?.file
          ? `${desk.mode === 'idle' ? 'ended' : desk.mode}` +
            `${desk.line === null ? '' : `, line ${desk.line.toLocaleString('en')}`}, ` +
            `${(desk.result?.commands ?? desk.commands).toLocaleString('en')} commands`
          : ''}
      </span>
      <span className="ml-auto flex items-center gap-3 text-quiet">
        Export the newest build:
        <DownloadLink className="underline hover:text-ink" href="/api/svf/export?what=load">
          load
        </DownloadLink>
        <DownloadLink className="underline hover:text-ink" href="/api/svf/export?what=keep">
          flash
        </DownloadLink>
      </span>
    </div>
  );
}

interface FileToolsProps {
  readonly add: (picked: File) => Promise<void>;
  readonly busy: boolean;
  readonly running: boolean;
  readonly files: SvfFile[];
  readonly file: SvfFile | null;
  readonly setChosen: Dispatch<SetStateAction<number | null>>;
  readonly device: string;
  readonly setDevice: Dispatch<SetStateAction<string>>;
  readonly state: Pick<WorkState, 'pod' | 'svf' | 'scan'> | null;
  readonly pauseAt: string;
  readonly setPauseAt: Dispatch<SetStateAction<string>>;
  readonly goOn: boolean;
  readonly setGoOn: Dispatch<SetStateAction<boolean>>;
  /** The list of all. */
  readonly children: ReactNode;
}

function FileTools({
  add,
  busy,
  running,
  files,
  file,
  setChosen,
  device,
  setDevice,
  state,
  pauseAt,
  setPauseAt,
  goOn,
  setGoOn,
  children,
}: FileToolsProps) {
  return (
    <div className="mb-2 flex flex-wrap items-center gap-2 text-sm">
      <FileButton
        label="SVF file to open"
        accept=".svf"
        look="plain"
        testId="svf-file"
        disabled={busy || running}
        onFile={(file) => void add(file)}
      >
        Open a file
      </FileButton>
      <Select
        size="normal"
        className="max-w-64"
        aria-label="SVF file"
        disabled={running || files.length === 0}
        value={file?.id ?? ''}
        onChange={(event) => setChosen(Number(event.target.value))}
      >
        {files.length === 0 && <option value="">no file yet</option>}
        {files.map(({ id, name, bytes }) => (
          <option key={id} value={id}>
            {name}, {sizeText(bytes)}
          </option>
        ))}
      </Select>
      {children}
      <Field name="for">
        <Select
          size="normal"
          aria-label="Devices the file is for"
          disabled={running}
          value={device}
          onChange={(event) => setDevice(event.target.value)}
        >
          <option value="">the whole chain</option>
          {state?.scan?.devices.map((d) => (
            <option key={d.index} value={d.index}>
              place {d.index} alone, {d.part ?? 'unknown'}
            </option>
          ))}
        </Select>
      </Field>
      <Field name="pause at line">
        <TextInput
          size="normal"
          className="tabular w-20 text-right"
          inputMode="numeric"
          aria-label="Pause at line"
          value={pauseAt}
          onChange={(event) => setPauseAt(event.target.value.replace(/\D/g, ''))}
        />
      </Field>
      <label className="flex items-center gap-1">
        <Checkbox checked={goOn} disabled={running} onChange={(event) => setGoOn(event.target.checked)} /> go on after a
        difference
      </label>
    </div>
  );
}

/** The first difference with its bits; the log has the others. */
function Outcome() {
  const result = useLive('svf')?.svf.result ?? null;
  if (!result) return null;
  const [first] = result.mismatches;
  if (result.ok)
    return (
      <p className="mb-2 border-good border-l-4 bg-raised px-3 py-1.5 text-sm">
        Played to the end: {counted(result.commands, 'command')}, {result.tckCycles.toLocaleString('en')} TCK cycles, no
        difference.
      </p>
    );
  if (!first)
    return (
      <p role="alert" className="mb-2 border-bad border-l-4 bg-raised px-3 py-1.5 text-sm">
        {result.problem?.message} {result.problem?.tryNext[0]}
      </p>
    );
  const short = (text: string) => (text.length > 64 ? `${text.slice(0, 30)} … ${text.slice(-30)}` : text);
  return (
    <div role="alert" className="mb-2 border-bad border-l-4 bg-raised px-3 py-1.5 text-sm">
      <p className="font-bold">
        Line {first.line}: {first.name} of {first.length.toLocaleString('en')} bits. TDO differs at{' '}
        {first.bits.length === 1 ? 'bit' : 'bits'} {first.bits.slice(0, 16).join(', ')}
        {first.bits.length > 16 ? ' and more' : ''}.
      </p>
      <dl className="mt-1 grid grid-cols-[5rem_minmax(0,1fr)] text-xs">
        {(['expected', 'actual', 'mask'] as const).map((name) => (
          <div key={name} className="contents">
            <dt className="text-quiet">{name}</dt>
            <dd className="code break-all">{short(first[name])}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}
