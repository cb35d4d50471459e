import type { WaveCursor, WaveNote } from '../../core/wave/index.ts';
import { colour } from '../shared/index.ts';
import { AXIS, axisSteps, FONT, pixelOf, type Scene, timeText } from './draw.ts';

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
export function drawOver(
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
  drawIncidents(context, scene, width);
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

/** A cross at its place, and what it was where that has room before the next one. */
function drawIncidents(context: CanvasRenderingContext2D, { incidents, view }: Scene, width: number): void {
  let free = 0;
  for (const [i, { tick, text, isBad }] of incidents.entries()) {
    const x = pixelOf(view, tick);
    if (x < 0 || x > width) continue;
    context.strokeStyle = colour(isBad ? 'bad' : 'doubt');
    context.fillStyle = context.strokeStyle;
    context.lineWidth = 2;
    context.beginPath();
    for (const side of [-4, 4]) {
      context.moveTo(x - side, AXIS - 11);
      context.lineTo(x + side, AXIS - 3);
    }
    context.stroke();
    context.lineWidth = 1;
    const next = incidents[i + 1];
    const room = Math.min(width, next ? pixelOf(view, next.tick) - 6 : width) - (x + 8);
    if (x + 8 < free || room < LEAST_TEXT) continue;
    const shown = fitting(context, text, room);
    context.fillText(shown, x + 8, AXIS - 7);
    free = x + 8 + context.measureText(shown).width + 4;
  }
}

const LEAST_TEXT = 60;
const LONGEST_TEXT = 48;

function fitting(context: CanvasRenderingContext2D, text: string, room: number): string {
  const letters = Math.min(LONGEST_TEXT, Math.floor(room / context.measureText('m').width));
  return text.length > letters ? `${text.slice(0, letters - 1)}…` : text;
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
