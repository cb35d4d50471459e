'use client';
import { clsx } from 'clsx';
import { Maximize2, Plus, Target, X, ZoomIn, ZoomOut } from 'lucide-react';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import {
  type Comparison,
  fitView,
  type Found,
  type GapStyle,
  nextEdge,
  openedView,
  plainView,
  realTick,
  realTicks,
  type Row,
  savedView,
  secondsText,
  stepStored,
  ticksBetween,
  type WaveView,
  zeroOf,
} from '../../core/wave/index.ts';
import { Button, Empty, frequency, ProblemNote } from '../shared/index.ts';
import { WaveCanvas } from './canvas.tsx';
import { freePlace, nextName } from './new-cursor.ts';
import { AXIS, rowHeight, type Scene, timeText, type View } from './draw.ts';
import { Overview } from './overview.tsx';
import { ComparePanel, type OtherCapture } from './panels/index.ts';
import { DecodePanel } from './panels/index.ts';
import { FindPanel } from './panels/index.ts';
import { MeasurePanel } from './panels/index.ts';
import { NotesPanel } from './panels/index.ts';
import { RowList } from './row-list.tsx';
import { type OpenRecord, type Source, useDrawnRows, useRecord } from './use-record.ts';

const CLOSEST = 1 / 60;
const STEP = 1.25;

export type Panel = 'measure' | 'find' | 'decode' | 'compare' | 'notes';
const PANELS: readonly { readonly id: Panel; readonly name: string }[] = [
  { id: 'measure', name: 'Measure' },
  { id: 'find', name: 'Find' },
  { id: 'decode', name: 'Decode' },
  { id: 'compare', name: 'Compare' },
  { id: 'notes', name: 'Notes' },
];

interface Props {
  readonly source: Source;
  /** How it was last looked at; null for the first time. */
  readonly saved: WaveView | null;
  readonly onSave: (view: WaveView) => void;
  readonly others: readonly OtherCapture[];
  /** What stands below the waves; it outlives the record. */
  readonly panel: Panel;
  readonly onPanel: (panel: Panel) => void;
}

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
  if (!record) return <Empty>Reading the record{share > 0 ? `, ${Math.round(share * 100)} %` : ''}…</Empty>;
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

function OpenWaves({ record, saved, onSave, others, panel, onPanel, gaps, onGaps }: OpenProps) {
  const { desk, opened } = record;
  const { axis, signals } = opened;
  const [view, setViewState] = useState<WaveView>(() =>
    saved ? fitView(openedView(saved, axis), axis, signals) : plainView(axis, signals),
  );
  const [zoom, setZoom] = useState<View | null>(null);
  const [active, setActive] = useState(0);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const [found, setFound] = useState<{ readonly text: string; readonly result: Found } | null>(null);
  const [ruled, setRuled] = useState<readonly { readonly from: number; readonly to: number }[]>([]);
  const [comparison, setComparison] = useState<{ readonly with: number; readonly result: Comparison } | null>(null);
  const [width, setWidth] = useState(0);
  const [scroll, setScroll] = useState({ top: 0, inSight: 0 });
  const host = useRef<HTMLDivElement>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const { drawn, decoded } = useDrawnRows(record, view.rows);
  const fit: View = { first: 0, perPixel: axis.length / Math.max(1, width) };
  const shown = zoom ?? fit;
  const height = drawn.reduce((sum, row) => sum + rowHeight(row), 0);
  const cursor = view.cursors[active] ?? view.cursors[0];
  const tick = cursor?.tick ?? zeroOf(axis);

  const setView = useCallback(
    (change: (old: WaveView) => WaveView) =>
      setViewState((old) => {
        const next = change(old);
        onSave(savedView(next, axis));
        return next;
      }),
    [onSave, axis],
  );
  const setRows = (rows: Row[]) => setView((old) => ({ ...old, rows }));

  useEffect(() => {
    const element = host.current;
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => entry && setWidth(Math.floor(entry.contentRect.width)));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);

  useEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const look = () => setScroll({ top: element.scrollTop, inSight: element.clientHeight });
    const watch = new ResizeObserver(look);
    watch.observe(element);
    element.addEventListener('scroll', look, { passive: true });
    return () => {
      watch.disconnect();
      element.removeEventListener('scroll', look);
    };
  }, []);

  useEffect(() => {
    void Promise.all(view.rules.map((text) => desk.ask('find', { text }))).then((answers) =>
      setRuled(answers.flatMap((answer) => (answer.ok ? answer.value.stretches : [])).sort((a, b) => a.from - b.from)),
    );
  }, [desk, view.rules]);

  const domains = useMemo(
    () => [...new Set(signals.map(({ domain }) => domain))].filter((domain) => domain !== ''),
    [signals],
  );
  const marked = found ? found.result.stretches : ruled;
  const markedBad = found ? found.result.isRule : true;
  const scene: Scene = useMemo(
    () => ({
      axis,
      rows: drawn,
      view: shown,
      domains,
      marked,
      markedBad,
      differences: comparison?.result.differences ?? [],
    }),
    [axis, drawn, shown, domains, marked, markedBad, comparison],
  );

  const clamp = useCallback(
    (next: View): View => ({
      perPixel: Math.min(Math.max(next.perPixel, CLOSEST), (axis.length * 1.1) / Math.max(1, width)),
      first: Math.min(Math.max(next.first, -axis.length * 0.05 - width * next.perPixel * 0.5), axis.length),
    }),
    [axis.length, width],
  );
  const zoomAt = useCallback(
    (pixel: number, factor: number) =>
      setZoom((old) => {
        const from = old ?? { first: 0, perPixel: axis.length / Math.max(1, width) };
        const next = clamp({ first: from.first, perPixel: from.perPixel * factor });
        return { ...next, first: from.first + pixel * (from.perPixel - next.perPixel) };
      }),
    [axis.length, width, clamp],
  );
  const onView = useCallback((next: View) => setZoom(clamp(next)), [clamp]);
  const setCursor = useCallback(
    (index: number, at: number) => {
      setActive(index);
      setView((old) => ({
        ...old,
        cursors: old.cursors.map((one, i) =>
          i === index ? { ...one, tick: Math.min(axis.length, Math.max(0, at)) } : one,
        ),
      }));
    },
    [axis.length, setView],
  );
  /** Moves the chosen cursor there, and what is on screen after it. */
  const go = (at: number) => {
    setCursor(active, at);
    if (at < shown.first || at > shown.first + width * shown.perPixel)
      setZoom({ perPixel: shown.perPixel, first: at - (width * shown.perPixel) / 2 });
  };
  const middle = width / 2;
  const toTrigger = () =>
    setZoom({
      perPixel: Math.min(shown.perPixel, fit.perPixel / 4),
      first: zeroOf(axis) - middle * Math.min(shown.perPixel, fit.perPixel / 4),
    });
  const addCursor = () => {
    const name = nextName(view.cursors.map((one) => one.name));
    setActive(view.cursors.length);
    setView((old) => ({
      ...old,
      cursors: [...old.cursors, { name, tick: freePlace(axis, shown, width, old.cursors) }],
    }));
  };
  const edge = (forward: boolean) => {
    const row =
      drawn.find((one) => chosen.has(one.id) && one.kind === 'signal') ?? drawn.find((one) => one.kind === 'signal');
    const next = row?.kind === 'signal' && row.drawn ? nextEdge(row.drawn.trace, tick, forward) : null;
    if (next !== null) go(next);
  };
  const onKey = (key: string, shift: boolean): boolean => {
    if (key === 'ArrowLeft' || key === 'ArrowRight')
      go(stepStored(axis, tick, (key === 'ArrowLeft' ? -1 : 1) * (shift ? 16 : 1)));
    else if (key === '+' || key === '=') zoomAt(middle, 1 / STEP);
    else if (key === '-') zoomAt(middle, STEP);
    else if (key === 'e') edge(true);
    else if (key === 'E') edge(false);
    else if (key === 'f') setZoom(null);
    else if (key === 't') toTrigger();
    else if (key === 'c') addCursor();
    else return false;
    return true;
  };

  return (
    <div className="flex flex-col gap-2">
      <div className="border border-line bg-raised">
        <div className="flex flex-wrap items-center gap-1 border-line border-b px-2 py-1 text-sm">
          <Button
            look="quiet"
            className="h-7 px-1.5!"
            aria-label="Zoom in"
            onClick={() => zoomAt(middle, 1 / (STEP * STEP))}
          >
            <ZoomIn className="size-4" />
          </Button>
          <Button
            look="quiet"
            className="h-7 px-1.5!"
            aria-label="Zoom out"
            onClick={() => zoomAt(middle, STEP * STEP)}
          >
            <ZoomOut className="size-4" />
          </Button>
          <Button look="quiet" className="h-7 px-1.5!" onClick={() => setZoom(null)} title="f">
            <Maximize2 aria-hidden className="size-4" /> Whole record
          </Button>
          <Button
            look="quiet"
            className="h-7 px-1.5!"
            onClick={toTrigger}
            title="t"
            disabled={axis.triggers.length === 0}
          >
            <Target aria-hidden className="size-4" /> Trigger
          </Button>
          <Button
            look="quiet"
            className="h-7 px-1.5!"
            onClick={() => edge(false)}
            title="E: the chosen row's last edge before the cursor"
            aria-label="Previous edge"
          >
            ‹ Edge
          </Button>
          <Button
            look="quiet"
            className="h-7 px-1.5!"
            onClick={() => edge(true)}
            title="e: the chosen row's next edge"
            aria-label="Next edge"
          >
            Edge ›
          </Button>
          {axis.stored && (
            <select
              aria-label="Gaps"
              className="h-7 border border-line bg-raised px-1"
              value={gaps}
              onChange={(event) => onGaps(event.target.value as GapStyle)}
            >
              <option value="short">gaps drawn short</option>
              <option value="true">gaps as long as they were</option>
            </select>
          )}
          <Cursors
            view={view}
            active={active}
            axis={axis}
            onActive={setActive}
            onAdd={addCursor}
            onRename={(i, name) =>
              setView((old) => ({ ...old, cursors: old.cursors.map((one, k) => (k === i ? { ...one, name } : one)) }))
            }
            onRemove={(i) => {
              setView((old) => ({ ...old, cursors: old.cursors.filter((_, k) => k !== i) }));
              setActive(0);
            }}
          />
        </div>
        <div
          ref={scroller}
          className="grid max-h-[60vh] grid-cols-[17rem_minmax(0,1fr)] overflow-y-auto overflow-x-hidden"
        >
          <div className="min-w-0 border-line border-r">
            <RowList
              rows={view.rows}
              drawn={drawn}
              signals={signals}
              domains={domains}
              tick={tick}
              chosen={chosen}
              onChoose={setChosen}
              onRows={setRows}
            />
          </div>
          <div ref={host} className="min-w-0" style={{ minHeight: height + AXIS }}>
            <WaveCanvas
              scene={scene}
              width={width}
              height={height}
              cursors={view.cursors}
              active={active}
              notes={view.notes}
              scrolled={scroll.top}
              inSight={scroll.inSight}
              onView={onView}
              onZoom={zoomAt}
              onCursor={setCursor}
              onKey={onKey}
            />
          </div>
        </div>
        <div className="grid grid-cols-[17rem_minmax(0,1fr)] border-line border-t">
          <span className="tabular truncate border-line border-r px-2 py-0.5 text-quiet text-xs" data-testid="cursor">
            {cursor
              ? `${cursor.name}: ${axis.sampled ? 'sample' : 'tick'} ${(axis.anchors ? realTick(axis, tick) : Math.round(realTicks(axis, tick))).toLocaleString('en')}, ${timeText(axis, tick)} from the ${axis.triggers.length > 0 ? 'trigger' : 'start'}`
              : 'no cursor'}
          </span>
          <Overview desk={desk} axis={axis} view={shown} width={width} marked={marked} onView={onView} />
        </div>
      </div>
      <Remarks opened={opened} rules={view.rules} ruled={ruled.length} />
      <nav aria-label="About the record" className="flex gap-1 border-line border-b text-sm">
        {PANELS.map(({ id, name }) => (
          <button
            key={id}
            type="button"
            aria-current={id === panel || undefined}
            className={clsx(
              '-mb-px border-b-2 px-2 py-1',
              id === panel ? 'border-signal font-bold' : 'border-transparent text-quiet hover:text-ink',
            )}
            onClick={() => onPanel(id)}
          >
            {name}
            {id === 'notes' && view.notes.length > 0 && (
              <span className="tabular ml-1 text-quiet">{view.notes.length}</span>
            )}
          </button>
        ))}
      </nav>
      {panel === 'measure' && (
        <MeasurePanel
          desk={desk}
          axis={axis}
          rows={view.rows}
          cursors={view.cursors}
          chosen={chosen}
          onChoose={setChosen}
        />
      )}
      {panel === 'find' && (
        <FindPanel
          desk={desk}
          axis={axis}
          signals={signals}
          tick={tick}
          rules={view.rules}
          found={found}
          onFound={setFound}
          onRules={(rules) => setView((old) => ({ ...old, rules: [...rules] }))}
          onGo={go}
        />
      )}
      {panel === 'decode' && (
        <DecodePanel
          axis={axis}
          rows={view.rows}
          signals={signals}
          decoded={decoded}
          tick={tick}
          onRows={setRows}
          onGo={go}
        />
      )}
      {panel === 'compare' && (
        <ComparePanel
          desk={desk}
          axis={axis}
          others={others}
          tick={tick}
          comparison={comparison}
          onComparison={setComparison}
          onGo={go}
        />
      )}
      {panel === 'notes' && (
        <NotesPanel
          axis={axis}
          notes={view.notes}
          tick={tick}
          onNotes={(notes) => setView((old) => ({ ...old, notes: [...notes] }))}
          onGo={go}
        />
      )}
    </div>
  );
}

interface CursorsProps {
  readonly view: WaveView;
  readonly active: number;
  readonly axis: OpenRecord['opened']['axis'];
  readonly onActive: (index: number) => void;
  readonly onAdd: () => void;
  readonly onRename: (index: number, name: string) => void;
  readonly onRemove: (index: number) => void;
}

const LONGEST_NAME = 16;

/** The cursors by name; beside the others, how far each is from the chosen one. */
function Cursors({ view, active, axis, onActive, onAdd, onRename, onRemove }: CursorsProps) {
  const [renaming, setRenaming] = useState<number | null>(null);
  const chosen = view.cursors[active];
  return (
    <span className="tabular ml-auto flex flex-wrap items-center gap-1" data-testid="cursors">
      {view.cursors.map(({ name, tick }, i) => {
        const ticks = chosen && i !== active ? ticksBetween(axis, chosen.tick, tick) : null;
        return (
          <span key={name} className={clsx('flex items-center border', i === active ? 'border-ink' : 'border-line')}>
            {renaming === i ? (
              <input
                // biome-ignore lint/a11y/noAutofocus: it takes the place of the name that was just chosen to be changed
                autoFocus
                defaultValue={name}
                maxLength={LONGEST_NAME}
                aria-label="Name of the cursor"
                className="w-20 bg-paper px-1"
                onBlur={(event) => {
                  setRenaming(null);
                  const next = event.target.value.trim();
                  if (next !== '' && view.cursors.every((one, k) => k === i || one.name !== next)) onRename(i, next);
                }}
                onKeyDown={(event) => {
                  if (event.key === 'Escape') event.currentTarget.value = name;
                  if (event.key === 'Enter' || event.key === 'Escape') event.currentTarget.blur();
                }}
              />
            ) : (
              <button
                type="button"
                className={clsx('px-1.5', i === active && 'bg-ink text-raised')}
                aria-pressed={i === active}
                aria-label={`Cursor ${name}`}
                title="Press twice, or F2, to rename"
                onClick={() => onActive(i)}
                onDoubleClick={() => setRenaming(i)}
                onKeyDown={(event) => event.key === 'F2' && setRenaming(i)}
              >
                {name}
              </button>
            )}
            {ticks !== null && ticks !== 0 && (
              <span className="px-1.5 text-quiet text-xs">
                {Math.round(Math.abs(ticks)).toLocaleString('en')} · {secondsText(ticks * axis.tickSeconds)} ·{' '}
                {frequency(1 / Math.abs(ticks * axis.tickSeconds))}
              </span>
            )}
            {view.cursors.length > 1 && (
              <button
                type="button"
                aria-label={`Remove cursor ${name}`}
                className="px-0.5 text-quiet hover:text-bad"
                onClick={() => onRemove(i)}
              >
                <X className="size-3" />
              </button>
            )}
          </span>
        );
      })}
      <Button look="quiet" className="h-7 px-1.5!" onClick={onAdd} title="c">
        <Plus aria-hidden className="size-4" /> Cursor
      </Button>
    </span>
  );
}

/** What deserves a word: broken rules, signals that never move, and how the record was read. */
function Remarks({
  opened,
  rules,
  ruled,
}: {
  readonly opened: OpenRecord['opened'];
  readonly rules: readonly string[];
  readonly ruled: number;
}) {
  const { oddities, notes } = opened;
  if (oddities.length === 0 && notes.length === 0 && ruled === 0) return null;
  return (
    <ul className="flex flex-col gap-0.5 text-sm" data-testid="remarks">
      {ruled > 0 && (
        <li className="text-bad">
          {ruled.toLocaleString('en')} {ruled === 1 ? 'place' : 'places'} marked by{' '}
          {rules.length === 1 ? `"${rules[0]}"` : `${rules.length} kept sentences`}.
        </li>
      )}
      {oddities.map(({ signal, message, cause }) => (
        <li key={signal}>
          <span className="code text-xs">{signal.slice(signal.indexOf('.') + 1)}</span> is{' '}
          <span className="text-doubt">{message}</span>. <span className="text-quiet">{cause}</span>
        </li>
      ))}
      {notes.map((note) => (
        <li key={note} className="text-doubt">
          {note}
        </li>
      ))}
    </ul>
  );
}
