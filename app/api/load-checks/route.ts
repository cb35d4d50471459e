import { server } from '../../../server/index.ts';
import { taken } from '../current.ts';
import { answer, guarded, readJson } from '../guard.ts';
import { loadStep } from '../shapes.ts';

/** What can be known before the first bit. */
export const POST = guarded(async (request) => {
  const step = await readJson(request, loadStep);
  return answer(taken(await (await server()).desks.load.checksNow(step)));
});
