'use client';
import { useVirtualizer } from '@tanstack/react-virtual';
import { clsx } from 'clsx';
import { Fragment, memo, useEffect, useRef } from 'react';
import { hexOf, type LogLine, readable, troubleWords } from '../../../core/serial/index.ts';
import { type Form, textOf } from './use-lines.ts';

const LINE_HEIGHT = 20;
/** So near to the end it is followed. */
const NEAR = 2 * LINE_HEIGHT;
const CONTROLS =
  'NUL SOH STX ETX EOT ENQ ACK BEL BS HT LF VT FF CR SO SI DLE DC1 DC2 DC3 DC4 NAK SYN ETB CAN EM SUB ESC FS GS RS US';
const NAMES: readonly string[] = CONTROLS.split(' ');
const PICTURES = /([\u2400-\u2421])/;

export type Times = 'none' | 'clock' | 'gap';

interface Props {
  readonly lines: readonly LogLine[];
  readonly form: Form;
  readonly controls: boolean;
  readonly times: Times;
  readonly sought: string;
  /** Place among the lines to bring into sight; null follows the end. */
  readonly at: number | null;
}

/** What was said, line by line; what is in sight is drawn alone, and the end is followed as long as it is in sight. */
export function Lines({ lines, form, controls, times, sought, at }: Props) {
  const scroller = useRef<HTMLDivElement>(null);
  const follows = useRef(true);
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => LINE_HEIGHT,
    overscan: 12,
  });
  const count = lines.length;
  const last = lines.at(-1)?.number ?? 0;
  // biome-ignore lint/correctness/useExhaustiveDependencies: each new line is followed
  useEffect(() => {
    if (at !== null) virtual.scrollToIndex(at, { align: 'center' });
    else if (follows.current && count > 0) virtual.scrollToIndex(count - 1, { align: 'end' });
  }, [at, count, last, virtual]);
  return (
    <div
      ref={scroller}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: it is scrolled by keys
      tabIndex={0}
      role="log"
      aria-label="Serial line"
      className="code min-h-40 flex-1 overflow-auto border border-line bg-raised text-xs"
      onScroll={({ currentTarget: { scrollHeight, scrollTop, clientHeight } }) => {
        follows.current = scrollHeight - scrollTop - clientHeight < NEAR;
      }}
    >
      {count === 0 && (
        <p className="p-4 text-center font-sans text-quiet text-sm">
          Nothing is here. Load a design that talks, or send it something; power the board off and on to hear its
          beginning.
        </p>
      )}
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map(({ index, start }) => {
          const line = lines[index];
          return (
            line && (
              <Row
                key={line.number}
                {...{ line, form, controls, times, sought, start }}
                before={lines[index - 1] ?? null}
                isAt={index === at}
              />
            )
          );
        })}
      </div>
    </div>
  );
}

interface RowProps extends Omit<Props, 'lines' | 'at'> {
  readonly line: LogLine;
  readonly before: LogLine | null;
  readonly start: number;
  readonly isAt: boolean;
}

const MARKS = { in: '', out: '›', note: '·' } as const;
const WAYS = { in: 'from the board', out: 'sent', note: 'happened meanwhile' } as const;

const Row = memo(function Row({ line, before, form, controls, times, sought, start, isAt }: RowProps) {
  const wrong = [...new Set(line.troubles.map(({ trouble }) => troubleWords(trouble)))];
  const isNote = line.way === 'note';
  return (
    <div
      className={clsx(
        'absolute flex w-max min-w-full gap-2 whitespace-pre px-2',
        isAt && 'bg-well',
        isNote && 'text-quiet italic',
        line.way === 'out' && 'text-water',
      )}
      style={{ top: start, height: LINE_HEIGHT, lineHeight: `${LINE_HEIGHT}px` }}
      data-way={line.way}
    >
      {times !== 'none' && (
        <span className="tabular w-24 shrink-0 text-right text-quiet">{timeOf(line, before, times)}</span>
      )}
      <span className="w-3 shrink-0" title={WAYS[line.way]}>
        {MARKS[line.way]}
      </span>
      {!isNote && form !== 'text' && <Hex line={line} />}
      {(isNote || form !== 'hex') && (
        <span>
          <Found text={controls && !isNote ? readable(line.bytes, true) : textOf(line)} sought={sought} />
        </span>
      )}
      {wrong.length > 0 && <span className="text-bad">{wrong.join('; ')}</span>}
    </div>
  );
});

function timeOf({ at }: LogLine, before: LogLine | null, times: Times): string {
  if (times === 'clock') return new Date(at).toISOString().slice(11, 23);
  if (!before) return '';
  const gap = at - before.at;
  return gap < 1000 ? `+${gap.toFixed(2)} ms` : `+${(gap / 1000).toFixed(3)} s`;
}

/** Bytes with something wrong are underlined with a wave, not told by colour alone; those beside each other in one. */
function Hex({ line: { bytes, troubles } }: { readonly line: LogLine }) {
  const wrong = new Set(troubles.map(({ index }) => index));
  const runs: { readonly from: number; to: number; readonly isWrong: boolean }[] = [];
  for (let i = 0; i < bytes.length; i++) {
    const last = runs.at(-1);
    if (last?.isWrong === wrong.has(i)) last.to = i + 1;
    else runs.push({ from: i, to: i + 1, isWrong: wrong.has(i) });
  }
  return (
    <span>
      {runs.map(({ from, to, isWrong }) => (
        <Fragment key={from}>
          {from > 0 && ' '}
          <span className={clsx(isWrong && 'text-bad underline decoration-wavy')}>
            {hexOf(bytes.subarray(from, to))}
          </span>
        </Fragment>
      ))}
    </span>
  );
}

/** Text with what is looked for marked, and characters that print nothing as their names. */
function Found({ text, sought }: { readonly text: string; readonly sought: string }) {
  return text.split(PICTURES).map((piece, i) => {
    const code = piece.charCodeAt(0) - 0x2400;
    // biome-ignore lint/suspicious/noArrayIndexKey: a piece is known by its place
    if (piece.length === 1 && code >= 0 && code <= 0x21) return <Control key={i} name={NAMES[code] ?? 'DEL'} />;
    // biome-ignore lint/suspicious/noArrayIndexKey: a piece is known by its place
    return <Marked key={i} text={piece} sought={sought} />;
  });
}

const Control = ({ name }: { readonly name: string }) => (
  <span className="mx-px rounded-[2px] border border-line px-0.5 text-[0.6rem] text-quiet">{name}</span>
);

function Marked({ text, sought }: { readonly text: string; readonly sought: string }) {
  const at = sought === '' ? -1 : text.toLowerCase().indexOf(sought.toLowerCase());
  if (at < 0) return text;
  const end = at + sought.length;
  return (
    <>
      {text.slice(0, at)}
      <mark className="bg-signal-deep text-raised">{text.slice(at, end)}</mark>
      <Marked text={text.slice(end)} sought={sought} />
    </>
  );
}
