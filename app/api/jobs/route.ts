import { z } from 'zod';
import { operations, runtime } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

const body = z.discriminatedUnion('kind', [
  z.object({ kind: z.enum(['scan', 'build', 'load', 'keep', 'rehearse']) }),
  z.object({ kind: z.literal('power'), on: z.boolean() }),
]);

/** Starts a job; its progress comes with the events. */
export const POST = guarded(async (request) => {
  const wanted = await readJson(request, body);
  const server = await runtime();
  switch (wanted.kind) {
    case 'scan': return answer({ id: operations.scan(server) });
    case 'build': return answer({ id: operations.build(server) });
    case 'load': return answer({ id: operations.load(server, null) });
    case 'keep': return answer({ id: operations.keep(server) });
    case 'rehearse': return answer({ id: operations.rehearse(server) });
    case 'power': return answer({ id: operations.setPower(server, wanted.on) });
  }
});
