import { type PointerEvent, useRef } from 'react';
import { indexAt, nearestStored, type WaveCursor } from '../../core/wave/index.ts';
import { AXIS, type DrawnRow, pixelOf, rowHeight, type Scene, type View } from './draw.ts';

/** How near, in pixels, a pointer must come to a cursor to take it, and an edge to draw it. */
const GRAB = 5;
const SNAP = 9;
type Drag =
  | { readonly kind: 'pan'; readonly x: number; readonly view: View; moved: boolean }
  | { readonly kind: 'cursor'; readonly index: number; moved: boolean }
  | { readonly kind: 'box'; readonly x: number; now: number; moved: boolean };

interface Given {
  readonly scene: Scene;
  readonly width: number;
  readonly cursors: readonly WaveCursor[];
  readonly active: number;
  readonly scrolled: number;
  readonly onView: (view: View) => void;
  readonly onZoom: (pixel: number, factor: number) => void;
  readonly onCursor: (index: number, tick: number) => void;
  /** A box is being drawn, from one pixel to another. */
  readonly onBox: (box: { readonly x: number; readonly now: number }) => void;
}

/**
 * What one or two pointers do to the waves: pan, zoom to a box, pinch, move a cursor. Gives the handlers of the canvas,
 * and the box that is being drawn.
 */
export function usePointer({ scene, width, cursors, active, scrolled, onView, onZoom, onCursor, onBox }: Given) {
  const drag = useRef<Drag | null>(null);
  const pointers = useRef(new Map<number, number>());
  const { view, axis } = scene;
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
      onBox(held);
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
  const box = () => (drag.current?.kind === 'box' ? drag.current : null);
  return { box, onPointerDown: onDown, onPointerMove: onMove, onPointerUp: onUp, onPointerCancel: onUp };
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
