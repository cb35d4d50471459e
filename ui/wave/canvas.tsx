'use client';
import { counted } from '../../core/words.ts';
import { type PointerEvent, useEffect, useRef } from 'react';
import { indexAt, nearestStored, type WaveCursor, type WaveNote } from '../../core/wave/index.ts';
import { colour, useDark } from '../shared/index.ts';
import {
  AXIS,
  axisSteps,
  draw,
  type DrawnRow,
  FONT,
  pixelOf,
  rowHeight,
  type Scene,
  timeText,
  type View,
} from './draw.ts';

/** How near, in pixels, a pointer must come to a cursor to take it, and an edge to draw it. */
const GRAB = 5;
const SNAP = 9;
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

type Drag =
  | { readonly kind: 'pan'; readonly x: number; readonly view: View; moved: boolean }
  | { readonly kind: 'cursor'; readonly index: number; moved: boolean }
  | { readonly kind: 'box'; readonly x: number; now: number; moved: boolean };

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
  const drag = useRef<Drag | null>(null);
  const pointers = useRef(new Map<number, number>());
  const dark = useDark();
  const { view, axis } = scene;
  const seen = Math.min(height + AXIS, inSight);
  const rowsInSight = Math.max(0, seen - AXIS);
  const ratio = typeof window === 'undefined' ? 1 : window.devicePixelRatio || 1;

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
    const box = drag.current?.kind === 'box' ? drag.current : null;
    drawOver(context, scene, { width, height: seen, cursors, active, notes, box });
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

  const tickAt = (x: number, y: number): number =>
    snapped(scene, x, y - AXIS + scrolled) ?? nearestStored(axis, Math.floor(view.first + x * view.perPixel));
  const onDown = (event: PointerEvent<HTMLCanvasElement>) => {
    const { offsetX: x } = event.nativeEvent;
    event.currentTarget.setPointerCapture(event.pointerId);
    pointers.current.set(event.pointerId, x);
    const near = cursors.findIndex(({ tick }) => Math.abs(pixelOf(view, tick) - x) <= GRAB);
    if (event.shiftKey) drag.current = { kind: 'box', x, now: x, moved: false };
    else
      drag.current = near >= 0 ? { kind: 'cursor', index: near, moved: false } : { kind: 'pan', x, view, moved: false };
  };
  const onMove = (event: PointerEvent<HTMLCanvasElement>) => {
    const { offsetX: x, offsetY: y } = event.nativeEvent;
    const held = drag.current;
    event.currentTarget.style.cursor =
      held?.kind === 'pan' && held.moved
        ? 'grabbing'
        : cursors.some(({ tick }) => Math.abs(pixelOf(view, tick) - x) <= GRAB)
          ? 'col-resize'
          : 'crosshair';
    if (!held) return;
    const other = [...pointers.current].find(([id]) => id !== event.pointerId)?.[1];
    if (other !== undefined) {
      const before = pointers.current.get(event.pointerId) ?? x;
      const [old, now] = [Math.abs(before - other), Math.abs(x - other)];
      pointers.current.set(event.pointerId, x);
      if (old > 4 && now > 4) onZoom((x + other) / 2, old / now);
      drag.current = { kind: 'pan', x, view, moved: true };
      return;
    }
    pointers.current.set(event.pointerId, x);
    if (held.kind === 'cursor') {
      held.moved = true;
      onCursor(held.index, tickAt(x, y));
    } else if (held.kind === 'pan') {
      if (Math.abs(x - held.x) > 3) held.moved = true;
      if (held.moved) onView({ ...held.view, first: held.view.first - (x - held.x) * held.view.perPixel });
    } else {
      held.now = x;
      held.moved = Math.abs(x - held.x) > 3;
      const context = over.current?.getContext('2d');
      if (context) drawOver(context, scene, { width, height: seen, cursors, active, notes, box: held });
    }
  };
  const onUp = (event: PointerEvent<HTMLCanvasElement>) => {
    const { offsetX: x, offsetY: y } = event.nativeEvent;
    const held = drag.current;
    pointers.current.delete(event.pointerId);
    if (pointers.current.size > 0) return;
    drag.current = null;
    if (held?.kind === 'pan' && !held.moved) onCursor(active, tickAt(x, y));
    if (held?.kind === 'cursor' && !held.moved) onCursor(held.index, cursors[held.index]?.tick ?? 0);
    if (held?.kind === 'box' && held.moved) {
      const [from, to] = [Math.min(held.x, x), Math.max(held.x, x)];
      onView({ first: view.first + from * view.perPixel, perPixel: ((to - from) * view.perPixel) / width });
    }
  };
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
          onPointerDown={onDown}
          onPointerMove={onMove}
          onPointerUp={onUp}
          onPointerCancel={onUp}
          onKeyDown={(event) => {
            if (!event.ctrlKey && !event.metaKey && onKey(event.key, event.shiftKey)) event.preventDefault();
          }}
        />
      </div>
    </div>
  );
}

/** The edge of the row under the pointer, when one is near enough. */
function snapped({ rows, view }: Scene, x: number, y: number): number | null {
  let top = 0;
  let row: DrawnRow | undefined;
  for (const one of rows) {
    if (y >= top && y < top + rowHeight(one)) row = one;
    top += rowHeight(one);
  }
  if (row?.kind !== 'signal' || !row.drawn) return null;
  const { trace } = row.drawn;
  const index = indexAt(trace, view.first + x * view.perPixel);
  const near = [trace.at[index], trace.at[index + 1]]
    .flatMap((tick) => (tick === undefined ? [] : [{ tick, far: Math.abs(pixelOf(view, tick) - x) }]))
    .sort((a, b) => a.far - b.far)[0];
  return near && near.far <= SNAP ? near.tick : null;
}

/** What lies over the rows, on a canvas of so many pixels. */
interface Overlay {
  readonly width: number;
  readonly height: number;
  readonly cursors: readonly WaveCursor[];
  readonly active: number;
  readonly notes: readonly WaveNote[];
  /** A box that is being drawn. */
  readonly box: { readonly x: number; readonly now: number } | null;
}

/** The axis with its times, cursors with their names, notes, and the box that is being drawn. */
function drawOver(
  context: CanvasRenderingContext2D,
  scene: Scene,
  { width, height, cursors, active, notes, box }: Overlay,
): void {
  const { axis, view } = scene;
  context.clearRect(0, 0, width, height);
  context.font = FONT;
  context.textBaseline = 'middle';
  context.fillStyle = colour('quiet');
  const { ticks, seconds } = axisSteps(scene, width);
  for (const tick of ticks) {
    const label = timeText(axis, tick, seconds);
    if (pixelOf(view, tick) + 3 + context.measureText(label).width < width)
      context.fillText(label, pixelOf(view, tick) + 3, 8);
  }
  for (const trigger of axis.triggers) {
    const x = pixelOf(view, trigger);
    if (x < 0 || x > width) continue;
    context.fillStyle = colour('signal');
    context.fillText('trigger', x + 18, AXIS - 8);
  }
  for (const { tick, text } of notes) {
    const x = pixelOf(view, tick);
    if (x < 0 || x > width) continue;
    context.fillStyle = colour('doubt');
    context.beginPath();
    context.moveTo(x, AXIS);
    context.lineTo(x - 5, AXIS - 8);
    context.lineTo(x + 5, AXIS - 8);
    context.fill();
    context.fillText(text.length > 24 ? `${text.slice(0, 23)}…` : text, x + 7, AXIS - 7);
  }
  for (const [i, { name, tick }] of cursors.entries())
    marker(context, width, height, pixelOf(view, tick), name, i === active);
  if (!box) return;
  context.fillStyle = colour('signal');
  context.globalAlpha = 0.15;
  context.fillRect(Math.min(box.x, box.now), AXIS, Math.abs(box.now - box.x), height);
  context.globalAlpha = 1;
}

function marker(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  place: number,
  name: string,
  isActive: boolean,
): void {
  if (place < -1 || place > width + 1) return;
  const x = Math.round(place) + 0.5;
  context.strokeStyle = colour('ink');
  context.lineWidth = isActive ? 1.75 : 1;
  context.beginPath();
  context.moveTo(x, 14);
  context.lineTo(x, height);
  context.stroke();
  const wide = context.measureText(name).width + 8;
  // At the edges the name stays whole.
  const left = Math.min(Math.max(x - wide / 2, 0.5), width - wide - 0.5);
  context.fillStyle = colour(isActive ? 'ink' : 'raised');
  context.fillRect(left, 13, wide, 13);
  context.strokeRect(left, 13, wide, 13);
  context.fillStyle = colour(isActive ? 'raised' : 'ink');
  context.fillText(name, left + 4, 20);
}
