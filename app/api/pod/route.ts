import { z } from 'zod';
import { runtime } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

const body = z.object({ address: z.url({ protocol: /^wss?$/ }), token: z.string().max(200) });

/** Names the pod to use; an empty token keeps the one known for that address. */
export const PUT = guarded(async (request) => {
  const { address, token } = await readJson(request, body);
  const server = await runtime();
  const known = (await server.db('pods').where({ address }).first('token')) as { token: string } | undefined;
  const used = token === '' ? (known?.token ?? (address === process.env.NIMBLE_POD_ADDRESS ? (process.env.NIMBLE_POD_TOKEN ?? '') : '')) : token;
  await server.pod.use(address, used);
  if (server.pod.status.state === 'connected') await server.db('pods').insert({ address, token: used, added: new Date().toISOString() }).onConflict('address').merge();
  return answer(server.pod.status);
});
