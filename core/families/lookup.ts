import type { KnownDevice } from '../jtag/index.ts';
import { corvane } from './corvane/index.ts';
import type { ClockGenerator, MemoryCells } from './cells.ts';
import type { Family, Fpga, Part, PlacedPort, StreamFacts, StreamFor } from './family.ts';
import { type IoStandard, namedIn } from './io.ts';
import { sprig } from './sprig/index.ts';

/** The families that are known here. */
export const FAMILIES: readonly Family[] = [corvane, sprig];

const fpgasOf = (families: readonly Family[]): readonly Fpga[] => families.flatMap(({ fpga }) => fpga ?? []);

/** Parts that designs are built for. */
export const partsOf = (families: readonly Family[]): readonly Part[] =>
  fpgasOf(families).flatMap(({ parts }) => parts);

export const partNamed = (name: string, families: readonly Family[] = FAMILIES): Part | undefined =>
  partsOf(families).find((part) => part.name === name);

/** The first part with that IDCODE; the version is not compared, as 1149.1 leaves it to revisions. */
export const partWithIdcode = (idcode: number, families: readonly Family[] = FAMILIES): Part | undefined =>
  partsOf(families).find((part) => ((part.idcode ^ idcode) & IDENTITY) === 0);

const IDENTITY = 0x0fffffff;

/** The part that is proposed for a new project. */
export const usualPart = (families: readonly Family[] = FAMILIES): string => fpgasOf(families)[0]?.usualPart ?? '';

/** Everything that can be recognised in a chain. */
export const devicesOf = (families: readonly Family[]): readonly KnownDevice[] =>
  families.flatMap(({ devices }) => devices);

/** The family that a device belongs to, whether designs are built for it or not. */
export const familyOf = (device: string, families: readonly Family[] = FAMILIES): Family | undefined =>
  families.find(({ devices }) => devices.some(({ name }) => name === device));

/** What memories are made of in a part; in one that is not known as in the first that is. */
export function memoriesOf(part: string, families: readonly Family[] = FAMILIES): MemoryCells {
  const family = partNamed(part, families)?.family ?? fpgasOf(families)[0];
  if (!family) throw new RangeError('no family of FPGAs is known');
  return family.memories;
}

/** Verilog of the cells that a part has ready-made; none for a part that is not known. */
export function cellsOf(part: string, families: readonly Family[] = FAMILIES): ClockGenerator['behaviour'][] {
  const generator = partNamed(part, families)?.family.clockGenerator;
  return generator ? [generator.behaviour] : [];
}

/** The same of all parts, for what is simulated without a word on its part. */
export const allCells = (families: readonly Family[] = FAMILIES): ClockGenerator['behaviour'][] =>
  fpgasOf(families).flatMap(({ clockGenerator }) => clockGenerator?.behaviour ?? []);

/** I/O standards of all families; one that several have is that of the first. */
export const standardNamed = (name: string, families: readonly Family[] = FAMILIES): IoStandard | undefined =>
  namedIn(
    fpgasOf(families).flatMap(({ standards }) => standards),
    name,
  );

/** Where the ports of a design are; none where its part is not known, or its stream holds no design. */
export function placedPorts(
  { part, stream }: StreamFor,
  families: readonly Family[] = FAMILIES,
): readonly PlacedPort[] {
  const known = partNamed(part, families);
  return known ? known.family.stream.ports(known, stream) : [];
}

const NO_STREAM: StreamFacts = { idcode: null, fingerprint: null, isWhole: false };

/** What bytes say of themselves as a configuration stream of any family. */
export const streamFacts = (bytes: Uint8Array, families: readonly Family[] = FAMILIES): StreamFacts =>
  fpgasOf(families)
    .map(({ stream }) => stream.facts(bytes))
    .find(({ idcode }) => idcode !== null) ?? NO_STREAM;

/** What to do about bytes that are a stream of some family in another bit or byte order; null where they are none. */
export const misordered = (bytes: Uint8Array, families: readonly Family[] = FAMILIES): string | null =>
  fpgasOf(families)
    .map(({ stream }) => stream.misordered(bytes))
    .find((advice) => advice !== null) ?? null;
