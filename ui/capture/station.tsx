'use client';
import { useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query';
import { FileUp, Star, Trash2 } from 'lucide-react';
import {
  type Dispatch,
  type RefObject,
  type SetStateAction,
  useCallback,
  useEffect,
  useMemo,
  useRef,
  useState,
} from 'react';
import type { RecorderMap } from '../../core/probes/index.ts';
import { type Hint, type Laid, type WaveView, withLevers } from '../../core/wave/index.ts';
import type { BuildDetails, Kept, ListedCapture } from '../../server/index.ts';
import { useBuilds, useOpenReplay, useProbes } from '../design/index.ts';
import {
  Button,
  clockTime,
  Empty,
  FileButton,
  clockRate,
  frequency,
  StationHead,
  useAct,
  useLive,
  answerOf,
  api,
  Select,
  TextInput,
  KeptList,
  NearlyFull,
  DownloadLink,
  useLatestJob,
} from '../shared/index.ts';
import {
  type OtherRecord,
  type Panel,
  type ReceivedCapture,
  SavedViews,
  type Source,
  useLateSave,
  WaveRecord,
} from '../wave/index.ts';
import { Arm } from './arm.tsx';
import { Meanwhile } from './meanwhile.tsx';
import type { Capture } from '../../core/wave/index.ts';

/** The record itself stays one object while its view changes. */
interface Fetched {
  readonly record: ReceivedCapture;
  readonly view: WaveView | null;
}

export function CaptureStation() {
  const state = useLive('latestCapture');
  const usable = useBuilds().data?.usable?.details ?? null;
  const { probes, note } = useProbes();
  const recorders = probes?.cores.filter((core): core is RecorderMap => core.kind === 'recorder') ?? [];
  // Of the very build that the recorders are of.
  const ofBuild = usable?.fingerprint === probes?.fingerprint ? usable : null;
  const rates = new Map((ofBuild?.timing?.clocks ?? []).map((one) => [`${ofBuild?.top}.${one.clock}`, clockRate(one)]));
  const [chosen, setChosen] = useState<number | null>(null);
  const [beside, setBeside] = useState<number | null>(null);
  const [laid, setLaid] = useState<Laid>('trigger');
  const [file, setFile] = useState<File | null>(null);
  const [panel, setPanel] = useState<Panel>('measure');
  const listed = useCaptures(state?.latestCapture ?? null);
  const { captures } = listed;
  const simulations = useSimulations();
  const shown = captures.some(({ id }) => id === chosen) ? chosen : (captures[0]?.id ?? null);
  const fetched = useCapture(file ? null : shown);
  const capture = fetched?.record;
  const second = useCapture(file ? null : beside)?.record;
  const about = capture?.about;
  const [applied, setApplied] = useState<{ readonly view: WaveView; readonly at: number } | null>(null);
  const current = useRef<WaveView | null>(null);
  const source = useMemo((): Source | null => {
    if (file) return { kind: 'file', file };
    if (!capture) return null;
    const hints = hintsOf(capture, usable);
    return {
      kind: 'captures',
      captures: second && second.id !== capture.id ? [capture, second] : [capture],
      laid,
      hints,
    };
  }, [file, capture, second, laid, usable]);
  const save = useSaving(file || second ? null : shown);
  const onSave = useCallback(
    (view: WaveView) => {
      current.current = view;
      save(view);
    },
    [save],
  );
  const choose = (id: number) => {
    setFile(null);
    setBeside(null);
    setApplied(null);
    setChosen(id);
  };
  return (
    <>
      <StationHead title="Capture" hint="Arm a condition, let it happen, see what led to it." />
      {note && <p className="mb-3 border-doubt border-l-4 bg-raised px-3 py-2">{note}</p>}
      {probes && recorders.length > 0 ? (
        <Arm
          key={probes.fingerprint}
          recorders={recorders}
          rates={rates}
          fingerprint={probes.fingerprint}
          onArmed={() => {
            setChosen(null);
            setFile(null);
            setBeside(null);
            setApplied(null);
          }}
        />
      ) : (
        <Empty>The newest build has no recorder. Choose signals under Probe, build, and load.</Empty>
      )}
      <RecordBar
        file={file}
        setFile={setFile}
        shown={shown}
        choose={choose}
        listed={listed}
        setChosen={setChosen}
        beside={beside}
        setBeside={setBeside}
        laid={laid}
        setLaid={setLaid}
        source={source}
        current={current}
        setApplied={setApplied}
        about={about}
      />
      {listed.kept && <NearlyFull kept={listed.kept} what="capture" then={FULL} />}
      {source ? (
        <WaveRecord
          key={`${file?.name ?? capture?.id} ${second?.id ?? ''} ${applied?.at ?? ''}`}
          source={source}
          saved={applied?.view ?? (file ? null : (fetched?.view ?? null))}
          onSave={onSave}
          panel={panel}
          onPanel={setPanel}
          others={[
            ...captures
              .filter(({ id }) => file !== null || id !== shown)
              .map(
                (one): OtherRecord => ({
                  kind: 'capture',
                  id: one.id,
                  title: titleOf(one),
                  isReference: one.isReference,
                }),
              ),
            ...simulations,
          ]}
        />
      ) : (
        shown === null && <Empty>Nothing captured yet. A VCD file from elsewhere can be opened as well.</Empty>
      )}
      {about?.line && !file && <Meanwhile line={about.line} />}
    </>
  );
}

interface RecordBarProps {
  readonly file: File | null;
  readonly setFile: Dispatch<SetStateAction<File | null>>;
  readonly shown: number | null;
  readonly choose: (id: number) => void;
  readonly listed: Listed;
  readonly setChosen: Dispatch<SetStateAction<number | null>>;
  readonly beside: number | null;
  readonly setBeside: Dispatch<SetStateAction<number | null>>;
  readonly laid: Laid;
  readonly setLaid: Dispatch<SetStateAction<Laid>>;
  readonly source: Source | null;
  readonly current: RefObject<WaveView | null>;
  readonly setApplied: Dispatch<SetStateAction<{ readonly view: WaveView; readonly at: number } | null>>;
  readonly about: Omit<Capture, 'data'> | undefined;
}

/** Which record is looked at, what lies beside it, and what is known of it. */
function RecordBar({
  file,
  setFile,
  shown,
  choose,
  listed,
  setChosen,
  beside,
  setBeside,
  laid,
  setLaid,
  source,
  current,
  setApplied,
  about,
}: RecordBarProps) {
  return (
    <div className="mt-3 mb-2 flex flex-wrap items-center gap-x-3 gap-y-1 border-line border-t pt-3 text-sm">
      <h2 className="font-bold text-base">Record</h2>
      {file ? (
        <>
          <span className="code">{file.name}</span>
          <Button look="quiet" className="px-0!" onClick={() => setFile(null)}>
            Back to the captures
          </Button>
        </>
      ) : (
        shown !== null && (
          <RecordPicks
            shown={shown}
            choose={choose}
            listed={listed}
            setChosen={setChosen}
            beside={beside}
            setBeside={setBeside}
            laid={laid}
            setLaid={setLaid}
          />
        )
      )}
      <FileButton
        label="VCD file"
        accept=".vcd"
        className="h-7 px-1!"
        title="A value change dump from elsewhere; it stays on this machine"
        onFile={setFile}
      >
        <FileUp aria-hidden className="size-4" /> Open VCD
      </FileButton>
      {source && (
        <SavedViews current={() => current.current} onApply={(view) => setApplied({ view, at: Date.now() })} />
      )}
      {about && !file && (
        <span className="tabular ml-auto text-quiet" data-testid="about" title={builtText(about)}>
          {about.samples.toLocaleString('en')} samples at {frequency(about.sampleRate)}
          {about.keep ? `, stored when ${about.keep}` : ''}
          {(about.segments ?? 1) > 1 ? `, ${about.segments} segments` : ''}, trigger at {about.triggerIndex}, build{' '}
          {about.fingerprint.slice(0, 8)}
        </span>
      )}
    </div>
  );
}

interface RecordPicksProps {
  readonly shown: number;
  readonly choose: (id: number) => void;
  readonly listed: Listed;
  readonly setChosen: Dispatch<SetStateAction<number | null>>;
  readonly beside: number | null;
  readonly setBeside: Dispatch<SetStateAction<number | null>>;
  readonly laid: Laid;
  readonly setLaid: Dispatch<SetStateAction<Laid>>;
}

function RecordPicks({ shown, choose, listed, setChosen, beside, setBeside, laid, setLaid }: RecordPicksProps) {
  const { captures } = listed;
  const openReplay = useOpenReplay();
  return (
    <>
      <Select
        size="normal"
        className="tabular max-w-72"
        value={shown}
        onChange={(event) => choose(Number(event.target.value))}
        aria-label="Captures"
      >
        {captures.map((one) => (
          <option key={one.id} value={one.id}>
            {titleOf(one)}
          </option>
        ))}
      </Select>
      <CaptureActions
        id={shown}
        isReference={captures.find(({ id }) => id === shown)?.isReference ?? false}
        onGone={() => setChosen(null)}
      />
      <AllCaptures listed={listed} onChoose={choose} />
      {captures.length > 1 && (
        <Select
          size="normal"
          className="tabular max-w-52"
          value={beside ?? ''}
          onChange={(event) => setBeside(event.target.value === '' ? null : Number(event.target.value))}
          aria-label="On the same axis"
          title="Lays another record on the same axis of time"
        >
          <option value="">alone on its axis</option>
          {captures
            .filter(({ id }) => id !== shown)
            .map((one) => (
              <option key={one.id} value={one.id}>
                with {titleOf(one)}
              </option>
            ))}
        </Select>
      )}
      {beside !== null && <LaidBy laid={laid} onLaid={setLaid} />}
      <Button
        look="quiet"
        className="px-0!"
        title="Computes what was not captured from what was"
        onClick={() => openReplay({ capture: shown })}
      >
        See what follows from it
      </Button>
      <span className="flex items-center gap-2 text-quiet">
        {(['vcd', 'csv', 'json'] as const).map((format) => (
          <DownloadLink
            key={format}
            href={`/api/captures/${shown}/${format}`}
            className="hover:text-ink hover:underline"
            data-testid={format}
          >
            {format.toUpperCase()}
          </DownloadLink>
        ))}
      </span>
    </>
  );
}

const FULL = 'At the end nothing more is recorded: delete some before.';

/** All of them, however many came after. */
function AllCaptures({ listed, onChoose }: { readonly listed: Listed; readonly onChoose: (id: number) => void }) {
  const { act } = useAct();
  const queries = useQueryClient();
  const { captures, kept, more } = listed;
  if (!kept || kept.count === 0) return null;
  const remove = async (id: number) => {
    await act(() => api.capture.remove.mutate({ id }));
    await queries.invalidateQueries({ queryKey: ['captures'] });
  };
  return (
    <KeptList
      what="capture"
      rows={captures.map((one) => ({ id: one.id, title: nameOf(one), time: one.created, bytes: one.bytes }))}
      kept={kept}
      then={FULL}
      onDelete={(id) => void remove(id)}
      onChoose={onChoose}
      onMore={more}
    />
  );
}

interface LaidProps {
  readonly laid: Laid;
  readonly onLaid: (laid: Laid) => void;
}

/** How the second record is laid beside the first. */
function LaidBy({ laid, onLaid }: LaidProps) {
  const kind = typeof laid === 'string' ? laid : 'time';
  const micros = typeof laid === 'string' ? 0 : laid.seconds * 1e6;
  return (
    <span className="flex items-center gap-1">
      <Select
        size="normal"
        aria-label="Laid"
        value={kind}
        onPick={(picked) => onLaid(picked === 'time' ? { seconds: 0 } : picked)}
      >
        <option value="trigger">trigger upon trigger</option>
        <option value="shared">by what both hold</option>
        <option value="time">its trigger later by</option>
      </Select>
      {kind === 'time' && (
        <label className="flex items-center gap-1">
          <TextInput
            size="normal"
            className="tabular w-24"
            type="number"
            step="any"
            aria-label="Microseconds later"
            defaultValue={micros}
            onBlur={(event) =>
              Number.isFinite(event.target.valueAsNumber) && onLaid({ seconds: event.target.valueAsNumber / 1e6 })
            }
            onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
          />{' '}
          µs
        </label>
      )}
    </span>
  );
}

/**
 * What may explain a signal that does not move: levers that held it, and what the build that was recorded found of it.
 */
function hintsOf({ about }: ReceivedCapture, build: BuildDetails | null): Readonly<Record<string, Hint>> {
  const found =
    build?.fingerprint === about.fingerprint ? new Map(build.signals.map((signal) => [signal.name, signal])) : null;
  const hints = Object.fromEntries(
    about.signals.map(({ name }): [string, Hint] => {
      const signal = found?.get(name);
      return [
        name,
        signal
          ? { driver: signal.driver, domain: signal.domain, ...(signal.net === undefined ? {} : { net: signal.net }) }
          : {},
      ];
    }),
  );
  return withLevers(hints, about);
}

/** What the record was taken from, and how its recorder was built. */
function builtText({ design, fingerprint, recorder, plan }: ReceivedCapture['about']): string {
  const from = `${design ? `${design}, ` : ''}build ${fingerprint}, recorder ${recorder}`;
  if (!plan) return from;
  const { clock, depth, comparators = 0, stages = 0, qualifier, segments = 1 } = plan;
  return (
    `${from}: sampled with ${clock}, ${depth.toLocaleString('en')} samples deep, ${comparators} comparators, ` +
    `${stages} stages${qualifier ? ', qualifier' : ''}${segments > 1 ? `, up to ${segments} segments` : ''}`
  );
}

const titleOf = (one: ListedCapture): string => nameOf(one, clockTime(one.created));

/** What tells it from others; `time` where it does not stand beside it. */
const nameOf = ({ id, condition, isReference }: ListedCapture, time: string | null = null): string =>
  [`${isReference ? '★ ' : ''}${id}`, ...(time === null ? [] : [time]), condition || 'at once'].join(' · ');

const NO_RUNS: readonly OtherRecord[] = [];

/** Runs of testbenches that a record of the hardware can be laid beside. */
function useSimulations(): readonly OtherRecord[] {
  const job = useLatestJob('simulation');
  return (
    useQuery({
      queryKey: ['simulations', job?.id ?? 0, job?.state],
      placeholderData: (before) => before,
      queryFn: () => api.design.simulations.query(),
      select: (runs) =>
        runs.map(
          ({ id, testbench, created }): OtherRecord => ({
            kind: 'simulation',
            id,
            title: `simulated: ${testbench} · ${clockTime(created)}`,
            isReference: false,
          }),
        ),
    }).data ?? NO_RUNS
  );
}

interface Listed {
  readonly captures: readonly ListedCapture[];
  readonly kept: Kept | null;
  /** Fetches those that are older than the last of them. */
  readonly more: () => void;
}

const NO_CAPTURES: readonly ListedCapture[] = [];

/** The newest captures of the project, and how many there are. Fetched anew when there is another. */
function useCaptures(latest: number | null): Listed {
  const project = useLive('project')?.project?.id ?? 0;
  const queries = useQueryClient();
  const key = useMemo(() => ['captures', project] as const, [project]);
  const { data, fetchNextPage } = useInfiniteQuery({
    queryKey: key,
    initialPageParam: null as number | null,
    queryFn: ({ pageParam }) =>
      api.capture.list.query({ before: pageParam }, { context: { project: project || undefined } }),
    getNextPageParam: (page) => page?.captures.at(-1)?.id ?? null,
  });
  const known = useRef(latest);
  useEffect(() => {
    if (known.current !== latest) void queries.invalidateQueries({ queryKey: key });
    known.current = latest;
  }, [latest, key, queries]);
  return useMemo(
    () => ({
      captures: data?.pages.flatMap((page) => page?.captures ?? []) ?? NO_CAPTURES,
      kept: data?.pages[0]?.kept ?? null,
      more: () => void fetchNextPage(),
    }),
    [data, fetchNextPage],
  );
}

function useCapture(id: number | null): Fetched | null {
  return (
    useQuery({
      queryKey: ['capture', id],
      enabled: id !== null,
      // Its view is saved from here on: fetched anew it would only be an older one.
      staleTime: Number.POSITIVE_INFINITY,
      queryFn: async () => {
        const { view, ...record } = await api.capture.read.query({ id: id as number });
        return { record, view };
      },
    }).data ?? null
  );
}

/** Saves how a capture is looked at; what waits is of the capture before. */
function useSaving(id: number | null): (view: WaveView) => void {
  const queries = useQueryClient();
  return useLateSave(id, (of, view) => {
    queries.setQueryData(['capture', of], (old: Fetched | undefined) => old && { ...old, view });
    void answerOf(api.capture.saveView.mutate({ id: of, view }));
  });
}

function CaptureActions({
  id,
  isReference,
  onGone,
}: {
  readonly id: number;
  readonly isReference: boolean;
  readonly onGone: () => void;
}) {
  const { act, busy } = useAct();
  const queries = useQueryClient();
  const [asks, setAsks] = useState(false);
  const again = () => queries.invalidateQueries({ queryKey: ['captures'] });
  return (
    <>
      <Button
        look="quiet"
        className="h-7 px-1!"
        disabled={busy}
        aria-pressed={isReference}
        onClick={() => act(() => api.capture.setReference.mutate({ id, isReference: !isReference })).then(again)}
        title="What others are compared with"
      >
        <Star aria-hidden className="size-4" fill={isReference ? 'currentColor' : 'none'} />{' '}
        {isReference ? 'Reference' : 'Make reference'}
      </Button>
      {asks ? (
        <span className="flex items-center gap-2">
          <span className="text-bad">Delete capture {id} for good?</span>
          <Button
            className="h-7"
            onClick={() =>
              act(() => api.capture.remove.mutate({ id })).then(() => {
                setAsks(false);
                onGone();
                void again();
              })
            }
          >
            Delete
          </Button>
          <Button look="quiet" className="h-7 px-0!" onClick={() => setAsks(false)}>
            Keep it
          </Button>
        </span>
      ) : (
        <Button look="quiet" className="h-7 px-1!" aria-label="Delete capture" onClick={() => setAsks(true)}>
          <Trash2 aria-hidden className="size-4" />
        </Button>
      )}
    </>
  );
}
