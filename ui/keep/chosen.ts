import type { ImageRow, KeepChoice, WorkState } from '../../server/index.ts';

/** The build that would boot from a chosen memory file; null where the file is data. */
export const bootsFile = ({ format, start, fingerprint }: ImageRow, { at }: NonNullable<KeepChoice['image']>): string | null => ((format === 'binary' || format === 'nbits' ? at : start) === 0 ? fingerprint : null);

/** What Keep would write, by name. */
export const chosenName = (state: Pick<WorkState, 'keepChoice'> | null | undefined): string => state?.keepChoice.image?.name ?? state?.keepChoice.layout ?? 'the newest build';
