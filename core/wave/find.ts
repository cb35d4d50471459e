import { floatAt, wordAt, own } from '../lists.ts';
import { fail, ok, type Result } from '../result.ts';
import { type Expression, parseValue, readRule, type Word, wrongAt } from '../trigger/index.ts';
import { knownTrace } from './known.ts';
import type { Recording } from './recording.ts';
import { hasUnknown, indexAt, numberOf, realOf, type Trace } from './trace.ts';

/** A stretch of the axis where something holds, without its end. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
}

export interface Found {
  readonly stretches: readonly Stretch[];
  /** There were more than are listed. */
  readonly cut: boolean;
  /** The sentence asked for what must not be. */
  readonly isRule: boolean;
}

const MOST_STRETCHES = 100_000;

/** True, false, or not known because a bit is not. */
type Truth = boolean | null;

interface Reader {
  /** The signal as far as it is known. */
  readonly trace: Trace;
  index: number;
  /** The same as it was stored: a change over a gap is seen where the gap ends. */
  readonly stored: Trace;
  storedIndex: number;
  changed: boolean;
}

type Test = () => Truth;

/**
 * Every place of a recording at which an expression of the trigger language holds; for a rule, every place that breaks
 * it. A comparison may have another signal on its right side. What depends on unknown bits does not hold, and neither
 * does its opposite.
 */
export function findAll(recording: Recording, text: string): Result<Found> {
  const rule = readRule(text);
  if (!rule.ok) return rule;
  const readers: Reader[] = [];
  const when = testOf(rule.value.when, recording, readers);
  if (!when.ok) return when;
  const must = rule.value.must === null ? null : testOf(rule.value.must, recording, readers);
  if (must && !must.ok) return must;
  const holds = must ? () => when.value() === true && must.value() === false : () => when.value() === true;
  return ok({ ...walk(recording, readers, holds), isRule: must !== null });
}

/**
 * The same for a sentence that is known to hold no mistake in itself: what is wrong with it for this recording, or
 * null.
 */
export function checkRule(recording: Recording, text: string) {
  const rule = readRule(text);
  if (!rule.ok) return rule.error;
  for (const part of [rule.value.when, rule.value.must]) {
    const test = part && testOf(part, recording, []);
    if (test && !test.ok) return test.error;
  }
  return null;
}

function walk({ length }: Recording, readers: readonly Reader[], holds: () => boolean): Omit<Found, 'isRule'> {
  const stretches: { from: number; to: number }[] = [];
  let cut = false;
  const add = (from: number, to: number) => {
    const last = stretches.at(-1);
    if (last && last.to === from) last.to = to;
    else if (stretches.length < MOST_STRETCHES) stretches.push({ from, to });
    else cut = true;
  };
  for (let tick = 0; tick < length; ) {
    let next = length;
    let moved = false;
    for (const reader of readers) {
      const { trace, stored } = reader;
      const before = reader.storedIndex;
      while (reader.index + 1 < trace.at.length && floatAt(trace.at, reader.index + 1) <= tick) reader.index++;
      while (reader.storedIndex + 1 < stored.at.length && floatAt(stored.at, reader.storedIndex + 1) <= tick)
        reader.storedIndex++;
      reader.changed = reader.storedIndex !== before && before >= 0;
      moved ||= reader.changed;
      next = Math.min(next, trace.at[reader.index + 1] ?? length, stored.at[reader.storedIndex + 1] ?? length);
    }
    // An edge is true in the one tick in which it is.
    const atChange = holds();
    const end = moved ? Math.min(tick + 1, next) : next;
    if (atChange) add(tick, end);
    if (end < next) {
      for (const reader of readers) reader.changed = false;
      if (holds()) add(end, next);
    }
    tick = next;
  }
  return { stretches, cut };
}

function testOf(expression: Expression, recording: Recording, readers: Reader[]): Result<Test> {
  switch (expression.kind) {
    case 'not': {
      const of = testOf(expression.of, recording, readers);
      if (!of.ok) return of;
      return ok(() => {
        const truth = of.value();
        return truth === null ? null : !truth;
      });
    }
    case 'both':
    case 'either': {
      const left = testOf(expression.left, recording, readers);
      if (!left.ok) return left;
      const right = testOf(expression.right, recording, readers);
      if (!right.ok) return right;
      const decides = expression.kind === 'either';
      return ok(() => {
        const a = left.value();
        if (a === decides) return decides;
        const b = right.value();
        if (b === decides) return decides;
        return a === null || b === null ? null : !decides;
      });
    }
    default: {
      const trace = traceNamed(recording, expression.signal);
      if (!trace.ok) return trace;
      return atom(expression, readerOf(trace.value, recording, readers), recording, readers);
    }
  }
}

type Atom = Extract<Expression, { readonly signal: Word }>;

function atom(expression: Atom, reader: Reader, recording: Recording, readers: Reader[]): Result<Test> {
  const { trace } = reader;
  switch (expression.kind) {
    case 'is':
      if (trace.real)
        return fail(
          wrongAt(
            expression.signal,
            'trigger-syntax',
            `"${expression.signal.text}" is a real number; say what it is to be compared with.`,
            `Write ${expression.signal.text} > 0.`,
          ),
        );
      if (trace.width !== 1)
        return fail(
          wrongAt(
            expression.signal,
            'trigger-syntax',
            `"${expression.signal.text}" has ${trace.width} bits; say what it is to be compared with.`,
            `Write ${expression.signal.text} != 0.`,
          ),
        );
      return ok(() => equals(reader, 1n, 1n));
    case 'edge': {
      const { edge } = expression;
      if (edge !== 'changes' && trace.width !== 1)
        return fail(
          wrongAt(
            expression.signal,
            'trigger-syntax',
            `"${expression.signal.text}" has ${trace.width} bits; only a single bit rises or falls.`,
            `Write ${expression.signal.text} changes.`,
          ),
        );
      if (edge === 'changes') return ok(() => reader.changed);
      return ok(() => (reader.changed ? equals(reader, edge === 'rises' ? 1n : 0n, 1n) : false));
    }
    case 'range': {
      if (trace.real) {
        const [least, most] = [realNumber(expression.low), realNumber(expression.high)];
        if (!least.ok) return least;
        if (!most.ok) return most;
        return ok(() => {
          const value = realOf(trace, reader.index);
          return value === null ? null : value >= least.value && value <= most.value;
        });
      }
      const low = ordered(expression.low, reader, (a, b) => a >= b);
      if (!low.ok) return low;
      const high = ordered(expression.high, reader, (a, b) => a <= b);
      if (!high.ok) return high;
      return ok(() => {
        const [a, b] = [low.value(), high.value()];
        return a === null || b === null ? null : a && b;
      });
    }
    case 'compare': {
      const { relation, value } = expression;
      if (trace.real) return realCompare(expression, reader, recording, readers);
      const other =
        value.kind === 'name' && own(trace.names, value.text) === undefined ? traceNamed(recording, value) : null;
      if (other?.ok) return ok(against(reader, readerOf(other.value, recording, readers), ORDER[relation]));
      if (relation !== '==' && relation !== '!=') return ordered(value, reader, ORDER[relation]);
      const wanted = valueFor(value, trace);
      if (!wanted.ok) return wanted;
      const same = () => equals(reader, wanted.value.value, wanted.value.mask);
      if (relation === '==') return ok(same);
      return ok(() => {
        const truth = same();
        return truth === null ? null : !truth;
      });
    }
  }
}

/** Real numbers are compared with a number, also with a point, or with another real signal. */
function realCompare(
  { relation, value }: Extract<Expression, { readonly kind: 'compare' }>,
  reader: Reader,
  recording: Recording,
  readers: Reader[],
): Result<Test> {
  if (value.kind === 'name') {
    const named = traceNamed(recording, value);
    if (!named.ok) return named;
    if (!named.value.real)
      return fail(
        wrongAt(
          value,
          'trigger-value',
          `"${value.text}" holds bits; a real number is compared with a number or another real signal.`,
          'Write a number, such as 1.5.',
        ),
      );
    const other = readerOf(named.value, recording, readers);
    return ok(() => realOrder(relation, realOf(reader.trace, reader.index), realOf(other.trace, other.index)));
  }
  const wanted = realNumber(value);
  return wanted.ok ? ok(() => realOrder(relation, realOf(reader.trace, reader.index), wanted.value)) : wanted;
}

function realOrder(
  relation: Extract<Expression, { readonly kind: 'compare' }>['relation'],
  a: number | null,
  b: number | null,
): Truth {
  if (a === null || b === null) return null;
  switch (relation) {
    case '==':
      return a === b;
    case '!=':
      return a !== b;
    case '<':
      return a < b;
    case '<=':
      return a <= b;
    case '>':
      return a > b;
    case '>=':
      return a >= b;
  }
}

function realNumber(word: Word): Result<number> {
  const value = /^-?\d[\d_]*(\.\d+)?(e[+-]?\d+)?$/i.test(word.text) ? Number(word.text.replace(/_/g, '')) : Number.NaN;
  return Number.isNaN(value)
    ? fail(
        wrongAt(
          word,
          'trigger-value',
          `"${word.text}" is no decimal number, and the signal holds real numbers.`,
          'Write a number, such as 1.5.',
        ),
      )
    : ok(value);
}

const ORDER: Readonly<
  Record<Extract<Expression, { readonly kind: 'compare' }>['relation'], (a: bigint, b: bigint) => boolean>
> = {
  '==': (a, b) => a === b,
  '!=': (a, b) => a !== b,
  '<': (a, b) => a < b,
  '<=': (a, b) => a <= b,
  '>': (a, b) => a > b,
  '>=': (a, b) => a >= b,
};

/** Only the bits of the mask need to be known. */
function equals({ trace, index }: Reader, value: bigint, mask: bigint): Truth {
  if (index < 0) return null;
  let open = false;
  for (let i = 0; i < trace.words; i++) {
    const at = index * trace.words + i;
    const [wanted, cares] =
      trace.words === 1
        ? [Number(value) | 0, Number(mask) | 0]
        : [Number(BigInt.asIntN(32, value >> BigInt(32 * i))), Number(BigInt.asIntN(32, mask >> BigInt(32 * i)))];
    const unknown = trace.unknown ? wordAt(trace.unknown, at) & cares : 0;
    if (unknown !== 0) open = true;
    if (((wordAt(trace.bits, at) ^ wanted) & cares & ~unknown) !== 0) return false;
  }
  return open ? null : true;
}

function signedValue(trace: Trace, index: number): bigint | null {
  const value = numberOf(trace, index);
  return value === null || !trace.signed ? value : BigInt.asIntN(trace.width, value);
}

function ordered(word: Word, reader: Reader, holds: (a: bigint, b: bigint) => boolean): Result<Test> {
  const { trace } = reader;
  const read = valueFor(word, trace);
  if (!read.ok) return read;
  if (read.value.mask !== (1n << BigInt(trace.width)) - 1n)
    return fail(
      wrongAt(
        word,
        'trigger-value',
        `"${word.text}" has open digits; an order needs them all.`,
        'Use == with x digits, or write the value out.',
      ),
    );
  const bound = trace.signed ? BigInt.asIntN(trace.width, read.value.value) : read.value.value;
  if (trace.words === 1 && !trace.signed) {
    const least = Number(bound);
    const compare = (value: number) => holds(BigInt(value), bound);
    const [below, same, above] = [least > 0 && compare(least - 1), compare(least), compare(least + 1)];
    return ok(() => {
      if (reader.index < 0 || hasUnknown(trace, reader.index)) return null;
      const value = wordAt(trace.bits, reader.index);
      return value < least ? below : value > least ? above : same;
    });
  }
  return ok(() => {
    const value = signedValue(trace, reader.index);
    return value === null ? null : holds(value, bound);
  });
}

function against(left: Reader, right: Reader, holds: (a: bigint, b: bigint) => boolean): Test {
  return () => {
    const [a, b] = [signedValue(left.trace, left.index), signedValue(right.trace, right.index)];
    return a === null || b === null ? null : holds(a, b);
  };
}

function valueFor(word: Word, trace: Trace) {
  const parsed = parseValue(own(trace.names, word.text) ?? word.text, trace.width);
  if (parsed.ok) return parsed;
  return fail({
    ...parsed.error,
    ...(word.kind === 'name'
      ? { message: `"${word.text}" is neither a value of ${trace.name} nor a signal of this record.` }
      : {}),
    place: { file: 'condition', line: 1, column: word.at + 1 },
  });
}

function readerOf(stored: Trace, recording: Recording, readers: Reader[]): Reader {
  const known = readers.find((reader) => reader.stored === stored);
  if (known) return known;
  const reader = { trace: knownTrace(recording, stored), index: -1, stored, storedIndex: -1, changed: false };
  readers.push(reader);
  return reader;
}

function traceNamed({ traces }: Recording, word: Word): Result<Trace> {
  const exact = traces.find(({ name }) => name === word.text);
  if (exact) return ok(exact);
  const found = traces.filter(({ name }) => name.endsWith(`.${word.text}`));
  const [only, another] = found;
  if (!only)
    return fail(
      wrongAt(
        word,
        'trigger-signal',
        `The record has no signal "${word.text}".`,
        `It has ${traces
          .slice(0, 12)
          .map(({ name }) => name)
          .join(', ')}${traces.length > 12 ? ' and others' : ''}.`,
      ),
    );
  if (another)
    return fail(
      wrongAt(
        word,
        'trigger-signal',
        `"${word.text}" may mean ${found.map(({ name }) => name).join(' or ')}.`,
        'Write more of the path.',
      ),
    );
  return ok(only);
}

/** The next change of one signal after a tick, or the last before it; null when there is none. */
export function nextEdge(trace: Trace, tick: number, forward: boolean): number | null {
  const index = indexAt(trace, tick);
  if (forward) return trace.at[index + 1] ?? null;
  const at = trace.at[index] === tick ? index - 1 : index;
  return at > 0 ? floatAt(trace.at, at) : null;
}

/** The next stretch that begins after a tick, or the last one before it. */
export function nextStretch(stretches: readonly Stretch[], tick: number, forward: boolean): Stretch | null {
  if (forward) return stretches.find(({ from }) => from > tick) ?? null;
  return stretches.findLast(({ from }) => from < tick) ?? null;
}
