import { clsx } from 'clsx';
import type { ReactNode } from 'react';

/** Top of a station: what it is for, and its one main action. */
export function StationHead({
  title,
  hint,
  children,
}: {
  readonly title: string;
  readonly hint: ReactNode;
  readonly children?: ReactNode;
}) {
  return (
    <header className="mb-4 flex flex-wrap items-end gap-x-4 gap-y-2">
      <div className="min-w-0 flex-1">
        <h1 className="font-bold text-xl leading-tight">{title}</h1>
        <p className="text-quiet text-sm">{hint}</p>
      </div>
      <div className="flex items-center gap-2">{children}</div>
    </header>
  );
}

export function Section({
  title,
  aside,
  children,
  className,
}: {
  readonly title: string;
  readonly aside?: ReactNode;
  readonly children: ReactNode;
  readonly className?: string;
}) {
  return (
    <section className={clsx('mb-4 border-line border-t pt-2', className)}>
      <div className="mb-2 flex items-baseline gap-3">
        <h2 className="font-bold">{title}</h2>
        <div className="ml-auto flex items-center gap-2 text-quiet text-sm">{aside}</div>
      </div>
      {children}
    </section>
  );
}

export const Empty = ({ children }: { readonly children: ReactNode }) => (
  <p className="border border-line border-dashed px-4 py-6 text-center text-quiet">{children}</p>
);

/** A named value; numbers stand in figures of one width. */
export function Fact({
  name,
  children,
  tone,
  code,
}: {
  readonly name: string;
  readonly children: ReactNode;
  readonly tone?: 'good' | 'bad' | 'doubt';
  readonly code?: boolean;
}) {
  return (
    <div className="flex min-w-0 items-baseline justify-between gap-3 border-line border-b py-1">
      <dt className="shrink-0 text-quiet text-sm">{name}</dt>
      <dd
        className={clsx(
          'truncate text-sm',
          code ? 'code' : 'tabular',
          tone === 'good' && 'text-good',
          tone === 'bad' && 'text-bad',
          tone === 'doubt' && 'text-doubt',
        )}
      >
        {children}
      </dd>
    </div>
  );
}
