import { bitTimeOf, measuredRate, type PulseRun } from './measure.ts';
import { type SerialFrame, SerialReceiver } from './receiver.ts';
import type { SerialSettings } from './settings.ts';

/** Settings that make sense of what arrives. */
export interface Fit {
  readonly settings: SerialSettings;
  /** What was measured, in bit/s; `settings.rate` is the usual one where that is near. */
  readonly rate: number;
  readonly frames: number;
  /** Of these, frames with something wrong. */
  readonly wrong: number;
}

/** Fewer frames than these may fit by chance: no parity is claimed from them, or no settings at all. */
const LEAST_FOR_PARITY = 16;
const LEAST_FRAMES = 3;
/** What has more wrong than this share does not fit. */
const MOST_WRONG = 0.1;
/** A line that was at 1 for so many bits has ended its frame, whatever it looks like. */
const LONGEST_FRAME = 12;

const SHAPES = ([8, 7, 6, 5] as const).flatMap((dataBits) =>
  (['none', 'even', 'odd'] as const).map((parity) => ({ dataBits, parity })),
);

/**
 * The settings under which what arrives has fewest frames with something wrong; null where there is too little, or
 * nothing fits. Of several: those whose parity is right in many frames and was both 0 and 1, then those that read as
 * text, then those with more data bits. One stop bit: a second one cannot be told from a pause.
 */
export function fittingSettings(runs: readonly PulseRun[]): Fit | null {
  const bit = bitTimeOf(runs.flatMap(({ widths }) => widths));
  if (bit === null) return null;
  const { rate, usual } = measuredRate(bit);
  const bursts = runs.flatMap((run) => burstsOf(run, LONGEST_FRAME * bit));
  const read = SHAPES.map((shape) => {
    const settings: SerialSettings = { rate: usual ?? Math.round(rate), ...shape, stopBits: 1 };
    const frames = bursts.flatMap((burst) => framesOf(burst, settings, bit));
    return { settings, ...judged(frames, shape) };
  });
  const fitting = read.filter(({ frames, share }) => frames >= LEAST_FRAMES && share <= MOST_WRONG);
  const [best] = fitting.sort(
    (a, b) => a.share - b.share || b.parity - a.parity || b.text - a.text || b.settings.dataBits - a.settings.dataBits,
  );
  return best ? { settings: best.settings, rate, frames: best.frames, wrong: best.wrong } : null;
}

function judged(frames: readonly SerialFrame[], { parity }: Pick<SerialSettings, 'parity'>) {
  const good = frames.filter(({ trouble }) => trouble === null);
  // A break is no sign of wrong settings.
  const counted = frames.filter(({ trouble }) => trouble !== 'break');
  const wrong = counted.length - good.length;
  const ones = new Set(good.map(({ value }) => onesIn(value) % 2));
  const isMet = parity !== 'none' && good.length >= LEAST_FOR_PARITY && ones.size === 2;
  const text = good.length === 0 ? 0 : good.filter(({ value }) => isText(value)).length / good.length;
  return {
    ...{ frames: counted.length, wrong, share: counted.length === 0 ? 1 : wrong / counted.length },
    parity: parity === 'none' ? 0 : isMet ? 1 : -1,
    text: Math.round(10 * text),
  };
}

const onesIn = (value: number): number => value.toString(2).replaceAll('0', '').length;

const isText = (value: number): boolean => (value >= 0x20 && value < 0x7f) || value === 0x0d || value === 0x0a;

/** Falls and rises one after the other, each stretch beginning with a fall after the line was at 1 for a while. */
function burstsOf({ level, widths }: PulseRun, pause: number): (readonly number[])[] {
  const bursts: number[][] = [];
  let open: number[] | null = null;
  for (const [i, width] of widths.entries()) {
    const isHigh = (level === 1) === (i % 2 === 0);
    if (open === null && !isHigh) bursts.push((open = []));
    open?.push(width);
    if (isHigh && width >= pause) open = null;
  }
  return bursts;
}

/** Frames of one stretch: what follows it is a line at 1. */
function framesOf(widths: readonly number[], settings: SerialSettings, bit: number): SerialFrame[] {
  const receiver = new SerialReceiver(settings, bit);
  const frames: (SerialFrame | null)[] = [];
  let at = 0;
  for (const [i, width] of widths.entries()) {
    frames.push(receiver.edge(at, i % 2 === 1));
    at += width;
  }
  frames.push(receiver.edge(at, true), receiver.passed(at + LONGEST_FRAME * bit));
  return frames.filter((frame) => frame !== null);
}
