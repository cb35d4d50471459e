import { netOf } from './shared.ts';
import type { NodeId } from '../../netlist/index.ts';
import type { Place } from '../../result.ts';
import { entityOf, typeOf } from '../names/index.ts';
import type { Expression, Statement } from '../read/index.ts';
import { emit, emitSelf, type ExpressionContext } from './expressions.ts';

type Case = Statement & { readonly kind: 'case' };

const WIDEST_COUNTED = 12;

/** One bit for each arm: does any of its labels fit the subject? @source IEEE 1364-2005, clause 9.5 */
export function labelTests(statement: Case, context: ExpressionContext): NodeId[] {
  const { arms, wild } = statement;
  if (wild === 'inside') return arms.map(({ labels }) => insideTest(statement, labels, context));
  const type = commonType(statement, context);
  const subject = emit(statement.subject, type.width, type.signed, context);
  return arms.map(({ labels }) => labelTest(statement, labels, { node: subject, ...type }, context));
}

interface Subject {
  readonly node: NodeId;
  readonly width: number;
  readonly signed: boolean;
}

function labelTest(
  statement: Case,
  labels: readonly Expression[],
  { node: subject, width, signed }: Subject,
  context: ExpressionContext,
): NodeId {
  const { build, messages } = context.shared;
  let any = build.constant(0n, 1);
  for (const label of labels) {
    const literal = label.kind === 'number' ? label : namedDigits(label, context);
    if (!literal) {
      any = build.or(any, build.eq(subject, emit(label, width, signed, context)));
      continue;
    }
    const open = openDigits(statement.wild, literal);
    if (open === 0n && (literal.unknown || literal.floating)) {
      messages.warning(
        'never-matches',
        label.at,
        'A label with x or z digits never matches in hardware. Use casez with ? digits to leave bits open.',
      );
      continue;
    }
    const mask = build.constant(~open, width);
    const value = build.resize(
      build.constant(literal.value, literal.width ?? Math.max(32, literal.value.toString(2).length)),
      width,
      signed && literal.signed,
    );
    any = build.or(any, build.eq(build.and(subject, mask), build.and(value, mask)));
  }
  return any;
}

/** `case (value) inside`: labels may be ranges, and x and z in them fit anything. */
function insideTest({ subject, at }: Case, labels: readonly Expression[], context: ExpressionContext): NodeId {
  const among = labels.map((label) =>
    label.kind === 'range' && label.base.kind === 'nothing' ? { high: label.high, low: label.low } : label,
  );
  return emitSelf({ kind: 'inside', at, value: subject, among }, context);
}

/**
 * Subject and labels all together decide at how many bits they are compared, and whether as signed.
 *
 * @source IEEE 1364-2005, clause 9.5
 */
function commonType({ subject, arms }: Case, context: ExpressionContext): { width: number; signed: boolean } {
  let { width, signed } = typeOf(subject, context);
  for (const label of arms.flatMap((arm) => arm.labels)) {
    const type = typeOf(label, context);
    width = Math.max(width, type.width);
    signed &&= type.signed;
  }
  return { width, signed };
}

type Digits = Pick<Expression & { kind: 'number' }, 'value' | 'unknown' | 'floating' | 'width' | 'signed'>;

/** A parameter with open digits used as a label. */
function namedDigits(label: Expression, context: ExpressionContext): Digits | null {
  const entity = label.kind === 'name' ? entityOf(label, context) : null;
  if (entity?.kind !== 'constant') return null;
  const { value, unknown, width, signed } = entity.constant;
  if (unknown === 0n) return null;
  return { value: value & ~unknown, unknown: unknown & value, floating: unknown & ~value, width, signed };
}

const openDigits = (wild: Case['wild'], label: Digits): bigint =>
  wild === 'none' ? 0n : wild === 'z' ? label.floating : label.floating | label.unknown;

/** Every value of the subject has a label of its own. */
export function someArmAlwaysFits(statement: Case, context: ExpressionContext): boolean {
  const { width } = typeOf(statement.subject, context);
  if (statement.promise === 'unique' || statement.promise === 'priority') return statement.arms.length > 0;
  if (width > WIDEST_COUNTED || statement.wild === 'inside') return false;
  if (statement.wild !== 'none') return wildLabelsCover(statement, width, context);
  const seen = new Set<bigint>();
  for (const label of statement.arms.flatMap((arm) => arm.labels)) {
    const value = context.shared.build.constantOf(emitSelf(label, context));
    if (value === null || value >= 1n << BigInt(width)) return false;
    seen.add(value);
  }
  return seen.size === 2 ** width;
}

const MOST_TRIED = 1 << 22;

/** The same of `casez` and `casex`: open digits stand for both values. */
function wildLabelsCover(statement: Case, width: number, context: ExpressionContext): boolean {
  const labels = statement.arms.flatMap((arm) => arm.labels);
  if (labels.length * 2 ** width > MOST_TRIED) return false;
  const patterns: { readonly value: number; readonly open: number }[] = [];
  for (const label of labels) {
    const digits = label.kind === 'number' ? label : namedDigits(label, context);
    const plain = digits ? digits.value : context.shared.build.constantOf(emitSelf(label, context));
    if (plain === null || plain >= 1n << BigInt(width)) return false;
    if (digits && statement.wild === 'z' && digits.unknown !== 0n) continue;
    const open = digits ? openDigits(statement.wild, digits) : 0n;
    patterns.push({ value: Number(plain & ~open), open: Number(BigInt.asUintN(width, open)) });
  }
  for (let value = 0; value < 2 ** width; value++)
    if (!patterns.some((one) => (value & ~one.open) === one.value)) return false;
  return true;
}

/** Constants that label the values of a plain signal are its value names, as those of a state register are. */
export function nameLabels(statement: Case, context: ExpressionContext): void {
  if (statement.subject.kind !== 'name') return;
  const subject = entityOf(statement.subject, context);
  if (subject?.kind !== 'vector' || subject.shape.names) return;
  const { labels } = netOf(context.shared, subject);
  for (const label of statement.arms.flatMap((arm) => arm.labels)) {
    if (label.kind !== 'name') continue;
    const entity = entityOf(label, context);
    if (entity?.kind === 'constant' && !labels.has(entity.constant.value))
      labels.set(entity.constant.value, label.name);
  }
}

/**
 * Says which values of the subject no arm takes. Nothing is chosen for them: registers keep their value, logic would
 * need a latch.
 */
export function reportOpenCase(statement: Case, context: ExpressionContext): void {
  const { width } = typeOf(statement.subject, context);
  if (statement.wild !== 'none' || width > WIDEST_COUNTED) return;
  const taken = new Set(
    statement.arms
      .flatMap((arm) => arm.labels)
      .map((label) => context.shared.build.constantOf(emitSelf(label, context))),
  );
  if (taken.has(null)) return;
  const subject = statement.subject.kind === 'name' ? entityOf(statement.subject, context) : null;
  const names = subject?.kind === 'vector' ? subject.shape.names : null;
  const missing = Array.from({ length: 2 ** width }, (_, value) => BigInt(value)).filter((value) => !taken.has(value));
  const named = missing.flatMap((value) => names?.get(value) ?? []);
  const listed = (named.length > 0 ? named : missing.map(String)).slice(0, 8).join(', ');
  context.shared.messages.add(
    'info',
    'case-open',
    statement.at,
    `No arm takes ${listed}${missing.length > 8 ? ' and more' : ''}: ${missing.length} of ${2 ** width} values. ` +
      'Registers then keep what they hold.',
    {
      fix: {
        kind: 'insert',
        label: 'Add an empty default arm, so that this is said in the source',
        insertions: [{ ...placeOf(statement.end), insert: 'default: ;\n    ' }],
      },
    },
  );
}

const placeOf = ({ file, line, column }: Place): Place => ({ file, line, column });
