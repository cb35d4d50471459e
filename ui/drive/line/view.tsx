'use client';
import { type ChangeEvent, useMemo, useState } from 'react';
import { toast } from 'sonner';
import {
  api,
  Button,
  Checkbox,
  DownloadLink,
  DRIVE_VIEWS,
  Empty,
  Field,
  JobOutcome,
  Segmented,
  Select,
  StationHead,
  TextInput,
  useAct,
  useBoard,
  useLatestJob,
  useLive,
  useRemembered,
  ViewLinks,
} from '../../shared/index.ts';
import { Lines, type Times } from './lines.tsx';
import { Say } from './say.tsx';
import { Measured, Settings } from './settings.tsx';
import { copied, type Form, textOf, useLines } from './use-lines.ts';

const LOOKS: { form: Form; controls: boolean; times: Times } = { form: 'text', controls: true, times: 'clock' };
const FORMS = [
  { value: 'text', name: 'text' },
  { value: 'hex', name: 'hex' },
  { value: 'both', name: 'both' },
] as const;

/** The serial line of the board: settings, what is said, and what is sent. */
export function LineView({ hint }: { readonly hint: string }) {
  const board = useBoard();
  const settings = board?.line?.settings ?? null;
  const job = useLatestJob('line');
  return (
    <div className="flex h-full min-h-[32rem] flex-col">
      <StationHead title="Drive" hint={hint} />
      <ViewLinks station="Drive" views={DRIVE_VIEWS} current="line" />
      {settings ? (
        <>
          <Settings settings={settings} />
          <Measured settings={settings} />
          <JobOutcome job={job} tellDone />
          <Heard />
          <Say />
        </>
      ) : (
        <Empty>
          {board
            ? 'This pod has no serial line to the board. A bench file gives it one with a serial part; a pod on a wire with its second port.'
            : 'No pod is connected. See Bench, Pods.'}
        </Empty>
      )}
    </div>
  );
}

function Heard() {
  const lines = useLines();
  const [looks, setLooks] = useRemembered('line-looks', LOOKS);
  const [filter, setFilter] = useState('');
  const [sought, setSought] = useState('');
  const [at, setAt] = useState<number | null>(null);
  const shown = useMemo(() => having(lines, filter), [lines, filter]);
  const found = useMemo(() => placesOf(shown, sought), [shown, sought]);
  const place = at === null ? -1 : found.indexOf(at);
  /** What is looked for or left out is another: no place of before counts. */
  const taking = (set: (text: string) => void) => (event: ChangeEvent<HTMLInputElement>) => {
    set(event.target.value);
    setAt(null);
  };
  const go = (by: 1 | -1) => {
    if (found.length === 0) return;
    const next = place < 0 ? (by > 0 ? 0 : found.length - 1) : (place + by + found.length) % found.length;
    setAt(found[next] ?? null);
  };
  const copy = () =>
    void navigator.clipboard
      .writeText(shown.map((line) => copied(line, looks.form)).join('\n'))
      .then(() => toast.success(`${shown.length} lines are on the clipboard.`));
  return (
    <>
      <div className="mb-2 flex flex-wrap items-center gap-x-3 gap-y-2 text-sm">
        <Segmented label="Shown as" value={looks.form} choices={FORMS} onChoose={(form) => setLooks({ form })} />
        <Checkbox checked={looks.controls} onChange={(event) => setLooks({ controls: event.target.checked })}>
          controls
        </Checkbox>
        <Field name="Times">
          <Select value={looks.times} onPick={(times) => setLooks({ times })}>
            <option value="clock">UTC</option>
            <option value="gap">since the last</option>
            <option value="none">none</option>
          </Select>
        </Field>
        <TextInput
          className="w-28"
          aria-label="Only lines with"
          placeholder="only lines with"
          value={filter}
          onChange={taking(setFilter)}
        />
        <form
          className="flex items-center gap-1"
          onSubmit={(event) => {
            event.preventDefault();
            go(1);
          }}
        >
          <TextInput
            className="w-28"
            aria-label="Look for"
            placeholder="look for"
            value={sought}
            onChange={taking(setSought)}
            onKeyDown={(event) => event.key === 'Escape' && setAt(null)}
          />
          {sought !== '' && (
            <span className="tabular text-quiet text-xs" role="status">
              {place < 0 ? `${found.length} lines` : `${place + 1} of ${found.length}`}
            </span>
          )}
          <Button type="submit" className="h-7! px-2!" disabled={found.length === 0} title="Enter">
            Next
          </Button>
          <Button className="h-7! px-2!" disabled={found.length === 0} onClick={() => go(-1)}>
            Last
          </Button>
        </form>
        {at !== null && (
          <Button className="h-7! px-2!" onClick={() => setAt(null)}>
            To the end
          </Button>
        )}
        <Tail count={lines.length} onCopy={copy} />
      </div>
      <Lines lines={shown} {...looks} sought={sought} at={at} />
    </>
  );
}

function Tail({ count, onCopy }: { readonly count: number; readonly onCopy: () => void }) {
  const line = useLive('line')?.line;
  const { act } = useAct();
  return (
    <span className="ml-auto flex items-center gap-2 text-xs">
      <span className="tabular text-quiet" data-testid="line-counts">
        {(line?.received ?? 0).toLocaleString('en')} bytes in, {(line?.sent ?? 0).toLocaleString('en')} out
        {(line?.wrong ?? 0) > 0 && <span className="text-bad">, {(line?.wrong ?? 0).toLocaleString('en')} wrong</span>}
      </span>
      <Button className="h-7! px-2!" disabled={count === 0} onClick={onCopy}>
        Copy
      </Button>
      <DownloadLink href="/api/line-log?form=text" className="underline">
        text
      </DownloadLink>
      <DownloadLink href="/api/line-log?form=bytes" className="underline">
        bytes
      </DownloadLink>
      <DownloadLink href="/api/line-log?form=csv" className="underline">
        CSV
      </DownloadLink>
      <Button className="h-7! px-2!" disabled={count === 0} onClick={() => act(() => api.line.clear.mutate())}>
        Clear
      </Button>
    </span>
  );
}

type Line = ReturnType<typeof useLines>[number];

const having = (lines: readonly Line[], text: string): readonly Line[] =>
  text === '' ? lines : lines.filter((line) => textOf(line).toLowerCase().includes(text.toLowerCase()));

const placesOf = (lines: readonly Line[], text: string): readonly number[] =>
  text === '' ? [] : lines.flatMap((line, i) => (textOf(line).toLowerCase().includes(text.toLowerCase()) ? [i] : []));
