import { format } from 'date-fns';

export const shortPrint = (fingerprint: string): string => fingerprint.slice(0, 8);

export const clockTime = (iso: string | number): string => format(new Date(iso), 'HH:mm:ss');

export const dateTime = (iso: string | number): string => format(new Date(iso), 'yyyy-MM-dd HH:mm:ss');

export function duration(milliseconds: number): string {
  if (milliseconds < 1000) return `${Math.round(milliseconds)} ms`;
  if (milliseconds < 60_000) return `${(milliseconds / 1000).toFixed(1)} s`;
  return `${Math.floor(milliseconds / 60_000)} min ${Math.round((milliseconds % 60_000) / 1000)} s`;
}

export function frequency(hertz: number): string {
  if (hertz >= 1e6) return `${trim(hertz / 1e6)} MHz`;
  if (hertz >= 1e3) return `${trim(hertz / 1e3)} kHz`;
  return `${trim(hertz)} Hz`;
}

const trim = (value: number): string => String(Number(value.toPrecision(4)));

/** Bits and bytes with a prefix, other units as they are. */
export function quantity(value: number, unit: string): string {
  if (unit === 'B')
    return value >= 1 << 20 && value % (1 << 18) === 0
      ? `${value / (1 << 20)} MiB`
      : value >= 1024
        ? `${(value / 1024).toFixed(0)} KiB`
        : `${value} B`;
  if (unit === 'bit')
    return value >= 1e6
      ? `${(value / 1e6).toFixed(2)} Mbit`
      : value >= 1e3
        ? `${(value / 1e3).toFixed(0)} kbit`
        : `${value} bit`;
  return `${Math.round(value)} ${unit}`;
}

/** Bytes as a person reads them: B, KiB, MiB, GiB. */
export const sizeText = (bytes: number): string =>
  bytes < 1024
    ? `${bytes} B`
    : bytes < 2 ** 20
      ? `${(bytes / 1024).toFixed(1)} KiB`
      : bytes < 2 ** 30
        ? `${(bytes / 2 ** 20).toFixed(1)} MiB`
        : `${(bytes / 2 ** 30).toFixed(2)} GiB`;

/** How fast a clock could run, beside what is wanted of it. */
export function clockRate({
  highest,
  wanted,
}: {
  readonly highest: number | null;
  readonly wanted: number | null;
}): string {
  const could = highest === null ? null : `up to ${frequency(highest)}`;
  const asked = wanted === null ? null : `wanted ${frequency(wanted)}`;
  return [could, asked].filter((part) => part !== null).join(', ');
}
