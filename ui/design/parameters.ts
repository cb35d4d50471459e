// Parameters of a module as they are typed: `NAME=VALUE` words apart by blanks.

const PARAMETER = /^([A-Za-z_]\w*)=(-?(?:0x[0-9a-f_]+|0b[01_]+|\d[\d_]*))$/i;

export const words = (text: string): string[] => text.split(/\s+/).filter((word) => word !== '');

/** By name; or the first word that is none. */
export function readParameters(
  text: string,
): { readonly parameters: Readonly<Record<string, string>> } | { readonly wrong: string } {
  const parameters: Record<string, string> = {};
  for (const word of words(text)) {
    const [, name, value] = PARAMETER.exec(word) ?? [];
    if (name === undefined || value === undefined) return { wrong: word };
    parameters[name] = value;
  }
  return { parameters };
}

export const writeParameters = (parameters: Readonly<Record<string, string>> = {}): string =>
  Object.entries(parameters)
    .map(([name, value]) => `${name}=${value}`)
    .join(' ');
