import { z } from 'zod';
import { readChainFile, writeChainFile } from '../../../core/chain/index.ts';
import { CHAIN_FILE } from '../../../server/index.ts';
import { current, taken } from '../current.ts';
import { answer, guarded, readJson } from '../guard.ts';

/** Writes the expected chain into the project; with null the project expects none. */
export const PUT = guarded(async (request) => {
  const { text } = await readJson(request, z.object({ text: z.string().max(1 << 20).nullable() }));
  const { server, project } = await current();
  const name = (await server.expected()).file ?? CHAIN_FILE;
  if (text === null) await server.projects.removeFile(project.id, name);
  else taken(await server.projects.put(project.id, [{ name, text: writeChainFile(taken(readChainFile(name, text))) }]));
  server.changed();
  return answer({ name });
});
