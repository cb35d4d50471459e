'use client';
import { clsx } from 'clsx';
import Link from 'next/link';
import { usePathname } from 'next/navigation';
import { useLiveWith } from '../shared/index.ts';
import { STATIONS, stationState, type Tone } from './stations.ts';

const DOT: Readonly<Record<Tone, string>> = {
  none: 'border-quiet bg-paper',
  ready: 'border-good bg-good',
  running: 'border-signal bg-signal motion-safe:animate-pulse',
  stale: 'border-doubt bg-[linear-gradient(90deg,var(--color-doubt)_50%,var(--color-paper)_50%)]',
  failed: 'border-bad bg-bad rounded-none rotate-45',
};

/** The stations in the order of the work, on one line. A dot tells each one's state; a word under it says why. */
export function Track() {
  return (
    <nav aria-label="Stations" className="flex min-w-0 flex-1">
      {STATIONS.map(({ path, name }, i) => (
        <Station key={path} path={path} name={name} place={i} />
      ))}
    </nav>
  );
}

interface StationProps {
  readonly path: string;
  readonly name: string;
  /** Counted from the left. */
  readonly place: number;
}

function Station({ path, name, place }: StationProps) {
  const current = usePathname().startsWith(path);
  const { tone, word } = useLiveWith((state) => stationState(path, state));
  return (
    <Link
      href={path}
      aria-current={current ? 'page' : undefined}
      className={clsx('group relative min-w-0 flex-1 px-1 pt-2 pb-1.5 text-center', current && 'bg-raised')}
    >
      <span className={clsx('block truncate text-base leading-tight', current ? 'font-bold' : 'group-hover:underline')}>
        {name}
      </span>
      <span className="relative my-1 block h-3" aria-hidden>
        <span
          className={clsx(
            'absolute top-[5px] h-0.5 bg-line',
            place === 0 ? 'left-1/2' : '-left-1',
            place === STATIONS.length - 1 ? 'right-1/2' : '-right-1',
          )}
        />
        <span className={clsx('absolute top-0.5 left-1/2 -ml-1 size-2 rounded-full border-2 box-content', DOT[tone])} />
      </span>
      <span className="block h-4 truncate text-quiet text-xs" data-testid={`state-${name.toLowerCase()}`}>
        {word}
      </span>
    </Link>
  );
}
