import { KEEP_CHOICE, runtime } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

/** What Keep is to write, and how its boot is rehearsed. */
export const PUT = guarded(async (request) => {
  const choice = await readJson(request, KEEP_CHOICE);
  const server = await runtime();
  await server.facts.set('keepChoice', choice);
  server.said.flash = null;
  server.changed();
  return answer(choice);
});
