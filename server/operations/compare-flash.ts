import { compareImages, imageEnd, imageOf, type MemoryImage } from '../../core/images/index.ts';
import { item } from '../../core/lists.ts';
import { reachFlash, readFromFlash } from '../../core/operations/index.ts';
import type { Watch } from '../../core/progress.ts';
import { fail, ok, problem, type Result } from '../../core/result.ts';
import type { Runtime } from '../runtime.ts';
import { counted } from '../../core/words.ts';
import { keepSubject, opened } from './keep-subject.ts';

/** One side of a comparison. */
export type CompareSource =
  | { readonly kind: 'flash' }
  | { readonly kind: 'chosen' }
  | { readonly kind: 'image'; readonly id: number };

/** Two images beside each other. */
export interface Comparison {
  readonly time: string;
  readonly names: readonly [string, string];
  readonly images: readonly [MemoryImage, MemoryImage];
  readonly end: number;
  readonly sectorBytes: number;
  /** Stretches that differ, nearby ones told as one. */
  readonly differences: readonly {
    readonly start: number;
    readonly length: number;
    readonly only: 'first' | 'second' | null;
  }[];
  readonly bytesDiffer: number;
}

const SECTOR_BYTES = 4096;
/** Differences closer than a line of the byte view are one place to jump to. */
const JOIN_BYTES = 16;

/**
 * Compares two images, one of which may be what the flash holds now. Of the flash is read what the other side has data
 * for.
 */
export function compareFlash(on: Runtime, sources: readonly [CompareSource, CompareSource]): number {
  return on.jobs.start('cable', {
    kind: 'flash',
    title: 'Compare',
    board: on.board,
    work: async (watch) => {
      const [a, b] = [await sourceImage(on, sources[0]), await sourceImage(on, sources[1])];
      if (!a.ok) return a;
      if (!b.ok) return b;
      const read = await withFlash(on, [a.value, b.value], watch);
      if (!read.ok) return read;
      const [first, second] = read.value;
      const differences = compareImages(first.image, second.image, JOIN_BYTES);
      const bytesDiffer = compareImages(first.image, second.image).reduce((sum, { length }) => sum + length, 0);
      on.said.comparison = {
        project: (await on.projects.current())?.id ?? null,
        time: new Date().toISOString(),
        names: [first.name, second.name],
        images: [first.image, second.image],
        end: Math.max(imageEnd(first.image), imageEnd(second.image)),
        sectorBytes: SECTOR_BYTES,
        differences,
        bytesDiffer,
      };
      return ok(
        differences.length === 0
          ? `${first.name} and ${second.name}: the same data at the same addresses.`
          : `${first.name} and ${second.name} differ in ${counted(bytesDiffer, 'byte')}, at ${counted(differences.length, 'place')}.`,
      );
    },
  }).id;
}

interface Side {
  readonly name: string;
  /** Null until the flash was read. */
  readonly image: MemoryImage | null;
}

async function sourceImage(on: Runtime, source: CompareSource): Promise<Result<Side>> {
  switch (source.kind) {
    case 'flash':
      return ok({ name: 'Flash', image: null });
    case 'chosen': {
      const subject = await keepSubject(on);
      if (!subject.ok) return subject;
      const segments = subject.value.blocks
        .map(({ address, bytes }) => ({ start: address, bytes }))
        .sort((x, y) => x.start - y.start);
      return ok({ name: subject.value.file ?? 'Newest build', image: { segments } });
    }
    case 'image': {
      const row = await on.bench.image(source.id);
      if (!row) return fail(problem('no-image', 'That file is no longer here.', 'Add it again.'));
      const image = opened(row.name, row.bytes);
      return image.ok ? ok({ name: row.name, image: image.value }) : image;
    }
  }
}

async function withFlash(
  on: Runtime,
  sides: readonly [Side, Side],
  watch: Watch,
): Promise<Result<readonly [Side & { image: MemoryImage }, Side & { image: MemoryImage }]>> {
  const other = sides.find((side) => side.image !== null)?.image ?? null;
  if (!other)
    return fail(
      problem(
        'compare',
        'The flash cannot be compared with itself.',
        'Choose a file or what would be written for one side.',
      ),
    );
  const read = async (side: Side): Promise<Result<Side & { image: MemoryImage }>> => {
    if (side.image) return ok({ ...side, image: side.image });
    const project = await on.projects.current();
    const opened = project ? await on.projects.open(project.id) : null;
    return on.pod.cable(async (chain) => {
      const reached = await reachFlash(chain, null, opened?.ok ? opened.value.file.part : null);
      if (!reached.ok) return reached;
      const segments: MemoryImage['segments'][number][] = [];
      for (const { start, bytes } of other.segments) {
        const stretch = await readFromFlash(reached.value, start, bytes.length, watch);
        if (!stretch.ok) return stretch;
        segments.push(...imageOf(stretch.value, start).segments);
      }
      return ok({ name: `${side.name} (${reached.value.part.name})`, image: { segments } });
    });
  };
  const a = await read(sides[0]);
  if (!a.ok) return a;
  const b = await read(sides[1]);
  return b.ok ? ok([a.value, b.value] as const) : b;
}

/** What every page is told; the places and bytes are fetched where they are shown. */
export const summaryOfComparison = ({ time, names, end, sectorBytes, bytesDiffer, differences }: Comparison) => ({
  time,
  names,
  end,
  sectorBytes,
  bytesDiffer,
  places: differences.length,
});

const MOST_PLACES = 20_000;
const NO_BYTE = '..';

/** Where two images differ, as far as a page can jump, and which sectors. */
export function placesOf({ differences, sectorBytes }: Comparison): {
  readonly places: readonly (readonly [start: number, length: number])[];
  readonly sectors: readonly number[];
} {
  const sectors = new Set<number>();
  for (const { start, length } of differences)
    for (let sector = Math.floor(start / sectorBytes); sector * sectorBytes < start + length; sector++)
      sectors.add(sector);
  return {
    places: differences.slice(0, MOST_PLACES).map(({ start, length }) => [start, length] as const),
    sectors: [...sectors],
  };
}

/** Bytes of both images in hexadecimal, two characters each; a byte that an image does not have is two points. */
export function bytesOf({ images }: Comparison, start: number, length: number): readonly [string, string] {
  const text = ({ segments }: MemoryImage) => {
    const out: string[] = new Array<string>(length).fill(NO_BYTE);
    for (const segment of segments)
      for (
        let i = Math.max(0, segment.start - start);
        i < length && start + i < segment.start + segment.bytes.length;
        i++
      )
        out[i] = item(segment.bytes, start + i - segment.start)
          .toString(16)
          .toUpperCase()
          .padStart(2, '0');
    return out.join('');
  };
  return [text(images[0]), text(images[1])];
}
