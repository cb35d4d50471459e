import { ProblemError, taken } from '../../../../core/result.ts';
import { problem } from '../../problems.ts';
import { server } from '../../../../server/index.ts';
import { download, guarded } from '../../guard.ts';

export const dynamic = 'force-dynamic';

/** The newest build's load, or its way into the flash, as an SVF file for the chain as it was last scanned. */
export const GET = guarded(async (request) => {
  const { searchParams } = new URL(request.url);
  const what = searchParams.get('what');
  if (what !== 'load' && what !== 'keep') throw new ProblemError(problem('request'));
  const { load } = (await server()).desks;
  const { name, text } = taken(await load.exportSvf({ what, flash: searchParams.get('flash') }));
  return download(name, 'text/plain', text);
});
