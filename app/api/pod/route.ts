import { z } from 'zod';
import { ProblemError, problem } from '../../../core/result.ts';
import { runtime } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

const body = z.object({ address: z.url({ protocol: /^wss?$/ }), token: z.string().max(200) });

/** Names the pod to use; an empty token keeps the one known for that address. */
export const PUT = guarded(async (request) => {
  const { address, token } = await readJson(request, body);
  const server = await runtime();
  const busy = server.jobs.list.find((job) => job.endedAt === null && job.kind !== 'build' && job.kind !== 'vectors');
  if (busy && address !== server.pod.status.address)
    throw new ProblemError(
      problem(
        'pod-in-use',
        `"${busy.title}" still uses ${server.pod.status.name ?? 'the pod'}; what it finds would be said of another board.`,
        'Wait until it is done, or cancel it, then change to the other pod.',
      ),
    );
  const known = (await server.db('pods').where({ address }).first('token')) as { token: string } | undefined;
  const used =
    token === ''
      ? (known?.token ?? (address === process.env.NIMBLE_POD_ADDRESS ? (process.env.NIMBLE_POD_TOKEN ?? '') : ''))
      : token;
  await server.pod.use(address, used);
  if (server.pod.status.state === 'connected')
    await server
      .db('pods')
      .insert({ address, token: used, added: new Date().toISOString() })
      .onConflict('address')
      .merge();
  return answer(server.pod.status);
});
