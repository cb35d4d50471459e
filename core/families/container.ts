import type { Container } from '../images/index.ts';
import { fail, ok } from '../result.ts';
import { problem } from './problems.ts';
import { readBitstream, writeBitstream } from './bitstream.ts';
import { partWithIdcode, streamFacts } from './lookup.ts';

const MARK = [0x4e, 0x42, 0x49, 0x54, 0x53, 0x00];

/**
 * `.nbits` among the image formats: its data is the stream; written, part and fingerprint are taken from the stream
 * itself.
 */
export const NBITS: Container = {
  format: 'nbits',
  recognises: (file) => MARK.every((byte, i) => file[i] === byte),
  read: (file) => {
    const read = readBitstream(file);
    return read.ok ? ok(read.value.stream) : read;
  },
  write: (bytes) => {
    const { idcode, fingerprint } = streamFacts(bytes);
    const part = idcode === null ? undefined : partWithIdcode(idcode);
    if (!part || !fingerprint) return fail(problem('no-stream'));
    return ok(writeBitstream({ part: part.name, package: null, top: 'unknown', fingerprint, stream: bytes }));
  },
};
