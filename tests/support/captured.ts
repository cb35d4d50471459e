import { bigIntOf, sliceBits } from '../../core/bits/index.ts';
import type { Capture } from '../../core/wave/index.ts';

/** One sample of a captured signal, read straight from the recorded bits. */
export const valueAt = (capture: Capture, { lo, width }: { lo: number; width: number }, sample: number): bigint =>
  bigIntOf(sliceBits(capture.data, sample * capture.sampleBits + lo, width));
