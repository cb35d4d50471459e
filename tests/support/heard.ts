import { base64FromBytes } from '../../core/bits/index.ts';
import type { HeardOnLine } from '../../core/pod/index.ts';

/** A message of a pod with bytes that came at once. */
export const heardOf = (first: number, bytes: Uint8Array, now = 0): HeardOnLine => ({
  ...{ first, lost: 0, now, troubles: [], pulses: null },
  runs: [{ at: now, every: 0, data: base64FromBytes(bytes) }],
});
