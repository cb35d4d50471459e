'use client';
import { useCallback, useState } from 'react';
import {
  fitView,
  nextEdge,
  openedView,
  plainView,
  type Row,
  savedView,
  stepStored,
  type WaveView,
  zeroOf,
} from '../../core/wave/index.ts';
import { freePlace, nextName } from './new-cursor.ts';
import { type OpenRecord, useDrawnRows } from './use-record.ts';
import { useZoom, type Zoom } from './use-zoom.ts';

type Change = (change: (old: WaveView) => WaveView) => void;

/** One record as it is looked at: rows, cursors, the stretch in sight, and what a key or a button does to them. */
export interface Waves {
  readonly axis: OpenRecord['opened']['axis'];
  readonly view: WaveView;
  readonly change: Change;
  readonly setRows: (rows: Row[]) => void;
  readonly drawn: ReturnType<typeof useDrawnRows>['drawn'];
  readonly decoded: ReturnType<typeof useDrawnRows>['decoded'];
  readonly zoom: Zoom;
  /** Rows that were chosen, by id. */
  readonly chosen: ReadonlySet<string>;
  readonly setChosen: (chosen: ReadonlySet<string>) => void;
  /** Number of the cursor that moves, and where it is. */
  readonly active: number;
  readonly tick: number;
  readonly cursors: CursorMoves;
  /** Moves the chosen cursor there, and what is on screen after it. */
  readonly go: (tick: number) => void;
  /** To the next edge of the chosen row, or to the one before. */
  readonly edge: (isForward: boolean) => void;
  /** Whether the key means something here. */
  readonly onKey: (key: string, isShifted: boolean) => boolean;
}

interface CursorMoves {
  readonly choose: (index: number) => void;
  readonly move: (index: number, tick: number) => void;
  readonly add: () => void;
  readonly rename: (index: number, name: string) => void;
  readonly remove: (index: number) => void;
}

export function useWaves(
  record: OpenRecord,
  { saved, onSave, width }: { saved: WaveView | null; onSave: (view: WaveView) => void; width: number },
): Waves {
  const { axis, signals } = record.opened;
  const [view, setView] = useState<WaveView>(() =>
    saved ? fitView(openedView(saved, axis), axis, signals) : plainView(axis, signals),
  );
  const change: Change = useCallback(
    (edit) =>
      setView((old) => {
        const next = edit(old);
        onSave(savedView(next, axis));
        return next;
      }),
    [onSave, axis],
  );
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const { drawn, decoded } = useDrawnRows(record, view.rows);
  const zoom = useZoom(axis, width);
  const { active, cursors } = useCursors(axis, change, (taken) => ({
    name: nextName(view.cursors.map(({ name }) => name)),
    tick: freePlace(axis, zoom.shown, width, taken),
  }));
  const tick = (view.cursors[active] ?? view.cursors[0])?.tick ?? zeroOf(axis);
  const go = (at: number) => {
    cursors.move(active, at);
    zoom.show(at);
  };
  const edge = (isForward: boolean) => {
    const isSignal = (row: (typeof drawn)[number]) => row.kind === 'signal';
    const row = drawn.find((one) => chosen.has(one.id) && isSignal(one)) ?? drawn.find(isSignal);
    const next = row?.kind === 'signal' && row.drawn ? nextEdge(row.drawn.trace, tick, isForward) : null;
    if (next !== null) go(next);
  };
  const onKey = keysOf({ step: (by) => go(stepStored(axis, tick, by)), zoom, edge, add: cursors.add });
  const setRows = (rows: Row[]) => change((old) => ({ ...old, rows }));
  return {
    ...{ axis, view, change, setRows, drawn, decoded, zoom, chosen, setChosen, active, tick, cursors, go, edge, onKey },
  };
}

type Cursor = WaveView['cursors'][number];

function useCursors(
  axis: Waves['axis'],
  change: Change,
  another: (taken: WaveView['cursors']) => Cursor,
): Pick<Waves, 'active' | 'cursors'> {
  const [active, setActive] = useState(0);
  const move = useCallback(
    (index: number, at: number) => {
      setActive(index);
      const tick = Math.min(axis.length, Math.max(0, at));
      change((old) => ({ ...old, cursors: old.cursors.map((one, i) => (i === index ? { ...one, tick } : one)) }));
    },
    [axis.length, change],
  );
  return {
    active,
    cursors: {
      choose: setActive,
      move,
      add: () =>
        change((old) => {
          setActive(old.cursors.length);
          return { ...old, cursors: [...old.cursors, another(old.cursors)] };
        }),
      rename: (index, name) =>
        change((old) => ({ ...old, cursors: old.cursors.map((one, i) => (i === index ? { ...one, name } : one)) })),
      remove: (index) => {
        change((old) => ({ ...old, cursors: old.cursors.filter((_, i) => i !== index) }));
        setActive(0);
      },
    },
  };
}

interface Moves {
  readonly step: (by: number) => void;
  readonly zoom: Zoom;
  readonly edge: Waves['edge'];
  readonly add: () => void;
}

const FAR = 16;

const keysOf =
  ({ step, zoom, edge, add }: Moves): Waves['onKey'] =>
  (key, isShifted) => {
    const far = isShifted ? FAR : 1;
    const moves: Readonly<Record<string, () => void>> = {
      ArrowLeft: () => step(-far),
      ArrowRight: () => step(far),
      '+': zoom.closer,
      '=': zoom.closer,
      '-': zoom.wider,
      e: () => edge(true),
      E: () => edge(false),
      f: zoom.toWhole,
      t: zoom.toTrigger,
      c: add,
    };
    const found = moves[key];
    found?.();
    return found !== undefined;
  };
