'use client';
import type { OpenRecord } from './use-record.ts';

interface Props extends Pick<OpenRecord['opened'], 'oddities' | 'notes'> {
  readonly rules: readonly string[];
  /** Places that they mark. */
  readonly ruled: number;
}

/** What deserves a word: broken rules, signals that never move, and how the record was read. */
export function Remarks({ oddities, notes, rules, ruled }: Props) {
  if (oddities.length === 0 && notes.length === 0 && ruled === 0) return null;
  return (
    <ul className="flex flex-col gap-0.5 text-sm" data-testid="remarks">
      {ruled > 0 && (
        <li className="text-bad">
          {ruled.toLocaleString('en')} {ruled === 1 ? 'place' : 'places'} marked by{' '}
          {rules.length === 1 ? `"${rules[0]}"` : `${rules.length} kept sentences`}.
        </li>
      )}
      {oddities.map(({ signal, message, cause }) => (
        <li key={signal}>
          <span className="code text-xs">{signal.slice(signal.indexOf('.') + 1)}</span> is{' '}
          <span className="text-doubt">{message}</span>. <span className="text-quiet">{cause}</span>
        </li>
      ))}
      {notes.map((note) => (
        <li key={note} className="text-doubt">
          {note}
        </li>
      ))}
    </ul>
  );
}
