/** How a comparator looks at its field: the bits of the sample that are 1 in `mask`. */
type Relation = 'equal' | 'below' | 'changes' | 'rises' | 'falls';

/**
 * Run-time setting of one comparator. `equal` and `below` (unsigned) compare the field with `value`, which has no bit
 * outside the mask. `changes` compares with the sample before; `rises` and `falls` do so for a field of one bit.
 */
export interface ComparatorSetting {
  readonly relation: Relation;
  readonly value: bigint;
  readonly mask: bigint;
}

/** Run-time setting of one stage. */
export interface StageSetting {
  /** Bit i says whether the stage's condition holds when the comparators read i, comparator 0 in bit 0. */
  readonly table: number;
  /** So many samples must hold, 1 or more. */
  readonly times: number;
  /** They must follow each other. */
  readonly inARow: boolean;
  /** The stage must be complete within so many samples; null without an end. */
  readonly within: number | null;
  /** Stage to go to when it is not. */
  readonly otherwise: number;
}

/** What a recorder waits for: its stages one after another. */
export interface TriggerProgram {
  readonly comparators: readonly ComparatorSetting[];
  readonly stages: readonly StageSetting[];
  /**
   * Bit i says whether a sample is stored when the comparators read i; what a recorder without a qualifier does with
   * all of them.
   */
  readonly keep: number;
}

export const KEEP_ALL = 0xffffffff;

/** True at once. */
export const AT_ONCE: TriggerProgram = {
  comparators: [],
  stages: [{ table: 0xffffffff, times: 1, inARow: false, within: null, otherwise: 0 }],
  keep: KEEP_ALL,
};

export const MOST_COMPARATORS = 5;
export const MOST_STAGES = 4;
export const MOST_SEGMENTS = 32;
export const MOST_TIMES = 1 << 16;
export const MOST_WITHIN = (1 << 20) - 1;
export const DEFAULT_COMPARATORS = 2;
export const DEFAULT_STAGES = 1;
