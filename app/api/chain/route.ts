import { z } from 'zod';
import { readChainFile, writeChainFile } from '../../../core/chain/index.ts';
import { server } from '../../../server/index.ts';
import { taken } from '../current.ts';
import { answer, guarded, readJson } from '../guard.ts';

/** What is expected on the board that answers now; null goes back to what the project's files expect. */
export const PUT = guarded(async (request) => {
  const { text } = await readJson(
    request,
    z.object({
      text: z
        .string()
        .max(1 << 20)
        .nullable(),
    }),
  );
  const on = await server();
  await on.facts.set(
    'chain',
    text === null ? null : { text: writeChainFile(taken(readChainFile('board.chain.json', text))) },
  );
  on.state.changed();
  return answer({});
});
