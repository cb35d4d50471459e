'use client';
import { useQuery } from '@tanstack/react-query';
import { useSearchParams } from 'next/navigation';
import { useCallback, useMemo, useRef, useState } from 'react';
import type { WaveView } from '../../core/wave/index.ts';
import type { BuildDetails, ListedCapture, SourcesOf } from '../../server/index.ts';
import { api, Button, clockTime, Empty, frequency, Select, useLive } from '../shared/index.ts';
import {
  type MorePanel,
  type OtherRecord,
  type Panel,
  type ReceivedCapture,
  type Source,
  WaveRecord,
} from '../wave/index.ts';
import type { Chosen } from './chosen.ts';
import { Instances } from './instances.tsx';
import { KnownPanel } from './known-panel.tsx';
import { SimulationPanel } from './simulation-panel.tsx';
import { useSimulation } from './use-simulation.ts';
import { WhyPanel } from './why-panel.tsx';
import { inside } from './words.ts';

interface Props {
  readonly project: number;
  readonly details: BuildDetails;
  readonly chosen: Chosen;
  readonly choose: (change: Partial<Chosen>) => void;
}

/** Every signal of what is to be seen, over a capture. */
export function SignalsView({ project, details, chosen, choose }: Props) {
  const latest = useLive('latestCapture')?.latestCapture ?? null;
  const asked = Number(useSearchParams().get('capture') ?? 0);
  const [picked, setPicked] = useState<number | null>(asked > 0 ? asked : null);
  const captures = useQuery({
    queryKey: ['captures', project, 'replay', latest],
    queryFn: () => api.capture.list.query({ before: null, limit: 100 }),
  }).data?.captures;
  const shown = captures?.find(({ id }) => id === picked) ?? captures?.[0];
  if (captures && !shown)
    return <Empty>Nothing captured yet. See under What to record what has to be, then capture it.</Empty>;
  if (!shown) return null;
  return (
    <>
      <div className="mb-3 flex flex-wrap items-center gap-3 text-sm">
        <label className="flex items-center gap-2">
          <span className="text-quiet">Record</span>
          <Select
            size="normal"
            className="tabular max-w-72"
            aria-label="Capture to compute from"
            value={shown.id}
            onChange={(event) => setPicked(Number(event.target.value))}
          >
            {captures?.map((one) => (
              <option key={one.id} value={one.id}>
                {one.id}, {one.recorder}, {clockTime(one.created)}
              </option>
            ))}
          </Select>
        </label>
        <WhatToSee details={details} see={chosen.see} onSee={(see) => choose({ see })} />
      </div>
      {chosen.see.length === 0 ? (
        <Empty>Choose what to see: everything of it that follows from the record is computed.</Empty>
      ) : (
        <OfCapture
          key={shown.id}
          id={shown.id}
          project={project}
          see={chosen.see}
          others={(captures ?? []).filter(({ id }) => id !== shown.id).map(otherOf)}
        />
      )}
    </>
  );
}

interface WhatProps {
  readonly details: BuildDetails;
  readonly see: readonly string[];
  readonly onSee: (see: readonly string[]) => void;
}

/** What is seen, in a word; opened, the instances to choose from. */
function WhatToSee({ details: { hierarchy }, see, onSee }: WhatProps) {
  const [open, setOpen] = useState(see.length === 0);
  return (
    <div className="min-w-0 flex-1">
      <div className="flex items-center gap-2">
        <span className="text-quiet">See all of</span>
        <span className="code min-w-0 truncate text-xs">{see.map(inside).join(', ') || 'nothing yet'}</span>
        <Button look="quiet" className="px-0!" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'Done' : 'Change'}
        </Button>
      </div>
      {open && hierarchy && (
        <div className="mt-1 max-w-md">
          <Instances hierarchy={hierarchy} see={see} onSee={onSee} />
        </div>
      )}
    </div>
  );
}

const otherOf = ({ id, recorder, created, isReference }: ListedCapture): OtherRecord => ({
  ...{ kind: 'capture', id, isReference },
  title: `${id}, ${recorder}, ${clockTime(created)}`,
});

interface OfCaptureProps {
  readonly id: number;
  readonly project: number;
  readonly see: readonly string[];
  readonly others: readonly OtherRecord[];
}

/** One capture with the sources of the build that it was taken from. */
function OfCapture({ id, project, see, others }: OfCaptureProps) {
  const capture = useQuery({
    queryKey: ['replay-capture', id],
    queryFn: () => api.capture.read.query({ id }),
    gcTime: 5000,
  }).data;
  const about = capture?.about;
  const sources = useQuery({
    queryKey: ['replay-sources', project, about?.fingerprint],
    enabled: about !== undefined,
    gcTime: 0,
    queryFn: () =>
      api.replay.sources.query({ fingerprint: about?.fingerprint ?? null, sources: about?.sources ?? null }),
  });
  const [isForced, setForced] = useState(false);
  if (sources.error) return <p className="text-bad text-sm">{sources.error.message}</p>;
  if (!capture || !sources.data) return <Empty>Fetching the capture and the sources of its build…</Empty>;
  if (sources.data.whose === 'now' && !isForced)
    return (
      <div className="border-doubt border-l-4 bg-raised px-3 py-2 text-sm">
        <p>
          This capture was taken from build {capture.about.fingerprint.slice(0, 8)}. Its sources were not kept, and
          those of now make another design: what is computed from them may not be what ran. Where it disagrees with the
          record is told.
        </p>
        <Button className="mt-2" onClick={() => setForced(true)}>
          Compute it from the sources of now
        </Button>
      </div>
    );
  return <Computed capture={capture} sources={sources.data} see={see} others={others} />;
}

interface ComputedProps {
  readonly capture: ReceivedCapture;
  readonly sources: SourcesOf;
  readonly see: readonly string[];
  readonly others: readonly OtherRecord[];
}

function Computed({ capture, sources, see, others }: ComputedProps) {
  const [panel, setPanel] = useState<Panel>('why');
  const { beside, run } = useSimulation();
  const [isStopped, setStopped] = useState(false);
  const view = useRef<WaveView | null>(null);
  const source = useMemo(
    (): Source => ({ kind: 'replay', replay: { capture, project: sources.project, see, beside } }),
    [capture, sources, see, beside],
  );
  const keep = useCallback((next: WaveView) => {
    view.current = next;
  }, []);
  const more = useMemo(
    (): readonly MorePanel[] => [
      { id: 'why', name: 'Why', shown: (record, waves) => <WhyPanel record={record} waves={waves} /> },
      {
        id: 'known',
        name: 'What is known',
        count: ({ opened }) => opened.replay?.disagreements.length ?? 0,
        shown: (record, waves) => <KnownPanel record={record} waves={waves} />,
      },
      {
        id: 'simulation',
        name: 'Into simulation',
        count: ({ opened }) => opened.replay?.simulation?.differences.length ?? 0,
        shown: (record, waves) => (
          <SimulationPanel
            record={record}
            waves={waves}
            see={see}
            onRun={(instance, testbench, files) => void run(instance, testbench, files)}
          />
        ),
      },
    ],
    [see, run],
  );
  const { about } = capture;
  return (
    <>
      <div className="mb-1 flex flex-wrap items-center gap-x-4 text-quiet text-sm">
        <span className="flex items-center gap-1.5">
          <span aria-hidden className="inline-block size-2 border-2 border-current bg-current" /> recorded
        </span>
        <span className="flex items-center gap-1.5">
          <span aria-hidden className="inline-block size-2 border-2 border-current" /> <i>computed</i>
        </span>
        <span>hatched: it does not follow</span>
        <span className="tabular ml-auto">
          {about.samples.toLocaleString('en')} samples at {frequency(about.sampleRate)}, build{' '}
          {about.fingerprint.slice(0, 8)}
          {sources.whose === 'now' ? ', computed from other sources' : ''}
        </span>
      </div>
      {isStopped ? (
        <Empty>
          Stopped, and nothing of it was kept.{' '}
          <Button className="ml-2" onClick={() => setStopped(false)}>
            Compute it
          </Button>
        </Empty>
      ) : (
        <WaveRecord
          key={see.join(' ')}
          source={source}
          saved={view.current}
          onSave={keep}
          panel={panel}
          onPanel={setPanel}
          others={others}
          more={more}
          onStop={() => setStopped(true)}
          oddities={false}
        />
      )}
    </>
  );
}
