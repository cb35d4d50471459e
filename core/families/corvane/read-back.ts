import { reverseByte } from '../../bits/index.ts';
import type { ChainLink } from '../../jtag/index.ts';
import { byteAt } from '../../lists.ts';
import { stopIfCancelled, type Watch } from '../../progress.ts';
import { fail, ok, type Result } from '../../result.ts';
import { problem } from './problems.ts';
import type { StreamFor } from '../family.ts';
import { framesOfPart, INSTRUCTION } from './parts.ts';
import { framesOf, readBackMask } from './frames.ts';
import { FRAME_BYTES } from './stream.ts';

const CHUNK_BYTES = 1 << 14;

/**
 * Reads the configuration memory of a running part and compares it with what its stream wrote. Resolves to the bits
 * compared.
 */
export async function verifyConfiguration(
  link: ChainLink,
  { part, stream }: StreamFor,
  watch: Watch,
): Promise<Result<number>> {
  const frames = framesOfPart(part);
  const expected = framesOf(frames, stream);
  const mask = readBackMask(frames);
  link.select(INSTRUCTION.ISC_READ);
  const { queue } = link;
  const total = expected.length * 8;
  // One scan from the first frame to the last, so that the part's pointer runs on by itself.
  const answer = link.exchange({ length: total, bytes: new Uint8Array(expected.length) });
  let read = 0;
  await queue.flush((bits) => {
    read = Math.min(total, read + bits);
    watch.report({ phase: 'Reading back', done: read, total, unit: 'bit' });
  });
  stopIfCancelled(watch, 'The design runs; it was not verified.');
  queue.countPayload(total);
  const bytes = Uint8Array.from((await answer).bytes, reverseByte);
  for (let at = 0; at < expected.length; at += CHUNK_BYTES)
    for (let i = at; i < Math.min(expected.length, at + CHUNK_BYTES); i++) {
      const wrong = (byteAt(bytes, i) ^ byteAt(expected, i)) & byteAt(mask, i);
      if (wrong !== 0)
        return fail(
          problem('read-back', {
            frame: Math.floor(i / FRAME_BYTES),
            byte: i % FRAME_BYTES,
            written: hex(byteAt(expected, i)),
            read: hex(byteAt(bytes, i)),
          }),
        );
    }
  return ok(total);
}

const hex = (byte: number): string => `0x${byte.toString(16).toUpperCase().padStart(2, '0')}`;
