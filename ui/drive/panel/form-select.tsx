import { formsOf, type ProbedSignal, type ValueForm } from '../../../core/probes/index.ts';
import { Select } from '../../shared/index.ts';

interface Props {
  readonly signal: ProbedSignal;
  /** Null where it is written as all others are. */
  readonly form: ValueForm | null;
  readonly onForm: (form: ValueForm | null) => void;
}

const WORDS: Readonly<Record<string, string>> = {
  dec: 'decimal',
  signed: 'signed',
  hex: 'hexadecimal',
  bin: 'binary',
  names: 'names',
};

/** The form that one signal is written in. Single bits have none to choose from. */
export function FormSelect({ signal, form, onForm }: Props) {
  if (signal.width === 1) return null;
  return (
    <Select
      size="tiny"
      className="w-20 shrink-0 text-quiet text-xs"
      aria-label={`Form of ${signal.name}`}
      value={form ?? ''}
      onChange={(event) => onForm(formsOf(signal).find((one) => one === event.target.value) ?? null)}
    >
      <option value="">as all</option>
      {formsOf(signal).map((one) => (
        <option key={one} value={one}>
          {WORDS[one] ?? pointed(one, signal.width)}
        </option>
      ))}
    </Select>
  );
}

/** Bits before and behind the point. */
function pointed(form: ValueForm, width: number): string {
  const behind = Number(form.split(' ')[1]);
  return `${width - behind}.${behind} bits`;
}
