import { floatAt, numberAt } from '../../lists.ts';
import { fail, ok, type Result } from '../../result.ts';
import { bitTimeOf, measuredRate } from '../../serial/index.ts';
import { problem } from './problems.ts';
import { knownTrace } from '../known.ts';
import { advance, type Recording, ticksBetween } from '../recording.ts';
import { digitAt, hasUnknown, indexAt, type Trace } from '../trace.ts';
import { BEGAN_BEFORE, byteText, type Frame } from './frame.ts';

interface SerialSettings {
  /** Bits a second; null measures it. */
  readonly baud: number | null;
  readonly dataBits: number;
  readonly parity: 'none' | 'even' | 'odd';
  readonly stopBits: 1 | 2;
}

/** How long one bit is in seconds, from the pulses of the line, and the usual speed nearest to it, if one is near. */
interface MeasuredBaud {
  readonly bitSeconds: number;
  readonly baud: number;
  readonly usual: number | null;
}

/** Measures the bit time of a line from its whole pulses. */
export function measureBaud(recording: Recording, line: Trace): Result<MeasuredBaud> {
  const pulses: number[] = [];
  const known = knownTrace(recording, line);
  for (let i = 1; i + 1 < known.at.length; i++) {
    if ([i - 1, i, i + 1].some((index) => hasUnknown(known, index))) continue;
    const ticks = ticksBetween(recording, floatAt(known.at, i), floatAt(known.at, i + 1));
    if (ticks !== null) pulses.push(ticks * recording.tickSeconds);
  }
  const bitSeconds = bitTimeOf(pulses);
  if (bitSeconds === null)
    return fail(
      problem('line-quiet', {
        name: line.name,
        pulsesCount: pulses.length,
        pulsesCountText: pulses.length === 1 ? 'pulse' : 'pulses',
      }),
    );
  const { rate, usual } = measuredRate(bitSeconds);
  return ok({ bitSeconds, baud: rate, usual });
}

/**
 * Frames of an asynchronous line that rests at 1: a 0, the data lowest bit first, parity, stop. Each bit is looked at
 * in its middle, in real time. (Common practice.) What may have begun before the line was known is marked and has no
 * value.
 */
export function decodeSerial(recording: Recording, line: Trace, settings: SerialSettings): Result<readonly Frame[]> {
  let { baud } = settings;
  if (baud === null) {
    const measured = measureBaud(recording, line);
    if (!measured.ok) return measured;
    baud = measured.value.usual ?? measured.value.baud;
  }
  const bitTicks = 1 / (baud * recording.tickSeconds);
  if (bitTicks < 2) return fail(problem('line-fast', { baud, bitTicks: bitTicks.toFixed(2) }));
  const reader = {
    recording,
    line,
    settings,
    bitTicks,
    bits: 1 + settings.dataBits + (settings.parity === 'none' ? 0 : 1) + settings.stopBits,
  };
  const frames: Frame[] = [];
  for (let index = 0; index < line.at.length; ) {
    if (hasUnknown(line, index)) {
      index++;
      continue;
    }
    let last = index;
    while (last + 1 < line.at.length && !hasUnknown(line, last + 1)) last++;
    frames.push(...framesIn(reader, index, last));
    index = last + 1;
  }
  return ok(frames);
}

interface LineReader {
  readonly recording: Recording;
  readonly line: Trace;
  readonly settings: SerialSettings;
  readonly bitTicks: number;
  /** Bits of a whole frame. */
  readonly bits: number;
}

interface FoundFrame extends Frame {
  /** Index of the change it starts with. */
  readonly start: number;
}

/**
 * Frames between two changes in which the line is known throughout. A frame may have been on its way when that began,
 * so that any fall within its time may be the first start; what all readings without a fault agree on is certain, what
 * comes before is not.
 */
function framesIn(reader: LineReader, first: number, last: number): Frame[] {
  const { recording, line, bits, bitTicks } = reader;
  const begin = floatAt(line.at, first);
  const end = line.at[last + 1] ?? recording.length;
  // Of a frame that began before, all but its start bit may still be to come.
  const settled = advance(recording, begin, (bits - 1) * bitTicks);
  const starts: number[] = [];
  for (let i = first + 1; i <= last; i++) {
    if (digitAt(line, i, 0) !== '0') continue;
    starts.push(i);
    if (floatAt(line.at, i) >= settled) break;
  }
  const fallen = digitAt(line, first, 0) === '0';
  if (starts.length === 0) return fallen ? [hidden(begin, end, reader)] : [];
  if (!fallen && floatAt(line.at, numberAt(starts, 0)) >= settled)
    return framesFrom(reader, numberAt(starts, 0), last, end);
  const readings = starts.map((start) => framesFrom(reader, start, last, end));
  const good = readings.filter((frames) => frames.every(({ trouble }) => trouble === null));
  const likely = good.length > 0 ? good : readings;
  const agreed = likely.slice(1).reduce((common, frames) => {
    const known = new Set(frames.map(({ start }) => start));
    return common.filter(({ start }) => known.has(start));
  }, likely[0] ?? []);
  const certainFrom = agreed[0]?.from ?? end;
  const before = (likely[0] ?? []).filter(({ from }) => from < certainFrom);
  const open = fallen ? [hidden(begin, before[0]?.from ?? certainFrom, reader)] : [];
  const doubted = before.map(
    (frame): Frame => ({
      ...frame,
      text: `${frame.text}?`,
      value: null,
      trouble: frame.trouble ?? 'may have begun before the record or in a gap: no long enough rest came before it',
    }),
  );
  return [...open, ...doubted, ...agreed];
}

/** What was on its way when the line became known. */
const hidden = (from: number, until: number, { recording, bits, bitTicks }: LineReader): Frame => ({
  from,
  to: Math.min(until, advance(recording, from, bits * bitTicks)),
  text: '?',
  value: null,
  trouble: BEGAN_BEFORE,
});

/** Frames from one start on, each next one with the first fall after the middle of the last stop bit. */
function framesFrom(reader: LineReader, first: number, last: number, end: number): FoundFrame[] {
  const { recording, line, bits, bitTicks } = reader;
  const frames: FoundFrame[] = [];
  for (let index = first; index <= last; index++) {
    const start = floatAt(line.at, index);
    if (digitAt(line, index, 0) !== '0' || (index > 0 && digitAt(line, index - 1, 0) !== '1')) continue;
    if (advance(recording, start, (bits - 0.5) * bitTicks) >= end) break;
    const frame = frameAt(reader, index);
    if (!frame) continue;
    frames.push(frame);
    const resume = advance(recording, start, (bits - 0.5) * bitTicks);
    while (index < last && floatAt(line.at, index + 1) < resume) index++;
  }
  return frames;
}

function frameAt({ recording, line, settings, bitTicks, bits }: LineReader, index: number): FoundFrame | null {
  const { dataBits, parity, stopBits } = settings;
  const start = floatAt(line.at, index);
  const middle = (bit: number) => digitAt(line, indexAt(line, advance(recording, start, (bit + 0.5) * bitTicks)), 0);
  if (middle(0) !== '0') return null;
  let [value, ones, unknown] = [0, 0, false];
  for (let bit = 0; bit < dataBits; bit++) {
    const digit = middle(1 + bit);
    if (digit === '1') {
      value |= 1 << bit;
      ones++;
    } else if (digit !== '0') unknown = true;
  }
  const parityDigit = parity === 'none' ? null : middle(1 + dataBits);
  const wanted = (ones + (parity === 'odd' ? 1 : 0)) % 2 === 1 ? '1' : '0';
  const stops = Array.from({ length: stopBits }, (_, i) => middle(bits - stopBits + i));
  const trouble = unknown
    ? 'a bit is unknown'
    : parityDigit !== null && parityDigit !== wanted
      ? 'wrong parity'
      : stops.some((digit) => digit !== '1')
        ? value === 0
          ? 'break: the line stays at 0'
          : 'no stop bit: wrong speed, or not a frame'
        : null;
  return {
    start: index,
    from: start,
    to: advance(recording, start, bits * bitTicks),
    text: unknown ? '?' : byteText(value, dataBits),
    value: unknown ? null : value,
    trouble,
  };
}
