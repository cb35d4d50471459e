import type { Told } from './publisher.ts';

const BEAT_MILLISECONDS = 15_000;

interface Sources {
  /** Hears slices as they change, each whole. */
  readonly slices: (listener: (told: Told) => void) => () => void;
  /** Hears pictures of the board; the newest is given first. */
  readonly board: (listener: (status: unknown) => void) => () => void;
}

/**
 * What pages are told, as server-sent events. A page that does not keep up costs one pending value for each slice, the
 * newest, however much happens meanwhile.
 */
export function eventStream({ slices, board }: Sources): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder();
  const pending = new Map<string, string>();
  let wake = () => {};
  const put = (slice: string, line: string) => {
    pending.set(slice, line);
    wake();
  };
  let leave = () => {};
  return new ReadableStream<Uint8Array>(
    {
      start: () => {
        const stops = [
          slices((told) => put(told.slice, `data: ${JSON.stringify(told)}\n\n`)),
          board((status) => put('board', `data: ${JSON.stringify({ board: status })}\n\n`)),
        ];
        const beat = setInterval(() => put('beat', ': \n\n'), BEAT_MILLISECONDS);
        leave = () => {
          clearInterval(beat);
          for (const stop of stops) stop();
          wake();
        };
      },
      pull: async (controller) => {
        if (pending.size === 0)
          await new Promise<void>((resolve) => {
            wake = resolve;
          });
        const [next] = pending;
        if (!next) return;
        const [slice, line] = next;
        pending.delete(slice);
        controller.enqueue(encoder.encode(line));
      },
      cancel: () => leave(),
    },
    { highWaterMark: 1 },
  );
}
