import type { ChainSession } from '../board/index.ts';
import { type BoundaryMap, boundaryMap, measureBoundary, type ScannedDevice } from '../boundary/index.ts';
import { type BsdlEntity, readBsdl } from '../bsdl/index.ts';
import { type Family, familyOf } from '../families/index.ts';
import { ScanQueue } from '../jtag/index.ts';
import { item } from '../lists.ts';

const read = new Map<string, BoundaryMap | null>();

/** The maps of a part known here, one for each package it comes in. */
function mapsOf(part: string, families: readonly Family[]): readonly BoundaryMap[] {
  const family = familyOf(part, families);
  return (family?.packagesOf(part) ?? []).flatMap((packageName) => {
    const key = `${part} ${packageName}`;
    if (!read.has(key)) {
      const entity = readBsdl(family?.describe(part, packageName) ?? '').entity;
      const map = entity ? boundaryMap(entity) : null;
      read.set(key, map?.ok ? map.value : null);
    }
    return read.get(key) ?? [];
  });
}

/**
 * Devices of a chain as boundary scan takes them; `given` are descriptions read for this board, by name. Which package
 * a part comes in is not told by its IDCODE: it is found by the length of its boundary register. Null while a length is
 * not known.
 */
export async function describedChain(
  chain: ChainSession,
  given: readonly BsdlEntity[],
): Promise<readonly ScannedDevice[] | null> {
  const { devices } = await chain.current();
  const irLengths = devices.flatMap(({ irLength }) => irLength ?? []);
  if (irLengths.length < devices.length) return null;
  const found: ScannedDevice[] = [];
  for (const [place, { part }] of devices.entries()) {
    const map = part === null ? null : await mapAt(chain, { place, part, irLengths }, given);
    found.push(map ?? { irLength: item(irLengths, place) });
  }
  return found;
}

interface At {
  readonly place: number;
  readonly part: string;
  readonly irLengths: readonly number[];
}

async function mapAt(
  chain: ChainSession,
  { place, part, irLengths }: At,
  given: readonly BsdlEntity[],
): Promise<BoundaryMap | null> {
  const own = given.find(({ entity }) => entity === part);
  if (own) {
    const map = boundaryMap(own);
    return map.ok ? map.value : null;
  }
  const maps = mapsOf(part, chain.families);
  const [first = null] = maps;
  if (!first || maps.length === 1) return first;
  const most = Math.max(...maps.map(({ length }) => length));
  const measured = await measureBoundary(new ScanQueue(chain.cable), irLengths, { place, sample: first.sample, most });
  return maps.find(({ length }) => length === measured) ?? null;
}
