'use client';
import { type PointerEvent, useEffect, useRef, useState } from 'react';
import type { Axis, Stretch } from '../../core/wave/index.ts';
import type { WaveDesk } from './desk.ts';
import { colour, useDark } from '../shared/index.ts';
import type { Incident, View } from './draw.ts';

const HEIGHT = 22;
const COLUMNS = 600;

interface Props {
  readonly desk: WaveDesk;
  readonly axis: Axis;
  readonly view: View;
  readonly width: number;
  readonly marked: readonly Stretch[];
  readonly incidents: readonly Incident[];
  readonly onView: (view: View) => void;
}

/**
 * The whole record in one strip: where much happens, the triggers, what is marked, and the part that is on screen. A
 * click or a drag goes there.
 */
export function Overview({ desk, axis, view, width, marked, incidents, onView }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const dark = useDark();
  const [counts, setCounts] = useState<Uint32Array | null>(null);
  const ratio = typeof window === 'undefined' ? 1 : window.devicePixelRatio || 1;
  useEffect(() => {
    void desk.ask('overview', { columns: COLUMNS }).then(setCounts);
  }, [desk]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: by night the colours are others
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context || width === 0) return;
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.clearRect(0, 0, width, HEIGHT);
    const scale = width / axis.length;
    if (counts) {
      const most = counts.reduce((a, b) => Math.max(a, b), 1);
      context.fillStyle = colour('quiet');
      // The root makes single changes show beside a clock's.
      for (const [i, count] of counts.entries())
        if (count > 0)
          context.fillRect(
            (i * width) / COLUMNS,
            HEIGHT,
            Math.ceil(width / COLUMNS),
            -Math.max(2, (HEIGHT - 4) * Math.sqrt(count / most)),
          );
    }
    context.fillStyle = colour('bad');
    for (const { from } of marked.slice(0, 2000)) context.fillRect(from * scale, 0, 1.5, HEIGHT);
    // Wider than a marked place, and from the top alone.
    for (const { tick, isBad } of incidents) {
      context.fillStyle = colour(isBad ? 'bad' : 'doubt');
      context.fillRect(tick * scale - 1.5, 0, 3, HEIGHT / 2);
    }
    context.fillStyle = colour('signal');
    for (const trigger of axis.triggers) context.fillRect(trigger * scale - 0.75, 0, 1.5, HEIGHT);
    const [from, wide] = [view.first * scale, Math.max(3, width * view.perPixel * scale)];
    context.fillStyle = colour('line');
    context.globalAlpha = 0.55;
    context.fillRect(0, 0, Math.max(0, from), HEIGHT);
    context.fillRect(from + wide, 0, width, HEIGHT);
    context.globalAlpha = 1;
    context.strokeStyle = colour('ink');
    context.strokeRect(from + 0.5, 0.5, wide - 1, HEIGHT - 1);
  }, [counts, axis, view, width, marked, incidents, ratio, dark]);
  const go = (event: PointerEvent<HTMLCanvasElement>) => {
    if (event.type === 'pointermove' && event.buttons === 0) return;
    onView({ ...view, first: (event.nativeEvent.offsetX / width) * axis.length - (width * view.perPixel) / 2 });
  };
  return (
    <canvas
      ref={canvas}
      data-testid="overview"
      role="img"
      aria-label="The whole record; the frame is what is on screen"
      width={width * ratio}
      height={HEIGHT * ratio}
      style={{ width, height: HEIGHT, touchAction: 'none' }}
      className="block cursor-pointer"
      onPointerDown={go}
      onPointerMove={go}
    />
  );
}
