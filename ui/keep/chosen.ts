import type { Layout } from '../../core/images/index.ts';
import type { ImageRow, KeepChoice, WorkState } from '../../server/index.ts';

/** The build that would boot from a chosen memory file; null where the file is data. */
export const bootsFile = (
  { format, start, fingerprint }: ImageRow,
  { at }: NonNullable<KeepChoice['image']>,
): string | null => ((format === 'binary' || format === 'nbits' ? at : start) === 0 ? fingerprint : null);

/** What Keep would write, by name. */
export const chosenName = (state: Pick<WorkState, 'keepChoice'> | null | undefined): string =>
  state?.keepChoice.image?.name ?? state?.keepChoice.layout ?? 'the newest build';

/**
 * Fingerprints of the images that would be written; `build` is the newest one. What is not known of a file is left out.
 */
export function printsOf(
  { image, layout: name }: Pick<KeepChoice, 'image' | 'layout'>,
  build: string | null,
  layout: Layout | null,
  images: readonly ImageRow[],
): string[] {
  const row = images.find(({ id }) => id === image?.id);
  const blocks = (layout?.blocks ?? []).filter(({ role }) => role !== 'data');
  const ofBlocks = () =>
    blocks.map((block) => (block.build ? build : images.find((one) => one.name === block.file)?.fingerprint));
  const found = image ? [row ? bootsFile(row, image) : null] : name === null ? [build] : ofBlocks();
  return found.filter((print) => print !== null && print !== undefined);
}
