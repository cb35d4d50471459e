// What a recorder should wait for and store, written from docs/silicon.md, section 6, apart from the core's Verilog.
import type { Placement, TriggerProgram } from '../../core/probes/index.ts';

/** What the comparators of a program read in a sample; `last` is the sample before. */
function rowOf({ comparators }: TriggerProgram, now: bigint, last: bigint): number {
  let row = 0;
  for (const [i, { relation, value, mask }] of comparators.entries()) {
    const [field, moved] = [now & mask, (now ^ last) & mask];
    const hit = {
      equal: field === (value & mask),
      below: field < (value & mask),
      changes: moved !== 0n,
      rises: (moved & now) !== 0n,
      falls: (moved & last) !== 0n,
    }[relation];
    if (hit) row |= 1 << i;
  }
  return row;
}

const bit = (table: number, row: number): boolean => ((table >>> row) & 1) === 1;

/** Whether a stage of a program holds in a sample. */
export const stageHolds = (program: TriggerProgram, stage: number, now: bigint, last: bigint): boolean =>
  bit(program.stages[stage]?.table ?? 0, rowOf(program, now, last));

/** Whether a program stores a sample. */
export const isKept = (program: TriggerProgram, now: bigint, last: bigint): boolean =>
  bit(program.keep, rowOf(program, now, last));

/** One filled segment: indices of the samples it holds, and of the one that triggered. */
export interface ModelSegment {
  readonly stored: readonly number[];
  readonly trigger: number;
}

/**
 * The segments that are full, of a recorder whose buffer takes `depth` words, when the sample at `from` is the first
 * one it looks at.
 */
export function recorded(
  program: TriggerProgram,
  samples: readonly bigint[],
  from: number,
  depth: number,
  { before, segments }: Placement,
): ModelSegment[] {
  const size = depth / segments;
  const full: ModelSegment[] = [];
  for (let i = from; full.length < segments; ) {
    const stored: number[] = [];
    const keep = (at: number) => isKept(program, samples[at] as bigint, samples[at - 1] ?? 0n);
    while (stored.length < before && i < samples.length) {
      if (keep(i)) stored.push(i);
      i++;
    }
    const trigger = triggerFrom(program, samples, i);
    if (trigger < 0) return full;
    for (; i <= trigger; i++) if (i === trigger || keep(i)) stored.push(i);
    for (let left = size - 1 - before; left > 0; i++) {
      if (i >= samples.length) return full;
      if (!keep(i)) continue;
      stored.push(i);
      left--;
    }
    full.push({ stored: stored.slice(-size), trigger });
  }
  return full;
}

/**
 * Index of the sample that completes the last stage, when the one at `from` is the first that is looked at; -1 without
 * one.
 */
function triggerFrom(program: TriggerProgram, samples: readonly bigint[], from: number): number {
  let [stage, times, age] = [0, 0, 0];
  for (let i = from; i < samples.length; i++) {
    const setting = program.stages[stage];
    if (!setting) return -1;
    const held = stageHolds(program, stage, samples[i] as bigint, samples[i - 1] ?? 0n);
    age++;
    if (held) times++;
    else if (setting.inARow) times = 0;
    if (held && times === setting.times) {
      if (stage === program.stages.length - 1) return i;
      [stage, times, age] = [stage + 1, 0, 0];
    } else if (setting.within !== null && age === setting.within) [stage, times, age] = [setting.otherwise, 0, 0];
  }
  return -1;
}
