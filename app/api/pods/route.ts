import { z } from 'zod';
import { server } from '../../../server/index.ts';
import { answer, guarded, readJson } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** Pods that were connected once; their tokens stay here. */
export const GET = guarded(async () => {
  const rows = await (await server()).store.pods.list();
  const given = process.env.NIMBLE_POD_ADDRESS;
  return answer(
    given === undefined || rows.some(({ address }) => address === given)
      ? rows
      : [{ address: given, added: null }, ...rows],
  );
});

export const DELETE = guarded(async (request) => {
  const { address } = await readJson(request, z.object({ address: z.string() }));
  return answer({ removed: await (await server()).store.pods.forget(address) });
});

/** Tells whoever holds the connected pod that it is wanted here. */
export const POST = guarded(async () => {
  await (await server()).board.hands().askForLease();
  return answer({});
});
