import { byteAt, floatAt } from '../lists.ts';
import { STAMP_BITS } from '../probes/index.ts';
import { type Expression, readExpression } from '../trigger/index.ts';
import type { Capture } from './capture.ts';
import type { Gap, Recording } from './recording.ts';
import { type Trace, TraceWriter, wordsOf } from './trace.ts';

/** Whether a time in which nothing was stored is drawn as long as it was, or short. */
export type GapStyle = 'true' | 'short';

/** A short gap takes at most this share of what was stored. */
const SHORT_SHARE = 200;
const LEAST_SHORT = 2;

/** A capture with ticks of its sampling clock. Without time stamps the time between two segments is not known. */
export function recordingOf(capture: Capture, gapStyle: GapStyle = 'short'): Recording {
  const { samples, segments = 1, triggerIndex, sampleRate, recorder } = capture;
  const size = capture.segmentSize ?? samples / segments;
  const short = Math.max(LEAST_SHORT, Math.round(samples / SHORT_SHARE));
  const times = capture.stampAt === undefined ? null : stampsOf(capture);
  const ticks = new Float64Array(samples);
  const gaps: Gap[] = [];
  for (let i = 1; i < samples; i++) {
    const before = floatAt(ticks, i - 1);
    const apart = times ? floatAt(times, i) - floatAt(times, i - 1) : 1;
    const unknown = !times && i % size === 0;
    if (apart === 1 && !unknown) {
      ticks[i] = before + 1;
      continue;
    }
    const isSegment = i % size === 0;
    const drawn = unknown ? short : gapStyle === 'true' ? apart - 1 : Math.min(apart - 1, short);
    ticks[i] = before + 1 + drawn;
    gaps.push({
      from: before + 1,
      to: before + 1 + drawn,
      ticks: unknown ? null : apart - 1,
      ...(isSegment ? { why: 'segments' as const } : {}),
    });
  }
  const holding = heldBy(capture.keep ?? '');
  const triggers = Array.from({ length: segments }, (_, i) => floatAt(ticks, i * size + triggerIndex));
  return {
    title: recorder,
    tickSeconds: 1 / sampleRate,
    length: (ticks[samples - 1] ?? -1) + 1,
    triggers,
    traces: capture.signals.map((signal) => traceOf(capture, signal, ticks, holding(signal.name))),
    gaps,
    stored: gaps.length > 0 ? ticks : null,
    sampled: true,
  };
}

/**
 * Whether a qualifier stores every change of a signal, so that its value is known between the stored samples too: "a
 * changes or b rises" does for a. A qualifier that cannot be read holds nothing.
 */
function heldBy(keep: string): (signal: string) => boolean {
  const read = keep === '' ? null : readExpression(keep);
  const names = read?.ok ? changesIn(read.value) : [];
  return (signal) => names.some((name) => signal === name || signal.endsWith(`.${name}`));
}

function changesIn(expression: Expression): string[] {
  if (expression.kind === 'either') return [...changesIn(expression.left), ...changesIn(expression.right)];
  return expression.kind === 'edge' && expression.edge === 'changes' ? [expression.signal.text] : [];
}

/** Sampling clocks since arming, of every stored sample; the counter wraps, time does not. */
function stampsOf({ data, samples, sampleBits, stampAt = 0 }: Capture): Float64Array {
  const times = new Float64Array(samples);
  for (let i = 0; i < samples; i++) {
    const stamp = word(data.bytes, i * sampleBits + stampAt, STAMP_BITS);
    const before = i === 0 ? stamp : floatAt(times, i - 1);
    const wraps = Math.floor(before / 2 ** STAMP_BITS) + (i > 0 && stamp < before % 2 ** STAMP_BITS ? 1 : 0);
    times[i] = stamp + wraps * 2 ** STAMP_BITS;
  }
  return times;
}

function traceOf(
  { data, samples, sampleBits }: Capture,
  signal: Capture['signals'][number],
  ticks: Float64Array,
  holds: boolean,
): Trace {
  const { lo, width, ...about } = signal;
  const writer = new TraceWriter(width);
  const words = wordsOf(width);
  const value = new Uint32Array(words);
  for (let i = 0; i < samples; i++) {
    for (let w = 0; w < words; w++)
      value[w] = word(data.bytes, i * sampleBits + lo + 32 * w, Math.min(32, width - 32 * w));
    writer.add(floatAt(ticks, i), value, null);
  }
  return writer.finish({ ...about, width, ...(holds ? { holds } : {}) });
}

/** Up to 32 bits from bit `at` on. */
function word(bytes: Uint8Array, at: number, width: number): number {
  let byte = at >>> 3;
  let have = 8 - (at & 7);
  let value = byteAt(bytes, byte) >>> (at & 7);
  while (have < width) {
    const next = bytes[++byte] ?? 0;
    value = (value | (next << have)) >>> 0;
    have += 8;
  }
  return width === 32 ? value >>> 0 : value & (2 ** width - 1);
}
