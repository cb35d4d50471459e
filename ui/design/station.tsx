'use client';
import { partNamed } from '../../core/families/index.ts';
import { counted } from '../../core/words.ts';
import { Download, Hammer } from 'lucide-react';
import { type ComponentType, useEffect, useRef } from 'react';
import {
  Button,
  duration,
  Empty,
  JobOutcome,
  shortPrint,
  StationHead,
  useLatestJob,
  useLive,
  ViewLinks,
  DESIGN_VIEWS,
  useStart,
  DownloadLink,
} from '../shared/index.ts';
import { BuildsView } from './builds/index.ts';
import { ClocksView } from './clocks/index.ts';
import { MessagesView } from './messages/index.ts';
import { PinsView } from './pins/index.ts';
import { ProjectView } from './project/index.ts';
import { useBuilds } from './queries.ts';
import { ResourcesView } from './resources/index.ts';
import { SchematicView } from './schematic/index.ts';
import { SignalsView } from './signals/index.ts';
import { SourcesView } from './sources/index.ts';
import { SimulateView } from './simulate/index.ts';
import { TimingView } from './timing/index.ts';
import type { ViewProps } from './view-props.ts';

type ViewId = (typeof DESIGN_VIEWS)[number]['id'];

const SHOW: Readonly<Record<ViewId, ComponentType<ViewProps>>> = {
  sources: SourcesView,
  messages: MessagesView,
  pins: PinsView,
  clocks: ClocksView,
  signals: SignalsView,
  schematic: SchematicView,
  resources: ResourcesView,
  timing: TimingView,
  simulate: SimulateView,
  builds: BuildsView,
  project: ProjectView,
};

export function DesignStation({ view }: { readonly view: string }) {
  const state = useLive('usable', 'project');
  const start = useStart();
  const job = useLatestJob('build');
  const save = useRef<(() => Promise<void>) | null>(null);
  const current = DESIGN_VIEWS.find((v) => v.id === view) ?? DESIGN_VIEWS[0];
  const View = SHOW[current.id];
  const running = job?.endedAt === null;
  const build = async () => {
    await save.current?.();
    await start({ kind: 'build' });
  };
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== 'F9') return;
      event.preventDefault();
      void build();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
  return (
    <div className="flex h-full min-h-[32rem] flex-col">
      <StationHead title="Design" hint={current.hint}>
        {state?.usable && partNamed(state.usable.part) && (
          <DownloadLink
            href="/api/bitstream"
            className="inline-flex h-8 items-center gap-1.5 px-2 text-quiet text-sm hover:text-ink hover:underline"
          >
            <Download aria-hidden className="size-4" /> .nbits
          </DownloadLink>
        )}
        <Button look="main" onClick={build} disabled={running || !state?.project} title="Build (F9)">
          <Hammer aria-hidden className="size-4" /> Build
        </Button>
      </StationHead>
      {!running && <JobOutcome job={job} except="build-failed" />}
      <BuildFacts />
      <Views current={current.id} />
      <div className="flex min-h-0 flex-1 flex-col">
        {state && !state.project && current.id !== 'project' ? (
          <Empty>There is no project. Create one, or import one, under Project.</Empty>
        ) : (
          <View
            key={state?.project?.id ?? 0}
            beforeBuild={(next) => {
              save.current = next;
            }}
          />
        )}
      </div>
    </div>
  );
}

function Views({ current }: { readonly current: ViewId }) {
  const messages = useBuilds().data?.latest?.details.messages ?? [];
  const open = messages.filter((m) => m.accepted === null && m.severity !== 'info').length;
  return <ViewLinks station="Design" views={DESIGN_VIEWS} current={current} counts={{ messages: open }} />;
}

function BuildFacts() {
  const state = useLive('latest', 'stale');
  const latest = state?.latest;
  if (!latest) return <p className="text-quiet text-sm">Not built yet.</p>;
  const { luts, registers, blockRams, lutsOfPart, blockRamsOfPart } = latest.resources;
  return (
    <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1 border-line border-t py-1.5 text-sm">
      {latest.good ? (
        <span>
          Fingerprint{' '}
          <span className="code font-bold" title={latest.fingerprint} data-testid="fingerprint">
            {shortPrint(latest.fingerprint)}
          </span>
        </span>
      ) : (
        <span className="font-bold text-bad">{counted(latest.errors, 'error')}, no bitstream</span>
      )}
      {luts + registers > 0 && (
        <span className="tabular" data-testid="cells">
          {`${luts.toLocaleString('en')} of ${lutsOfPart.toLocaleString('en')} LUTs · ` +
            `${counted(registers, 'flip-flop')} · ${blockRams} of ${counted(blockRamsOfPart, 'block RAM')}`}
        </span>
      )}
      <span className="text-quiet">{duration(latest.milliseconds)}</span>
      {state.stale.length > 0 && (
        <span className="text-doubt" data-testid="stale">
          stale:{' '}
          {state.stale
            .map(({ what, change, touches }) => `${what} ${change}${touches === 'timing' ? ' (timing only)' : ''}`)
            .join(', ')}
        </span>
      )}
    </div>
  );
}
