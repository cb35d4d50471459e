import { fail, ok, problem, type Result } from '../../result.ts';
import type { Recording } from '../recording.ts';
import { digitAt, indexAt, type Trace } from '../trace.ts';
import { byteText, type Frame } from './frame.ts';

export interface SerialSettings {
  /** Bits a second; null measures it. */
  readonly baud: number | null;
  readonly dataBits: number;
  readonly parity: 'none' | 'even' | 'odd';
  readonly stopBits: 1 | 2;
}

/** Speeds that are usual on a serial line. (Common practice.) */
const USUAL_BAUDS = [300, 600, 1200, 2400, 4800, 9600, 14400, 19200, 28800, 38400, 57600, 115200, 230400, 250000, 460800, 500000, 921600, 1000000];
/** A whole frame survives this much error in speed. (Common practice: about 5 % over ten bits.) */
const TOLERANCE = 0.04;
const LEAST_PULSES = 4;
/** A guess from short pulses is good enough to count the bits of longer ones; what is longer than a frame of zeros is no part of one. */
const GROWING = [1, 2, 4, 8, 10];

/** How long one bit is in seconds, from the pulses of the line, and the usual speed nearest to it, if one is near. */
export interface MeasuredBaud {
  readonly bitSeconds: number;
  readonly baud: number;
  readonly usual: number | null;
}

/**
 * Measures the bit time of a line: every pulse is a whole number of bits. The shortest one gives a first guess, then all pulses together give the
 * length that fits them best.
 */
export function measureBaud(recording: Recording, line: Trace): Result<MeasuredBaud> {
  const pulses: number[] = [];
  for (let i = 1; i + 1 < line.at.length; i++) pulses.push(((line.at[i + 1] as number) - (line.at[i] as number)) * recording.tickSeconds);
  if (pulses.length < LEAST_PULSES) return fail(problem('line-quiet', `${line.name} moves too little to measure its speed: ${pulses.length} whole ${pulses.length === 1 ? 'pulse' : 'pulses'}.`, 'Record while something is sent.', 'Give the speed by hand.'));
  const sorted = [...pulses].sort((a, b) => a - b);
  const shortest = sorted[Math.floor(sorted.length * 0.02)] as number;
  let bit = shortest;
  for (const most of GROWING) {
    let [sum, weight] = [0, 0];
    for (const pulse of pulses) {
      const bits = Math.round(pulse / bit);
      if (bits < 1 || bits > most) continue;
      sum += pulse * bits;
      weight += bits * bits;
    }
    if (weight > 0) bit = sum / weight;
  }
  const baud = 1 / bit;
  const usual = USUAL_BAUDS.find((one) => Math.abs(one / baud - 1) < TOLERANCE) ?? null;
  return ok({ bitSeconds: bit, baud, usual });
}

/** Frames of an asynchronous line that rests at 1: a 0, the data lowest bit first, parity, stop. Each bit is looked at in its middle. (Common practice.) */
export function decodeSerial(recording: Recording, line: Trace, settings: SerialSettings): Result<readonly Frame[]> {
  let { baud } = settings;
  if (baud === null) {
    const measured = measureBaud(recording, line);
    if (!measured.ok) return measured;
    baud = measured.value.usual ?? measured.value.baud;
  }
  const { dataBits, parity, stopBits } = settings;
  const bitTicks = 1 / (baud * recording.tickSeconds);
  if (bitTicks < 2) return fail(problem('line-fast', `At ${baud} bits a second a bit is ${bitTicks.toFixed(2)} ticks of this record; two are the least.`, 'Sample with a faster clock.'));
  const level = (tick: number) => {
    const index = indexAt(line, tick);
    return index < 0 ? 'x' : digitAt(line, index, 0);
  };
  const bits = 1 + dataBits + (parity === 'none' ? 0 : 1) + stopBits;
  const frames: Frame[] = [];
  for (let index = 1; index < line.at.length; index++) {
    const start = line.at[index] as number;
    if (digitAt(line, index, 0) !== '0' || digitAt(line, index - 1, 0) !== '1') continue;
    const to = start + bits * bitTicks;
    if (to - bitTicks / 2 >= recording.length) break;
    const middle = (bit: number) => level(start + (bit + 0.5) * bitTicks);
    if (middle(0) !== '0') continue;
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
    const trouble = unknown ? 'a bit is unknown' : parityDigit !== null && parityDigit !== wanted ? 'wrong parity' : stops.some((digit) => digit !== '1') ? (value === 0 ? 'break: the line stays at 0' : 'no stop bit: wrong speed, or not a frame') : null;
    frames.push({ from: start, to, text: unknown ? '?' : byteText(value, dataBits), value: unknown ? null : value, trouble });
    // The next start may come from the middle of the last stop bit on.
    const resume = start + (bits - 0.5) * bitTicks;
    while (index + 1 < line.at.length && (line.at[index + 1] as number) < resume) index++;
  }
  return ok(frames);
}
