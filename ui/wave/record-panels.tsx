'use client';
import { Tabs } from 'radix-ui';
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

export type Panel = (typeof PANELS)[number]['id'];

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
}

/** What can be asked of a record, one question at a time. */
export function RecordPanels({ panel, onPanel, ...rest }: Props) {
  const { notes } = rest.waves.view;
  return (
    <Tabs.Root value={panel} onValueChange={(next) => onPanel(next as Panel)}>
      <Tabs.List aria-label="About the record" className="mb-2 flex gap-1 border-line border-b text-sm">
        {PANELS.map(({ id, name }) => (
          <Tabs.Trigger
            key={id}
            value={id}
            className="-mb-px border-transparent border-b-2 px-2 py-1 text-quiet hover:text-ink data-[state=active]:border-signal data-[state=active]:font-bold data-[state=active]:text-ink"
          >
            {name}
            {id === 'notes' && notes.length > 0 && <span className="tabular ml-1 text-quiet">{notes.length}</span>}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      <Tabs.Content value={panel}>
        <Shown panel={panel} {...rest} />
      </Tabs.Content>
    </Tabs.Root>
  );
}

function Shown({ panel, record, waves, others, finding, comparing }: Omit<Props, 'onPanel'>) {
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
  }
}
