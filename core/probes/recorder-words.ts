// What a recorder is told, as the words of its registers. docs/silicon.md, section 6
import { onceBits, type RecorderMap } from './map.ts';
import type { ComparatorSetting, StageSetting, TriggerProgram } from './program.ts';
import { afterSteps, neverHeld, SEEN, stepsTo, TICKS, TIMES, WITHIN } from './shift-count.ts';

/** Where the trigger stands: `before` samples are kept from before it, in each of `segments` parts of the buffer. */
export interface Placement {
  readonly before: number;
  readonly segments: number;
}

/** One part of a row of bits, lowest first. */
interface Field {
  readonly value: bigint;
  readonly bits: number;
}

const field = (value: number | bigint | boolean, bits = 1): Field => ({ value: BigInt(value), bits });

function joined(fields: readonly Field[]): Field {
  return fields.reduce(
    (sum, { value, bits }) => field(sum.value | (value << BigInt(sum.bits)), sum.bits + bits),
    field(0, 0),
  );
}

/** Words of 32 bits of which the core keeps the last `bits` that came, low first. */
export function rowWords({ value, bits }: Field): bigint[] {
  const count = Math.ceil(bits / 32);
  const row = value << BigInt(32 * count - bits);
  return Array.from({ length: count }, (_, i) => (row >> BigInt(32 * i)) & 0xffffffffn);
}

/** A pair's part of a comparator's tables: whether what is looked up is the carry, and whether it passes it on. */
interface PairLook {
  readonly a: boolean;
  readonly b: boolean;
}

/** What a pair of bits reads, given the pair of the sample before; `a` and `b` are added. */
function pairLook({ relation, value, mask }: ComparatorSetting, pair: number, now: number, last: number): PairLook {
  const part = (of: bigint) => Number((of >> BigInt(2 * pair)) & 3n);
  const [seen, wanted, looked] = [now & part(mask), part(value) & part(mask), part(mask)];
  switch (relation) {
    case 'equal':
      return { a: false, b: seen === wanted };
    case 'below':
      return { a: seen < wanted, b: seen <= wanted };
    case 'changes':
      return { a: false, b: ((now ^ last) & looked) === 0 };
    case 'rises':
      return { a: false, b: (~last & now & looked) === 0 };
    case 'falls':
      return { a: false, b: (last & ~now & looked) === 0 };
  }
}

/** Rows of a comparator's tables, by the pair of the sample before and the pair of this one; two bits for each pair. */
export function comparatorRows(setting: ComparatorSetting, width: number): Field[] {
  const pairs = Math.ceil(width / 2);
  return Array.from({ length: 16 }, (_, at) =>
    joined(
      Array.from({ length: pairs }, (_, pair) => {
        const { a, b } = pairLook(setting, pair, at & 3, at >> 2);
        return field((a ? 1 : 0) | (b ? 2 : 0), 2);
      }),
    ),
  );
}

/** A carry goes in where all pairs have to be as wanted; the answer is the opposite where one is enough. */
const carryOf = ({ relation }: ComparatorSetting): boolean => relation !== 'below';
const isTurned = ({ relation }: ComparatorSetting): boolean =>
  relation === 'changes' || relation === 'rises' || relation === 'falls';

/** A bit for each comparator: whether a carry goes in, and whether its answer is turned round. */
export function comparatorSigns(comparators: readonly ComparatorSetting[]): { carry: bigint; turned: bigint } {
  const bits = (of: (one: ComparatorSetting) => boolean) =>
    comparators.reduce((sum, one, i) => sum | (BigInt(of(one)) << BigInt(i)), 0n);
  return { carry: bits(carryOf), turned: bits(isTurned) };
}

/** A count before its last step, and whether there is no step before. */
const beforeLast = (count: number): number => Math.max(0, count - 2);

const timesOf = ({ times }: StageSetting): number => afterSteps(beforeLast(times), TIMES);
const withinOf = ({ within }: StageSetting): number =>
  within === null || within === 1 ? neverHeld(WITHIN) : afterSteps(beforeLast(within), WITHIN);

const UNUSED: StageSetting = { table: 0, times: 1, inARow: false, within: null, otherwise: 0 };
const ANY: ComparatorSetting = { relation: 'equal', value: 0n, mask: 0n };

/** The whole row of settings of a recorder. */
export function settingsRow(map: RecorderMap, program: TriggerProgram, { before, segments }: Placement): Field {
  const depthBits = Math.log2(map.depth);
  const size = map.depth / segments;
  const stages = Array.from({ length: map.stages }, (_, i) => program.stages[i] ?? UNUSED);
  const comparators = Array.from({ length: map.comparators }, (_, i) => program.comparators[i] ?? ANY);
  const stageBits = map.stages > 2 ? 2 : 1;
  const later: Field[] =
    map.stages > 1
      ? [
          ...stages.map((stage) => field(withinOf(stage), 20)),
          ...stages.map(({ within }) => field(within === 1)),
          ...stages.map(({ otherwise }) => field(otherwise, stageBits)),
          field(program.stages.length - 1, stageBits),
          ...(map.stages > 2 ? stages.map(({ times }) => field(times === 2)) : []),
          ...(map.stages > 2 ? stages.map(({ within }) => field(within === 2)) : []),
        ]
      : [];
  return joined([
    field(before > 0 ? before - 1 : map.depth - 1, depthBits),
    field(before === 0),
    field(before === size - 1),
    field(before === size - 2),
    ...stages.map((stage) => field(timesOf(stage), 17)),
    ...stages.map(({ times }) => field(times === 1)),
    ...stages.map(({ inARow }) => field(inARow)),
    ...comparators.map((one) => field(carryOf(one))),
    ...comparators.map((one) => field(isTurned(one))),
    ...later,
    ...(map.segments > 1 ? [field(size - 1, depthBits), field(segments - 1, 5)] : []),
  ]);
}

const STAGE_SHIFT = 5n;
const HOLDS = 1n << 8n;
const KEEPS = 1n << 9n;

/** One word for each stage and each row of what the comparators read: whether the stage holds, whether it is kept. */
export function tableWords({ comparators, stages }: RecorderMap, program: TriggerProgram): bigint[] {
  return Array.from({ length: stages }, (_, stage) =>
    Array.from({ length: 1 << comparators }, (_, row) => {
      const holds = (((program.stages[stage]?.table ?? 0) >>> row) & 1) === 1;
      const keeps = ((program.keep >>> row) & 1) === 1;
      return BigInt(row) | (BigInt(stage) << STAGE_SHIFT) | (holds ? HOLDS : 0n) | (keeps ? KEEPS : 0n);
    }),
  ).flat();
}

export type RecorderStatus = 'idle' | 'filling' | 'waiting' | 'triggered' | 'done';

/** What a recorder tells: how far it is now, and the rest as it stood when it last answered a look. */
export interface Told {
  readonly status: RecorderStatus;
  /** Whether the look that was asked for last has been answered. */
  readonly answered: boolean;
  /** Steps of the sampling clock; null for a value that is never held. */
  readonly ticks: number | null;
  /** Samples since arming in which each comparator was true. */
  readonly seen: readonly number[];
  /** Whether each comparator was true. */
  readonly hits: readonly boolean[];
  /** Samples counted before the trigger, or, once it has come, behind it. */
  readonly count: number;
  /** Where the buffer is written next; not of a look, but right while the buffer is at rest. */
  readonly writeAt: number;
  readonly stage: number;
  readonly segment: number;
}

/** Words of 32 bits that a recorder tells all of it in. */
export const toldWords = (map: RecorderMap): number =>
  Math.ceil(partsTold(map).reduce((sum, bits) => sum + bits, 0) / 32);

/** Bits of each part of what is told, lowest first. */
function partsTold({ comparators, depth, stages, segments }: RecorderMap): number[] {
  const place = Math.log2(depth);
  const stage = stages > 1 ? (stages > 2 ? 2 : 1) : 0;
  return [6, TICKS.bits, SEEN.bits * comparators, comparators, place, place, stage, segments > 1 ? 5 : 0];
}

/** Words of the row in which stands what was read once, at the trigger: the first one, and how many. */
export function onceWords(map: RecorderMap): { readonly first: number; readonly count: number } {
  const told = partsTold(map).reduce((sum, bits) => sum + bits, 0);
  const first = told >>> 5;
  return { first, count: Math.ceil((told + onceBits(map)) / 32) - first };
}

/** Values of those words, by the names of the signals. */
export function onceBy(map: RecorderMap, words: readonly bigint[]): ReadonlyMap<string, bigint> {
  const told = partsTold(map).reduce((sum, bits) => sum + bits, 0);
  const row = words.reduceRight((sum, word) => (sum << 32n) | word, 0n) >> BigInt(told & 31);
  return new Map(map.atTrigger.map(({ name, lo, width }) => [name, BigInt.asUintN(width, row >> BigInt(lo))]));
}

/** Takes a recorder's words apart, those that are there; what is missing reads as 0. */
export function toldBy(map: RecorderMap, words: readonly bigint[]): Told {
  let row = words.reduceRight((sum, word) => (sum << 32n) | word, 0n);
  const [levels = 0n, ticks = 0n, seen = 0n, hits = 0n, count = 0n, writeAt = 0n, stage = 0n, segment = 0n] = partsTold(
    map,
  ).map((bits) => {
    const part = BigInt.asUintN(bits, row);
    row >>= BigInt(bits);
    return part;
  });
  const each = Array.from({ length: map.comparators }, (_, i) => i);
  return {
    status: statusOf(levels),
    answered: ((levels >> 4n) & 1n) === ((levels >> 5n) & 1n),
    ticks: stepsTo(Number(ticks), TICKS),
    seen: each.map((i) => stepsTo(Number(BigInt.asUintN(SEEN.bits, seen >> BigInt(SEEN.bits * i))), SEEN) ?? 0),
    hits: each.map((i) => ((hits >> BigInt(i)) & 1n) === 1n),
    count: Number(count),
    writeAt: Number(writeAt),
    stage: Number(stage),
    segment: Number(segment),
  };
}

/** Of the bits full, triggered, waits, armed, lowest first. */
function statusOf(levels: bigint): RecorderStatus {
  if ((levels & 8n) === 0n) return 'idle';
  if (levels & 1n) return 'done';
  if (levels & 2n) return 'triggered';
  return levels & 4n ? 'waiting' : 'filling';
}
