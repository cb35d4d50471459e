import { z } from 'zod';
import { problem, ProblemError } from '../../../core/result.ts';
import { bytesOf, placesOf, server } from '../../../server/index.ts';
import { answer, guarded } from '../guard.ts';

export const dynamic = 'force-dynamic';

const stretch = z.object({
  start: z.coerce.number().int().nonnegative(),
  length: z.coerce.number().int().min(1).max(65_536),
});

/** Of the last comparison: where it differs, or the bytes of a stretch. */
export const GET = guarded(async (request) => {
  const { comparison } = (await server()).board.said;
  if (!comparison)
    throw new ProblemError(
      problem('no-comparison', 'Nothing was compared yet.', 'Choose two sides under Keep, Compare.'),
    );
  const { searchParams } = new URL(request.url);
  if (!searchParams.has('start')) return answer(placesOf(comparison));
  const asked = stretch.safeParse(Object.fromEntries(searchParams));
  if (!asked.success)
    throw new ProblemError(problem('request', 'A stretch has a start and at most 65536 bytes.', 'Reload the page.'));
  return answer(bytesOf(comparison, asked.data.start, asked.data.length));
});
