'use client';
import { partNamed } from '../../core/families/index.ts';
import { type ComponentType, useState } from 'react';
import { JobOutcome, StationHead, useLatestJob, useLive, ViewLinks, KEEP_VIEWS } from '../shared/index.ts';
import { CompareView } from './compare/index.ts';
import { BoardDataView } from './data/index.ts';
import { LayoutView } from './layout/index.ts';
import { StepsView } from './steps/index.ts';
import { WriteActions } from './write/index.ts';
import { Question } from './write/index.ts';
import { WriteView } from './write/index.ts';

type ViewId = (typeof KEEP_VIEWS)[number]['id'];

const SHOW: Readonly<Record<ViewId, ComponentType>> = {
  write: WriteView,
  layout: LayoutView,
  data: BoardDataView,
  compare: CompareView,
  steps: StepsView,
};

export function KeepStation({ view }: { readonly view: string }) {
  const state = useLive('usable', 'project', 'running');
  const part = state?.usable?.part ?? state?.project?.part ?? '';
  const stops = partNamed(part)?.flashStopsDesign ?? false;
  const job = useLatestJob('keep', 'power', 'flash');
  const current = KEEP_VIEWS.find((one) => one.id === view) ?? KEEP_VIEWS[0];
  const View = SHOW[current.id];
  const [asking, setAsking] = useState(false);
  return (
    <div className="flex h-full min-h-0 flex-col">
      <StationHead title="Keep" hint={current.hint}>
        {current.id === 'write' && <WriteActions asking={asking} onAsk={() => setAsking(true)} />}
      </StationHead>
      <ViewLinks station="Keep" views={KEEP_VIEWS} current={current.id} />
      {stops && (
        <p className="mb-3 border-doubt border-l-4 bg-raised px-3 py-2">
          Whatever is asked of this flash stops the design that runs: a {part} shares its flash pins with it.
        </p>
      )}
      {current.id === 'write' && asking && <Question onEnd={() => setAsking(false)} />}
      {current.id !== 'layout' && current.id !== 'data' && <JobOutcome job={job} tellDone />}
      {current.id === 'write' && state?.running?.status?.bootSource === 'jtag' && (
        <p className="mb-3 border-doubt border-l-4 bg-raised px-3 py-2">
          The boot switch on the board stands at JTAG (marked on the right): the FPGA will not look into the flash at
          power-on.
        </p>
      )}
      <div className="flex min-h-0 flex-1 flex-col overflow-auto">
        <View />
      </div>
    </div>
  );
}
