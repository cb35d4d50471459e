'use client';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { type Found, type GapStyle, placeOfReal, realTick, realTicks, type WaveView } from '../../core/wave/index.ts';
import { Button, Empty, ProblemNote, useSize } from '../shared/index.ts';
import { WaveCanvas } from './canvas.tsx';
import { AXIS, type Incident, rowHeight, type Scene, timeText } from './draw.ts';
import { Overview } from './overview.tsx';
import type { Compared, OtherRecord } from './panels/index.ts';
import { type MorePanel, type Panel, RecordPanels } from './record-panels.tsx';
import { Remarks } from './remarks.tsx';
import { RowList } from './row-list.tsx';
import { Toolbar } from './toolbar.tsx';
import { type OpenRecord, type Source, useRecord } from './use-record.ts';
import { useWaves, type Waves } from './use-waves.ts';

interface Props {
  readonly source: Source;
  /** How it was last looked at; null for the first time. */
  readonly saved: WaveView | null;
  readonly onSave: (view: WaveView) => void;
  readonly others: readonly OtherRecord[];
  /** What stands below the waves; it outlives the record. */
  readonly panel: Panel;
  readonly onPanel: (panel: Panel) => void;
  /** What happened meanwhile, by ticks as the source counts them. */
  readonly incidents?: readonly Incident[];
  /** Whether what is odd about the signals is said: of hardware it leads to a cause, of a testbench it is meant so. */
  readonly oddities?: boolean;
  /** The place to look at, by such ticks; another object goes there again. */
  readonly goTo?: { readonly tick: number } | null;
  /** What can be asked of this record beside what can be asked of any. */
  readonly more?: readonly MorePanel[];
  /** Of a record that takes a while: gives it up. */
  readonly onStop?: () => void;
}

const NONE: readonly MorePanel[] = [];
const NO_INCIDENTS: readonly Incident[] = [];

/** One record: its waves, and what can be asked of them. */
export function WaveRecord(props: Props) {
  const [gaps, setGaps] = useState<GapStyle>('short');
  const { saved, onSave } = props;
  const latest = useRef(saved);
  const keep = useCallback(
    (view: WaveView) => {
      latest.current = view;
      onSave(view);
    },
    [onSave],
  );
  const { record, problem, share } = useRecord(props.source, gaps);
  if (problem) return <ProblemNote problem={problem} />;
  if (!record)
    return (
      <Empty>
        {props.onStop ? 'Computing' : 'Reading the record'}
        {share > 0 ? `, ${Math.round(share * 100)} %` : ''}…
        {props.onStop && (
          <Button className="ml-4" onClick={props.onStop}>
            Stop
          </Button>
        )}
      </Empty>
    );
  return (
    <OpenWaves
      key={`${gaps} ${record.opened.axis.title}`}
      record={record}
      gaps={gaps}
      onGaps={setGaps}
      {...props}
      saved={latest.current}
      onSave={keep}
    />
  );
}

interface OpenProps extends Props {
  readonly record: OpenRecord;
  readonly gaps: GapStyle;
  readonly onGaps: (gaps: GapStyle) => void;
}

function OpenWaves(props: OpenProps) {
  const { record, saved, onSave, others, panel, onPanel, gaps, onGaps, incidents = NO_INCIDENTS, goTo = null } = props;
  const { oddities = true } = props;
  const { desk, opened } = record;
  const { ref: host, width } = useSize<HTMLDivElement>();
  const waves = useWaves(record, { saved, onSave, width });
  const [found, setFound] = useState<Finding | null>(null);
  const [comparison, setComparison] = useState<Compared | null>(null);
  const ruled = useRuled(record, waves.view.rules);
  const { scroller, scroll } = useScroll();
  const scene = useScene(record, waves, { found, ruled, comparison, incidents });
  const { go } = waves;
  const gone = useRef<typeof goTo>(null);
  useEffect(() => {
    if (goTo === null || gone.current === goTo || width === 0) return;
    gone.current = goTo;
    go(placeOfReal(opened.axis, BigInt(goTo.tick)));
  }, [goTo, go, width, opened.axis]);
  const height = waves.drawn.reduce((sum, row) => sum + rowHeight(row), 0);
  return (
    <div className="flex flex-col gap-2">
      <div className="border border-line bg-raised">
        <Toolbar waves={waves} gaps={gaps} onGaps={onGaps} />
        <div
          ref={scroller}
          className="grid max-h-[60vh] grid-cols-[17rem_minmax(0,1fr)] overflow-y-auto overflow-x-hidden"
        >
          <div className="min-w-0 border-line border-r">
            <RowList
              rows={waves.view.rows}
              drawn={waves.drawn}
              signals={opened.signals}
              domains={scene.domains}
              tick={waves.tick}
              chosen={waves.chosen}
              onChoose={waves.setChosen}
              onRows={waves.setRows}
            />
          </div>
          <div ref={host} className="min-w-0" style={{ minHeight: height + AXIS }}>
            <WaveCanvas
              scene={scene}
              width={width}
              height={height}
              cursors={waves.view.cursors}
              active={waves.active}
              notes={waves.view.notes}
              scrolled={scroll.top}
              inSight={scroll.inSight}
              onView={waves.zoom.set}
              onZoom={waves.zoom.at}
              onCursor={waves.cursors.move}
              onKey={waves.onKey}
            />
          </div>
        </div>
        <div className="grid grid-cols-[17rem_minmax(0,1fr)] border-line border-t">
          <CursorPlace waves={waves} />
          <Overview
            desk={desk}
            axis={waves.axis}
            view={waves.zoom.shown}
            width={width}
            marked={scene.marked}
            incidents={scene.incidents}
            onView={waves.zoom.set}
          />
        </div>
      </div>
      <Remarks
        oddities={oddities ? opened.oddities : []}
        notes={opened.notes}
        rules={waves.view.rules}
        ruled={ruled.length}
      />
      <RecordPanels
        record={record}
        waves={waves}
        panel={panel}
        onPanel={onPanel}
        others={others}
        finding={{ found, onFound: setFound }}
        comparing={{ comparison, onComparison: setComparison }}
        more={props.more ?? NONE}
      />
    </div>
  );
}

/** Where the chosen cursor stands, in words. */
function CursorPlace({ waves: { view, active, axis, tick } }: { readonly waves: Waves }) {
  const cursor = view.cursors[active] ?? view.cursors[0];
  const at = axis.anchors ? realTick(axis, tick) : Math.round(realTicks(axis, tick));
  return (
    <span className="tabular truncate border-line border-r px-2 py-0.5 text-quiet text-xs" data-testid="cursor">
      {cursor && axis.inSteps
        ? `${cursor.name}: ${timeText(axis, tick)}`
        : cursor
          ? `${cursor.name}: ${axis.sampled ? 'sample' : 'tick'} ${at.toLocaleString('en')}, ${timeText(axis, tick)} ` +
            `from the ${axis.triggers.length > 0 ? 'trigger' : 'start'}`
          : 'no cursor'}
    </span>
  );
}

type Stretches = readonly { readonly from: number; readonly to: number }[];

interface Finding {
  readonly text: string;
  readonly result: Found;
}

/** Places that kept sentences mark, in order. */
function useRuled({ desk }: OpenRecord, rules: readonly string[]): Stretches {
  const [ruled, setRuled] = useState<Stretches>([]);
  useEffect(() => {
    void Promise.all(rules.map((text) => desk.ask('find', { text }))).then((answers) =>
      setRuled(answers.flatMap((answer) => (answer.ok ? answer.value.stretches : [])).sort((a, b) => a.from - b.from)),
    );
  }, [desk, rules]);
  return ruled;
}

/** How far rows are scrolled, and how much of them is in sight: only that is drawn. */
function useScroll() {
  const { ref: scroller, height: inSight } = useSize<HTMLDivElement>();
  const [top, setTop] = useState(0);
  useEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const look = () => setTop(element.scrollTop);
    element.addEventListener('scroll', look, { passive: true });
    return () => element.removeEventListener('scroll', look);
  }, [scroller]);
  return { scroller, scroll: { top, inSight } };
}

interface Marks {
  readonly found: Finding | null;
  readonly ruled: Stretches;
  readonly comparison: Compared | null;
  readonly incidents: readonly Incident[];
}

/** What the canvas draws. */
function useScene({ opened }: OpenRecord, { axis, drawn, zoom }: Waves, marks: Marks): Scene {
  const { found, ruled, comparison, incidents } = marks;
  const { signals } = opened;
  const domains = useMemo(
    () => [...new Set(signals.map(({ domain }) => domain))].filter((domain) => domain !== ''),
    [signals],
  );
  const placed = useMemo(
    () =>
      incidents.map((one) => ({ ...one, tick: placeOfReal(axis, BigInt(one.tick)) })).sort((a, b) => a.tick - b.tick),
    [incidents, axis],
  );
  const { first, perPixel } = zoom.shown;
  return useMemo(
    () => ({
      axis,
      rows: drawn,
      view: { first, perPixel },
      domains,
      marked: found ? found.result.stretches : ruled,
      markedBad: found ? found.result.isRule : true,
      differences: comparison?.result.differences ?? [],
      incidents: placed,
    }),
    [axis, drawn, first, perPixel, domains, found, ruled, comparison, placed],
  );
}
