'use client';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback, useRef, useState } from 'react';
import type { WaveView } from '../../../core/wave/index.ts';
import { answerOf, api, clockTime, Empty } from '../../shared/index.ts';
import {
  type Incident,
  type OtherRecord,
  type Panel,
  SavedViews,
  type Source,
  useLateSave,
  WaveRecord,
} from '../../wave/index.ts';

interface Props {
  /** The testbench or the table: the next run of it is looked at in the same way. */
  readonly of: string;
  readonly source: Source;
  readonly incidents: readonly Incident[];
  readonly goTo: { readonly tick: number } | null;
}

const NO_OTHERS: readonly OtherRecord[] = [];

/** The waves of a run, as captures are looked at. */
export function Waves({ of, source, incidents, goTo }: Props) {
  const [panel, setPanel] = useState<Panel>('measure');
  const [applied, setApplied] = useState<{ readonly view: WaveView; readonly at: number } | null>(null);
  const current = useRef<WaveView | null>(null);
  const queries = useQueryClient();
  const key = ['testbench-view', of];
  const kept = useQuery({
    queryKey: key,
    // It is saved from here on: fetched anew it would only be an older one.
    staleTime: Number.POSITIVE_INFINITY,
    queryFn: () => api.design.testbenchView.query({ testbench: of }),
  });
  const save = useLateSave(of, (testbench, view) => {
    queries.setQueryData(['testbench-view', testbench], view);
    void answerOf(api.design.saveTestbenchView.mutate({ testbench, view }));
  });
  const onSave = useCallback(
    (view: WaveView) => {
      current.current = view;
      save(view);
    },
    [save],
  );
  const captures = useQuery({
    queryKey: ['captures', 'to compare'],
    queryFn: () => api.capture.list.query({ before: null }),
    select: (page) =>
      (page?.captures ?? []).map(
        ({ id, created, condition, isReference }): OtherRecord => ({
          kind: 'capture',
          id,
          title: `capture ${id} · ${clockTime(created)} · ${condition || 'at once'}`,
          isReference,
        }),
      ),
  }).data;
  // A view that is not known yet must not be overwritten by a plain one.
  if (kept.isPending) return <Empty>Reading the waves…</Empty>;
  return (
    <>
      <div className="-mt-1 mb-1">
        <SavedViews
          current={() => current.current ?? kept.data ?? null}
          onApply={(view) => {
            onSave(view);
            setApplied({ view, at: Date.now() });
          }}
        />
      </div>
      <WaveRecord
        key={applied?.at ?? 0}
        source={source}
        saved={applied?.view ?? kept.data ?? null}
        onSave={onSave}
        panel={panel}
        onPanel={setPanel}
        others={captures ?? NO_OTHERS}
        incidents={incidents}
        goTo={goTo}
        oddities={false}
      />
    </>
  );
}
