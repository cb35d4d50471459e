'use client';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { Problem, Result } from '../../core/result.ts';
import {
  type Frame,
  type GapStyle,
  type Hint,
  type Laid,
  nameOfRow,
  type Radix,
  type Row,
  type SignalRow,
  type StepRecord,
} from '../../core/wave/index.ts';
import { WaveDesk } from './desk.ts';
import type { DrawnRow } from './draw.ts';
import type { DrawnTrace, Opened, OpenSignal, ReceivedCapture, ReplayAsk } from './messages.ts';
import { problem } from './problems.ts';
import { signalOf } from './rows.ts';

export type Source =
  | {
      readonly kind: 'captures';
      readonly captures: readonly ReceivedCapture[];
      readonly laid: Laid;
      readonly hints: Readonly<Record<string, Hint>>;
    }
  | { readonly kind: 'file'; readonly file: File }
  | { readonly kind: 'replay'; readonly replay: ReplayAsk }
  | { readonly kind: 'steps'; readonly steps: StepRecord; readonly title: string };

export interface OpenRecord {
  readonly desk: WaveDesk;
  readonly opened: Opened;
}

/** Opens a source in a worker of its own; null while it is being read. */
export function useRecord(
  source: Source,
  gaps: GapStyle,
): { readonly record: OpenRecord | null; readonly problem: Problem | null; readonly share: number } {
  const [state, setState] = useState<{ record: OpenRecord | null; problem: Problem | null }>({
    record: null,
    problem: null,
  });
  const [share, setShare] = useState(0);
  useEffect(() => {
    const desk = new WaveDesk({
      onProgress: setShare,
      onCrash: (problem) => setState({ record: null, problem }),
    });
    setState({ record: null, problem: null });
    void asked(desk, source, gaps).then(
      (made) =>
        setState(
          made.ok ? { record: { desk, opened: made.value }, problem: null } : { record: null, problem: made.error },
        ),
      (error: unknown) =>
        setState({
          record: null,
          problem: problem('worker', { messageText: error instanceof Error ? ` (${error.message})` : '' }),
        }),
    );
    return () => desk.close();
  }, [source, gaps]);
  return { ...state, share };
}

function asked(desk: WaveDesk, source: Source, gaps: GapStyle): Promise<Result<Opened>> {
  switch (source.kind) {
    case 'file':
      return desk.ask('openFile', { file: source.file });
    case 'replay':
      return desk.ask('openReplay', { ...source.replay, gaps });
    case 'steps':
      return desk.ask('openSteps', { steps: source.steps, title: source.title });
    case 'captures':
      return desk.ask('open', { captures: source.captures, gaps, laid: source.laid, hints: source.hints });
  }
}

const radixOf = (row: SignalRow, signals: readonly OpenSignal[]): Radix => {
  if (row.radix) return row.radix;
  const signal = signalOf(row, signals);
  const width = row.parts.reduce((sum, part) => sum + part.width, 0);
  return { kind: signal?.names ? 'names' : width === 1 ? 'binary' : signal?.signed ? 'signed' : 'hex' };
};

/** Fetches what each row needs from the worker, once for each row as it is. */
export function useDrawnRows(
  record: OpenRecord | null,
  rows: readonly Row[],
): { readonly drawn: readonly DrawnRow[]; readonly decoded: ReadonlyMap<string, Decoded> } {
  const traces = useRef(new Map<string, DrawnTrace | null>());
  const decoded = useRef(new Map<string, Decoded>());
  const owner = useRef<OpenRecord | null>(null);
  const [version, setVersion] = useState(0);
  if (owner.current !== record) {
    owner.current = record;
    traces.current = new Map();
    decoded.current = new Map();
  }
  const leaves = useMemo(
    () => rows.flatMap((row) => (row.kind === 'group' ? (row.open ? [row, ...row.rows] : [row]) : [row])),
    [rows],
  );
  useEffect(() => {
    if (!record) return;
    const [known, decodedNow] = [traces.current, decoded.current];
    for (const row of leaves) {
      const key = keyOf(row);
      if (row.kind === 'signal' && !known.has(key)) {
        known.set(key, null);
        const radix = radixOf(row, record.opened.signals);
        void record.desk
          .ask('row', {
            row,
            analog: row.style === 'analog',
            signed: radix.kind === 'signed' || radix.kind === 'fixed',
          })
          .then((answer) => {
            known.set(key, answer);
            setVersion((n) => n + 1);
          });
      }
      if (row.kind === 'decoder' && !decodedNow.has(key)) {
        decodedNow.set(key, { frames: [], note: null, problem: null });
        void record.desk.ask('decode', { decoder: row.decoder }).then((answer) => {
          decodedNow.set(
            key,
            answer.ok ? { ...answer.value, problem: null } : { frames: [], note: null, problem: answer.error },
          );
          setVersion((n) => n + 1);
        });
      }
    }
  }, [record, leaves]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the maps are filled from outside, which the version tells
  return useMemo(() => {
    const drawn = leaves.map((row): DrawnRow => {
      const common = { id: row.id, name: nameOfRow(row) };
      if (row.kind === 'group') return { kind: 'group', ...common };
      if (row.kind === 'decoder')
        return { kind: 'decoder', ...common, frames: decoded.current.get(keyOf(row))?.frames ?? [] };
      return {
        kind: 'signal',
        ...common,
        drawn: traces.current.get(keyOf(row)) ?? null,
        radix: radixOf(row, record?.opened.signals ?? []),
        analog: row.style === 'analog',
      };
    });
    return {
      drawn,
      decoded: new Map(
        leaves.flatMap((row) =>
          row.kind === 'decoder'
            ? [[row.id, decoded.current.get(keyOf(row)) ?? { frames: [], note: null, problem: null }] as const]
            : [],
        ),
      ),
    };
  }, [leaves, record, version]);
}

export interface Decoded {
  readonly frames: readonly Frame[];
  readonly note: string | null;
  readonly problem: Problem | null;
}

/** What a row's drawing depends on: not its name, nor its place. */
function keyOf(row: Row): string {
  if (row.kind === 'signal')
    return JSON.stringify([row.parts, row.style === 'analog', row.style === 'analog' ? row.radix?.kind : null]);
  return row.kind === 'decoder' ? JSON.stringify(row.decoder) : row.id;
}
