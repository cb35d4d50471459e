// An axis of samples a microsecond apart, and a trace that changes where a test says.
import type { Axis, Trace } from '../../../core/wave/index.ts';

export type { Axis } from '../../../core/wave/index.ts';

export const stepsOf = (length: number, trigger: number): Axis => ({
  ...{ title: 'test', tickSeconds: 1e-6, length, triggers: [trigger], gaps: [], stored: null, sampled: true },
});

/** One bit that is another at each of these ticks. */
export const traceOf = (ticks: readonly number[]): Trace => ({
  ...{ name: 'a', width: 1, signed: false, domain: '', words: 1, unknown: null },
  at: Float64Array.from(ticks),
  bits: Uint32Array.from(ticks, (_, i) => i & 1),
});
