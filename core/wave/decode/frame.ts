/** One unit that a decoder read: a byte, a word, a start. Ticks from `from` up to `to`. */
export interface Frame {
  readonly from: number;
  readonly to: number;
  /** What is written on it. */
  readonly text: string;
  /** What it carries; null for what carries nothing, such as a start or an acknowledge. */
  readonly value: number | null;
  /** Which of two directions, where there are two: `out` from the master. */
  readonly way?: 'out' | 'in';
  /** What is wrong with it; null for a good frame. */
  readonly trouble: string | null;
}

/** A byte as two hexadecimal digits, with its character where it has one. */
export function byteText(value: number, bits = 8): string {
  const hex = value
    .toString(16)
    .toUpperCase()
    .padStart(Math.ceil(bits / 4), '0');
  return bits === 8 && value >= 32 && value < 127 ? `${hex} ${String.fromCharCode(value)}` : hex;
}

/** What is said of a unit whose beginning nobody saw. */
export const BEGAN_BEFORE = 'began before the record or in a gap: its value is not known';
