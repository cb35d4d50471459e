import { type ProbedSignal, type ValueForm, writeValue } from '../../../core/probes/index.ts';

/** Longer values than this take lines of their own. */
export const SHORT_DIGITS = 12;
const GROUP_DIGITS = 4;

export const show = (value: bigint | undefined, signal: ProbedSignal, form: ValueForm): string =>
  value === undefined ? '–' : writeValue(value, signal, form);

interface Props {
  readonly text: string;
  readonly label: string;
  /** Bits that a group of digits stands for, where that is a whole number. */
  readonly digitBits?: number | undefined;
}

/** Digits of a value in groups of four, so that a long one may be broken between them; each says which bits it is. */
export function Digits({ text, label, digitBits }: Props) {
  if (text.length <= SHORT_DIGITS) return <>{text}</>;
  const [prefix, digits] = /^0[xb]/.test(text) ? [text.slice(0, 2), text.slice(2)] : ['', text];
  const first = digits.length % GROUP_DIGITS || GROUP_DIGITS;
  const groups = [digits.slice(0, first), ...(digits.slice(first).match(new RegExp(`.{${GROUP_DIGITS}}`, 'g')) ?? [])];
  const bits = (i: number): string | undefined => {
    if (digitBits === undefined) return undefined;
    const low = (groups.length - 1 - i) * GROUP_DIGITS * digitBits;
    return `${label}, bits ${low + GROUP_DIGITS * digitBits - 1} to ${low}`;
  };
  return (
    <span title={label} className="inline-flex flex-wrap justify-end gap-x-1.5 text-sm leading-snug">
      {groups.map((group, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a group is its place in the number
        <span key={i} title={bits(i)}>
          {i === 0 ? prefix : ''}
          {group}
        </span>
      ))}
    </span>
  );
}

/** Bits of a digit in a radix; none where a digit is no whole number of them. */
export const digitBitsOf = (radix: ValueForm): number | undefined =>
  radix === 'hex' ? 4 : radix === 'bin' ? 1 : undefined;
