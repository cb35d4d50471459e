import { z } from 'zod';
import { IMAGE_FORMATS, imageOf, writeImage } from '../../../core/images/index.ts';
import { NBITS } from '../../../core/families/index.ts';
import { ProblemError, taken } from '../../../core/result.ts';
import { problem } from '../problems.ts';
import { server } from '../../../server/index.ts';
import { download, guarded } from '../guard.ts';

export const dynamic = 'force-dynamic';

const ENDINGS = { 'intel-hex': 'hex', 's-record': 's37', binary: 'bin', nbits: 'nbits' } as const;

/** What was last read from the flash, as a file. Plain bytes begin with the first one that was read. */
export const GET = guarded(async (request) => {
  const asked = z.enum(IMAGE_FORMATS).safeParse(new URL(request.url).searchParams.get('format'));
  if (!asked.success) throw new ProblemError(problem('format (flash)'));
  const read = (await server()).board.said.flashRead;
  if (!read) throw new ProblemError(problem('no-read'));
  const start = asked.data === 'binary' || asked.data === 'nbits' ? 0 : read.start;
  const bytes = taken(writeImage(imageOf(read.bytes, start), asked.data, [NBITS]));
  const address = read.start.toString(16).toUpperCase().padStart(6, '0');
  return download(`flash-${address}.${ENDINGS[asked.data]}`, 'application/octet-stream', bytes);
});
