const UNITS = ['s', 'ms', 'us', 'ns', 'ps', 'fs'];

/** A moment in the largest unit in which it is 1 at least, exactly. */
export function timeText(ticks: number, precision: number): string {
  let step = Math.ceil(-precision / 3);
  const all = BigInt(ticks) * 10n ** BigInt(precision + step * 3);
  let unit = 1n;
  while (step > 0 && all >= unit * 1000n) {
    unit *= 1000n;
    step--;
  }
  const rest = (all % unit)
    .toString()
    .padStart(unit.toString().length - 1, '0')
    .replace(/0+$/, '');
  return `${all / unit}${unit > 1n && rest !== '' ? `.${rest}` : ''} ${UNITS[step] ?? 's'}`;
}
