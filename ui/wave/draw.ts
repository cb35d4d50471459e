import { changeAt, type Trace } from './decode.ts';

/** Which samples are on screen: `first` at the left edge, `perPixel` samples a pixel; fractions allowed. */
export interface View {
  readonly first: number;
  readonly perPixel: number;
}

export interface Scene {
  readonly traces: readonly Trace[];
  readonly samples: number;
  readonly triggerIndex: number;
  readonly sampleRate: number;
  readonly cursor: number | null;
  readonly view: View;
}

export const ROW = 30;
export const AXIS = 30;
const PAD = 6;

/** Colour means clock domain, never bit or bus. */
const DOMAIN_COLOURS = ['#1d5f78', '#8a4b12', '#5b4a8a', '#3f7d4e'];
const INK = '#1d2433';
const QUIET = '#5b6475';
const LINE = '#d8d2c4';
const SIGNAL = '#d9541e';

export const domainsOf = (traces: readonly Trace[]): string[] => [...new Set(traces.map((trace) => trace.domain))];

export const colourOf = (domains: readonly string[], domain: string): string => DOMAIN_COLOURS[domains.indexOf(domain) % DOMAIN_COLOURS.length] as string;

/** Time from the trigger, with the unit that suits the size. */
export function timeText(samples: number, sampleRate: number): string {
  const ns = (samples / sampleRate) * 1e9;
  const size = Math.abs(ns);
  if (size >= 1e6) return `${+(ns / 1e6).toFixed(3)} ms`;
  if (size >= 1e3) return `${+(ns / 1e3).toFixed(3)} µs`;
  return `${+ns.toFixed(1)} ns`;
}

export function draw(context: CanvasRenderingContext2D, width: number, height: number, scene: Scene): void {
  context.clearRect(0, 0, width, height);
  context.font = '11px "Code marks", "B612 Mono", monospace';
  context.textBaseline = 'middle';
  axis(context, width, height, scene);
  const domains = domainsOf(scene.traces);
  for (const [row, trace] of scene.traces.entries()) {
    const top = AXIS + row * ROW;
    context.strokeStyle = LINE;
    line(context, 0, top + ROW - 0.5, width, top + ROW - 0.5);
    context.strokeStyle = colourOf(domains, trace.domain);
    context.fillStyle = context.strokeStyle;
    context.lineWidth = 1.25;
    if (trace.width === 1) scalar(context, width, top, trace, scene);
    else bus(context, width, top, trace, scene);
    context.lineWidth = 1;
  }
  mark(context, height, scene, scene.triggerIndex, SIGNAL, [4, 3]);
  context.fillStyle = SIGNAL;
  context.fillText('trigger', x(scene, scene.triggerIndex) + 4, AXIS - 6);
  if (scene.cursor !== null) mark(context, height, scene, scene.cursor, INK, []);
}

const x = ({ view }: Scene, sample: number): number => (sample - view.first) / view.perPixel;

function line(context: CanvasRenderingContext2D, x1: number, y1: number, x2: number, y2: number): void {
  context.beginPath();
  context.moveTo(x1, y1);
  context.lineTo(x2, y2);
  context.stroke();
}

/** Steps of 1, 2 or 5 so that labels stand at least 110 pixels apart, counted from the trigger. */
function axis(context: CanvasRenderingContext2D, width: number, height: number, scene: Scene): void {
  const least = scene.view.perPixel * 110;
  const power = 10 ** Math.floor(Math.log10(Math.max(1, least)));
  const step = [1, 2, 5, 10].map((f) => f * power).find((s) => s >= least) ?? power * 10;
  const from = Math.ceil((scene.view.first - scene.triggerIndex) / step) * step;
  for (let offset = from; ; offset += step) {
    const at = x(scene, scene.triggerIndex + offset);
    if (at > width) return;
    context.strokeStyle = LINE;
    line(context, Math.round(at) + 0.5, AXIS - 6, Math.round(at) + 0.5, height);
    context.fillStyle = QUIET;
    context.fillText(timeText(offset, scene.sampleRate), at + 3, 8);
  }
}

/** A level drawn pixel by pixel: however many changes fall into one pixel, they show as one upright. */
function scalar(context: CanvasRenderingContext2D, width: number, top: number, trace: Trace, scene: Scene): void {
  const level = (index: number) => (trace.text[index] === '1' ? top + PAD : top + ROW - PAD);
  const end = Math.min(width, x(scene, scene.samples));
  let index = changeAt(trace, Math.max(0, scene.view.first));
  let at = Math.max(0, x(scene, 0));
  context.beginPath();
  context.moveTo(at, level(index));
  while (index + 1 < trace.at.length) {
    const next = x(scene, trace.at[index + 1] as number);
    if (next > end) break;
    const pixelEnd = Math.floor(next) + 1;
    context.lineTo(next, level(index));
    const last = Math.max(index + 1, changeAt(trace, scene.view.first + pixelEnd * scene.view.perPixel - 1e-6));
    if (last > index + 1) {
      context.lineTo(next, top + PAD);
      context.lineTo(next, top + ROW - PAD);
    }
    index = last;
    context.lineTo(next, level(index));
    at = next;
  }
  context.lineTo(end, level(index));
  context.stroke();
}

/** A word: two rails that cross where it changes, its value between them where there is room; solid where it changes too fast to see. */
function bus(context: CanvasRenderingContext2D, width: number, top: number, trace: Trace, scene: Scene): void {
  const [high, low] = [top + PAD, top + ROW - PAD];
  const end = Math.min(width, x(scene, scene.samples));
  let index = changeAt(trace, Math.max(0, scene.view.first));
  while (index < trace.at.length) {
    const from = Math.max(0, x(scene, trace.at[index] as number));
    if (from > end) return;
    const to = Math.min(end, index + 1 < trace.at.length ? x(scene, trace.at[index + 1] as number) : end);
    if (to - from < 3 && index + 1 < trace.at.length) {
      // Gather everything until a value lasts three pixels.
      let last = index;
      while (last + 1 < trace.at.length && x(scene, trace.at[last + 1] as number) - x(scene, trace.at[last] as number) < 3 && x(scene, trace.at[last + 1] as number) < end)
        last = Math.max(last + 1, changeAt(trace, (trace.at[last] as number) + scene.view.perPixel));
      const until = last + 1 <= trace.at.length ? Math.min(end, x(scene, trace.at[Math.max(last, index + 1)] ?? scene.samples)) : end;
      context.globalAlpha = 0.45;
      context.fillRect(from, high, Math.max(1, until - from), low - high);
      context.globalAlpha = 1;
      index = Math.max(last, index + 1);
      continue;
    }
    const slope = Math.min(3, (to - from) / 2);
    context.beginPath();
    context.moveTo(from, (high + low) / 2);
    context.lineTo(from + slope, high);
    context.lineTo(to - slope, high);
    context.lineTo(to, (high + low) / 2);
    context.lineTo(to - slope, low);
    context.lineTo(from + slope, low);
    context.closePath();
    context.stroke();
    const text = trace.text[index] as string;
    const room = to - from - 10;
    if (room > 8) {
      const fits = Math.floor(room / 6.7);
      if (fits >= Math.min(2, text.length)) context.fillText(text.length > fits ? `${text.slice(0, Math.max(1, fits - 1))}…` : text, from + 6, (high + low) / 2 + 0.5);
    }
    index++;
  }
}

function mark(context: CanvasRenderingContext2D, height: number, scene: Scene, sample: number, colour: string, dash: number[]): void {
  const at = Math.round(x(scene, sample)) + 0.5;
  context.strokeStyle = colour;
  context.setLineDash(dash);
  context.lineWidth = 1.5;
  line(context, at, 0, at, height);
  context.setLineDash([]);
  context.lineWidth = 1;
}
