'use client';
import { counted } from '../../core/words.ts';
import { useEffect, useRef } from 'react';
import type { WaveCursor, WaveNote } from '../../core/wave/index.ts';
import { useDark } from '../shared/index.ts';
import { AXIS, draw, type Scene, type View } from './draw.ts';
import { drawOver } from './overlay.ts';
import { usePointer } from './use-pointer.ts';

/** How much nearer or farther one notch of the wheel goes. */
const STEP = 1.25;

interface Props {
  readonly scene: Scene;
  readonly width: number;
  readonly height: number;
  readonly cursors: readonly WaveCursor[];
  readonly active: number;
  readonly notes: readonly WaveNote[];
  /** How far the rows are scrolled, and how much of them and the axis is in sight: no more is drawn. */
  readonly scrolled: number;
  readonly inSight: number;
  readonly onView: (view: View) => void;
  readonly onZoom: (pixel: number, factor: number) => void;
  /** Moves a cursor; an index of its own makes it the chosen one. */
  readonly onCursor: (index: number, tick: number) => void;
  readonly onKey: (key: string, shift: boolean) => boolean;
}

/**
 * The waves. Wheel and pinch zoom at the pointer, drag pans, a drag with Shift zooms to what it spans, a click puts the
 * chosen cursor to the nearest edge, a cursor can be dragged.
 */
export function WaveCanvas({
  scene,
  width,
  height,
  cursors,
  active,
  notes,
  scrolled,
  inSight,
  onView,
  onZoom,
  onCursor,
  onKey,
}: Props) {
  const rows = useRef<HTMLCanvasElement>(null);
  const over = useRef<HTMLCanvasElement>(null);
  const dark = useDark();
  const { view, axis } = scene;
  const seen = Math.min(height + AXIS, inSight);
  const rowsInSight = Math.max(0, seen - AXIS);
  const ratio = typeof window === 'undefined' ? 1 : window.devicePixelRatio || 1;

  const { box, ...hands } = usePointer({
    ...{ scene, width, cursors, active, scrolled, onView, onZoom, onCursor },
    onBox: (box) => {
      const context = over.current?.getContext('2d');
      if (context) drawOver(context, scene, { width, height: seen, cursors, active, notes, box });
    },
  });

  // biome-ignore lint/correctness/useExhaustiveDependencies: by night the colours are others
  useEffect(() => {
    const context = rows.current?.getContext('2d');
    if (!context || width === 0) return;
    const frame = requestAnimationFrame(() => {
      const began = performance.now();
      context.setTransform(ratio, 0, 0, ratio, 0, 0);
      context.clearRect(0, 0, width, rowsInSight);
      context.translate(0, -scrolled);
      draw(context, width, height, scene, scrolled, scrolled + rowsInSight);
      if (rows.current) rows.current.dataset.drawMilliseconds = (performance.now() - began).toFixed(2);
    });
    return () => cancelAnimationFrame(frame);
  }, [scene, width, height, ratio, scrolled, rowsInSight, dark]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: by night the colours are others
  useEffect(() => {
    const context = over.current?.getContext('2d');
    if (!context || width === 0) return;
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    drawOver(context, scene, { width, height: seen, cursors, active, notes, box: box() });
  }, [scene, width, seen, ratio, cursors, active, notes, dark]);

  useEffect(() => {
    const element = over.current;
    if (!element) return;
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY))
        onView({ ...view, first: view.first + (event.deltaX || event.deltaY) * view.perPixel });
      else onZoom(event.offsetX, event.deltaY > 0 ? STEP : 1 / STEP);
    };
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, [view, onView, onZoom]);

  const size = { width, height: seen };
  return (
    <div style={{ width, height: height + AXIS }}>
      <div className="sticky top-0" style={size}>
        <canvas
          ref={rows}
          data-testid="waveform-rows"
          width={width * ratio}
          height={rowsInSight * ratio}
          style={{ width, height: rowsInSight, top: AXIS }}
          className="absolute left-0 block"
        />
        <canvas
          ref={over}
          tabIndex={0}
          role="img"
          aria-label={
            `Waveform of ${counted(scene.rows.length, 'row')}, ${Math.round(axis.length).toLocaleString('en')} ` +
            'ticks'
          }
          data-testid="waveform"
          data-first={view.first.toFixed(3)}
          data-per-pixel={view.perPixel.toFixed(5)}
          width={size.width * ratio}
          height={size.height * ratio}
          style={{ ...size, touchAction: 'none' }}
          className="absolute top-0 left-0 block cursor-crosshair"
          {...hands}
          onKeyDown={(event) => {
            if (!event.ctrlKey && !event.metaKey && onKey(event.key, event.shiftKey)) event.preventDefault();
          }}
        />
      </div>
    </div>
  );
}
