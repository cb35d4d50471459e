// Parameters of a module as people write them: `NAME=VALUE`, a whole number in decimal or with 0x or 0b before it.

/** A whole number as text; digits may be parted by `_`. */
export const WHOLE_NUMBER = /^-?(0x[0-9a-f_]+|0b[01_]+|[0-9][0-9_]*)$/i;

/** Name and value of one word; null for a word that is no parameter. */
export function parameterOf(word: string): readonly [name: string, value: string] | null {
  const [, name, value] = /^([A-Za-z_]\w*)=(.+)$/.exec(word) ?? [];
  return name !== undefined && value !== undefined && WHOLE_NUMBER.test(value) ? [name, value] : null;
}

/** Parameters as numbers. */
export const parameterNumbers = (parameters: Readonly<Record<string, string>> = {}): Record<string, bigint> =>
  Object.fromEntries(
    Object.entries(parameters).map(([name, text]) => {
      const plain = text.replaceAll('_', '');
      return [name, plain.startsWith('-') ? -BigInt(plain.slice(1)) : BigInt(plain)];
    }),
  );
