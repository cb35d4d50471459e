import { type Bits, bitAt } from '../bits/index.ts';
import { item } from '../lists.ts';

const LEAST_LENGTH = 2;
const LONGEST_UNKNOWN = 64;

/**
 * What is known of one device's instruction register before the path is divided. `capture` is what Capture-IR loads,
 * bit 0 first.
 */
interface IrHint {
  readonly length: number | null;
  readonly capture: number | null;
}

type IrSplit =
  | { readonly kind: 'split'; readonly lengths: readonly number[] }
  /** Several ways fit; lengths that are the same in all of them are there. */
  | { readonly kind: 'ambiguous'; readonly lengths: readonly (number | null)[] }
  /** No way fits what was captured. */
  | { readonly kind: 'impossible' };

/**
 * Divides the instruction path among devices, index 0 nearest TDO. Every register begins, least significant bit first,
 * with the 1 and the 0 of Capture-IR; known lengths are kept. Takes time in proportion to devices, path and the longest
 * unknown register.
 *
 * @source IEEE 1149.1: at least two bits, Capture-IR loads 01 into the two least significant ones
 */
export function splitIr(path: Bits, hints: readonly IrHint[]): IrSplit {
  const strict = divide(path, hints, true);
  return strict.kind === 'impossible' ? divide(path, hints, false) : strict;
}

function divide(path: Bits, hints: readonly IrHint[], captures: boolean): IrSplit {
  const begins = (at: number): boolean =>
    at === path.length || (bitAt(path, at) === 1 && bitAt(path, at + 1) === 0 && at + LEAST_LENGTH <= path.length);
  const lengthsAt = (at: number, { length, capture }: IrHint): number[] => {
    if (length === null) {
      const found: number[] = [];
      for (let own = LEAST_LENGTH; own <= LONGEST_UNKNOWN && at + own <= path.length; own++)
        if (begins(at + own)) found.push(own);
      return found;
    }
    const fits =
      at + length <= path.length &&
      begins(at + length) &&
      (!captures || capture === null || agrees(path, at, length, capture));
    return fits ? [length] : [];
  };
  const forward: Set<number>[] = [new Set(path.length === 0 || begins(0) ? [0] : [])];
  for (const hint of hints) {
    const next = new Set<number>();
    for (const at of forward.at(-1) ?? []) for (const own of lengthsAt(at, hint)) next.add(at + own);
    forward.push(next);
  }
  if (!forward.at(-1)?.has(path.length)) return { kind: 'impossible' };
  let ends = new Set([path.length]);
  const lengths: (number | null)[] = new Array(hints.length).fill(null);
  for (let i = hints.length - 1; i >= 0; i--) {
    const starts = new Set<number>();
    const own = new Set<number>();
    for (const at of forward[i] ?? [])
      for (const length of lengthsAt(at, item(hints, i)))
        if (ends.has(at + length)) {
          starts.add(at);
          own.add(length);
        }
    const [only] = own;
    lengths[i] = own.size === 1 ? (only as number) : null;
    ends = starts;
  }
  return lengths.every((length) => length !== null)
    ? { kind: 'split', lengths: lengths as number[] }
    : { kind: 'ambiguous', lengths };
}

function agrees(path: Bits, at: number, length: number, capture: number): boolean {
  for (let i = 0; i < Math.min(length, 30); i++) if (bitAt(path, at + i) !== ((capture >>> i) & 1)) return false;
  return true;
}
