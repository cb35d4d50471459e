import { reverseByte } from '../../bits/index.ts';
import { FRAME_BYTES, StreamDecoder } from './stream.ts';

/**
 * Which bits of the configuration memory must read as they were written: all but the run-time marks in the last frame.
 * docs/silicon.md, section 3
 */
export function readBackMask(frames: number): Uint8Array {
  return new Uint8Array(frames * FRAME_BYTES).fill(0xff, 0, (frames - 1) * FRAME_BYTES);
}

/** The frames a stream writes, in order. */
export function framesOf(frames: number, stream: Uint8Array): Uint8Array {
  const memory = new Uint8Array(frames * FRAME_BYTES);
  const decoder = new StreamDecoder((event) => {
    if (event.kind === 'frame' && event.address < frames)
      memory.set(event.data.subarray(0, FRAME_BYTES), event.address * FRAME_BYTES);
  });
  decoder.bits(stream.map(reverseByte), stream.length * 8);
  return memory;
}
