import { floatAt } from '../lists.ts';
import type { Recording } from './recording.ts';
import { digitAt, type Trace, TraceWriter } from './trace.ts';

/** A record of every change, as a recorder on that clock would have stored it; and where its samples come from. */
interface SampledRecording {
  readonly recording: Recording;
  /** Ticks of the record that was sampled, one for each sample. */
  readonly edges: Float64Array;
}

/**
 * What registers of a clock see: at each of its rising edges (IEEE 1364-2005, table 43: to 1 from anything, from 0 to x
 * does not count) every signal as it was just before. Null where the clock is not in the record or has no such edge.
 */
export function sampledBy(
  recording: Recording,
  clock: string,
  tickSeconds: number,
  isWanted: (trace: Trace) => boolean = () => true,
): SampledRecording | null {
  const trace = recording.traces.find(({ name }) => name === clock);
  if (trace?.width !== 1) return null;
  const edges = risingEdges(trace);
  if (edges.length === 0) return null;
  return {
    edges,
    recording: {
      title: recording.title,
      tickSeconds,
      length: edges.length,
      triggers: [],
      gaps: [],
      stored: null,
      sampled: true,
      traces: recording.traces.filter(isWanted).map((one) => traceAt(one, edges)),
    },
  };
}

function risingEdges(clock: Trace): Float64Array {
  const edges: number[] = [];
  for (let i = 1; i < clock.at.length; i++)
    if (digitAt(clock, i, 0) === '1' && digitAt(clock, i - 1, 0) !== '1') edges.push(floatAt(clock.at, i));
  return Float64Array.from(edges);
}

function traceAt(trace: Trace, edges: Float64Array): Trace {
  const { at, bits, unknown, words, ...about } = trace;
  const writer = new TraceWriter(about.width);
  let i = -1;
  for (const [sample, edge] of edges.entries()) {
    const before = i;
    while (i + 1 < at.length && floatAt(at, i + 1) < edge) i++;
    if (i < 0 || (i === before && sample > 0)) continue;
    const from = i * words;
    writer.add(sample, bits.subarray(from, from + words), unknown?.subarray(from, from + words) ?? null);
  }
  return writer.finish(about);
}
