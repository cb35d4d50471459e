// What a recorder should wait for, written from docs/silicon.md, section 6, apart from the core's Verilog.
import type { TriggerProgram } from '../../core/probes/index.ts';

/** Whether a stage of a program holds in a sample; `last` is the sample before. */
export function stageHolds({ comparators, stages }: TriggerProgram, stage: number, now: bigint, last: bigint): boolean {
  let row = 0;
  for (const [i, { relation, value, mask }] of comparators.entries()) {
    const [field, moved] = [now & mask, (now ^ last) & mask];
    const hit = { equal: field === (value & mask), below: field < (value & mask), changes: moved !== 0n, rises: (moved & now) !== 0n, falls: (moved & last) !== 0n }[relation];
    if (hit) row |= 1 << i;
  }
  return (((stages[stage]?.table ?? 0) >>> row) & 1) === 1;
}

/** Index of the sample that completes the last stage, when the one at `from` is the first that is looked at; -1 without one. */
export function triggerIndex(program: TriggerProgram, samples: readonly bigint[], from: number): number {
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
