/** Where something is to stand in a memory. `end` is the first address behind it. */
export interface Place {
  readonly name: string;
  readonly start: number;
  readonly end: number;
  /** It must not share a sector with anything: erasing a neighbour would take it along. */
  readonly guarded?: boolean;
}

/** What is wrong with places; `at` are their indices. */
export interface PlaceProblem {
  readonly severity: 'error' | 'warning';
  readonly code: 'does-not-fit' | 'alignment' | 'overlap' | 'shared-sector';
  readonly at: readonly number[];
  readonly message: string;
}

/** Looks at all places of a memory of `size` bytes that is erased by sectors. */
export function checkPlaces(places: readonly Place[], size: number, sectorBytes: number): PlaceProblem[] {
  const problems: PlaceProblem[] = [];
  const add = (severity: PlaceProblem['severity'], code: PlaceProblem['code'], at: number[], message: string) =>
    problems.push({ severity, code, at, message });
  for (const [i, place] of places.entries()) {
    if (place.start === place.end) continue;
    if (place.end > size)
      add('error', 'does-not-fit', [i], `"${place.name}" ends at ${hex(place.end)}, the memory at ${hex(size)}.`);
    if (place.start % sectorBytes !== 0)
      add(
        place.guarded ? 'error' : 'warning',
        'alignment',
        [i],
        `"${place.name}" begins at ${hex(place.start)}, inside a sector of ${hex(sectorBytes)}.`,
      );
    for (const [k, other] of places.slice(0, i).entries()) {
      if (other.start === other.end) continue;
      if (other.start < place.end && place.start < other.end)
        add(
          'error',
          'overlap',
          [k, i],
          `"${other.name}" and "${place.name}" overlap at ${hex(Math.max(place.start, other.start))}.`,
        );
      else if (shareSector(other, place, sectorBytes)) {
        const guarded = (other.guarded ?? false) || (place.guarded ?? false);
        add(
          guarded ? 'error' : 'warning',
          'shared-sector',
          [k, i],
          `"${other.name}" and "${place.name}" share a sector; ` +
            `${guarded ? 'an image must not be erased for its neighbour' : 'neither can be erased alone'}.`,
        );
      }
    }
  }
  return problems;
}

const shareSector = (a: Place, b: Place, sector: number): boolean =>
  Math.floor((a.end - 1) / sector) >= Math.floor(b.start / sector) &&
  Math.floor((b.end - 1) / sector) >= Math.floor(a.start / sector);

const hex = (value: number): string => `0x${value.toString(16).toUpperCase()}`;
