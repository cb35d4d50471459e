'use client';
import { clsx } from 'clsx';
import Link from 'next/link';

interface Props {
  /** Name of the station; its path is the same in small letters. */
  readonly station: string;
  readonly views: readonly { readonly id: string; readonly name: string }[];
  readonly current: string;
  /** A number beside a name, where it is not 0: what waits there. */
  readonly counts?: Readonly<Record<string, number>>;
}

/** The parts of a station. */
export function ViewLinks({ station, views, current, counts = {} }: Props) {
  return (
    <nav aria-label={station} className="mb-2 flex shrink-0 flex-wrap gap-x-1 border-line border-b text-sm">
      {views.map(({ id, name }) => (
        <Link
          key={id}
          href={`/${station.toLowerCase()}/${id}`}
          aria-current={id === current ? 'page' : undefined}
          className={clsx(
            '-mb-px border-b-2 px-2 py-1',
            id === current ? 'border-signal font-bold' : 'border-transparent text-quiet hover:text-ink',
          )}
        >
          {name}
          {(counts[id] ?? 0) > 0 && <span className="tabular ml-1 text-doubt">{counts[id]}</span>}
        </Link>
      ))}
    </nav>
  );
}
