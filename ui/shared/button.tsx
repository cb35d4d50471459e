import { clsx } from 'clsx';
import type { ButtonHTMLAttributes } from 'react';

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  readonly look?: 'main' | 'plain' | 'quiet';
}

/** `main` is for the one thing a station is for. */
export function Button({ look = 'plain', className, ...rest }: Props) {
  return (
    <button
      type="button"
      className={clsx(
        'inline-flex h-8 shrink-0 items-center gap-1.5 whitespace-nowrap rounded-[3px] px-3 text-sm ' +
          'disabled:cursor-not-allowed disabled:opacity-50',
        look === 'main' && 'bg-signal-deep font-bold text-raised enabled:hover:bg-signal',
        look === 'plain' && 'border border-line bg-raised enabled:hover:border-quiet',
        look === 'quiet' && 'text-quiet enabled:hover:text-ink enabled:hover:underline',
        className,
      )}
      {...rest}
    />
  );
}
