'use client';
import { useEffect, useMemo, useRef, useState } from 'react';
import { matches, TextButton, TextInput, useDark, useSize } from '../../shared/index.ts';
import type { KeptTrace } from '../../../server/index.ts';
import { drawTrace, ROW } from './draw-trace.ts';

/** Pixels, before it was measured. */
const FIRST_WIDTH = 600;

/** The waveform of a run: every named signal over the half cycles of the clock. Unknown is hatched. */
export function VectorWave({ trace }: { readonly trace: KeptTrace }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const { ref: host, width: measured } = useSize<HTMLDivElement>();
  const width = measured || FIRST_WIDTH;
  const dark = useDark();
  const [filter, setFilter] = useState('');
  const [span, setSpan] = useState<readonly [number, number]>([0, Math.max(1, trace.end)]);
  const signals = useMemo(() => trace.signals.filter((signal) => matches(signal.name, filter)), [trace, filter]);
  useEffect(() => setSpan([0, Math.max(1, trace.end + 1)]), [trace]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: by night the colours are others
  useEffect(() => {
    if (canvas.current) drawTrace(canvas.current, signals, span, width, window.devicePixelRatio);
  }, [signals, span, width, dark]);
  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    const onWheel = (event: WheelEvent) => {
      if (!event.ctrlKey && Math.abs(event.deltaY) > Math.abs(event.deltaX) && !event.shiftKey) return;
      event.preventDefault();
      const at = (event.clientX - element.getBoundingClientRect().left) / width;
      setSpan(([from, to]) => {
        if (event.ctrlKey) {
          const factor = Math.exp(event.deltaY * 0.003);
          const centre = from + (to - from) * at;
          return [
            Math.max(0, centre - (centre - from) * factor),
            Math.min(trace.end + 1, centre + (to - centre) * factor),
          ];
        }
        const by = ((event.deltaX || event.deltaY) / width) * (to - from);
        const shift = Math.max(-from, Math.min(trace.end + 1 - to, by));
        return [from + shift, to + shift];
      });
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [trace, width]);
  const zoom = (factor: number) =>
    setSpan(([from, to]) => {
      const half = ((to - from) * factor) / 2;
      const centre = (from + to) / 2;
      return [Math.max(0, centre - half), Math.min(trace.end + 1, centre + half)];
    });
  return (
    <div className="flex h-44 flex-col">
      <div className="mb-1 flex items-center gap-2 text-sm">
        <TextInput
          size="tiny"
          className="w-44"
          value={filter}
          onChange={(event) => setFilter(event.target.value)}
          placeholder="Filter signals"
          aria-label="Filter waveform signals"
        />
        <TextButton className="text-quiet" onClick={() => zoom(0.5)}>
          closer
        </TextButton>
        <TextButton className="text-quiet" onClick={() => zoom(2)}>
          wider
        </TextButton>
        <TextButton className="text-quiet" onClick={() => setSpan([0, trace.end + 1])}>
          all
        </TextButton>
        <span className="tabular ml-auto text-quiet text-xs">
          half cycles {Math.round(span[0])} to {Math.round(span[1])}; Ctrl and wheel zoom, Shift and wheel move
        </span>
      </div>
      <div className="grid min-h-0 flex-1 grid-cols-[11rem_minmax(0,1fr)] overflow-auto border border-line bg-raised">
        <ul>
          {signals.map((signal) => (
            <li
              key={signal.name}
              style={{ height: ROW }}
              className="code truncate px-2 text-xs leading-5"
              title={signal.name}
            >
              {signal.name.slice(signal.name.indexOf('.') + 1)}
            </li>
          ))}
        </ul>
        <div ref={host} className="min-w-0">
          <canvas
            ref={canvas}
            style={{ width: '100%', height: signals.length * ROW }}
            aria-label="Waveform of the vectors"
          />
        </div>
      </div>
    </div>
  );
}
