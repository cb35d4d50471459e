/** A number with the word for what it counts: `1 device`, `2 devices`, `1,024 addresses`. */
export const counted = (n: number, one: string, many = `${one}s`): string =>
  `${n.toLocaleString('en')} ${n === 1 ? one : many}`;
