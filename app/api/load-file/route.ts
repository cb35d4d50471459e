import { server } from '../../../server/index.ts';
import { guarded, readUpload } from '../guard.ts';

/** Loads a .nbits file that the page has sent; one that cannot be read is refused and not kept. */
export const POST = guarded(async (request) => {
  const { load } = (await server()).desks;
  const { id, dropped } = await load.takeBitstream(await readUpload(request));
  return Response.json({
    dropped,
    id: load.load({ steps: [{ device: null, source: { kind: 'image', id } }], verify: false }),
  });
});
