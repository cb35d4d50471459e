'use client';
import { useQueries } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { clsx } from 'clsx';
import { useEffect, useRef } from 'react';
import { answerOf, api } from '../../shared/index.ts';

const LINE = 16;
const LINE_HEIGHT = 20;
const CHUNK = 8192;

interface Props {
  readonly time: string;
  readonly names: readonly [string, string];
  readonly end: number;
  /** Address to bring into sight. */
  readonly at: number;
}

/** Both images byte by byte, sixteen a line; only what is in sight is fetched and drawn. */
export function Bytes({ time, names, end, at }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: Math.ceil(end / LINE),
    getScrollElement: () => scroller.current,
    estimateSize: () => LINE_HEIGHT,
    overscan: 20,
  });
  const lines = virtual.getVirtualItems();
  useEffect(() => virtual.scrollToIndex(Math.floor(at / LINE), { align: 'center' }), [at, virtual]);
  const wanted = [...new Set(lines.map(({ index }) => Math.floor((index * LINE) / CHUNK)))];
  const chunks = useQueries({
    queries: wanted.map((chunk) => ({
      queryKey: ['compare', time, chunk],
      staleTime: Number.POSITIVE_INFINITY,
      queryFn: () => answerOf(api.keep.comparedBytes.query({ start: chunk * CHUNK, length: CHUNK })),
    })),
  });
  const textOf = (index: number, side: 0 | 1): string => {
    const address = index * LINE;
    const answer = chunks[wanted.indexOf(Math.floor(address / CHUNK))]?.data;
    return answer?.ok ? answer.value[side].slice((address % CHUNK) * 2, (address % CHUNK) * 2 + LINE * 2) : '';
  };
  return (
    <div className="flex min-h-60 flex-1 flex-col border border-line bg-raised">
      <div className="code grid grid-cols-[5rem_minmax(0,1fr)_minmax(0,1fr)] gap-x-4 bg-well px-2 py-1 text-xs">
        <span>Address</span>
        <span className="truncate">{names[0]}</span>
        <span className="truncate">{names[1]}</span>
      </div>
      <div ref={scroller} className="min-h-0 flex-1 overflow-auto" data-testid="bytes">
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {lines.map(({ index, start }) => {
            const [a, b] = [textOf(index, 0), textOf(index, 1)];
            return (
              <div
                key={index}
                className="code absolute inset-x-0 grid grid-cols-[5rem_minmax(0,1fr)_minmax(0,1fr)] gap-x-4 px-2 text-xs"
                style={{ top: start, height: LINE_HEIGHT, lineHeight: `${LINE_HEIGHT}px` }}
              >
                <span className={clsx('text-quiet', a !== b && 'font-bold text-signal-deep')}>
                  {(index * LINE).toString(16).toUpperCase().padStart(6, '0')}
                </span>
                <Line text={a} other={b} />
                <Line text={b} other={a} />
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}

/** One side of a line; bytes that differ are marked and underlined. */
function Line({ text, other }: { readonly text: string; readonly other: string }) {
  const runs: { text: string; differs: boolean }[] = [];
  for (let i = 0; i < text.length; i += 2) {
    const [byte, differs] = [text.slice(i, i + 2), text.slice(i, i + 2) !== other.slice(i, i + 2)];
    const last = runs.at(-1);
    if (last && last.differs === differs) last.text += ` ${byte}`;
    else runs.push({ text: i === 0 ? byte : ` ${byte}`, differs });
  }
  return (
    <span className="whitespace-pre">
      {runs.map((run, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a run is its place in the line
        <span key={i} className={run.differs ? 'bg-signal/15 font-bold text-signal-deep underline' : ''}>
          {run.text}
        </span>
      ))}
    </span>
  );
}
