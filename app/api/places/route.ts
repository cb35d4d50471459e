import { z } from 'zod';
import { server } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

const body = z.object({
  index: z.number().int().min(0).max(200),
  part: z.string().max(100).optional(),
  irLength: z.number().int().min(2).max(512).optional(),
});

/**
 * What stands at a place of this board: remembered as long as the place answers with the same IDCODE. Then scans again.
 */
export const PUT = guarded(async (request) => {
  const { index, part, irLength } = await readJson(request, body);
  const on = await server();
  const idcode = on.board.said.scan?.devices[index]?.idcode ?? null;
  await on.store.files.answer(on.board.name, {
    index,
    idcode,
    ...(part === undefined ? {} : { part }),
    ...(irLength === undefined ? {} : { irLength }),
  });
  return answer({ id: on.desks.bench.scan() });
});
