import { item } from '../../../core/lists.ts';
import { colour } from '../../shared/index.ts';
import type { KeptTrace } from '../../../server/index.ts';

/** Height of a signal, in pixels of the page. */
export const ROW = 20;

/** Draws the signals between two times over the whole width. */
export function drawTrace(
  canvas: HTMLCanvasElement,
  signals: KeptTrace['signals'],
  [from, to]: readonly [number, number],
  width: number,
  density: number,
): void {
  canvas.width = Math.max(1, Math.round(width * density));
  canvas.height = Math.max(1, Math.round(signals.length * ROW * density));
  const pen = canvas.getContext('2d');
  if (!pen) return;
  pen.scale(density, density);
  pen.font = '10px "B612 Mono", monospace';
  pen.textBaseline = 'middle';
  const x = (time: number) => ((time - from) / (to - from)) * width;
  for (const [i, signal] of signals.entries()) {
    const top = i * ROW + 3;
    const bottom = (i + 1) * ROW - 3;
    let k = Math.max(0, lastBefore(signal.times, from));
    let last: number | null = null;
    for (; k < signal.times.length && item(signal.times, k) < to; k++) {
      const start = Math.max(0, x(item(signal.times, k)));
      const end = Math.min(width, x(signal.times[k + 1] ?? Number.POSITIVE_INFINITY));
      const word = signal.values[k] as { value: string; unknown: string };
      if (end - start < 0.5) {
        pen.fillStyle = colour('ink');
        pen.fillRect(start, top, 1, bottom - top);
        last = null;
        continue;
      }
      if (word.unknown !== '0') hatch(pen, start, end, top, bottom);
      else if (signal.width === 1) last = level(pen, start, end, word.value === '1' ? top : bottom, last);
      else box(pen, start, end, top, bottom, nameOf(signal, word.value));
      if (word.unknown !== '0' || signal.width > 1) last = null;
    }
  }
}

function nameOf(signal: KeptTrace['signals'][number], value: string): string {
  return signal.names.find((entry) => entry.value === value)?.name ?? BigInt(value).toString(16).toUpperCase();
}

/** Index of the last change at or before a time. */
function lastBefore(times: readonly number[], time: number): number {
  let low = 0;
  let high = times.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (item(times, middle) <= time) low = middle;
    else high = middle - 1;
  }
  return low;
}

function level(pen: CanvasRenderingContext2D, start: number, end: number, y: number, before: number | null): number {
  pen.strokeStyle = colour('ink');
  pen.beginPath();
  if (before !== null) pen.moveTo(start + 0.5, before);
  pen.lineTo(start + 0.5, y);
  pen.lineTo(end + 0.5, y);
  pen.stroke();
  return y;
}

function box(
  pen: CanvasRenderingContext2D,
  start: number,
  end: number,
  top: number,
  bottom: number,
  text: string,
): void {
  pen.strokeStyle = colour('ink');
  pen.strokeRect(start + 0.5, top, end - start, bottom - top);
  if (pen.measureText(text).width < end - start - 6) {
    pen.fillStyle = colour('ink');
    pen.fillText(text, start + 4, (top + bottom) / 2 + 0.5);
  }
}

function hatch(pen: CanvasRenderingContext2D, start: number, end: number, top: number, bottom: number): void {
  pen.save();
  pen.beginPath();
  pen.rect(start, top, end - start, bottom - top);
  pen.clip();
  pen.strokeStyle = colour('doubt');
  pen.globalAlpha = 0.7;
  pen.beginPath();
  for (let at = start - (bottom - top); at < end; at += 5) {
    pen.moveTo(at, bottom);
    pen.lineTo(at + bottom - top, top);
  }
  pen.stroke();
  pen.restore();
}
