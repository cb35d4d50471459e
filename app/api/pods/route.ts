import { z } from 'zod';
import { runtime } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** Pods that were connected once; their tokens stay here. */
export const GET = guarded(async () => {
  const server = await runtime();
  const rows = (await server.db('pods').orderBy('added').select('address', 'added')) as {
    address: string;
    added: string;
  }[];
  const given = process.env.NIMBLE_POD_ADDRESS;
  return answer(
    given === undefined || rows.some(({ address }) => address === given)
      ? rows
      : [{ address: given, added: null }, ...rows],
  );
});

export const DELETE = guarded(async (request) => {
  const { address } = await readJson(request, z.object({ address: z.string() }));
  const server = await runtime();
  return answer({ removed: (await server.db('pods').where({ address }).delete()) === 1 });
});

/** Tells whoever holds the connected pod that it is wanted here. */
export const POST = guarded(async () => {
  await (await runtime()).pod.hands().askForLease();
  return answer({});
});
