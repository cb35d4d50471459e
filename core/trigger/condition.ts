import { own } from '../lists.ts';
import {
  AT_ONCE,
  type ComparatorSetting,
  KEEP_ALL,
  MOST_TIMES,
  MOST_WITHIN,
  type RecorderMap,
  type StageSetting,
  type StepperMap,
  type TriggerProgram,
} from '../probes/index.ts';
import { fail, ok, type Problem, type Result } from '../result.ts';
import { problem } from './problems.ts';
import { type Expression, readExpression, readSentence, type Stage, wrongAt } from './sentence.ts';
import { parseValue } from './value.ts';
import type { Word } from './words.ts';

type Probed = RecorderMap['signals'][number];

/** An expression over comparators, by their numbers. */
type Logic =
  | { readonly kind: 'hit'; readonly comparator: number }
  | { readonly kind: 'always'; readonly value: boolean }
  | { readonly kind: 'not'; readonly of: Logic }
  | { readonly kind: 'both' | 'either'; readonly left: Logic; readonly right: Logic };

/** Settings, and what each comparator looks at, in the words of the sentence. */
export interface CompiledCondition extends TriggerProgram {
  readonly labels: readonly string[];
}

/** A condition of a stepper: one sentence without counts, sequences and times. */
export function compileStepCondition(text: string, stepper: StepperMap): Result<CompiledCondition> {
  if (stepper.comparators === 0) return fail(problem('step-condition (none)', { name: stepper.name }));
  if (text.trim() === '') return fail(problem('step-condition (empty)'));
  const compiled = compileCondition(text, {
    ...stepper,
    ...{ kind: 'recorder', depth: 0, stages: 1, qualifier: false, segments: 1, atTrigger: [] },
  });
  if (!compiled.ok) return compiled;
  const [stage] = compiled.value.stages;
  if (stage && (stage.times !== 1 || stage.inARow)) return fail(problem('step-condition (counts)'));
  return compiled;
}

const ROWS = 32;

/**
 * Turns a sentence into the settings of one recorder. Equal comparisons share a comparator, and so do opposite ones. A
 * signal may be named by the end of its path where that is unambiguous. What does not fit into the comparators or
 * stages that were built says what the plan would need.
 *
 * `keep` is an expression for the samples that are stored; empty for all of them. An empty sentence is true at once.
 */
export function compileCondition(text: string, recorder: RecorderMap, keep = ''): Result<CompiledCondition> {
  if (recorder.comparators === 0) return fail(problem('trigger-old', { name: recorder.name }));
  const sentence: Result<readonly Stage[]> = text.trim() === '' ? ok([]) : readSentence(text);
  if (!sentence.ok) return sentence;
  const comparators: ComparatorSetting[] = [];
  const stages: { logic: Logic; stage: Stage }[] = [];
  for (const stage of sentence.value) {
    const logic = logicOf(stage.condition, recorder, comparators);
    if (!logic.ok) return logic;
    stages.push({ logic: logic.value, stage });
  }
  const kept = keepLogic(keep, recorder, comparators);
  if (!kept.ok) return kept;
  const small = tooSmall(recorder, comparators.length, stages.length);
  if (small) return fail(small);
  const settings: StageSetting[] = [];
  for (const { logic, stage } of stages) {
    const { times, inARow, within, otherwise } = stage;
    const place: Word = { kind: 'value', text: '', at: stage.at, end: stage.at };
    if (times > MOST_TIMES)
      return fail(
        wrongAt(
          place,
          'trigger-value',
          `A stage counts to ${MOST_TIMES.toLocaleString('en')} at most.`,
          'Divide it into two stages.',
        ),
      );
    if (within !== null && within > MOST_WITHIN)
      return fail(
        wrongAt(
          place,
          'trigger-value',
          `"within" goes to ${MOST_WITHIN.toLocaleString('en')} samples at most.`,
          'Use a slower sampling clock.',
        ),
      );
    if (within !== null && recorder.stages < 2)
      return fail(problem('trigger-resources (within)', { name: recorder.name, stages: recorder.stages }));
    settings.push({ table: tableOf(logic), times, inARow, within, otherwise });
  }
  return ok({
    comparators,
    stages: settings.length > 0 ? settings : AT_ONCE.stages,
    keep: kept.value ? tableOf(kept.value) : KEEP_ALL,
    labels: comparators.map((setting) => labelOf(setting, recorder)),
  });
}

/** What a stored sample must be like; null for every one. */
function keepLogic(keep: string, recorder: RecorderMap, comparators: ComparatorSetting[]): Result<Logic | null> {
  if (keep.trim() === '') return ok(null);
  const about = (found: Problem): Problem => ({ ...found, message: `Store only when: ${found.message}` });
  if (!recorder.qualifier) return fail(problem('trigger-resources (qualifier)', { name: recorder.name }));
  const expression = readExpression(keep);
  if (!expression.ok) return fail(about(expression.error));
  const logic = logicOf(expression.value, recorder, comparators);
  return logic.ok ? logic : fail(about(logic.error));
}

/** A comparator in words. */
function labelOf({ relation, value, mask }: ComparatorSetting, recorder: RecorderMap): string {
  const signal = recorder.signals.find(
    ({ lo, width }) => mask !== 0n && mask >> BigInt(lo) < 1n << BigInt(width) && mask >> BigInt(lo) !== 0n,
  );
  if (!signal) return 'nothing';
  const { lo, width, names, signed } = signal;
  const name = signal.name.split('.').slice(-2).join('.');
  if (relation !== 'equal' && relation !== 'below') return `${name} ${relation}`;
  const [all, field, bits] = [(1n << BigInt(width)) - 1n, mask >> BigInt(lo), value >> BigInt(lo)];
  if (relation === 'below' && signed) return `bits of ${name} < ${bits}`;
  const number = signed && bits >> BigInt(width - 1) ? bits - all - 1n : bits;
  const digits =
    field === all
      ? (Object.entries(names ?? {}).find(([, one]) => BigInt(one) === bits)?.[0] ?? String(number))
      : `0b${Array.from({ length: width }, (_, i) => (((field >> BigInt(width - 1 - i)) & 1n) === 0n ? 'x' : String((bits >> BigInt(width - 1 - i)) & 1n))).join('')}`;
  // One comparator serves both orders; the other one is what its opposite says.
  return relation === 'equal' ? `${name} == ${digits}` : `${name} < ${digits}, else > ${number - 1n}`;
}

function tooSmall({ name, comparators, stages }: RecorderMap, needed: number, neededStages: number): Problem | null {
  if (needed > comparators && neededStages > stages)
    return problem('trigger-resources (both)', { needed, neededStages, name, comparators, stages });
  if (needed > comparators) return problem('trigger-resources (comparators)', { needed, name, comparators });
  if (neededStages > stages) return problem('trigger-resources (stages)', { neededStages, name, stages });
  return null;
}

/** Bit i: whether it holds when the comparators read i. */
function tableOf(logic: Logic): number {
  let table = 0;
  for (let row = 0; row < ROWS; row++) if (holds(logic, row)) table |= 1 << row;
  return table >>> 0;
}

function holds(logic: Logic, row: number): boolean {
  switch (logic.kind) {
    case 'hit':
      return ((row >>> logic.comparator) & 1) === 1;
    case 'always':
      return logic.value;
    case 'not':
      return !holds(logic.of, row);
    case 'both':
      return holds(logic.left, row) && holds(logic.right, row);
    case 'either':
      return holds(logic.left, row) || holds(logic.right, row);
  }
}

function logicOf(expression: Expression, recorder: RecorderMap, comparators: ComparatorSetting[]): Result<Logic> {
  switch (expression.kind) {
    case 'both':
    case 'either': {
      const left = logicOf(expression.left, recorder, comparators);
      if (!left.ok) return left;
      const right = logicOf(expression.right, recorder, comparators);
      return right.ok ? ok({ kind: expression.kind, left: left.value, right: right.value }) : right;
    }
    case 'not': {
      const of = logicOf(expression.of, recorder, comparators);
      return of.ok ? ok({ kind: 'not', of: of.value }) : of;
    }
    default: {
      const signal = findSignal(expression.signal, recorder);
      return signal.ok ? atom(expression, signal.value, comparators) : signal;
    }
  }
}

type Atom = Extract<Expression, { readonly signal: Word }>;

function atom(expression: Atom, signal: Probed, comparators: ComparatorSetting[]): Result<Logic> {
  const use = (setting: ComparatorSetting): Logic => ({ kind: 'hit', comparator: numberOf(setting, comparators) });
  const { width, lo } = signal;
  const field = ((1n << BigInt(width)) - 1n) << BigInt(lo);
  switch (expression.kind) {
    case 'is':
      if (width !== 1)
        return fail(
          wrongAt(
            expression.signal,
            'trigger-syntax',
            `"${expression.signal.text}" has ${width} bits; say what it is to be compared with.`,
            `Write ${expression.signal.text} != 0.`,
          ),
        );
      return ok(use({ relation: 'equal', value: field, mask: field }));
    case 'edge':
      if (expression.edge !== 'changes' && width !== 1)
        return fail(
          wrongAt(
            expression.signal,
            'trigger-syntax',
            `"${expression.signal.text}" has ${width} bits; only a single bit rises or falls.`,
            `Write ${expression.signal.text} changes.`,
          ),
        );
      return ok(use({ relation: expression.edge, value: 0n, mask: field }));
    case 'compare': {
      const { relation } = expression;
      if (relation !== '==' && relation !== '!=') return ordered(expression.value, relation, signal, use);
      const value = wantedValue(expression.value, signal);
      if (!value.ok) return value;
      const hit = use({
        relation: 'equal',
        value: value.value.value << BigInt(lo),
        mask: value.value.mask << BigInt(lo),
      });
      return ok(relation === '==' ? hit : { kind: 'not', of: hit });
    }
    case 'range': {
      const low = ordered(expression.low, '>=', signal, use);
      if (!low.ok) return low;
      const high = ordered(expression.high, '<=', signal, use);
      return high.ok ? ok({ kind: 'both', left: low.value, right: high.value }) : high;
    }
  }
}

/**
 * An order relation as "below a bound" or its opposite; one that can never or must always hold needs no comparator. A
 * signed signal is below a bound of 0 or more when it is negative or its bits are below, and below a negative bound
 * when it is both.
 */
function ordered(
  word: Word,
  relation: '<' | '<=' | '>' | '>=',
  signal: Probed,
  use: (setting: ComparatorSetting) => Logic,
): Result<Logic> {
  const read = wantedValue(word, signal);
  if (!read.ok) return read;
  const { width, lo, signed } = signal;
  const all = (1n << BigInt(width)) - 1n;
  if (read.value.mask !== all)
    return fail(
      wrongAt(
        word,
        'trigger-value',
        `"${word.text}" has open digits; an order needs them all.`,
        'Use == with x digits, or write the value out.',
      ),
    );
  const sign = 1n << BigInt(width - 1);
  const value = signed && (read.value.value & sign) !== 0n ? read.value.value - all - 1n : read.value.value;
  const [least, most] = signed ? [-sign, sign - 1n] : [0n, all];
  const bound = value + (relation === '<=' || relation === '>' ? 1n : 0n);
  const bits = (bound: bigint): Logic =>
    use({ relation: 'below', value: (bound & all) << BigInt(lo), mask: all << BigInt(lo) });
  const negative = (): Logic => use({ relation: 'equal', value: sign << BigInt(lo), mask: sign << BigInt(lo) });
  const below = (): Logic => {
    if (bound <= least) return { kind: 'always', value: false };
    if (bound > most) return { kind: 'always', value: true };
    if (!signed) return bits(bound);
    if (bound === 0n) return negative();
    return { kind: bound > 0n ? 'either' : 'both', left: negative(), right: bits(bound) };
  };
  return ok(relation === '<' || relation === '<=' ? below() : { kind: 'not', of: below() });
}

function numberOf(setting: ComparatorSetting, comparators: ComparatorSetting[]): number {
  const known = comparators.findIndex(
    (one) => one.relation === setting.relation && one.value === setting.value && one.mask === setting.mask,
  );
  return known >= 0 ? known : comparators.push(setting) - 1;
}

function wantedValue(word: Word, signal: Probed) {
  const named = own(signal.names, word.text);
  if (named !== undefined) return parseValue(named, signal.width);
  if (word.kind === 'name') {
    const known = Object.keys(signal.names ?? {});
    return fail(
      wrongAt(
        word,
        'trigger-value',
        `"${word.text}" is no value of ${signal.name}.`,
        known.length > 0 ? `Its values are ${known.join(', ')}.` : 'Write a number.',
      ),
    );
  }
  const parsed = parseValue(word.text, signal.width);
  return parsed.ok ? parsed : fail({ ...parsed.error, place: { file: 'condition', line: 1, column: word.at + 1 } });
}

function findSignal(word: Word, recorder: RecorderMap): Result<Probed> {
  const exact = recorder.signals.find((signal) => signal.name === word.text);
  if (exact) return ok(exact);
  const found = recorder.signals.filter((signal) => signal.name.endsWith(`.${word.text}`));
  const [only, another] = found;
  if (!only)
    return fail(
      wrongAt(
        word,
        'trigger-signal',
        `The recorder "${recorder.name}" does not store "${word.text}".`,
        `It stores ${recorder.signals.map((signal) => signal.name).join(', ')}.`,
        'Add the signal under Probe and build again.',
      ),
    );
  if (another)
    return fail(
      wrongAt(
        word,
        'trigger-signal',
        `"${word.text}" may mean ${found.map((s) => s.name).join(' or ')}.`,
        'Write more of the path.',
      ),
    );
  return ok(only);
}
