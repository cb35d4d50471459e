import type { ProjectFile } from '../../../core/build/index.ts';
import { readParameters, words, writeParameters } from '../parameters.ts';

/** What is simulated and how, as it is typed. */
export interface Typed {
  readonly testbench: string;
  readonly until: string;
  /** `NAME=VALUE` words apart by blanks. */
  readonly parameters: string;
  readonly plusargs: string;
}

type Kept = NonNullable<ProjectFile['simulation']>;

/** The fields as the project has them. */
export function typedOf(kept: Kept | undefined, testbench: string): Typed {
  return {
    testbench: kept?.testbench ?? testbench,
    until: kept?.until ?? '',
    parameters: writeParameters(kept?.parameters),
    plusargs: (kept?.plusargs ?? []).join(' '),
  };
}

/** As the project keeps them, beside what else it keeps; or the word that is no parameter. */
export function keptOf(typed: Typed, kept: Kept | undefined): Kept | { readonly wrong: string } {
  const read = readParameters(typed.parameters);
  if ('wrong' in read) return read;
  return {
    only: kept?.only ?? [],
    ...(kept?.vectors ? { vectors: kept.vectors } : {}),
    testbench: typed.testbench,
    parameters: { ...read.parameters },
    plusargs: words(typed.plusargs).map((word) => word.replace(/^\+/, '')),
    ...(typed.until.trim() === '' ? {} : { until: typed.until.trim() }),
  };
}
