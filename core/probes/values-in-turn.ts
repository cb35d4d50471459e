// Values that a lever takes one after another, and limits that a gauge is to keep.
import { fail, ok, type Result } from '../result.ts';
import { problem } from './problems.ts';
import { parseValueIn, type ValueForm, type Written } from './value-form.ts';

/** As many values as a list may have, ramps written out. */
const MOST_VALUES = 100_000;

/**
 * Values as they are written: `1, 2, 0x10`, and ramps such as `0..100` or `0..100 by 5`, down too. Each is read in the
 * form that is shown.
 */
export function parseValues(text: string, signal: Written, form: ValueForm): Result<readonly bigint[]> {
  const values: bigint[] = [];
  for (const part of text.split(',')) {
    const ramp = /^\s*(\S+?)\s*\.\.\s*(\S+?)(?:\s+by\s+(\S+))?\s*$/.exec(part);
    const [from, to, by] = ramp ? [ramp[1], ramp[2], ramp[3]] : [part, part, undefined];
    const ends = [from, to, by ?? '1'].map((one) => parseValueIn(one ?? '', signal, form));
    const wrong = ends.find((one) => !one.ok);
    if (wrong && !wrong.ok) return wrong;
    const [first = 0n, last = 0n, step = 1n] = ends.flatMap((one) => (one.ok ? [one.value] : []));
    if (step === 0n) return fail(problem('values (no step)', { part: part.trim() }));
    const distance = last >= first ? last - first : first - last;
    const count = distance / step + 1n;
    if (BigInt(values.length) + count > BigInt(MOST_VALUES))
      return fail(problem('values (many)', { most: MOST_VALUES }));
    for (let i = 0n; i < count; i++) values.push(last >= first ? first + i * step : first - i * step);
  }
  return ok(values);
}

const COMPARED = {
  '<': (a: bigint, b: bigint) => a < b,
  '<=': (a: bigint, b: bigint) => a <= b,
  '==': (a: bigint, b: bigint) => a === b,
  '!=': (a: bigint, b: bigint) => a !== b,
  '>=': (a: bigint, b: bigint) => a >= b,
  '>': (a: bigint, b: bigint) => a > b,
} as const;

/** What a gauge is to keep: whether a value does. */
type Limit = (value: bigint) => boolean;

/** A limit such as `< 400`; of a signed gauge both sides count with their signs. */
export function parseLimit(text: string, signal: Written, form: ValueForm): Result<Limit> {
  const { width, signed } = signal;
  const [, operator, rest] = /^\s*(<=|>=|==|!=|<|>)\s*(.*)$/.exec(text) ?? [];
  const holds = Object.entries(COMPARED).find(([name]) => name === operator)?.[1];
  if (!holds || rest === undefined) return fail(problem('limit', { text }));
  const value = parseValueIn(rest, signal, form);
  if (!value.ok) return value;
  const read = (word: bigint) => (signed ? BigInt.asIntN(width, word) : word);
  return ok((word) => holds(read(word), read(value.value)));
}
