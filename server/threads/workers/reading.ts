// A thread for files that somebody gave: what is in them may be large, or made to be a burden.
import { createHash } from 'node:crypto';
import { readBsdl } from '../../../core/bsdl/index.ts';
import { readArchive } from '../../../core/build/index.ts';
import { misordered, NBITS, readBitstream, streamFacts } from '../../../core/families/index.ts';
import { imageCrc, imageEnd, type ImageReading, readImage } from '../../../core/images/index.ts';
import { imageBlocks, placedImage } from '../../../core/operations/index.ts';
import { problem, ProblemError, taken } from '../../../core/result.ts';
import type { GivenFile, ReadingWork } from '../reading-thread.ts';
import { answering } from './answering.ts';

const works: ReadingWork = {
  archive: ({ bytes }) => taken(readArchive(bytes)),
  bsdl: ({ bytes }) => {
    const { entity, problems, valid } = readBsdl(new TextDecoder().decode(bytes));
    return { entity: entity?.entity ?? null, problems, valid };
  },
  bitstream: (file) => {
    const read = readBitstream(file.bytes);
    if (!read.ok) throw new ProblemError({ ...read.error, message: `${file.name}: ${read.error.message}` });
    const { part, fingerprint, stream } = read.value;
    return { part, fingerprint, bytes: stream.length };
  },
  image: (file) => {
    const { format, image, problems } = readWhole(file);
    const [first] = image.segments;
    const advice = first ? misordered(first.bytes) : null;
    const boots = imageBlocks(file.name, { format, image }).find(({ role }) => role === 'image');
    return {
      format,
      start: first?.start ?? 0,
      end: imageEnd(image),
      segments: image.segments.length,
      crc32: imageCrc(image),
      fingerprint: boots ? streamFacts(boots.bytes).fingerprint : null,
      warnings: [
        ...(advice ? [advice] : []),
        ...problems.map(({ line, message }) => `${line ? `Line ${line}: ` : ''}${message}`),
      ],
    };
  },
  blocks: ({ at, ...file }) => imageBlocks(file.name, readWhole(file), at),
  placed: (file) => placedImage(readWhole(file)),
  facts: (all) =>
    all.map((bytes) => {
      const { idcode, fingerprint } = streamFacts(bytes);
      return { idcode, fingerprint, sha256: createHash('sha256').update(bytes).digest('hex') };
    }),
};

export default answering(works);

/** A memory file of any format; one with an error is refused with its line. */
function readWhole({ name, bytes }: GivenFile): ImageReading {
  const reading = readImage(bytes, [NBITS]);
  const first = reading.problems.find(({ severity }) => severity === 'error');
  if (!first) return reading;
  const where = `${name}${first.line ? `, line ${first.line}` : ''}`;
  throw new ProblemError(problem(first.code, `${where}: ${first.message}`, 'Correct the file and add it again.'));
}
