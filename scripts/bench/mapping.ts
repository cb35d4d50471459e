// Tables of small circuits against counts by hand, and of the debug cores against what is laid down for them.
import { CLOCK, LISTED, MORE } from '../../tests/circuits/index.ts';
import { netlistOf } from '../../tests/support/mapped-equals.ts';
import { memoriesOf, partNamed } from '../../core/families/index.ts';
import { countResources, map, time } from '../../core/mapping/index.ts';
import { readFileSync } from 'node:fs';

interface Counted {
  readonly circuit: string;
  readonly tables: number;
  readonly byHand: number;
  readonly why: string;
}

const PART = 'CV25';
const GRADE = 2;

const mapped = (text: string) => map(netlistOf(text), memoriesOf(PART));

export const smallCircuits = (): Counted[] =>
  [...LISTED, ...MORE].map(({ name, text, byHand, why }) => ({
    circuit: name,
    tables: countResources(mapped(text)).total.luts,
    byHand,
    why,
  }));

/** Geometric mean and the largest of the tables against the counts by hand. */
export function ratiosOf(counted: readonly Counted[]): { readonly mean: number; readonly worst: number } {
  const ratios = counted.map(({ tables, byHand }) => tables / byHand);
  return {
    mean: Math.exp(ratios.reduce((sum, ratio) => sum + Math.log(ratio), 0) / ratios.length),
    worst: Math.max(...ratios),
  };
}

/** The clock on six digits: tables, megahertz at grade 2. */
export function sixDigits(): { readonly luts: number; readonly megahertz: number } {
  const clock = mapped(CLOCK);
  const delays = partNamed(PART)?.family.delays(GRADE);
  const timing = delays ? time(clock, delays, new Map()).clocks[0] : undefined;
  return { luts: countResources(clock).total.luts, megahertz: (timing?.highest ?? 0) / 1e6 };
}

/** Tables and depth of what must not grow, beside what they were before the mapping of today. */
export function largeDesigns() {
  const known = [
    { design: 'SHA-256', file: 'tests/designs/sha256.v', before: 3317, depthBefore: 30 },
    { design: 'AES-128', file: 'tests/designs/aes128.v', before: 16538, depthBefore: 84 },
  ];
  return known.map(({ file, ...rest }) => {
    const { total } = countResources(mapped(readFileSync(file, 'utf8')));
    return { ...rest, tables: total.luts, depth: total.depth };
  });
}
