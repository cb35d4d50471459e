import type { BlockRole } from '../../core/operations/index.ts';

/** Something in the memory. `end` is the first address behind it. */
export interface StripPlace {
  readonly name: string;
  readonly role: BlockRole | 'header';
  readonly start: number;
  readonly end: number;
}

/** Share of a row that a character takes, and the most that a name takes. */
const CHARACTER = 0.02;
const MOST_NAME = 0.2;

/** Places whose name has room: one that would lie over another's stays a title. */
export function named(
  places: readonly StripPlace[],
  rowBytes: number,
  size: number,
): { place: StripPlace; index: number }[] {
  const taken: { row: number; from: number; to: number }[] = [];
  return places.flatMap((place, index) => {
    const [first] = pieces(place, rowBytes, size);
    if (!first) return [];
    const from = (first.to - first.from) / rowBytes > 0.16 ? first.from / rowBytes : first.to / rowBytes;
    const to = from + Math.min(MOST_NAME, CHARACTER * place.name.length);
    if (taken.some((one) => one.row === first.row && one.from < to && from < one.to)) return [];
    taken.push({ row: first.row, from, to });
    return [{ place, index }];
  });
}

/** A place cut at the ends of rows; what lies behind the memory is drawn at its end. */
export function pieces(
  { start, end }: StripPlace,
  rowBytes: number,
  size: number,
): { row: number; from: number; to: number }[] {
  const found: { row: number; from: number; to: number }[] = [];
  for (let at = start; at < Math.min(Math.max(end, start + 1), size); ) {
    const row = Math.floor(at / rowBytes);
    const to = Math.min(end, (row + 1) * rowBytes);
    found.push({ row, from: at - row * rowBytes, to: Math.max(to, at + 1) - row * rowBytes });
    at = (row + 1) * rowBytes;
  }
  return found;
}
