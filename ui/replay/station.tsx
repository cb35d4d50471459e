'use client';
import { useSearchParams } from 'next/navigation';
import { useEffect } from 'react';
import { useBuilds } from '../design/index.ts';
import { Empty, REPLAY_VIEWS, StationHead, useLive, useRemembered, ViewLinks } from '../shared/index.ts';
import { RecordView } from './record-view.tsx';
import { SignalsView } from './signals-view.tsx';
import { type Chosen, NOTHING } from './chosen.ts';

/** What to record, and what follows from it. */
export function ReplayStation({ view = 'record' }: { readonly view?: string }) {
  const current = REPLAY_VIEWS.find((one) => one.id === view) ?? REPLAY_VIEWS[0];
  const project = useLive('project')?.project?.id ?? 0;
  const [chosen, choose] = useRemembered<Chosen>(`replay ${project}`, NOTHING);
  const asked = useSearchParams().get('see');
  const builds = useBuilds().data;
  const details = [builds?.latest?.details, builds?.usable?.details].find((one) => (one?.signals.length ?? 0) > 0);
  useEffect(() => {
    if (asked !== null && project !== 0) choose({ see: [asked] });
  }, [asked, project, choose]);
  return (
    <>
      <StationHead title="Replay" hint={current.hint} />
      <ViewLinks station="Replay" views={REPLAY_VIEWS} current={current.id} />
      {!details ? (
        <Empty>The names inside the design come from a build. Build under Design first.</Empty>
      ) : current.id === 'record' ? (
        <RecordView key={project} project={project} details={details} chosen={chosen} choose={choose} />
      ) : (
        <SignalsView key={project} project={project} details={details} chosen={chosen} choose={choose} />
      )}
    </>
  );
}
