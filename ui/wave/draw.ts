import { floatAt, item, wordAt } from '../../core/lists.ts';
import {
  type Axis,
  type Difference,
  type Frame,
  lastAt,
  type Radix,
  rangeIn,
  secondsText,
  type Stretch,
  timeAt,
  writeValue,
  zeroOf,
} from '../../core/wave/index.ts';
import { colour } from '../shared/index.ts';
import type { DrawnTrace } from './messages.ts';

/** Something that happened while it was recorded, such as an assertion that failed. */
export interface Incident {
  readonly tick: number;
  readonly text: string;
  readonly isBad: boolean;
}

/** What is on screen: `first` tick at the left edge, `perPixel` ticks a pixel. */
export interface View {
  readonly first: number;
  readonly perPixel: number;
}

export type DrawnRow =
  | {
      readonly kind: 'signal';
      readonly id: string;
      readonly name: string;
      readonly drawn: DrawnTrace | null;
      readonly radix: Radix;
      readonly analog: boolean;
    }
  | { readonly kind: 'decoder'; readonly id: string; readonly name: string; readonly frames: readonly Frame[] }
  | { readonly kind: 'group'; readonly id: string; readonly name: string };

export interface Scene {
  readonly axis: Axis;
  readonly rows: readonly DrawnRow[];
  readonly view: View;
  readonly domains: readonly string[];
  /** Places that break a rule or that a search found. */
  readonly marked: readonly Stretch[];
  readonly markedBad: boolean;
  readonly differences: readonly Difference[];
  /** Ascending. */
  readonly incidents: readonly Incident[];
}

const ROW = 26;
const ANALOG = 64;
export const AXIS = 34;
const PAD = 5;

export const rowHeight = (row: DrawnRow): number => (row.kind === 'signal' && row.analog ? ANALOG : ROW);

/** Colour means clock domain, never bit or bus. */
const DOMAIN_COLOURS = ['domain-1', 'domain-2', 'domain-3', 'domain-4'] as const;
export const FONT = '11px "Code marks", "B612 Mono", monospace';
const LETTER = 6.7;

export const colourOf = (domains: readonly string[], domain: string) =>
  domain === '' ? 'ink' : item(DOMAIN_COLOURS, domains.indexOf(domain) % DOMAIN_COLOURS.length);

export const pixelOf = ({ first, perPixel }: View, tick: number): number => (tick - first) / perPixel;

/** Time from the trigger, as fine as a step needs it. */
export const timeText = (axis: Axis, tick: number, step?: number): string =>
  timeAt(axis, tick, step) ?? 'other segment';

/** Pixels between two labels, at least. */
const APART = 110;

interface AxisSteps {
  readonly ticks: readonly number[];
  /** Seconds from one to the next. */
  readonly seconds: number;
}

/** Steps of 1, 2 or 5 so far from each other that their labels have room, counted from the trigger. */
export function axisSteps({ axis, view }: Pick<Scene, 'axis' | 'view'>, width: number): AxisSteps {
  const zero = zeroOf(axis);
  const last = Math.min(view.first + width * view.perPixel, axis.length);
  const roomy = stepFor(axis, view, APART);
  const label = timeText(axis, Math.round(last), roomy);
  const seconds = stepFor(axis, view, Math.max(APART, label.length * LETTER + 16));
  const step = seconds / axis.tickSeconds;
  const ticks: number[] = [];
  for (let i = Math.ceil((view.first - zero) / step); ; i++) {
    const tick = zero + i * step;
    if (tick > view.first + width * view.perPixel) return { ticks, seconds };
    ticks.push(tick);
  }
}

function stepFor(axis: Axis, view: View, pixels: number): number {
  const least = view.perPixel * pixels * axis.tickSeconds;
  const power = 10 ** Math.floor(Math.log10(least));
  return [1, 2, 5, 10].map((f) => f * power).find((s) => s >= least * 0.999) ?? power * 10;
}

/** Draws the rows between two heights on a canvas that is clear. */
export function draw(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  scene: Scene,
  from = 0,
  to = height,
): void {
  context.font = FONT;
  context.textBaseline = 'middle';
  context.lineWidth = 1;
  grid(context, width, height, scene);
  stripes(context, height, scene);
  let top = 0;
  for (const row of scene.rows) {
    const high = rowHeight(row);
    if (top + high > from && top < to) drawRow(context, width, top, high, row, scene);
    top += high;
  }
  gaps(context, width, height, scene);
  for (const trigger of scene.axis.triggers)
    upright(context, height, pixelOf(scene.view, trigger), width, colour('signal'), [4, 3]);
  for (const { tick, isBad } of scene.incidents)
    upright(context, height, pixelOf(scene.view, tick), width, colour(isBad ? 'bad' : 'doubt'), [2, 3]);
}

function grid(context: CanvasRenderingContext2D, width: number, height: number, scene: Scene): void {
  context.strokeStyle = colour('line');
  context.globalAlpha = 0.6;
  context.beginPath();
  for (const tick of axisSteps(scene, width).ticks) {
    const x = Math.round(pixelOf(scene.view, tick)) + 0.5;
    context.moveTo(x, 0);
    context.lineTo(x, height);
  }
  context.stroke();
  context.globalAlpha = 1;
}

/** Found places as a light band over all rows. */
function stripes(context: CanvasRenderingContext2D, height: number, { marked, markedBad, view }: Scene): void {
  if (marked.length === 0) return;
  context.fillStyle = colour(markedBad ? 'bad' : 'signal');
  context.globalAlpha = 0.16;
  const last = view.first + context.canvas.width * view.perPixel;
  let until = Number.NEGATIVE_INFINITY;
  for (const { from, to } of marked) {
    if (to < view.first) continue;
    if (from > last) break;
    const x = Math.max(pixelOf(view, from), until);
    const end = Math.max(x + 2, pixelOf(view, to));
    context.fillRect(x, 0, end - x, height);
    until = end;
  }
  context.globalAlpha = 1;
}

function drawRow(
  context: CanvasRenderingContext2D,
  width: number,
  top: number,
  high: number,
  row: DrawnRow,
  scene: Scene,
): void {
  context.strokeStyle = colour('line');
  context.lineWidth = 1;
  context.beginPath();
  context.moveTo(0, top + high - 0.5);
  context.lineTo(width, top + high - 0.5);
  context.stroke();
  if (row.kind === 'group') return;
  if (row.kind === 'decoder') return frames(context, width, top, row.frames, scene.view);
  if (!row.drawn) return;
  const { trace } = row.drawn;
  for (const { name, from, to } of scene.differences) {
    if (name !== trace.name) continue;
    const x = pixelOf(scene.view, from);
    context.fillStyle = colour('bad');
    context.globalAlpha = 0.2;
    context.fillRect(x, top + 1, Math.max(2, pixelOf(scene.view, to) - x), high - 2);
    context.globalAlpha = 1;
  }
  context.strokeStyle = colour(colourOf(scene.domains, trace.domain));
  context.fillStyle = context.strokeStyle;
  context.lineWidth = 1.25;
  if (row.analog && row.drawn.ranges) analog(context, width, top, high, row.drawn, scene);
  else if (trace.width === 1) scalar(context, width, top, row.drawn, scene);
  else bus(context, width, top, row.drawn, row.radix, scene);
}

/** Columns of the canvas that show a part of the record. */
function span(width: number, { view, axis }: Scene): [number, number] {
  return [Math.max(0, Math.floor(pixelOf(view, 0))), Math.min(width, Math.ceil(pixelOf(view, axis.length)))];
}

/**
 * Walks over a trace from left to right: stretches in which one value is long enough to be seen, and stretches in which
 * it changes within every pixel. However many changes fall into one pixel, they show.
 */
function walk(
  { trace, steps }: DrawnTrace,
  width: number,
  scene: Scene,
  least: number,
  steady: (from: number, to: number, index: number) => void,
  busy: (from: number, to: number) => void,
): void {
  const { view, axis } = scene;
  const [start, end] = span(width, scene);
  let x: number = start;
  let index = lastAt(trace, steps, Math.max(0, view.first + x * view.perPixel));
  let busyFrom: number | null = null;
  const flush = (at: number) => {
    if (busyFrom !== null && at > busyFrom) busy(busyFrom, at);
    busyFrom = null;
  };
  while (x < end) {
    const next = trace.at[index + 1] ?? axis.length;
    const until = Math.min(end, pixelOf(view, next));
    if (until - x >= least || index + 1 >= trace.at.length) {
      flush(x);
      steady(x, until, index);
      x = until;
      index++;
      if (index >= trace.at.length) return;
      continue;
    }
    // Too short to be seen by itself: go on to the end of this pixel, whatever happens in it.
    busyFrom ??= x;
    const edge = Math.max(Math.floor(x) + 1, Math.floor(until) + 1);
    const after = lastAt(trace, steps, view.first + edge * view.perPixel);
    if (after <= index) {
      index = index + 1;
      x = until;
    } else {
      index = after;
      x = Math.min(end, Math.max(edge, x + 1e-9));
    }
  }
  flush(Math.min(end, x));
}

function scalar(context: CanvasRenderingContext2D, width: number, top: number, drawn: DrawnTrace, scene: Scene): void {
  const { trace } = drawn;
  const [high, low] = [top + PAD, top + ROW - PAD];
  const path = new Path2D();
  const solid = new Path2D();
  const hatched: [number, number][] = [];
  let lastY: number | null = null;
  walk(
    drawn,
    width,
    scene,
    1,
    (from, to, index) => {
      if (index < 0 || (trace.unknown && (wordAt(trace.unknown, index) & 1) === 1)) {
        hatched.push([from, to]);
        lastY = null;
        return;
      }
      const y = (wordAt(trace.bits, index) & 1) === 1 ? high : low;
      if (lastY !== null && lastY !== y) path.moveTo(from, lastY);
      else path.moveTo(from, y);
      path.lineTo(from, y);
      path.lineTo(to, y);
      lastY = y;
    },
    (from, to) => {
      solid.rect(from, high, Math.max(1, to - from), low - high);
      lastY = null;
    },
  );
  context.stroke(path);
  context.fill(solid);
  for (const [from, to] of hatched) hatch(context, from, to, high, low);
}

function bus(
  context: CanvasRenderingContext2D,
  width: number,
  top: number,
  drawn: DrawnTrace,
  radix: Radix,
  scene: Scene,
): void {
  const { trace } = drawn;
  const [high, low] = [top + PAD, top + ROW - PAD];
  const middle = (high + low) / 2;
  const path = new Path2D();
  const solid = new Path2D();
  const texts: [string, number][] = [];
  const { view } = scene;
  walk(
    drawn,
    width,
    scene,
    3,
    (from, to, index) => {
      const open = index < 0 || (trace.unknown !== null && isOpen(drawn, index));
      if (open) hatch(context, from, to, high, low);
      const slope = Math.min(3, (to - from) / 2);
      const cutLeft = index >= 0 && floatAt(trace.at, index) < view.first;
      path.moveTo(from, cutLeft ? high : middle);
      path.lineTo(from + (cutLeft ? 0 : slope), high);
      path.lineTo(to - slope, high);
      path.lineTo(to, middle);
      path.lineTo(to - slope, low);
      path.lineTo(from + (cutLeft ? 0 : slope), low);
      if (!cutLeft) path.lineTo(from, middle);
      const fits = Math.floor((to - from - 9) / LETTER);
      if (fits < 1 || index < 0) return;
      const text = writeValue(trace, index, radix);
      if (text.length <= fits) texts.push([text, from + 6]);
      else if (fits >= 2) texts.push([`${text.slice(0, fits - 1)}…`, from + 6]);
    },
    (from, to) => solid.rect(from, high, Math.max(1, to - from), low - high),
  );
  context.stroke(path);
  context.globalAlpha = 0.45;
  context.fill(solid);
  context.globalAlpha = 1;
  for (const [text, x] of texts) context.fillText(text, x, middle + 0.5);
}

function isOpen({ trace }: DrawnTrace, index: number): boolean {
  for (let i = 0; i < trace.words; i++) if (trace.unknown?.[index * trace.words + i] !== 0) return true;
  return false;
}

/** Values as heights, between the least and the most of the whole record. */
function analog(
  context: CanvasRenderingContext2D,
  width: number,
  top: number,
  height: number,
  drawn: DrawnTrace,
  scene: Scene,
): void {
  const { trace, steps, ranges } = drawn;
  if (!ranges || trace.at.length === 0) return;
  const whole = rangeIn(ranges, 0, trace.at.length - 1);
  if (whole.least > whole.most) return hatch(context, 0, width, top + PAD, top + height - PAD);
  const scale = (height - 2 * PAD) / Math.max(1e-12, whole.most - whole.least);
  const y = (amount: number) =>
    whole.most === whole.least ? top + height / 2 : top + height - PAD - (amount - whole.least) * scale;
  const { view } = scene;
  const [start, end] = span(width, scene);
  const path = new Path2D();
  const solid = new Path2D();
  let last: number | null = null;
  for (let x = start; x < end; x++) {
    const from = lastAt(trace, steps, view.first + x * view.perPixel);
    const to = Math.max(from, lastAt(trace, steps, view.first + (x + 1) * view.perPixel - 1e-9));
    if (to < 0) continue;
    const { least, most } = rangeIn(ranges, Math.max(0, from), to);
    if (least > most) {
      last = null;
      continue;
    }
    if (to - from > 1) {
      solid.rect(x, y(most), 1, Math.max(1.25, y(least) - y(most)));
      last = null;
      continue;
    }
    const amount = floatAt(ranges.amount, to);
    const at = y(amount);
    const changes = to > from ? pixelOf(view, floatAt(trace.at, to)) : x;
    if (last === null) path.moveTo(x, at);
    else if (last !== at) {
      path.lineTo(changes, last);
      path.lineTo(changes, at);
    }
    path.lineTo(x + 1, at);
    last = at;
  }
  context.stroke(path);
  context.fill(solid);
  context.fillStyle = colour('quiet');
  context.fillText(shortNumber(whole.most), 4, top + PAD + 5);
  if (whole.least !== whole.most) context.fillText(shortNumber(whole.least), 4, top + height - PAD - 5);
}

const shortNumber = (value: number): string =>
  Math.abs(value) >= 1e6 ? value.toExponential(2) : String(+value.toPrecision(6));

/** Unknown is hatched, not red. */
function hatch(context: CanvasRenderingContext2D, from: number, to: number, high: number, low: number): void {
  context.save();
  context.beginPath();
  context.rect(from, high, to - from, low - high);
  context.clip();
  context.lineWidth = 1;
  context.globalAlpha = 0.6;
  context.beginPath();
  const tall = low - high;
  for (let x = Math.floor(from / 5) * 5 - tall; x < to; x += 5) {
    context.moveTo(x, low);
    context.lineTo(x + tall, high);
  }
  context.stroke();
  context.restore();
}

/** Where nothing was stored: paper over the rows, with broken edges, and how long it was where there is room. */
function gaps(context: CanvasRenderingContext2D, width: number, height: number, { axis, view }: Scene): void {
  for (const gap of axis.gaps) {
    const [from, to] = [pixelOf(view, gap.from), pixelOf(view, gap.to)];
    if (to < 0 || from > width) continue;
    context.fillStyle = colour('paper');
    context.globalAlpha = to - from > 6 ? 0.88 : 0.6;
    context.fillRect(from, 0, Math.max(1, to - from), height);
    context.globalAlpha = 1;
    if (to - from < 6) continue;
    context.strokeStyle = colour('quiet');
    context.setLineDash([2, 3]);
    context.beginPath();
    for (const x of [from + 1, to - 1]) {
      context.moveTo(x, 0);
      context.lineTo(x, height);
    }
    context.stroke();
    context.setLineDash([]);
    const text = gap.ticks === null ? '?' : secondsText(gap.ticks * axis.tickSeconds);
    if (to - from < text.length * LETTER + 8) continue;
    context.fillStyle = colour('quiet');
    context.fillText(text, (from + to - text.length * LETTER) / 2, 12);
  }
}

function frames(
  context: CanvasRenderingContext2D,
  width: number,
  top: number,
  list: readonly Frame[],
  view: View,
): void {
  const [high, low] = [top + 3, top + ROW - 4];
  for (const { from, to, text, trouble, way } of list) {
    const [x, end] = [pixelOf(view, from), pixelOf(view, to)];
    if (end < 0 || x > width) continue;
    // Both directions share one row, one above the other.
    const [upper, lower] =
      way === undefined ? [high, low] : way === 'out' ? [high, (high + low) / 2 - 0.5] : [(high + low) / 2 + 0.5, low];
    context.fillStyle = colour(trouble ? 'bad' : 'well');
    context.fillRect(x, upper, Math.max(1.5, end - x - 1), lower - upper);
    const fits = Math.floor((end - x - 6) / LETTER);
    if (fits < 1 || (way !== undefined && lower - upper < 9)) continue;
    context.fillStyle = colour(trouble ? 'raised' : 'ink');
    context.font = way === undefined ? FONT : FONT.replace('11px', '9px');
    context.fillText(
      text.length <= fits ? text : `${text.slice(0, Math.max(1, fits - 1))}…`,
      x + 3,
      (upper + lower) / 2 + 0.5,
    );
  }
  context.font = FONT;
}

function upright(
  context: CanvasRenderingContext2D,
  height: number,
  x: number,
  width: number,
  colour: string,
  dash: number[],
): void {
  if (x < 0 || x > width) return;
  context.strokeStyle = colour;
  context.lineWidth = 1.5;
  context.setLineDash(dash);
  context.beginPath();
  context.moveTo(Math.round(x) + 0.5, 0);
  context.lineTo(Math.round(x) + 0.5, height);
  context.stroke();
  context.setLineDash([]);
}
