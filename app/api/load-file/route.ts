import { readBitstream } from '../../../core/fabric/index.ts';
import { server } from '../../../server/index.ts';
import { dropped } from '../dropped.ts';
import { takenOf } from '../current.ts';
import { answer, guarded, MOST_UPLOAD_BYTES, readBody } from '../guard.ts';

/**
 * Loads a .nbits file that the page has sent; one that cannot be read is refused and not kept. Its name is only for the
 * logbook.
 */
export const POST = guarded(async (request) => {
  const bytes = await readBody(request, MOST_UPLOAD_BYTES);
  const name = (new URL(request.url).searchParams.get('name') ?? 'file').slice(0, 200);
  const { fingerprint } = takenOf(name, readBitstream(bytes));
  const on = await server();
  const image = await on.store.files.addImage(name, bytes, {
    format: 'nbits',
    start: 0,
    end: bytes.length,
    fingerprint,
  });
  return answer({
    dropped: await dropped(on, image),
    id: on.desks.load.load({ steps: [{ device: null, source: { kind: 'image', id: image } }], verify: false }),
  });
});
