import { compareImages, countDifferent, imageEnd, imageOf, type MemoryImage } from '../../core/images/index.ts';
import { reachFlash, readFromFlash } from '../../core/operations/index.ts';
import type { Watch } from '../../core/progress.ts';
import { fail, ok, type Result } from '../../core/result.ts';
import { problem } from './problems.ts';
import type { Given } from './needs.ts';
import { counted } from '../../core/words.ts';
import { keepSubject } from './keep-subject.ts';

type Needs = Pick<Given, 'jobs' | 'board' | 'store' | 'facts' | 'project' | 'reading' | 'changed'>;

/** One side of a comparison. */
export type CompareSource =
  | { readonly kind: 'flash' }
  | { readonly kind: 'chosen' }
  | { readonly kind: 'image'; readonly id: number };

const SECTOR_BYTES = 4096;
/** Differences closer than a line of the byte view are one place to jump to. */
const JOIN_BYTES = 16;

/**
 * Compares two images, one of which may be what the flash holds now. Of the flash is read what the other side has data
 * for.
 */
export function compareFlash(on: Needs, sources: readonly [CompareSource, CompareSource]): number {
  return on.jobs.start('cable', {
    kind: 'flash',
    title: 'Compare',
    board: on.board.name,
    work: async (watch) => {
      const [a, b] = [await sourceImage(on, sources[0]), await sourceImage(on, sources[1])];
      if (!a.ok) return a;
      if (!b.ok) return b;
      const read = await withFlash(on, [a.value, b.value], watch);
      if (!read.ok) return read;
      const [first, second] = read.value;
      const differences = compareImages(first.image, second.image, JOIN_BYTES);
      const bytesDiffer = countDifferent(first.image, second.image);
      on.board.said.comparison = {
        project: (await on.store.projects.current())?.id ?? null,
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
          : `${first.name} and ${second.name} differ in ${counted(bytesDiffer, 'byte')}, at ` +
              `${counted(differences.length, 'place')}.`,
      );
    },
  }).id;
}

interface Side {
  readonly name: string;
  /** Null until the flash was read. */
  readonly image: MemoryImage | null;
}

async function sourceImage(on: Needs, source: CompareSource): Promise<Result<Side>> {
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
      const row = await on.store.files.image(source.id);
      if (!row) return fail(problem('no-image'));
      return ok({ name: row.name, image: await on.reading.ask('placed', row) });
    }
  }
}

async function withFlash(
  on: Needs,
  sides: readonly [Side, Side],
  watch: Watch,
): Promise<Result<readonly [Side & { image: MemoryImage }, Side & { image: MemoryImage }]>> {
  const other = sides.find((side) => side.image !== null)?.image ?? null;
  if (!other) return fail(problem('compare'));
  const read = async (side: Side): Promise<Result<Side & { image: MemoryImage }>> => {
    if (side.image) return ok({ ...side, image: side.image });
    const project = await on.store.projects.current();
    const opened = project ? await on.store.projects.open(project.id) : null;
    return on.board.cable(async (chain) => {
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
