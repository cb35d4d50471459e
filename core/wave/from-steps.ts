import type { Recording } from './recording.ts';
import { type Trace, TraceWriter, wordsOf } from './trace.ts';

/** Signals of a run that has no time of its own, such as that of a table: one tick is one step. */
export interface StepRecord {
  readonly signals: readonly {
    readonly name: string;
    readonly width: number;
    readonly names: readonly { readonly value: string; readonly name: string }[];
    /** Steps at which it changed, ascending. */
    readonly times: readonly number[];
    /** Decimal; a bit that is not known is x where that of `value` is 1, z where it is 0. */
    readonly values: readonly { readonly value: string; readonly unknown: string }[];
  }[];
  readonly end: number;
}

/** No length is known; one is taken so that steps lie apart. */
const STEP_SECONDS = 1;

export const recordingOfSteps = ({ signals, end }: StepRecord, title: string): Recording => ({
  title,
  tickSeconds: STEP_SECONDS,
  length: end + 1,
  triggers: [],
  gaps: [],
  stored: null,
  sampled: false,
  inSteps: true,
  traces: signals.map(traceOf),
});

function traceOf({ name, width, names, times, values }: StepRecord['signals'][number]): Trace {
  const writer = new TraceWriter(width);
  for (const [i, { value, unknown }] of values.entries()) {
    const [v, u] = [BigInt(value), BigInt(unknown)];
    // A trace of waves has them the other way round: z where the bit is 1.
    writer.add(times[i] ?? 0, wordsIn(v ^ u, width), u === 0n ? null : wordsIn(u, width));
  }
  const named = Object.fromEntries(names.map((one) => [one.value, one.name]));
  return writer.finish({ name, width, signed: false, domain: '', ...(names.length > 0 ? { names: named } : {}) });
}

const wordsIn = (value: bigint, width: number): number[] =>
  Array.from({ length: wordsOf(width) }, (_, i) => Number(BigInt.asUintN(32, value >> BigInt(32 * i))));
