import { z } from 'zod';
import { readBsdl } from '../../../core/bsdl/index.ts';
import { server } from '../../../server/index.ts';
import { answer, guarded, MOST_UPLOAD_BYTES, readBody, readJson } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** Descriptions read for this bench. */
export const GET = guarded(async () => {
  const entities = await (await server()).store.files.descriptions();
  return answer(
    entities.map(({ entity, irLength, idcode, boundaryLength, packageName, ports }) => ({
      entity,
      irLength,
      idcode,
      boundaryLength,
      packageName,
      ports: ports.length,
    })),
  );
});

/** Checks a file, and keeps it when it is good. */
export const POST = guarded(async (request) => {
  const text = new TextDecoder().decode(await readBody(request, MOST_UPLOAD_BYTES));
  const on = await server();
  const reading = readBsdl(text);
  const kept = reading.valid ? await on.store.files.addDescription(text) : null;
  if (kept?.ok) on.state.changed();
  return answer({ valid: reading.valid, entity: reading.entity?.entity ?? null, problems: reading.problems });
});

export const DELETE = guarded(async (request) => {
  const { name } = await readJson(request, z.object({ name: z.string() }));
  return answer({ removed: await (await server()).store.files.removeDescription(name) });
});
