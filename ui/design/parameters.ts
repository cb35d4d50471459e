// Parameters of a module as they are typed: `NAME=VALUE` words apart by blanks.
import { parameterOf } from '../../core/build/index.ts';

export const words = (text: string): string[] => text.split(/\s+/).filter((word) => word !== '');

/** By name; or the first word that is none. */
export function readParameters(
  text: string,
): { readonly parameters: Readonly<Record<string, string>> } | { readonly wrong: string } {
  const parameters: Record<string, string> = {};
  for (const word of words(text)) {
    const read = parameterOf(word);
    if (!read) return { wrong: word };
    parameters[read[0]] = read[1];
  }
  return { parameters };
}

export const writeParameters = (parameters: Readonly<Record<string, string>> = {}): string =>
  Object.entries(parameters)
    .map(([name, value]) => `${name}=${value}`)
    .join(' ');
