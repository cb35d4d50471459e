import { z } from 'zod';
import { runtime } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

/** Makes something go wrong on a bench that can, for practice, or mends it. */
export const POST = guarded(async (request) => {
  const { name, on } = await readJson(request, z.object({ name: z.string().max(60), on: z.boolean() }));
  const server = await runtime();
  await server.pod
    .hands()
    .setFault(name, on)
    .catch((error: unknown) => {
      // The fault that breaks the connection answers nobody.
      if (name !== 'pod-lost') throw error;
    });
  await server.logbook.record(
    on ? 'Practice fault on' : 'Practice fault off',
    server.board,
    { fault: name },
    await server.projectName(),
  );
  return answer({});
});
