import type { HardwareRun } from './hardware.ts';
import type { VectorRun } from './run.ts';

/** An output that is one thing in simulation and another one on hardware. `row` counts data rows from 1. */
interface Difference {
  readonly row: number;
  readonly port: string;
  readonly simulation: string;
  readonly hardware: string;
}

/** Bits of a value as it is told, the highest first; digits that are open are x or z. */
function bitsOf(text: string): string {
  const [, base = '', digits = ''] = /^0([xb])(.*)$/.exec(text) ?? [];
  if (base === 'b') return digits;
  if (base === 'x')
    return [...digits]
      .map((digit) => (/[xz]/.test(digit) ? digit.repeat(4) : Number.parseInt(digit, 16).toString(2).padStart(4, '0')))
      .join('');
  return BigInt(text).toString(2);
}

/** Whether two values are the same where both are known. */
function agree(a: string, b: string): boolean {
  if (a === b) return true;
  if (a.startsWith('-') || b.startsWith('-')) return false;
  const [x, y] = [bitsOf(a), bitsOf(b)];
  const width = Math.max(x.length, y.length);
  const [p, q] = [x.padStart(width, '0'), y.padStart(width, '0')];
  return [...p].every((bit, i) => bit === q[i] || /[xz]/.test(bit));
}

/**
 * Where the same rows came out otherwise: bits that are unknown in simulation differ from nothing, since hardware has
 * to have them be something.
 */
export const differencesOf = (simulation: VectorRun, hardware: HardwareRun): Difference[] =>
  hardware.rows.flatMap(({ row, actual }) =>
    simulation.vectors.columns.flatMap((column, i) => {
      const [there, here] = [simulation.actual[row - 1]?.[i] ?? null, actual[i] ?? null];
      if (column.kind !== 'expect' || there === null || here === null || agree(there, here)) return [];
      return [{ row, port: column.port, simulation: there, hardware: here }];
    }),
  );
