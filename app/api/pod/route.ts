import { z } from 'zod';
import { ProblemError, problem } from '../../../core/result.ts';
import { server } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

const body = z.object({ address: z.url({ protocol: /^wss?$/ }), token: z.string().max(200) });

/** Names the pod to use; an empty token keeps the one known for that address. */
export const PUT = guarded(async (request) => {
  const { address, token } = await readJson(request, body);
  const on = await server();
  const busy = on.jobs.list.find((job) => job.endedAt === null && job.kind !== 'build' && job.kind !== 'vectors');
  if (busy && address !== on.board.pod.address)
    throw new ProblemError(
      problem(
        'pod-in-use',
        `"${busy.title}" still uses ${on.board.pod.name ?? 'the pod'}; what it finds would be said of another board.`,
        'Wait until it is done, or cancel it, then change to the other pod.',
      ),
    );
  const given = address === process.env.NIMBLE_POD_ADDRESS ? (process.env.NIMBLE_POD_TOKEN ?? '') : '';
  const used = token === '' ? ((await on.store.pods.tokenOf(address)) ?? given) : token;
  await on.board.use(address, used);
  if (on.board.pod.state === 'connected') await on.store.pods.remember(address, used);
  return answer(on.board.pod);
});
