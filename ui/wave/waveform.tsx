'use client';
import { Maximize2, Target, ZoomIn, ZoomOut } from 'lucide-react';
import { type PointerEvent, useCallback, useEffect, useRef, useState } from 'react';
import { Button } from '../shared/index.ts';
import { changeAt, type ReceivedCapture, type Trace } from './decode.ts';
import { AXIS, colourOf, domainsOf, draw, ROW, timeText, type View } from './draw.ts';

const CLOSEST = 1 / 60;
const STEP = 1.25;

/** Wheel zooms at the pointer, drag pans, a click sets the cursor; arrows move it, + and - zoom. */
export function Waveform({ capture }: { readonly capture: ReceivedCapture }) {
  const { about } = capture;
  const traces = useTraces(capture);
  const [view, setView] = useState<View | null>(null);
  const [cursor, setCursor] = useState<number | null>(about.triggerIndex);
  const [size, setSize] = useState({ width: 0, ratio: 1 });
  const host = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const height = AXIS + (traces?.length ?? 0) * ROW;
  const fit: View = { first: 0, perPixel: about.samples / Math.max(1, size.width) };
  const shown = view ?? fit;

  useEffect(() => {
    const element = host.current;
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => entry && setSize({ width: Math.floor(entry.contentRect.width), ratio: window.devicePixelRatio || 1 }));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);

  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context || !traces || size.width === 0) return;
    const frame = requestAnimationFrame(() => {
      context.setTransform(size.ratio, 0, 0, size.ratio, 0, 0);
      draw(context, size.width, height, { traces, samples: about.samples, triggerIndex: about.triggerIndex, sampleRate: about.sampleRate, cursor, view: shown });
    });
    return () => cancelAnimationFrame(frame);
  }, [traces, size, height, about, cursor, shown]);

  const zoomAt = useCallback(
    (pixel: number, factor: number) =>
      setView((old) => {
        const from = old ?? { first: 0, perPixel: about.samples / Math.max(1, size.width) };
        const perPixel = Math.min(Math.max(from.perPixel * factor, CLOSEST), (about.samples * 1.1) / Math.max(1, size.width));
        return { first: from.first + pixel * (from.perPixel - perPixel), perPixel };
      }),
    [about.samples, size.width],
  );

  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
        const by = event.deltaX || event.deltaY;
        setView((old) => (old ? { ...old, first: old.first + by * old.perPixel } : old));
      } else zoomAt(event.offsetX, event.deltaY > 0 ? STEP : 1 / STEP);
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [zoomAt]);

  const drag = useRef<{ x: number; view: View; moved: boolean } | null>(null);
  const sampleAt = (pixel: number) => Math.min(about.samples - 1, Math.max(0, Math.floor(shown.first + pixel * shown.perPixel)));
  const onDown = (event: PointerEvent<HTMLCanvasElement>) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    drag.current = { x: event.nativeEvent.offsetX, view: shown, moved: false };
  };
  const onMove = (event: PointerEvent<HTMLCanvasElement>) => {
    const from = drag.current;
    if (!from) return;
    const by = event.nativeEvent.offsetX - from.x;
    if (Math.abs(by) > 3) from.moved = true;
    if (from.moved) setView({ ...from.view, first: from.view.first - by * from.view.perPixel });
  };
  const onUp = (event: PointerEvent<HTMLCanvasElement>) => {
    if (drag.current && !drag.current.moved) setCursor(sampleAt(event.nativeEvent.offsetX));
    drag.current = null;
  };
  const moveCursor = (by: number) => setCursor((old) => Math.min(about.samples - 1, Math.max(0, (old ?? about.triggerIndex) + by)));
  const middle = size.width / 2;
  const toTrigger = () => setView((old) => ({ perPixel: (old ?? fit).perPixel, first: about.triggerIndex - middle * (old ?? fit).perPixel }));
  const domains = domainsOf(traces ?? []);

  return (
    <div className="border border-line bg-raised">
      <div className="flex items-center gap-1 border-line border-b px-2 py-1 text-sm">
        <Button look="quiet" className="h-7 px-2" aria-label="Zoom in" onClick={() => zoomAt(middle, 1 / (STEP * STEP))}>
          <ZoomIn className="size-4" />
        </Button>
        <Button look="quiet" className="h-7 px-2" aria-label="Zoom out" onClick={() => zoomAt(middle, STEP * STEP)}>
          <ZoomOut className="size-4" />
        </Button>
        <Button look="quiet" className="h-7 px-2" onClick={() => setView(null)}>
          <Maximize2 aria-hidden className="size-4" /> Whole record
        </Button>
        <Button look="quiet" className="h-7 px-2" onClick={toTrigger}>
          <Target aria-hidden className="size-4" /> Trigger
        </Button>
        <span className="tabular ml-auto text-quiet" data-testid="cursor">
          {cursor === null ? 'no cursor' : `cursor: sample ${cursor}, ${timeText(cursor - about.triggerIndex, about.sampleRate)} from the trigger`}
        </span>
      </div>
      <div className="grid grid-cols-[13rem_6.5rem_minmax(0,1fr)]">
        <div className="border-line border-r" style={{ paddingTop: AXIS }}>
          {traces?.map((trace) => (
            <div key={trace.name} className="truncate border-line border-b px-2 text-sm" style={{ height: ROW, lineHeight: `${ROW - 1}px` }} title={`${trace.name}, ${trace.width} bits, clock ${trace.domain}`}>
              <span aria-hidden className="mr-2 inline-block size-2" style={{ background: colourOf(domains, trace.domain) }} />
              {trace.name.slice(trace.name.indexOf('.') + 1)}
            </div>
          ))}
        </div>
        <div className="border-line border-r" style={{ paddingTop: AXIS }}>
          {traces?.map((trace) => (
            <div key={trace.name} className="code truncate border-line border-b px-2 text-right text-sm" style={{ height: ROW, lineHeight: `${ROW - 1}px` }} data-testid={`value-${trace.name}`}>
              {cursor === null ? '' : `${trace.width > 1 ? '0x' : ''}${trace.text[changeAt(trace, cursor)]}`}
            </div>
          ))}
        </div>
        <div ref={host} className="min-w-0 overflow-hidden">
          <canvas
            ref={canvas}
            tabIndex={0}
            role="img"
            aria-label={`Waveform of ${about.signals.length} signals, ${about.samples} samples`}
            data-testid="waveform"
            data-first={shown.first.toFixed(3)}
            data-per-pixel={shown.perPixel.toFixed(5)}
            width={size.width * size.ratio}
            height={height * size.ratio}
            style={{ width: size.width, height, touchAction: 'none' }}
            className="block cursor-crosshair"
            onPointerDown={onDown}
            onPointerMove={onMove}
            onPointerUp={onUp}
            onKeyDown={(event) => {
              if (event.key === 'ArrowLeft') moveCursor(event.shiftKey ? -16 : -1);
              else if (event.key === 'ArrowRight') moveCursor(event.shiftKey ? 16 : 1);
              else if (event.key === '+') zoomAt(middle, 1 / STEP);
              else if (event.key === '-') zoomAt(middle, STEP);
              else return;
              event.preventDefault();
            }}
          />
        </div>
      </div>
    </div>
  );
}

/** Decodes off the main thread; null until it is done. */
function useTraces(capture: ReceivedCapture): readonly Trace[] | null {
  const [traces, setTraces] = useState<readonly Trace[] | null>(null);
  useEffect(() => {
    const worker = new Worker(new URL('./decode.worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<Trace[]>) => setTraces(data);
    worker.postMessage(capture);
    return () => worker.terminate();
  }, [capture]);
  return traces;
}
