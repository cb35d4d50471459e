import { runtime } from '../../../server/index.ts';
import { guarded } from '../guard.ts';

export const dynamic = 'force-dynamic';

const BEAT_MILLISECONDS = 15_000;

/** State and board as they change, as server-sent events. */
export const GET = guarded(async (request) => {
  const server = await runtime();
  const encoder = new TextEncoder();
  let leave = () => {};
  const stream = new ReadableStream<Uint8Array>({
    start: async (controller) => {
      const send = (text: string) => {
        // A page that does not keep up misses pictures of the board, not changes of state.
        if ((controller.desiredSize ?? 1) > -64 || !text.startsWith('{"board"'))
          controller.enqueue(encoder.encode(`data: ${text}\n\n`));
      };
      const stop = server.listen((event) => send(JSON.stringify(event)));
      const beat = setInterval(() => controller.enqueue(encoder.encode(': \n\n')), BEAT_MILLISECONDS);
      leave = () => {
        stop();
        clearInterval(beat);
      };
      request.signal.addEventListener('abort', () => {
        leave();
        try {
          controller.close();
        } catch {
          // closed already by the other side
        }
      });
      send(JSON.stringify({ state: await server.state() }));
      send(JSON.stringify({ board: server.pod.shown }));
    },
    cancel: () => leave(),
  });
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store, no-transform' },
  });
});
