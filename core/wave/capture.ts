import { bigIntOf, type Bits, sliceBits } from '../bits/index.ts';

export interface CapturedSignal {
  readonly name: string;
  readonly width: number;
  readonly lo: number;
  readonly signed: boolean;
  readonly domain: string;
  /** Values by the names the source has for them, decimal. */
  readonly names?: Readonly<Record<string, string>> | undefined;
}

/** One filled recorder. `data` holds `samples` words of `sampleBits` bits, oldest first, packed without gaps. */
export interface Capture {
  readonly recorder: string;
  readonly fingerprint: string;
  readonly condition: string;
  readonly signals: readonly CapturedSignal[];
  readonly samples: number;
  readonly sampleBits: number;
  /** The sample in which the condition held, in each segment. */
  readonly triggerIndex: number;
  /** Equal parts, each with a trigger of its own; 1 where it is not said. */
  readonly segments?: number;
  /** Bit of each word at which its 32-bit time stamp begins, in sampling clocks since arming; absent where every clock was stored. */
  readonly stampAt?: number;
  /** Which samples were stored; empty for all. */
  readonly keep?: string;
  /** Signals that levers held in place of their drivers when it was read. */
  readonly held?: readonly string[];
  /** Hertz of the sampling clock. */
  readonly sampleRate: number;
  readonly data: Bits;
}

export const valueAt = (capture: Capture, signal: CapturedSignal, sample: number): bigint =>
  bigIntOf(sliceBits(capture.data, sample * capture.sampleBits + signal.lo, signal.width));

/** From `sample` on the signal has `value`, until the next change. */
export interface Change {
  readonly sample: number;
  readonly value: bigint;
}

/** The first value and every change after it. */
export function changesOf(capture: Capture, signal: CapturedSignal): Change[] {
  const changes: Change[] = [];
  for (let sample = 0; sample < capture.samples; sample++) {
    const value = valueAt(capture, signal, sample);
    if (changes.length === 0 || changes.at(-1)?.value !== value) changes.push({ sample, value });
  }
  return changes;
}

/** One bit as a digit, words in hexadecimal. */
export const formatValue = (value: bigint, width: number): string => (width === 1 ? value.toString() : value.toString(16).toUpperCase().padStart(Math.ceil(width / 4), '0'));
