import { ProblemError, saying, type Told } from './result.ts';

const TAG = '$bigint';
/** Nothing that is sent is nested half as deep. */
const DEEPEST = 200;
const MOST_DIGITS = 400_000;

const problem = saying({
  'json-deep': ({ deepest }: Told<'deepest'>) => ({
    message: `What was sent is nested more than ${deepest} deep.`,
    tryNext: ['Send it flatter.'],
  }),
  'json-many': ({ most }: Told<'most'>) => ({
    message: `What was sent has more than ${most} values.`,
    tryNext: ['Send less at a time.'],
  }),
});

/** Counted without recursion, and given up at the first one too many. */
function hasMore(value: unknown, most: number): boolean {
  const open = [value];
  let count = 0;
  for (let one = open.pop(); one !== undefined || open.length > 0; one = open.pop()) {
    if (++count > most) return true;
    if (typeof one !== 'object' || one === null) continue;
    const inner = Array.isArray(one) ? one : Object.values(one);
    if (count + open.length + inner.length > most) return true;
    for (const next of inner) if (next !== undefined) open.push(next);
  }
  return false;
}

const isTagged = (value: object): value is { readonly [TAG]: string } => {
  const keys = Object.keys(value);
  return keys.length === 1 && keys[0] === TAG;
};

/** The same value where nothing of it changes, so that large answers are not copied. */
function mapped(value: unknown, leaf: (value: unknown) => unknown, depth = 0): unknown {
  if (depth > DEEPEST) throw new ProblemError(problem('json-deep', { deepest: DEEPEST }));
  const changed = leaf(value);
  if (changed !== value || typeof value !== 'object' || value === null) return changed;
  if (Array.isArray(value)) {
    const items = value.map((item) => mapped(item, leaf, depth + 1));
    return items.some((item, at) => item !== value[at]) ? items : value;
  }
  const entries = Object.entries(value);
  const made = entries.map(([key, item]) => [key, mapped(item, leaf, depth + 1)] as const);
  return made.some(([, item], at) => item !== entries[at]?.[1]) ? Object.fromEntries(made) : value;
}

const isInteger = (text: unknown): text is string =>
  typeof text === 'string' && text.length <= MOST_DIGITS && /^-?\d+$/.test(text);

/**
 * Plain JSON, but for integers of any width, which JSON has no word for: they travel as `{"$bigint": "12"}`, decimal.
 * For both ends of a line that carries JSON.
 */
export const jsonIntegers = {
  serialize: (value: unknown): unknown =>
    mapped(value, (one) => (typeof one === 'bigint' ? { [TAG]: one.toString() } : one)),
  deserialize: (value: unknown): unknown =>
    mapped(value, (one) =>
      typeof one === 'object' && one !== null && isTagged(one) && isInteger(one[TAG]) ? BigInt(one[TAG]) : one,
    ),
};

/** The same for what strangers send: of more than so many values nothing is looked at. Throws `ProblemError`. */
export const jsonIntegersWithin = (most: number) => ({
  serialize: jsonIntegers.serialize,
  deserialize: (value: unknown): unknown => {
    if (hasMore(value, most)) throw new ProblemError(problem('json-many', { most }));
    return jsonIntegers.deserialize(value);
  },
});
