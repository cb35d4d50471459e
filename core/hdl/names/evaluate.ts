import type { Expression } from '../read/index.ts';
import { GiveUp } from '../read/index.ts';
import { runFunction } from './constant-function.ts';
import {
  castType,
  COMPARISONS,
  functionOf,
  isPart,
  LOGICAL,
  numberFunction,
  type Part,
  partShape,
  routineOf,
  shapeOf,
  SHIFTS,
  simulationFunction,
  type Type,
  typeNamed,
  typeOf,
} from './expression-type.ts';
import * as four from './four-state.ts';
import type { Evaluation, Known } from './evaluation.ts';
import type { Word } from './four-state.ts';
import { entityOf, valueless, wordAccess } from './lookup.ts';
import { patternValues, placesOf } from './pattern.ts';
import { resolveType } from './resolve-type.ts';
import { type Constant, constantNumber, type NameContext, type Names, type Scope } from './scope.ts';
import { bitsShape, elementAt, elementWidth, type Shape } from './shape.ts';

/** A place where names mean what they mean in `scope`; variables are known only through `known`. */
export function evaluationIn(shared: Names, scope: Scope, known: Known = () => null, depth = 0): Evaluation {
  const evaluation: Evaluation = {
    shared,
    scope,
    known,
    depth,
    constant: (expression) => evaluate(expression, evaluation),
    assigned: (expression, shape) => evaluateFor(expression, shape, evaluation),
    lowOf: (part, shape) => lowOf(part, shape, evaluation),
    inScope: (inner) => evaluationIn(shared, inner, known, depth),
    within: (inner, has, deep) => evaluationIn(shared, inner, has, deep),
  };
  return evaluation;
}

/** The value of an expression by itself. */
function evaluate(expression: Expression, context: Evaluation): Constant {
  const { width, signed, special } = typeOf(expression, context);
  if (special === 'real') return realConstant(realOf(expression, context));
  if (special)
    throw new GiveUp(
      'not-constant',
      expression.at,
      'A text that is put together while the design runs is no constant.',
    );
  const { v, x } = wordOf(expression, width, signed, context);
  return { value: v, unknown: x, width, signed };
}

export const realConstant = (real: number): Constant => ({
  value: BigInt.asUintN(64, BigInt(Number.isFinite(real) ? Math.round(real) : 0)),
  unknown: 0n,
  width: 64,
  signed: true,
  real,
});

/** The right side of an assignment to something of a shape: as wide as the wider of the two, then cut. */
function evaluateFor(expression: Expression, shape: Shape, context: Evaluation): Word {
  if (expression.kind === 'pattern') return patternOf(expression, shape, context);
  const type = typeOf(expression, context);
  const width = Math.max(type.width, shape.width);
  if (type.special === 'real') return ofReal(realOf(expression, context), shape.width);
  const word = wordOf(expression, width, type.signed, context);
  return four.resize(word, width, shape.width, type.signed);
}

/** To the nearest whole number, halves away from 0. @source IEEE 1364-2005, clause 3.9.2 */
export function ofReal(real: number, width: number): Word {
  if (!Number.isFinite(real)) return four.known(0n);
  return four.known(BigInt.asUintN(width, BigInt(Math.sign(real) * Math.round(Math.abs(real)))));
}

/** A real number, or a word as one; unknown bits count as 0. @source IEEE 1364-2005, clause 3.9.2 */
function realOf(expression: Expression, context: Evaluation): number {
  const { special, width, signed } = typeOf(expression, context);
  if (special !== 'real') {
    const { v, x } = wordOf(expression, width, signed, context);
    const plain = v & ~x;
    return Number(signed ? BigInt.asIntN(width, plain) : plain);
  }
  switch (expression.kind) {
    case 'real':
      return expression.value;
    case 'time':
      return expression.seconds;
    case 'unary':
      return (expression.operator === '-' ? -1 : 1) * realOf(expression.operand, context);
    case 'binary': {
      const [a, b] = [realOf(expression.left, context), realOf(expression.right, context)];
      return realOperation(expression.operator, a, b);
    }
    case 'conditional': {
      const { condition, then, otherwise } = expression;
      return realOf(four.isTrue(selfDetermined(condition, context)) ? then : otherwise, context);
    }
    case 'call': {
      const values = expression.arguments.map((value) => realOf(value, context));
      const found = mathFunction(expression.name, values);
      if (found !== null) return found;
      break;
    }
    default: {
      const entity = entityOf(expression, context);
      if (entity?.kind === 'constant' && entity.constant.real !== undefined) return entity.constant.real;
    }
  }
  throw notKnown(expression);
}

function realOperation(operator: string, a: number, b: number): number {
  switch (operator) {
    case '+':
      return a + b;
    case '-':
      return a - b;
    case '*':
      return a * b;
    case '/':
      return a / b;
    case '%':
      return a % b;
    default:
      return a ** b;
  }
}

/** @source IEEE 1364-2005, clause 17.11.2 */
const MATH: ReadonlyMap<string, (a: number, b: number) => number> = new Map([
  ['$ln', Math.log],
  ['$log10', Math.log10],
  ['$exp', Math.exp],
  ['$sqrt', Math.sqrt],
  ['$pow', (a, b) => a ** b],
  ['$floor', Math.floor],
  ['$ceil', Math.ceil],
  ['$sin', Math.sin],
  ['$cos', Math.cos],
  ['$tan', Math.tan],
  ['$asin', Math.asin],
  ['$acos', Math.acos],
  ['$atan', Math.atan],
  ['$atan2', Math.atan2],
  ['$hypot', (a, b) => Math.hypot(a, b)],
  ['$sinh', Math.sinh],
  ['$cosh', Math.cosh],
  ['$tanh', Math.tanh],
  ['$asinh', Math.asinh],
  ['$acosh', Math.acosh],
  ['$atanh', Math.atanh],
  ['$itor', (a) => a],
]);

export function mathFunction(name: string, values: readonly number[]): number | null {
  const [a = 0, b = 0] = values;
  return MATH.get(name)?.(a, b) ?? null;
}

const notKnown = (expression: Expression): GiveUp =>
  new GiveUp('not-constant', expression.at, 'This must be known when the design is built, but depends on a signal.');

function selfDetermined(expression: Expression, context: Evaluation): Word {
  const { width, signed, special } = typeOf(expression, context);
  if (special === 'real') return realOf(expression, context) === 0 ? four.FALSE : four.TRUE;
  return wordOf(expression, width, signed, context);
}

/** The bits of an expression at `width`, all operands that follow the context taken as `signed` says. */
function wordOf(expression: Expression, width: number, signed: boolean, context: Evaluation): Word {
  switch (expression.kind) {
    case 'number':
      return literal(expression, width, signed);
    case 'string':
      return four.resize(four.ofText(expression.text), Math.max(8, expression.text.length * 8), width, false);
    case 'name':
    case 'member':
    case 'index':
    case 'range':
    case 'indexed-range': {
      const { word, shape } = partOf(expression, context);
      return four.resize(word, shape.width, width, signed && shape.signed);
    }
    case 'unary':
      return unaryOf(expression, width, signed, context);
    case 'binary':
      return binaryOf(expression, width, signed, context);
    case 'conditional': {
      const condition = four.truth(selfDetermined(expression.condition, context));
      if (condition.x === 0n)
        return wordOf(condition.v === 1n ? expression.then : expression.otherwise, width, signed, context);
      return four.either(
        wordOf(expression.then, width, signed, context),
        wordOf(expression.otherwise, width, signed, context),
      );
    }
    case 'concatenation':
    case 'replication':
    case 'stream': {
      const type = typeOf(expression, context);
      return four.resize(joinedOf(expression, context), type.width, width, false);
    }
    case 'call':
    case 'method':
      return callOf(expression, width, signed, context);
    case 'cast': {
      const type = castType(expression, context);
      return four.resize(castOf(expression, type, context), type.width, width, signed);
    }
    case 'inside':
      return insideOf(expression, context);
    case 'real':
    case 'time':
      return ofReal(realOf(expression, context), width);
    case 'pattern':
    case 'type':
    case 'nothing':
      typeOf(expression, context);
      throw notKnown(expression);
  }
}

function joinedOf(
  expression: Expression & { kind: 'concatenation' | 'replication' | 'stream' },
  context: Evaluation,
): Word {
  if (expression.kind === 'replication') {
    const count = constantNumber(expression.count, context);
    const part = [selfDetermined(expression.part, context), typeOf(expression.part, context).width] as const;
    return four.concat(Array.from({ length: count }, () => part));
  }
  const whole = four.concat(
    expression.parts.map((part) => [selfDetermined(part, context), typeOf(part, context).width] as const),
  );
  if (expression.kind === 'concatenation' || expression.right) return whole;
  return streamed(whole, typeOf(expression, context).width, sliceOf(expression, context));
}

/** Bits in a slice of a stream. @source IEEE 1800, streaming operators: a type stands for its width; nothing for 1 */
export function sliceOf({ slice, at }: Expression & { kind: 'stream' }, context: NameContext): number {
  if (slice === null) return 1;
  const isExpression = 'at' in slice && slice.kind !== 'named';
  const named = 'at' in slice && slice.kind === 'name' ? typeNamed(slice, context) : null;
  if (named) return named.width;
  const width = isExpression
    ? constantNumber(slice as Expression, context)
    : resolveType(slice as Exclude<typeof slice, Expression>, context).width;
  if (width >= 1) return width;
  throw new GiveUp('width', at, `A slice of ${width} bits is out of range.`);
}

/** Slices from the right side, put down from the left. */
function streamed(word: Word, width: number, slice: number): Word {
  const parts: (readonly [Word, number])[] = [];
  for (let lo = 0; lo < width; lo += slice) {
    const size = Math.min(slice, width - lo);
    parts.push([four.slice(word, width, lo, size), size]);
  }
  return four.concat(parts);
}

/** A literal, extended as its sign and the context ask. @source IEEE 1364-2005, clause 3.5.1 */
export function literal(expression: Expression & { kind: 'number' }, width: number, signed: boolean): Word {
  const { value, unknown, floating, fill } = expression;
  if (fill) {
    const all = four.mask(width);
    return { v: value || unknown ? all : 0n, x: unknown || floating ? all : 0n };
  }
  const size = expression.width ?? Math.max(32, value.toString(2).length);
  const bits = unknown | floating;
  // An unsized x or z goes on to the left for as long as the context wants.
  const endless = expression.width === null && bits >> BigInt(size - 1) !== 0n;
  return four.resize({ v: value | unknown, x: bits }, size, width, endless || (signed && expression.signed));
}

interface Piece {
  readonly word: Word;
  readonly shape: Shape;
}

/** The value of a declared name or a part of one. */
function partOf(expression: Expression, context: Evaluation): Piece {
  const entity = entityOf(expression, context);
  if (entity?.kind === 'constant')
    return {
      word: { v: entity.constant.value, x: entity.constant.unknown },
      shape: shapeOf(expression, context),
    };
  if (entity?.kind === 'vector') {
    const word = context.known(entity);
    if (word === null) throw notKnown(expression);
    return { word, shape: entity.shape };
  }
  if (entity) throw valueless(entity, expression);
  if (!isPart(expression)) {
    const { width, signed } = typeOf(expression, context);
    return { word: selfDetermined(expression, context), shape: bitsShape(width, signed) };
  }
  if (wordAccess(expression, context)) throw notKnown(expression);
  const base = partOf(expression.base, context);
  const shape = partShape(expression, base.shape, context);
  const lo = lowOf(expression, base.shape, context);
  if (lo === null) return { word: four.allUnknown(shape.width), shape };
  return { word: four.slice(base.word, base.shape.width, lo, shape.width), shape };
}

/** The lowest bit of a part in a word of a shape; null where its index is unknown. */
function lowOf(expression: Part, shape: Shape, context: NameContext): number | null {
  const size = elementWidth(shape);
  const indexOf = (index: Expression): number | null =>
    context.constant(index).unknown === 0n ? constantNumber(index, context) : null;
  switch (expression.kind) {
    case 'member':
      return shape.fields?.find((field) => field.name === expression.name)?.lo ?? 0;
    case 'index': {
      const index = indexOf(expression.index);
      return index === null ? null : elementAt(shape, index) * size;
    }
    case 'range': {
      const [high, low] = [indexOf(expression.high), indexOf(expression.low)];
      if (high === null || low === null) return null;
      return Math.min(elementAt(shape, high), elementAt(shape, low)) * size;
    }
    case 'indexed-range': {
      const start = indexOf(expression.start);
      if (start === null) return null;
      const length = constantNumber(expression.width, context);
      const descending = shape.left >= shape.right;
      const below = expression.up !== descending ? length - 1 : 0;
      return (elementAt(shape, start) - below) * size;
    }
  }
}

function unaryOf(
  { operator, operand }: Expression & { kind: 'unary' },
  width: number,
  signed: boolean,
  context: Evaluation,
): Word {
  if (operator === '+') return wordOf(operand, width, signed, context);
  if (operator === '-') return four.subtract(four.FALSE, wordOf(operand, width, signed, context), width);
  if (operator === '~') return four.not(wordOf(operand, width, signed, context), width);
  const inner = selfDetermined(operand, context);
  if (operator === '!') return four.logicalNot(inner);
  const inverted = operator.length === 2;
  const kind = operator.replace('~', '') as '&' | '|' | '^';
  const bit = four.reduce(kind, inner, typeOf(operand, context).width);
  return inverted ? four.not(bit, 1) : bit;
}

function binaryOf(
  expression: Expression & { kind: 'binary' },
  width: number,
  signed: boolean,
  context: Evaluation,
): Word {
  const { operator, left, right } = expression;
  if (LOGICAL.has(operator)) {
    const a = four.truth(selfDetermined(left, context));
    if (operator === '&&' ? a.x === 0n && a.v === 0n : a.x === 0n && a.v === 1n) return a;
    const b = four.truth(selfDetermined(right, context));
    return operator === '&&' ? four.and(a, b) : four.or(a, b);
  }
  if (COMPARISONS.has(operator)) return compare(operator, left, right, context);
  if (operator === '**') {
    const by = typeOf(right, context);
    const signs = { base: signed, exponent: by.signed, exponentWidth: by.width };
    return four.power(wordOf(left, width, signed, context), selfDetermined(right, context), width, signs);
  }
  if (SHIFTS.has(operator))
    return four.shift(operator, wordOf(left, width, signed, context), width, selfDetermined(right, context), signed);
  const a = wordOf(left, width, signed, context);
  const b = wordOf(right, width, signed, context);
  return arithmetic(expression, a, b, { width, signed });
}

function arithmetic(
  { operator, at }: Expression & { kind: 'binary' },
  a: Word,
  b: Word,
  { width, signed }: Type,
): Word {
  switch (operator) {
    case '+':
      return four.add(a, b, width);
    case '-':
      return four.subtract(a, b, width);
    case '*':
      return four.multiply(a, b, width);
    case '/':
      return four.divide(a, b, width, signed);
    case '%':
      return four.modulo(a, b, width, signed);
    case '&':
      return four.and(a, b);
    case '|':
      return four.or(a, b);
    case '^':
      return four.xor(a, b);
    case '~^':
    case '^~':
      return four.not(four.xor(a, b), width);
    default:
      throw new GiveUp('operator', at, `The operator "${operator}" is not taken.`);
  }
}

function compare(operator: string, left: Expression, right: Expression, context: Evaluation): Word {
  const [l, r] = [typeOf(left, context), typeOf(right, context)];
  if (l.special === 'real' || r.special === 'real')
    return compareReals(operator, realOf(left, context), realOf(right, context));
  const width = Math.max(l.width, r.width);
  const signed = l.signed && r.signed;
  const [a, b] = [wordOf(left, width, signed, context), wordOf(right, width, signed, context)];
  switch (operator) {
    case '<':
      return four.less(a, b, width, signed);
    case '>':
      return four.less(b, a, width, signed);
    case '<=':
      return four.logicalNot(four.less(b, a, width, signed));
    case '>=':
      return four.logicalNot(four.less(a, b, width, signed));
    case '===':
      return four.same(a, b);
    case '!==':
      return four.logicalNot(four.same(a, b));
    case '==?':
      return four.wildEqual(a, b);
    case '!=?':
      return four.logicalNot(four.wildEqual(a, b));
    case '!=':
      return four.logicalNot(four.equal(a, b));
    default:
      return four.equal(a, b);
  }
}

function compareReals(operator: string, a: number, b: number): Word {
  const is = {
    '<': a < b,
    '>': a > b,
    '<=': a <= b,
    '>=': a >= b,
    '!=': a !== b,
    '!==': a !== b,
    '!=?': a !== b,
  }[operator];
  return (is ?? a === b) ? four.TRUE : four.FALSE;
}

function callOf(
  expression: Expression & { kind: 'call' | 'method' },
  width: number,
  signed: boolean,
  context: Evaluation,
): Word {
  const type = typeOf(expression, context);
  const sized = (word: Word, from: number = type.width) => four.resize(word, from, width, signed && type.signed);
  if (expression.kind === 'method') {
    const routine = routineOf(expression, context);
    if (!routine) throw notKnown(expression);
    return sized(runFunction(routine.item, routine.scope, expression.arguments, context));
  }
  const number = numberFunction(expression, context);
  if (number !== null) return four.known(BigInt.asUintN(width, number));
  const first = (): Expression => {
    const found = expression.arguments[0];
    if (found) return found;
    throw new GiveUp('arguments', expression.at, `${expression.name} takes an argument.`);
  };
  switch (expression.name) {
    case '$signed':
    case '$unsigned':
      return sized(selfDetermined(first(), context));
    case '$countones': {
      const { v, x } = selfDetermined(first(), context);
      return sized(four.known(BigInt(four.ones(v & ~x))));
    }
    case '$onehot':
    case '$onehot0': {
      const { v, x } = selfDetermined(first(), context);
      const count = four.ones(v & ~x);
      return count === 1 || (count === 0 && expression.name === '$onehot0') ? four.TRUE : four.FALSE;
    }
    case '$isunknown':
      return selfDetermined(first(), context).x === 0n ? four.FALSE : four.TRUE;
    case '$rtoi':
      return sized(ofTruncated(realOf(first(), context)));
    case '$realtobits':
      return sized(four.known(bitsOfReal(realOf(first(), context))));
    default: {
      if (simulationFunction(expression.name)) throw notKnown(expression);
      const { item, scope } = functionOf(expression, context);
      return sized(runFunction(item, scope, expression.arguments, context));
    }
  }
}

const ofTruncated = (real: number): Word =>
  four.known(BigInt.asUintN(32, BigInt(Number.isFinite(real) ? Math.trunc(real) : 0)));

/** The bits of a double. @source IEEE 1364-2005, clause 17.8; IEEE 754 */
export function bitsOfReal(real: number): bigint {
  const view = new DataView(new ArrayBuffer(8));
  view.setFloat64(0, real);
  return view.getBigUint64(0);
}

export function realOfBits(bits: bigint): number {
  const view = new DataView(new ArrayBuffer(8));
  view.setBigUint64(0, BigInt.asUintN(64, bits));
  return view.getFloat64(0);
}

function castOf({ to, value, at }: Expression & { kind: 'cast' }, type: Type, context: Evaluation): Word {
  if (value.kind === 'pattern') {
    if (typeof to === 'string') throw new GiveUp('pattern', at, 'A pattern needs a type before it.');
    const shape =
      'at' in to && to.kind !== 'named'
        ? typeNamed(to as Expression, context)
        : resolveType(to as Exclude<typeof to, Expression>, context);
    return patternOf(value, shape ?? bitsShape(type.width), context);
  }
  return evaluateFor(value, bitsShape(type.width, type.signed), context);
}

/** @source IEEE 1800, set membership operator */
function insideOf({ value, among }: Expression & { kind: 'inside' }, context: Evaluation): Word {
  return among.reduce<Word>((any, one) => {
    const fits =
      'kind' in one
        ? compare('==?', value, one, context)
        : four.and(compare('>=', value, one.high, context), compare('<=', value, one.low, context));
    return four.or(any, fits);
  }, four.FALSE);
}

/** `'{...}` as a word of a structure or an array. @source IEEE 1800, assignment patterns */
function patternOf(pattern: Expression & { kind: 'pattern' }, shape: Shape, context: Evaluation): Word {
  return four.concat(
    patternValues(pattern, shape).map(({ value, shape: inner, deep }) => {
      const word = deep ? filled(value, inner, context) : evaluateFor(value, inner, context);
      return [word, inner.width] as const;
    }),
  );
}

/** A default goes down into every single word of a structure or array. */
function filled(value: Expression, shape: Shape, context: Evaluation): Word {
  if (!shape.fields && !shape.element) return evaluateFor(value, shape, context);
  return four.concat(placesOf(shape).map((place) => [filled(value, place.shape, context), place.shape.width] as const));
}
