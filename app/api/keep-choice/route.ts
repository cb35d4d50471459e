import { KEEP_CHOICE, server } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

/** What Keep is to write, and how its boot is rehearsed. */
export const PUT = guarded(async (request) => {
  const choice = await readJson(request, KEEP_CHOICE);
  const on = await server();
  await on.facts.set('keepChoice', choice);
  on.board.said.flash = null;
  on.state.changed();
  return answer(choice);
});
