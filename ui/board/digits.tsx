/** Outlines of the seven segments a to g in a 20 by 34 field, then the point. */
const SEGMENTS = [
  'M4 2 L16 2 L14 5 L6 5 Z',
  'M17 3 L17 16 L14 14 L14 6 Z',
  'M17 18 L17 31 L14 28 L14 20 Z',
  'M4 32 L16 32 L14 29 L6 29 Z',
  'M3 18 L3 31 L6 28 L6 20 Z',
  'M3 3 L3 16 L6 14 L6 6 Z',
  'M5 17 L7 15.5 L13 15.5 L15 17 L13 18.5 L7 18.5 Z',
  'M19 30 h2.6 v2.6 h-2.6 Z',
];

/** Segments a to g as bits, lowest first, for the digits 0 to 9, the dash and the dark digit. */
const GLYPHS = new Map(
  [0x3f, 0x06, 0x5b, 0x4f, 0x66, 0x6d, 0x7d, 0x07, 0x7f, 0x6f, 0x40, 0].map((segments, i) => [
    segments,
    '0123456789- '[i],
  ]),
);

/** Seven-segment digits; the first entry is the rightmost digit. */
export function Digits({ digits }: { readonly digits: readonly (readonly number[])[] }) {
  const read = [...digits]
    .reverse()
    .map((row) => GLYPHS.get(row.slice(0, 7).reduce((sum, level, i) => sum | (level > 0.3 ? 1 << i : 0), 0)) ?? '?');
  return (
    <div
      className="flex justify-center gap-1.5 rounded-[3px] bg-ink px-2 py-2 dark:bg-paper"
      role="img"
      aria-label={`digits ${read.join('')}`}
      data-testid="digits"
      data-text={read.join('')}
    >
      {[...digits].reverse().map((row, place) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a digit is its place
        <svg key={place} width="26" height="40" viewBox="0 0 23 34" aria-hidden="true">
          {SEGMENTS.map((d, s) => (
            <path key={d} d={d} className="fill-signal" opacity={0.1 + 0.9 * Math.min(1, row[s] ?? 0)} />
          ))}
        </svg>
      ))}
    </div>
  );
}
