import { eventStream, server } from '../../../server/index.ts';
import { guarded } from '../guard.ts';

export const dynamic = 'force-dynamic';

/** State and board as they change, as server-sent events. */
export const GET = guarded(async () => {
  const { state, board, onBoard } = await server();
  const stream = eventStream({
    slices: (listener) => state.listen(listener),
    board: (listener) => {
      listener(board.shown);
      return onBoard(listener);
    },
  });
  return new Response(stream, {
    headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store, no-transform' },
  });
});
