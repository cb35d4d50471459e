import { nearestStored, type Axis, type WaveView } from '../../core/wave/index.ts';
import type { View } from './draw.ts';

/** Pixels a new cursor keeps from the others. */
const APART = 40;

/** A place on screen for a new cursor where none stands yet, from the middle on to the right, then to the left. */
export function freePlace(axis: Axis, view: View, width: number, cursors: WaveView['cursors']): number {
  const taken = cursors.map(({ tick }) => (tick - view.first) / view.perPixel);
  const right = Math.min(width, (axis.length - view.first) / view.perPixel);
  const left = Math.max(0, -view.first / view.perPixel);
  const places = Array.from(
    { length: Math.max(1, Math.floor((right - left) / APART)) },
    (_, i) => left + (i + 0.5) * APART,
  ).sort((a, b) => Math.abs(a - (right + left) * 0.52) - Math.abs(b - (right + left) * 0.52));
  const far = (x: number) => Math.min(Number.POSITIVE_INFINITY, ...taken.map((one) => Math.abs(one - x)));
  const best = places.find((x) => far(x) >= APART / 2) ?? [...places].sort((a, b) => far(b) - far(a))[0] ?? width / 2;
  return nearestStored(axis, view.first + best * view.perPixel);
}

/** The first letter that no cursor has, then A1, B1 and so on. */
export const nextName = (names: readonly string[]): string => {
  for (let i = 0; ; i++) {
    const name = String.fromCharCode(65 + (i % 26)) + (i >= 26 ? String(Math.floor(i / 26)) : '');
    if (!names.includes(name)) return name;
  }
};
