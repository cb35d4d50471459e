/** An I/O standard. */
export interface IoStandard {
  readonly name: string;
  /** Supply the bank must have, in volts. */
  readonly supply: number;
  /** Drive strengths in milliamperes. */
  readonly drives: readonly number[];
}

export const PULLS = ['none', 'up', 'down'] as const;
export const SLEWS = ['slow', 'fast'] as const;

export type Pull = (typeof PULLS)[number];
export type Slew = (typeof SLEWS)[number];

/** One port bit on a package pin. */
export interface PinBinding {
  readonly port: string;
  readonly bit: number;
  readonly pin: string;
  readonly standard: string;
  /** Milliamperes. */
  readonly drive: number;
  readonly pull: Pull;
  readonly slew: Slew;
}

/** By its name, or by the same written in one word (`LVCMOS33`), in any case. */
export const namedIn = (standards: readonly IoStandard[], name: string): IoStandard | undefined =>
  standards.find((standard) => standard.name === name || oneWord(standard.name) === oneWord(name));

const oneWord = (name: string): string =>
  name
    .toUpperCase()
    .replace(/[\s.]/g, '')
    .replace(/(?<=\d)V$/, '');
