import { bytesFromBase64 } from '../../core/bits/index.ts';
import { type Capture, changesOf, formatValue } from '../../core/wave/index.ts';

/** A capture as the server sends it. */
export interface ReceivedCapture {
  readonly id: number;
  readonly created: string;
  readonly about: Omit<Capture, 'data'>;
  readonly data: string;
}

/** One signal ready to draw: from `at[i]` on it shows `text[i]`. */
export interface Trace {
  readonly name: string;
  readonly width: number;
  readonly domain: string;
  readonly at: Int32Array;
  readonly text: readonly string[];
}

export function decode({ about, data }: ReceivedCapture): Trace[] {
  const capture: Capture = { ...about, data: { length: about.samples * about.sampleBits, bytes: bytesFromBase64(data) } };
  return about.signals.map((signal) => {
    const changes = changesOf(capture, signal);
    return { name: signal.name, width: signal.width, domain: signal.domain, at: Int32Array.from(changes, (c) => c.sample), text: changes.map((c) => formatValue(c.value, signal.width)) };
  });
}

/** Index of the change that holds at a sample. */
export function changeAt(trace: Trace, sample: number): number {
  let low = 0;
  let high = trace.at.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if ((trace.at[middle] as number) <= sample) low = middle;
    else high = middle - 1;
  }
  return low;
}
