/** Which levels a pad takes for 1 and for 0 at a supply; between the two it reads by chance. Volts. */
export interface Levels {
  readonly name: string;
  readonly readsOneFrom: (supply: number) => number;
  readonly readsZeroUpTo: (supply: number) => number;
}

/** In the order of the stream. docs/silicon.md, table 8 (levels of JESD8C, JESD8-5, JESD8-7) */
export const PAD_LEVELS: readonly Levels[] = [
  { name: 'LVCMOS 3.3 V', readsOneFrom: () => 2.0, readsZeroUpTo: () => 0.8 },
  { name: 'LVCMOS 2.5 V', readsOneFrom: () => 1.7, readsZeroUpTo: () => 0.7 },
  { name: 'LVCMOS 1.8 V', readsOneFrom: (supply) => 0.65 * supply, readsZeroUpTo: (supply) => 0.35 * supply },
];

/** What an input makes of a voltage; null where the level is between both thresholds and the reading is chance. */
export function readsAs({ readsOneFrom, readsZeroUpTo }: Levels, volts: number, supply: number): boolean | null {
  if (volts <= readsZeroUpTo(supply)) return false;
  return volts >= readsOneFrom(supply) ? true : null;
}
