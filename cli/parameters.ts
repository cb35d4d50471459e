import { item } from '../core/lists.ts';
import { CallError } from './output.ts';

/** `NAME=VALUE` with a decimal, 0x or 0b value, added to those before. */
export function parameterText(text: string, before: Readonly<Record<string, string>>): Record<string, string> {
  const match = /^([A-Za-z_]\w*)=(-?(?:0x[0-9a-f_]+|0b[01_]+|\d[\d_]*))$/i.exec(text);
  if (!match) throw new CallError(`"${text}" is no parameter: write NAME=VALUE with a decimal, 0x or 0b value.`);
  return { ...before, [item(match, 1)]: item(match, 2) };
}

/** Gathers what an option that is given several times is given. */
export const several = (one: string, before: readonly string[]): readonly string[] => [...before, one];
