'use client';
import { clsx } from 'clsx';
import Link from 'next/link';
import { usePathname } from 'next/navigation';
import { useLive } from '../shared/index.ts';
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
  const here = usePathname();
  const state = useLive();
  return (
    <nav aria-label="Stations" className="flex min-w-0 flex-1">
      {STATIONS.map(({ path, name }, i) => {
        const { tone, word } = stationState(path, state);
        const current = here.startsWith(path);
        return (
          <Link
            key={path}
            href={path}
            aria-current={current ? 'page' : undefined}
            className={clsx('group relative min-w-0 flex-1 px-1 pt-2 pb-1.5 text-center', current && 'bg-raised')}
          >
            <span
              className={clsx(
                'block truncate text-base leading-tight',
                current ? 'font-bold' : 'group-hover:underline',
              )}
            >
              {name}
            </span>
            <span className="relative my-1 block h-3" aria-hidden>
              <span
                className={clsx(
                  'absolute top-[5px] h-0.5 bg-line',
                  i === 0 ? 'left-1/2' : '-left-1',
                  i === STATIONS.length - 1 ? 'right-1/2' : '-right-1',
                )}
              />
              <span
                className={clsx('absolute top-0.5 left-1/2 -ml-1 size-2 rounded-full border-2 box-content', DOT[tone])}
              />
            </span>
            <span className="block h-4 truncate text-quiet text-xs" data-testid={`state-${name.toLowerCase()}`}>
              {word}
            </span>
          </Link>
        );
      })}
    </nav>
  );
}
