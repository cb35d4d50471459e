import { useEffect, useRef, useState } from 'react';
import { bytesFromBase64 } from '../../../core/bits/index.ts';
import { hexOf, type LogLine, MOST_LINES, readable } from '../../../core/serial/index.ts';
import { answerOf, api, useLive } from '../../shared/index.ts';

const AT_ONCE = 5000;
const PAUSE_MILLISECONDS = 100;

/**
 * All lines that are kept, fetched as they come: of those the page has, the last one is asked for again, since it may
 * have gone on.
 */
export function useLines(): readonly LogLine[] {
  const state = useLive('line', 'pod');
  const [lines, setLines] = useState<readonly LogLine[]>([]);
  const fetching = useRef({ isBusy: false, isWanted: false, board: '', lines });
  const board = state?.pod.address ?? '';
  const version = state?.line.version ?? 0;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the version says that there is something to fetch
  useEffect(() => {
    const now = fetching.current;
    if (now.board !== board) {
      now.board = board;
      now.lines = [];
    }
    now.isWanted = true;
    if (now.isBusy) return;
    now.isBusy = true;
    const fetchAll = async () => {
      while (now.isWanted) {
        now.isWanted = false;
        const from = now.lines.at(-1)?.number ?? 1;
        const answer = await answerOf(api.line.lines.query({ from, most: AT_ONCE }));
        if (!answer.ok) break;
        const { first, last, lines: fetched } = answer.value;
        const before = now.lines.filter(({ number }) => number < from && number >= first);
        now.lines = [...before, ...fetched.map((line) => ({ ...line, bytes: bytesFromBase64(line.bytes) }))].slice(
          -MOST_LINES,
        );
        if ((now.lines.at(-1)?.number ?? last) < last) now.isWanted = true;
        setLines(now.lines);
        // A line that is flooded is drawn some times a second, not as often as something comes.
        await new Promise((resolve) => setTimeout(resolve, PAUSE_MILLISECONDS));
      }
      now.isBusy = false;
    };
    void fetchAll();
  }, [version, board]);
  return lines;
}

const texts = new WeakMap<LogLine, string>();

/** A line as text, without what ends it and what prints nothing; worked out once. */
export function textOf(line: LogLine): string {
  let text = texts.get(line);
  if (text === undefined) texts.set(line, (text = readable(line.bytes, false)));
  return text;
}

/** How bytes are shown. */
export type Form = 'text' | 'hex' | 'both';

/** A line as it is copied. */
export const copied = (line: LogLine, form: Form): string =>
  line.way === 'note' || form === 'text'
    ? textOf(line)
    : form === 'hex'
      ? hexOf(line.bytes)
      : `${hexOf(line.bytes)}  ${textOf(line)}`;
