'use client';
import { Tabs } from 'radix-ui';
import type { ReactNode } from 'react';
import { Empty } from '../shared/index.ts';
import type { Found } from '../../core/wave/index.ts';
import {
  type Compared,
  ComparePanel,
  DecodePanel,
  FindPanel,
  MeasurePanel,
  NotesPanel,
  type OtherRecord,
} from './panels/index.ts';
import type { OpenRecord } from './use-record.ts';
import type { Waves } from './use-waves.ts';

const PANELS = [
  { id: 'measure', name: 'Measure' },
  { id: 'find', name: 'Find' },
  { id: 'decode', name: 'Decode' },
  { id: 'compare', name: 'Compare' },
  { id: 'notes', name: 'Notes' },
] as const;

export type Panel = (typeof PANELS)[number]['id'] | 'why' | 'known' | 'simulation';

/** A question of one kind of record. */
export interface MorePanel {
  readonly id: Panel;
  readonly name: string;
  /** How many there are of what it tells; nothing for 0. */
  readonly count?: (record: OpenRecord) => number;
  readonly shown: (record: OpenRecord, waves: Waves) => ReactNode;
}

interface Props {
  readonly record: OpenRecord;
  readonly waves: Waves;
  readonly panel: Panel;
  readonly onPanel: (panel: Panel) => void;
  readonly others: readonly OtherRecord[];
  readonly finding: {
    readonly found: { readonly text: string; readonly result: Found } | null;
    readonly onFound: (found: { readonly text: string; readonly result: Found } | null) => void;
  };
  readonly comparing: {
    readonly comparison: Compared | null;
    readonly onComparison: (found: Compared | null) => void;
  };
  readonly more: readonly MorePanel[];
}

/** What can be asked of a record, one question at a time. */
export function RecordPanels({ panel: wanted, onPanel, more, ...rest }: Props) {
  const { notes } = rest.waves.view;
  const all = [...more, ...PANELS];
  // A question that this record cannot be asked was asked of another one.
  const panel = all.some(({ id }) => id === wanted) ? wanted : 'measure';
  const counts = new Map<Panel, number>([
    ['notes', notes.length],
    ...more.map(({ id, count }) => [id, count?.(rest.record) ?? 0] as const),
  ]);
  const own = more.find(({ id }) => id === panel);
  return (
    <Tabs.Root value={panel} onValueChange={(next) => onPanel(next as Panel)}>
      <Tabs.List aria-label="About the record" className="mb-2 flex gap-1 border-line border-b text-sm">
        {all.map(({ id, name }) => (
          <Tabs.Trigger
            key={id}
            value={id}
            className="-mb-px border-transparent border-b-2 px-2 py-1 text-quiet hover:text-ink data-[state=active]:border-signal data-[state=active]:font-bold data-[state=active]:text-ink"
          >
            {name}
            {(counts.get(id) ?? 0) > 0 && <span className="tabular ml-1 text-quiet">{counts.get(id)}</span>}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      <Tabs.Content value={panel}>
        {own ? own.shown(rest.record, rest.waves) : <Shown panel={panel} {...rest} />}
      </Tabs.Content>
    </Tabs.Root>
  );
}

function Shown({ panel, record, waves, others, finding, comparing }: Omit<Props, 'onPanel' | 'more'>) {
  const { desk, opened } = record;
  const { axis, view, change, tick, go } = waves;
  const common = { desk, axis, tick, onGo: go };
  switch (panel) {
    case 'measure':
      if (axis.inSteps)
        return (
          <Empty>A table has no time of its own: cursors count its steps, and there are no seconds to measure.</Empty>
        );
      return (
        <MeasurePanel
          desk={desk}
          axis={axis}
          rows={view.rows}
          cursors={view.cursors}
          chosen={waves.chosen}
          onChoose={waves.setChosen}
        />
      );
    case 'find':
      return (
        <FindPanel
          {...common}
          {...finding}
          signals={opened.signals}
          rules={view.rules}
          onRules={(rules) => change((old) => ({ ...old, rules: [...rules] }))}
        />
      );
    case 'decode':
      return (
        <DecodePanel
          axis={axis}
          rows={view.rows}
          signals={opened.signals}
          decoded={waves.decoded}
          tick={tick}
          onRows={waves.setRows}
          onGo={go}
        />
      );
    case 'compare':
      return <ComparePanel {...common} {...comparing} others={others} />;
    case 'notes':
      return (
        <NotesPanel
          axis={axis}
          notes={view.notes}
          tick={tick}
          onNotes={(notes) => change((old) => ({ ...old, notes: [...notes] }))}
          onGo={go}
        />
      );
    default:
      return null;
  }
}
