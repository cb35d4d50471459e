'use client';
import { counted } from '../../core/words.ts';
import { Radar } from 'lucide-react';
import type { ComponentType } from 'react';
import {
  Button,
  frequency,
  JobOutcome,
  ProblemNote,
  StationHead,
  useAct,
  useLatestJob,
  useLive,
  useBoard,
  usePowered,
  ViewLinks,
  api,
  BENCH_VIEWS,
} from '../shared/index.ts';
import { ChainView } from './chain/index.ts';
import { DiagnosisView } from './diagnosis/index.ts';
import { PartsView } from './parts/index.ts';
import { PinsView } from './pins/index.ts';
import { PodsView } from './pods/index.ts';
import { PracticeView } from './practice/index.ts';
import { RegistersView } from './registers/index.ts';
import { SpeedView } from './speed/index.ts';
import { SvfView } from './svf/index.ts';
import { WiringView } from './wiring/index.ts';

type ViewId = (typeof BENCH_VIEWS)[number]['id'];

const SHOW: Readonly<Record<ViewId, ComponentType>> = {
  chain: ChainView,
  diagnosis: DiagnosisView,
  speed: SpeedView,
  pins: PinsView,
  parts: PartsView,
  wiring: WiringView,
  registers: RegistersView,
  svf: SvfView,
  pods: PodsView,
  practice: PracticeView,
};

const WORDS = {
  none: 'none named',
  connecting: 'connecting',
  connected: 'connected',
  refused: 'refused',
  lost: 'not found, still looking',
} as const;

export function BenchStation({ view }: { readonly view: string }) {
  const state = useLive('pod');
  const { act } = useAct();
  const job = useLatestJob('scan');
  const current = BENCH_VIEWS.find((v) => v.id === view) ?? BENCH_VIEWS[0];
  const View = SHOW[current.id];
  const running = job?.endedAt === null;
  return (
    <div className="flex h-full min-h-0 flex-col">
      <StationHead title="Bench" hint={current.hint}>
        <Button
          look="main"
          disabled={running || state?.pod.state !== 'connected'}
          onClick={() => act(() => api.jobs.start.mutate({ kind: 'scan' }))}
        >
          <Radar aria-hidden className="size-4" /> Scan
        </Button>
      </StationHead>
      <PodFacts />
      <ViewLinks station="Bench" views={BENCH_VIEWS} current={current.id} />
      {state?.pod.problem && <ProblemNote problem={state.pod.problem} />}
      {current.id === 'chain' && <JobOutcome job={job} />}
      <div className="flex min-h-0 flex-1 flex-col overflow-auto">
        <View />
      </div>
    </div>
  );
}

/** Pod, supply and clock in one line. */
function PodFacts() {
  const state = useLive('pod', 'scan');
  const board = useBoard();
  const powered = usePowered();
  const pod = state?.pod;
  const on = board?.faults.filter((fault) => fault.on).length ?? 0;
  return (
    <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1 border-line border-t py-1.5 text-sm">
      <span>
        Pod{' '}
        <span className={pod?.state === 'connected' ? 'text-good' : 'font-bold text-bad'}>
          {pod ? WORDS[pod.state] : ''}
        </span>
      </span>
      <span>
        Power{' '}
        <span className={powered ? 'text-good' : 'font-bold text-bad'}>
          {powered === null ? 'not measured' : powered ? `on, ${board?.cable.referenceVolts?.toFixed(1)} V` : 'off'}
        </span>
      </span>
      {board && <span className="tabular">TCK {frequency(board.cable.tckHz)}</span>}
      {state?.scan && (
        <span className="tabular">
          {counted(state.scan.devices.length, 'device')}, {counted(state.scan.irTotal, 'instruction bit')},{' '}
          {state.scan.tckCycles.toLocaleString('en')} TCK cycles
        </span>
      )}
      {on > 0 && (
        <span className="font-bold text-doubt">
          {on} practice {on === 1 ? 'fault is' : 'faults are'} on
        </span>
      )}
    </div>
  );
}
