import { clsx } from 'clsx';
import type { ChangeEvent, ComponentProps, ReactNode } from 'react';
import { ToggleGroup } from 'radix-ui';

type Size = 'tiny' | 'small' | 'normal';

const HEIGHTS: Readonly<Record<Size, string>> = { tiny: 'h-6', small: 'h-7', normal: 'h-8' };

interface Looks {
  /** 24, 28 or 32 pixels high. */
  readonly size?: Size;
  /** Names, addresses and digits: in the type of code. */
  readonly isCode?: boolean;
}

const box = ({ size = 'small', isCode = false }: Looks, className: string | undefined): string =>
  clsx(
    HEIGHTS[size],
    isCode ? 'code text-xs' : 'text-sm',
    'border border-line bg-raised px-1 aria-invalid:border-bad',
    className,
  );

interface SelectProps<T extends string | number> extends Omit<ComponentProps<'select'>, 'size' | 'value'>, Looks {
  readonly value?: T;
  /** Hears of the option that was picked; the options are those of the value's type. */
  readonly onPick?: (value: Extract<T, string>) => void;
}

/** One of several, by the system's own list. */
export function Select<T extends string | number>({ size, isCode, className, onPick, ...rest }: SelectProps<T>) {
  return (
    <select
      className={box({ ...(size && { size }), ...(isCode && { isCode }) }, className)}
      {...(onPick && {
        onChange: (event: ChangeEvent<HTMLSelectElement>) => onPick(event.target.value as Extract<T, string>),
      })}
      {...rest}
    />
  );
}

/** A line of text. */
export function TextInput({ size, isCode, className, ...rest }: Omit<ComponentProps<'input'>, 'size'> & Looks) {
  return <input className={box({ ...(size && { size }), ...(isCode && { isCode }) }, className)} {...rest} />;
}

/** Something that is so or is not, with its name behind it. */
export function Checkbox({ children, className, ...rest }: Omit<ComponentProps<'input'>, 'type'>) {
  if (children === undefined) return <input type="checkbox" className="accent-signal-deep" {...rest} />;
  return (
    <label className={clsx('flex items-center gap-1.5', className)}>
      <input type="checkbox" className="accent-signal-deep" {...rest} /> {children}
    </label>
  );
}

interface FieldProps {
  readonly name: ReactNode;
  readonly className?: string;
  readonly children: ReactNode;
}

/** A name before what is chosen or written. */
export function Field({ name, className, children }: FieldProps) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: what it names is given
    <label className={clsx('flex items-center gap-1.5 text-sm', className)}>
      <span className="text-quiet">{name}</span>
      {children}
    </label>
  );
}

interface Typed extends Omit<ComponentProps<'input'>, 'size' | 'name' | 'onChange'> {
  readonly onText: (text: string) => void;
}

/** A word of a design, such as the name of a signal, with the name of the field before it. */
export const TextField = ({ name, onText, ...rest }: Typed & { readonly name: string }) => (
  <Field name={name}>
    <TextInput size="normal" isCode aria-label={name} onChange={(event) => onText(event.target.value)} {...rest} />
  </Field>
);

/** A number that is written; `className` says how wide. */
export const CountInput = ({ className, onText, ...rest }: Typed) => (
  <TextInput
    size="normal"
    className={clsx('tabular text-right', className)}
    onChange={(event) => onText(event.target.value)}
    {...rest}
  />
);

interface Choice<T extends string> {
  readonly value: T;
  readonly name: ReactNode;
  readonly title?: string;
}

interface SegmentedProps<T extends string> {
  readonly label: string;
  readonly value: T | null;
  readonly choices: readonly Choice<T>[];
  readonly onChoose: (value: T) => void;
  readonly disabled?: boolean;
  readonly className?: string;
}

/** One of a few, all in sight; arrow keys go from one to the next. */
export function Segmented<T extends string>(props: SegmentedProps<T>) {
  const { label, value, choices, onChoose, disabled = false, className } = props;
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value ?? ''}
      onValueChange={(next) => next !== '' && onChoose(next as T)}
      disabled={disabled}
      className={clsx('flex items-center gap-1', className)}
    >
      {choices.map((choice) => (
        <ToggleGroup.Item
          key={choice.value}
          value={choice.value}
          title={choice.title}
          className="h-6 rounded-[3px] border border-quiet bg-raised px-1.5 disabled:opacity-50 data-[state=on]:border-ink data-[state=on]:bg-ink data-[state=on]:text-raised"
        >
          {choice.name}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
