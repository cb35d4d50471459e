import { z } from 'zod';
import { server } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

/** Makes something go wrong on a bench that can, for practice, or mends it. */
export const POST = guarded(async (request) => {
  const fault = await readJson(request, z.object({ name: z.string().max(60), on: z.boolean() }));
  const { board, project, store } = await server();
  await board
    .hands()
    .setFault(fault.name, fault.on)
    .catch((error: unknown) => {
      // The fault that breaks the connection answers nobody.
      if (fault.name !== 'pod-lost') throw error;
    });
  const action = fault.on ? 'Practice fault on' : 'Practice fault off';
  await store.logbook.record(action, board.name, { fault: fault.name }, await project.name());
  return answer({});
});
