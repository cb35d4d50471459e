import { bytesFromBase64 } from '../bits/index.ts';
import type { LineSettings, SerialTrouble } from '../serial/index.ts';
import { LineServer } from './line-server.ts';
import type { HeardOnLine } from './protocol.ts';
import type { SerialLine } from './target.ts';

/** A serial line to a board, wherever it is: at a pod, or at a bench in the same process. */
export interface LineAccess {
  /** Gives the settings that were made of these. */
  setLine(settings: LineSettings): Promise<LineSettings>;
  /** Gives how many bytes are taken now; the others have to be sent again. */
  sendOnLine(bytes: Uint8Array): Promise<number>;
  holdLineLow(milliseconds: number): Promise<void>;
  dropOnLine(): Promise<void>;
  /**
   * Hears what comes, from a number on as far as it is still there, or from now on. Gives the number of the byte that
   * comes next, and how the line is spoken.
   */
  listenToLine(
    from: number | null,
    listener: (heard: HeardOnLine) => void,
  ): Promise<{ readonly next: number; readonly settings: LineSettings }>;
}

/** The same without a pod between. */
export function lineAt(line: SerialLine): LineAccess & { close(): void } {
  const server = new LineServer(line);
  return {
    setLine: (settings) => line.set(settings),
    sendOnLine: (bytes) => line.send(bytes),
    holdLineLow: (milliseconds) => line.holdLow(milliseconds),
    dropOnLine: () => line.drop(),
    listenToLine: async (from, hear) => ({
      next: server.listen({ isReady: () => true, hear }, from),
      settings: line.state.settings,
    }),
    close: () => server.close(),
  };
}

/** A byte that was heard; `at` in milliseconds since 1970. */
interface HeardByte {
  readonly at: number;
  readonly value: number;
  readonly trouble: SerialTrouble | null;
}

/** The bytes of a message, on the clock of whoever hears it at `now`, in milliseconds since 1970. */
export function bytesHeard({ first, now: podNow, runs, troubles }: HeardOnLine, now: number): HeardByte[] {
  const wrong = new Map(troubles.map(({ byte, trouble }) => [byte, trouble]));
  let number = first;
  return runs.flatMap(({ at, every, data }) =>
    Array.from(bytesFromBase64(data), (value, i) => ({
      at: now - (podNow - at - i * every) / 1000,
      value,
      trouble: wrong.get(number++) ?? null,
    })),
  );
}
