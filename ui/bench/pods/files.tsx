'use client';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import {
  answerOf,
  api,
  Button,
  DataTable,
  JobOutcome,
  ProblemNote,
  Section,
  Select,
  sizeText,
  useAct,
  useImages,
  useLatestJob,
  useLive,
} from '../../shared/index.ts';

const WHILE_RUNNING_MILLISECONDS = 500;
const AT_REST_MILLISECONDS = 4000;
const SHORT_DIGITS = 12;

const WORDS = {
  arriving: 'arriving',
  ready: 'here, not run since the pod’s start',
  running: 'running',
  done: 'ran to its end',
  failed: 'failed',
} as const;

/** Files at the pod: sent, carried out there by itself, and how that went. */
export function PodFiles() {
  const pod = useLive('pod')?.pod ?? null;
  const isHere = pod?.state === 'connected';
  const { busy, act } = useAct();
  const cache = useQueryClient();
  const job = useLatestJob('pod-send', 'pod-run');
  const [chosen, setChosen] = useState<number | null>(null);
  const answer = useQuery({
    queryKey: ['pod-files', pod?.address, job?.id, job?.state],
    queryFn: () => answerOf(api.bench.podFiles.query()),
    enabled: isHere,
    placeholderData: (before) => before,
    refetchInterval: ({ state }) =>
      state.data?.ok && state.data.value.some((file) => file.state === 'running')
        ? WHILE_RUNNING_MILLISECONDS
        : AT_REST_MILLISECONDS,
  }).data;
  const files = isHere && answer?.ok ? answer.value : [];
  const shown =
    files.find(({ id }) => id === chosen) ?? files.find(({ state }) => state === 'running') ?? files.at(-1) ?? null;
  const again = () => cache.invalidateQueries({ queryKey: ['pod-files'] });
  const isBusy = busy || (job !== null && job.endedAt === null);
  return (
    <Section title="Files at the pod" aside="It carries them out by itself, with or without this page.">
      <SendTools isHere={isHere && !isBusy} />
      <JobOutcome job={job} tellDone />
      {answer && !answer.ok && isHere && <ProblemNote problem={answer.problem} />}
      <DataTable
        name="files at the pod"
        rows={files}
        empty={isHere ? 'None. Send a bitstream or an SVF file.' : 'No pod is connected.'}
        onRow={({ id }) => setChosen(id)}
        chosen={({ id }) => id === shown?.id}
        columns={[
          { accessorKey: 'name', header: 'Name' },
          { accessorKey: 'kind', header: 'Kind', cell: (cell) => (cell.getValue() === 'load' ? 'bitstream' : 'SVF') },
          {
            accessorKey: 'bytes',
            header: 'Size',
            cell: (cell) => <span className="tabular">{sizeText(Number(cell.getValue()))}</span>,
          },
          {
            accessorKey: 'sha256',
            header: 'SHA-256',
            cell: (cell) => <span className="code text-xs">{String(cell.getValue()).slice(0, SHORT_DIGITS)}</span>,
          },
          {
            accessorKey: 'state',
            header: 'State',
            cell: ({ row }) => (
              <span className={row.original.state === 'failed' ? 'font-bold text-bad' : ''}>
                {WORDS[row.original.state]}
              </span>
            ),
          },
          {
            id: 'do',
            header: '',
            cell: ({ row: { original: file } }) => (
              <span className="flex justify-end gap-3">
                {file.state === 'running' ? (
                  <Button
                    look="quiet"
                    className="h-5! px-0!"
                    onClick={() => act(() => api.bench.stopAtPod.mutate({ file: file.id })).then(again)}
                  >
                    stop
                  </Button>
                ) : (
                  <Button
                    look="quiet"
                    className="h-5! px-0!"
                    disabled={isBusy || file.state === 'arriving'}
                    onClick={() => {
                      setChosen(file.id);
                      void act(() => api.jobs.start.mutate({ kind: 'pod-run', file: file.id }));
                    }}
                  >
                    run
                  </Button>
                )}
                <Button
                  look="quiet"
                  className="h-5! px-0!"
                  disabled={busy || file.state === 'running'}
                  onClick={() => act(() => api.bench.dropAtPod.mutate({ file: file.id })).then(again)}
                >
                  remove
                </Button>
              </span>
            ),
          },
        ]}
      />
      {shown && <Log name={shown.name} lines={shown.log} />}
    </Section>
  );
}

/** What is here and may be sent: the newest build, images, SVF files. */
function SendTools({ isHere }: { readonly isHere: boolean }) {
  const { act } = useAct();
  const images = useImages();
  const svf = useQuery({ queryKey: ['svf'], queryFn: () => api.bench.svfFiles.query() }).data?.files ?? [];
  const [source, setSource] = useState('build');
  const [kind, id] = source.split(' ');
  return (
    <div className="mb-2 flex flex-wrap items-center gap-2">
      <Select aria-label="What to send" value={source} onPick={setSource} className="min-w-0 max-w-96">
        <option value="build">the newest build</option>
        {images.map((one) => (
          <option key={one.id} value={`image ${one.id}`}>
            {one.name}
          </option>
        ))}
        {svf.map((one) => (
          <option key={one.id} value={`svf ${one.id}`}>
            {one.name}
          </option>
        ))}
      </Select>
      <Button
        disabled={!isHere}
        onClick={() =>
          act(() =>
            api.jobs.start.mutate({
              kind: 'pod-send',
              source: kind === 'image' || kind === 'svf' ? { kind, id: Number(id) } : { kind: 'build' },
            }),
          )
        }
      >
        Send
      </Button>
      <span className="text-quiet text-sm">SVF files are added under SVF, bitstreams under Load.</span>
    </div>
  );
}

function Log({ name, lines }: { readonly name: string; readonly lines: readonly string[] }) {
  const box = useRef<HTMLPreElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the end of the log is shown whenever it grows
  useEffect(() => {
    box.current?.scrollTo({ top: box.current.scrollHeight });
  }, [lines.length]);
  return (
    <>
      <p className="mt-2 text-quiet text-sm">Log of {name}, times on the pod’s clock</p>
      <pre
        ref={box}
        className="code h-36 overflow-auto whitespace-pre-wrap border border-line bg-raised p-2 text-xs"
        data-testid="pod-file-log"
      >
        {lines.length === 0 ? 'It has not run since the pod’s start.' : lines.join('\n')}
      </pre>
    </>
  );
}
