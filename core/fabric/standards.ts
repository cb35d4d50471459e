/** An I/O standard. Thresholds are volts for a given supply. */
export interface IoStandard {
  readonly name: string;
  /** Supply the bank must have, in volts. */
  readonly supply: number;
  readonly highAbove: (supply: number) => number;
  readonly lowBelow: (supply: number) => number;
  /** Drive strengths in milliamperes. */
  readonly drives: readonly number[];
}

/**
 * @source JEDEC JESD8C, JESD8-5, JESD8-7: LVCMOS levels; order is part of the stream format, docs/silicon.md, table 8
 */
export const STANDARDS: readonly IoStandard[] = [
  { name: 'LVCMOS 3.3 V', supply: 3.3, highAbove: () => 2.0, lowBelow: () => 0.8, drives: [4, 8, 12, 16] },
  { name: 'LVCMOS 2.5 V', supply: 2.5, highAbove: () => 1.7, lowBelow: () => 0.7, drives: [4, 8, 12] },
  {
    name: 'LVCMOS 1.8 V',
    supply: 1.8,
    highAbove: (supply) => 0.65 * supply,
    lowBelow: (supply) => 0.35 * supply,
    drives: [2, 4, 8],
  },
];

export const PULLS = ['none', 'up', 'down'] as const;
export const SLEWS = ['slow', 'fast'] as const;

export type Pull = (typeof PULLS)[number];
export type Slew = (typeof SLEWS)[number];

export const DEFAULT_STANDARD = 'LVCMOS 3.3 V';
export const DEFAULT_DRIVE = 8;

/** By its name, or by the same written in one word (`LVCMOS33`), in any case. */
export const standardNamed = (name: string): IoStandard | undefined =>
  STANDARDS.find((standard) => standard.name === name || oneWord(standard.name) === oneWord(name));

const oneWord = (name: string): string =>
  name
    .toUpperCase()
    .replace(/[\s.]/g, '')
    .replace(/(?<=\d)V$/, '');

/**
 * What an input of that standard makes of a voltage: null where the level is between both thresholds and the reading is
 * anybody's guess.
 */
export function readLevel(standard: IoStandard, volts: number, supply: number): boolean | null {
  if (volts >= standard.highAbove(supply)) return true;
  return volts <= standard.lowBelow(supply) ? false : null;
}
