// What the cards of all cores have.
import { clsx } from 'clsx';
import { X } from 'lucide-react';
import type { ReactNode } from 'react';
import type { SignalInfo } from '../../core/build/index.ts';
import { partOf } from '../../core/probes/index.ts';
import { Checkbox, IconButton, Select, TextButton, TextInput } from '../shared/index.ts';

interface CoreHeadProps {
  readonly kind: 'Recorder' | 'Panel' | 'Held clock';
  readonly name: string;
  readonly off: boolean;
  readonly isTarget: boolean;
  readonly onTarget: () => void;
  readonly onChange: (change: { readonly name?: string; readonly off?: boolean | undefined }) => void;
  readonly onRemove: () => void;
}

/** Name of a core, whether it is in the build, and out with it. */
export function CoreHead({ kind, name, off, isTarget, onTarget, onChange, onRemove }: CoreHeadProps) {
  return (
    <div className={clsx('mt-3 flex items-center gap-2 border-b pb-1', isTarget ? 'border-signal' : 'border-line')}>
      <TextButton
        className="font-bold"
        aria-pressed={isTarget}
        title={isTarget ? 'Takes what is chosen next' : 'Let it take what is chosen next'}
        onClick={onTarget}
      >
        {kind}
      </TextButton>
      <TextInput
        className="min-w-0 flex-1 border-0! border-transparent! border-b! bg-transparent! hover:border-line! focus:border-line!"
        aria-label={`Name of the ${kind.toLowerCase()}`}
        defaultValue={name}
        onBlur={(event) =>
          event.target.value.trim() !== '' &&
          event.target.value !== name &&
          onChange({ name: event.target.value.trim() })
        }
        onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      />
      <label
        className="flex items-center gap-1 text-quiet text-xs"
        title="Off, it stays in the plan and out of the build"
      >
        <Checkbox
          checked={!off}
          aria-label={`${kind} ${name} on`}
          onChange={(event) => onChange({ off: event.target.checked ? undefined : true })}
        />{' '}
        on
      </label>
      <IconButton isRemoval label={`Remove ${kind.toLowerCase()} ${name}`} onClick={onRemove}>
        <X className="size-3.5" />
      </IconButton>
    </div>
  );
}

/** Says when the settings it holds are settled. */
export const Settled = ({ when, children }: { readonly when: 'build'; readonly children: ReactNode }) => (
  <fieldset className="relative mt-1 min-w-0 border-line border-l-2 pl-2">
    <legend className="sr-only">fixed by the {when}</legend>
    <span aria-hidden className="block text-right text-quiet text-xs">
      fixed by the {when}
    </span>
    {children}
  </fieldset>
);

/** Under the choice of a clock. */
export const ClockRate = ({ of }: { readonly of: string | undefined }) =>
  of === undefined ? null : <p className="tabular ml-26 text-quiet text-xs">{of}</p>;

interface ChoiceProps {
  readonly label: string;
  readonly value: string;
  readonly options: readonly string[];
  readonly unit?: string;
  /** What an empty value is called. */
  readonly none?: string;
  readonly onChoose: (value: string) => void;
}

/** One of several, by its name. */
export function Choice({ label, value, options, unit, none = 'no clock', onChoose }: ChoiceProps) {
  const all = options.includes(value) ? options : [value, ...options];
  return (
    <label className="mt-1 flex items-center gap-2">
      <span className="w-24 shrink-0 text-quiet">{label}</span>
      <Select isCode className="min-w-0 flex-1" value={value} onChange={(event) => onChoose(event.target.value)}>
        {all.map((option) => (
          <option key={option} value={option}>
            {option === '' ? none : option}
            {unit ? ` ${unit}` : ''}
          </option>
        ))}
      </Select>
    </label>
  );
}

interface ChosenProps {
  readonly names: readonly string[];
  readonly known: ReadonlyMap<string, SignalInfo>;
  readonly onRemove: (name: string) => void;
}

/** Signals that were chosen, each to be taken out again. */
export function Chosen({ names, known, onRemove }: ChosenProps) {
  return (
    <ul className="mt-1">
      {names.map((name) => {
        const part = partOf((one) => known.get(one), name);
        const gone = part === null;
        return (
          <li key={name} className="flex items-center gap-1 border-line border-b py-0.5">
            <span
              className={clsx('code min-w-0 flex-1 truncate text-xs', gone && 'text-bad line-through')}
              title={gone ? `${name}: the design has no such signal` : name}
            >
              {name.slice(name.indexOf('.') + 1)}
            </span>
            <span className="tabular text-quiet text-xs">{part?.width ?? 'gone'}</span>
            <IconButton isRemoval className="p-0.5" label={`Remove ${name}`} onClick={() => onRemove(name)}>
              <X className="size-3.5" />
            </IconButton>
          </li>
        );
      })}
    </ul>
  );
}
