import { parameterOf } from '../core/build/index.ts';
import { CallError } from './output.ts';

/** `NAME=VALUE` with a decimal, 0x or 0b value, added to those before. */
export function parameterText(text: string, before: Readonly<Record<string, string>>): Record<string, string> {
  const read = parameterOf(text);
  if (!read) throw new CallError(`"${text}" is no parameter: write NAME=VALUE with a decimal, 0x or 0b value.`);
  const [name, value] = read;
  return { ...before, [name]: value };
}

/** Gathers what an option that is given several times is given. */
export const several = (one: string, before: readonly string[]): readonly string[] => [...before, one];
