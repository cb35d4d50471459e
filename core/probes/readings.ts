import type { ProbedSignal } from './map.ts';
import type { PanelReading } from './panel-client.ts';

/** One coherent look at a panel; `at` is in milliseconds since 1970. */
export interface TimedReading {
  readonly at: number;
  readonly reading: PanelReading;
}

/** Readings to keep, the least and the most that can be asked for. */
export const READINGS_KEPT = { least: 8, most: 100_000 } as const;

/** The newest of them, so many, oldest first. */
export const withReading = (kept: readonly TimedReading[], one: TimedReading, most: number): readonly TimedReading[] =>
  kept.length < most ? [...kept, one] : [...kept.slice(kept.length - most + 1), one];

/** Readings a second over the last few, or null where there are not two. */
export function readingRate(kept: readonly TimedReading[], over = 10): number | null {
  const last = kept.slice(-over);
  const [first, newest] = [last[0], last.at(-1)];
  if (!first || !newest || newest.at <= first.at) return null;
  return ((last.length - 1) * 1000) / (newest.at - first.at);
}

/** A row for each reading: its time in ISO 8601, then each gauge, decimal; signed ones with their sign. */
export function readingsCsv(
  kept: readonly TimedReading[],
  gauges: readonly Pick<ProbedSignal, 'name' | 'width' | 'signed'>[],
): string {
  const quoted = (name: string) => (/[",\n]/.test(name) ? `"${name.replaceAll('"', '""')}"` : name);
  const header = ['time', ...gauges.map(({ name }) => quoted(name))].join(',');
  const rows = kept.map(({ at, reading }) =>
    [new Date(at).toISOString(), ...gauges.map((gauge) => valueText(gauge, reading.gauges[gauge.name]))].join(','),
  );
  return `${[header, ...rows].join('\r\n')}\r\n`;
}

const valueText = ({ width, signed }: Pick<ProbedSignal, 'width' | 'signed'>, value: bigint | undefined): string =>
  value === undefined ? '' : String(signed ? BigInt.asIntN(width, value) : value);

/** One value up or down from another, going round at the ends of so many bits. */
export const stepped = (value: bigint, by: bigint, width: number): bigint => BigInt.asUintN(width, value + by);
