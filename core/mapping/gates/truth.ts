// Functions of up to four inputs as sixteen bits: bit i is the value where input k has bit k of i. What a function does
// not look at may be any of the higher inputs.

/** Each input alone. */
export const COLUMNS = [0xaaaa, 0xcccc, 0xf0f0, 0xff00] as const;
export const ALL_ONES = 0xffff;

const column = (input: number): number => COLUMNS[input] ?? 0;

export const dependsOn = (truth: number, input: number): boolean =>
  (((truth >>> (1 << input)) ^ truth) & ~column(input) & ALL_ONES) !== 0;

/** The function with two of its inputs changing places. */
export function swapped(truth: number, low: number, high: number): number {
  if (low === high) return truth;
  const up = column(low) & ~column(high);
  const down = column(high) & ~column(low);
  const by = (1 << high) - (1 << low);
  return (truth & ~(up | down)) | ((truth & up) << by) | ((truth & down) >>> by);
}

/** The function with one input turned round. */
export const flipped = (truth: number, input: number): number => {
  const ones = column(input);
  const by = 1 << input;
  return ((truth & ones) >>> by) | ((truth & ~ones & ALL_ONES) << by);
};
