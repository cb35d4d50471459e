import type { ProjectFile } from '../../../core/build/index.ts';

/** What is simulated and how, as it is typed. */
export interface Typed {
  readonly testbench: string;
  readonly until: string;
  /** `NAME=VALUE` words apart by blanks. */
  readonly parameters: string;
  readonly plusargs: string;
}

type Kept = NonNullable<ProjectFile['simulation']>;

const words = (text: string): string[] => text.split(/\s+/).filter((word) => word !== '');

/** The fields as the project has them. */
export function typedOf(kept: Kept | undefined, testbench: string): Typed {
  return {
    testbench: kept?.testbench ?? testbench,
    until: kept?.until ?? '',
    parameters: Object.entries(kept?.parameters ?? {})
      .map(([name, value]) => `${name}=${value}`)
      .join(' '),
    plusargs: (kept?.plusargs ?? []).join(' '),
  };
}

/** As the project keeps them; or the word that is no parameter. */
export function keptOf(typed: Typed, only: readonly string[]): Kept | { readonly wrong: string } {
  const parameters: Record<string, string> = {};
  for (const word of words(typed.parameters)) {
    const [, name, value] = /^([A-Za-z_]\w*)=(-?(?:0x[0-9a-f_]+|0b[01_]+|\d[\d_]*))$/i.exec(word) ?? [];
    if (name === undefined || value === undefined) return { wrong: word };
    parameters[name] = value;
  }
  return {
    only: [...only],
    testbench: typed.testbench,
    parameters,
    plusargs: words(typed.plusargs).map((word) => word.replace(/^\+/, '')),
    ...(typed.until.trim() === '' ? {} : { until: typed.until.trim() }),
  };
}
