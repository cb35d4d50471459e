import { clsx } from 'clsx';
import type { ComponentProps } from 'react';

interface IconProps extends ComponentProps<'button'> {
  /** What it does, for who does not know the picture. */
  readonly label: string;
  /** It takes something away. */
  readonly isRemoval?: boolean;
}

/** A picture that does something. */
export function IconButton({ label, isRemoval = false, className, ...rest }: IconProps) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      className={clsx(
        'shrink-0 p-1 text-quiet disabled:opacity-40',
        isRemoval ? 'enabled:hover:text-bad' : 'enabled:hover:text-ink',
        className,
      )}
      {...rest}
    />
  );
}

/** Words in the text that do something. */
export function TextButton({ className, ...rest }: ComponentProps<'button'>) {
  return <button type="button" className={clsx('hover:underline', className)} {...rest} />;
}

interface ChosenProps extends ComponentProps<'button'> {
  readonly isChosen?: boolean;
}

/** A line of a list that can be chosen. */
export function RowButton({ isChosen = false, className, ...rest }: ChosenProps) {
  return (
    <button
      type="button"
      className={clsx('w-full truncate text-left hover:bg-well', isChosen && 'bg-well font-bold', className)}
      {...rest}
    />
  );
}

/** A figure with its name, one of several to be looked at closer. */
export function Tile({ isChosen = false, className, ...rest }: ChosenProps) {
  return (
    <button
      type="button"
      aria-pressed={isChosen}
      className={clsx(
        'border px-3 py-1 text-left text-sm',
        isChosen ? 'border-ink bg-raised' : 'border-line hover:border-quiet',
        className,
      )}
      {...rest}
    />
  );
}
