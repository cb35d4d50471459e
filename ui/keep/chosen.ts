import type { WorkState } from '../../server/index.ts';

/** What Keep would write, by name. */
export const chosenName = (state: Pick<WorkState, 'keepChoice'> | null | undefined): string => state?.keepChoice.image?.name ?? state?.keepChoice.layout ?? 'the newest build';
