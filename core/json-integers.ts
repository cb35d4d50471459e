const TAG = '$bigint';

const isTagged = (value: object): value is { readonly [TAG]: string } => {
  const keys = Object.keys(value);
  return keys.length === 1 && keys[0] === TAG;
};

/** The same value where nothing of it changes, so that large answers are not copied. */
function mapped(value: unknown, leaf: (value: unknown) => unknown): unknown {
  const changed = leaf(value);
  if (changed !== value || typeof value !== 'object' || value === null) return changed;
  if (Array.isArray(value)) {
    const items = value.map((item) => mapped(item, leaf));
    return items.some((item, at) => item !== value[at]) ? items : value;
  }
  const entries = Object.entries(value);
  const made = entries.map(([key, item]) => [key, mapped(item, leaf)] as const);
  return made.some(([, item], at) => item !== entries[at]?.[1]) ? Object.fromEntries(made) : value;
}

/**
 * Plain JSON, but for integers of any width, which JSON has no word for: they travel as `{"$bigint": "12"}`, decimal.
 * For both ends of a line that carries JSON.
 */
export const jsonIntegers = {
  serialize: (value: unknown): unknown =>
    mapped(value, (one) => (typeof one === 'bigint' ? { [TAG]: one.toString() } : one)),
  deserialize: (value: unknown): unknown =>
    mapped(value, (one) =>
      typeof one === 'object' && one !== null && isTagged(one) && /^-?\d+$/.test(one[TAG]) ? BigInt(one[TAG]) : one,
    ),
};
