import type { Expression } from '../read/index.ts';
import { own } from '../../lists.ts';
import { GiveUp } from '../read/index.ts';
import { entityOf, lookup, valueless, wordAccess } from './lookup.ts';
import { resolveType } from './resolve-type.ts';
import {
  type Constant,
  constantNumber,
  type Entity,
  type FunctionItem,
  type NameContext,
  type Scope,
} from './scope.ts';
import { bitsShape, elementOf, elementWidth, type Shape } from './shape.ts';

export interface Type {
  readonly width: number;
  readonly signed: boolean;
  /** A real number or a text has no bits; `width` is then 64. */
  readonly special?: 'real' | 'text' | 'event' | undefined;
}

export const COMPARISONS: ReadonlySet<string> = new Set(['<', '<=', '>', '>=', '==', '!=', '===', '!==', '==?', '!=?']);
export const LOGICAL: ReadonlySet<string> = new Set(['&&', '||']);
export const SHIFTS: ReadonlySet<string> = new Set(['<<', '>>', '<<<', '>>>', '**']);
const REDUCTIONS = new Set(['&', '~&', '|', '~|', '^', '~^', '^~']);
/**
 * System functions that give a number known when the design is built. @source IEEE 1364-2005, clause 17; IEEE 1800,
 * array queries
 */
const NUMBER_FUNCTIONS = new Set(['$clog2', '$bits', '$size', '$high', '$low', '$left', '$right']);
/** What a simulation answers. @source IEEE 1364-2005, clause 17; IEEE 1800, system functions */
const SIMULATION_FUNCTIONS: Readonly<Record<string, Type>> = Object.fromEntries([
  ...['$time'].map((name) => [name, { width: 64, signed: false }] as const),
  ...['$stime', '$urandom', '$urandom_range'].map((name) => [name, { width: 32, signed: false }] as const),
  ...[
    ...[
      '$random',
      '$dist_uniform',
      '$dist_normal',
      '$dist_exponential',
      '$dist_poisson',
      '$dist_chi_square',
      '$dist_t',
    ],
    ...['$dist_erlang', '$fopen', '$fgetc', '$fgets', '$fscanf', '$sscanf', '$feof', '$ferror', '$fread', '$ftell'],
    ...['$fseek', '$rewind', '$ungetc', '$test$plusargs', '$value$plusargs', '$rtoi', '$countbits'],
  ].map((name) => [name, { width: 32, signed: true }] as const),
  ...['$realtobits'].map((name) => [name, { width: 64, signed: false }] as const),
  ...['$isunknown'].map((name) => [name, { width: 1, signed: false }] as const),
  ...[
    ...[
      '$realtime',
      '$itor',
      '$bitstoreal',
      '$ln',
      '$log10',
      '$exp',
      '$sqrt',
      '$pow',
      '$floor',
      '$ceil',
      '$sin',
      '$cos',
    ],
    ...['$tan', '$asin', '$acos', '$atan', '$atan2', '$hypot', '$sinh', '$cosh', '$tanh', '$asinh', '$acosh', '$atanh'],
  ].map((name) => [name, { width: 64, signed: true, special: 'real' }] as const),
  ...['$sformatf'].map((name) => [name, { width: 64, signed: false, special: 'text' }] as const),
]);

export const simulationFunction = (name: string): Type | undefined => own(SIMULATION_FUNCTIONS, name);

const ONE_BIT_FUNCTIONS = new Set(['$onehot', '$onehot0']);
const WIDEST = 1 << 20;

/** Methods of an enum that give one of its values. */
const ENUM_STEPS = new Set(['first', 'last', 'next', 'prev']);

export type Part = Expression & { readonly kind: 'index' | 'range' | 'indexed-range' | 'member' };

export const isPart = (expression: Expression): expression is Part =>
  expression.kind === 'index' ||
  expression.kind === 'range' ||
  expression.kind === 'indexed-range' ||
  expression.kind === 'member';

/** How the bits of a value are divided; words that nobody declared are plain bits. */
export function shapeOf(expression: Expression, context: NameContext): Shape {
  const entity = entityOf(expression, context);
  if (entity?.kind === 'vector') return entity.shape;
  if (entity?.kind === 'constant') return entity.constant.shape ?? constantShape(entity.constant);
  if (entity) throw valueless(entity, expression);
  if (expression.kind === 'method' && ENUM_STEPS.has(expression.name)) {
    const shape = shapeOf(expression.base, context);
    if (shape.names) return shape;
  }
  if (!isPart(expression)) {
    const { width, signed } = typeOf(expression, context);
    return bitsShape(width, signed);
  }
  const access = wordAccess(expression, context);
  if (access) return access.memory.shape;
  return partShape(expression, shapeOf(expression.base, context), context);
}

const constantShape = ({ width, signed, real }: Constant): Shape =>
  real === undefined ? bitsShape(width, signed) : { ...bitsShape(64, true), special: 'real' };

/** The shape of a part of a word of the given shape. */
export function partShape(expression: Part, base: Shape, context: NameContext): Shape {
  switch (expression.kind) {
    case 'member': {
      const field = base.fields?.find((f) => f.name === expression.name);
      if (!field)
        throw new GiveUp(
          'no-field',
          expression.at,
          base.fields
            ? `The structure has no field "${expression.name}". It has: ${base.fields.map((f) => f.name).join(', ')}.`
            : `This is no structure and has no field "${expression.name}".`,
        );
      return field.shape;
    }
    case 'index':
      return elementOf(base);
    case 'range': {
      const [high, low] = [constantNumber(expression.high, context), constantNumber(expression.low, context)];
      return partOf(base, Math.abs(high - low) + 1, expression);
    }
    case 'indexed-range':
      return partOf(base, constantNumber(expression.width, context), expression);
  }
}

function partOf(base: Shape, count: number, expression: Expression): Shape {
  const width = checkedWidth(count * elementWidth(base), expression);
  const shape = bitsShape(width, false, count - 1, 0);
  return base.element ? { ...shape, element: base.element } : shape;
}

/**
 * Self-determined width and sign of an expression.
 *
 * @source IEEE 1364-2005, clauses 5.4 and 5.5, table 5-22
 */
export function typeOf(expression: Expression, context: NameContext): Type {
  switch (expression.kind) {
    case 'number':
      return { width: expression.width ?? 32, signed: expression.signed };
    case 'string':
      return { width: Math.max(8, expression.text.length * 8), signed: false };
    case 'real':
    case 'time':
      return REAL;
    case 'nothing':
      throw new GiveUp('arguments', expression.at, 'A value is missing here.');
    case 'method':
      return methodType(expression, context);
    case 'stream':
      return {
        width: checkedWidth(
          expression.parts.reduce((sum, part) => sum + shapeOf(part, context).width, 0),
          expression,
        ),
        signed: false,
      };
    case 'name':
    case 'index':
    case 'member':
    case 'range':
    case 'indexed-range': {
      const shape = shapeOf(expression, context);
      if (shape.unpacked)
        throw new GiveUp(
          'whole-array',
          expression.at,
          'This is an array, not a number: choose one element, as in name[index].',
        );
      return shape;
    }
    case 'unary':
      if (expression.operator === '!' || REDUCTIONS.has(expression.operator)) return BIT;
      return typeOf(expression.operand, context);
    case 'binary': {
      if (COMPARISONS.has(expression.operator) || LOGICAL.has(expression.operator)) return BIT;
      const left = typeOf(expression.left, context);
      if (expression.operator === '**' && left.special !== 'real')
        return typeOf(expression.right, context).special === 'real' ? REAL : left;
      if (SHIFTS.has(expression.operator)) return left;
      const right = typeOf(expression.right, context);
      if (left.special === 'real' || right.special === 'real') return REAL;
      return { width: Math.max(left.width, right.width), signed: left.signed && right.signed };
    }
    case 'conditional': {
      const then = typeOf(expression.then, context);
      const otherwise = typeOf(expression.otherwise, context);
      if (then.special === 'real' || otherwise.special === 'real') return REAL;
      if (then.special || otherwise.special) return then.special ? then : otherwise;
      return { width: Math.max(then.width, otherwise.width), signed: then.signed && otherwise.signed };
    }
    case 'concatenation':
      return {
        width: checkedWidth(
          expression.parts.reduce((sum, part) => sum + typeOf(part, context).width, 0),
          expression,
        ),
        signed: false,
      };
    case 'replication':
      return {
        width: checkedWidth(
          constantNumber(expression.count, context) * typeOf(expression.part, context).width,
          expression,
        ),
        signed: false,
      };
    case 'call':
      return callType(expression, context);
    case 'cast':
      return castType(expression, context);
    case 'inside':
      return { width: 1, signed: false };
    case 'pattern':
      throw new GiveUp(
        'pattern',
        expression.at,
        'The width of this pattern is not known here. Assign it to a declared name, or write its type before it: ' +
          "type'{...}.",
      );
    case 'type':
      throw new GiveUp('whole-array', expression.at, 'This is a type, not a value.');
  }
}

const BIT: Type = { width: 1, signed: false };
const REAL: Type = { width: 64, signed: true, special: 'real' };

/** Methods of enums and texts. @source IEEE 1800, enumerated type methods and string methods */
function methodType(expression: Expression & { kind: 'method' }, context: NameContext): Type {
  const routine = routineOf(expression, context);
  if (routine) return functionShape(routine.item, routine.scope, context);
  const shape = shapeOf(expression.base, context);
  const { name } = expression;
  if (shape.special === 'text') {
    if (['toupper', 'tolower', 'substr'].includes(name)) return { width: 64, signed: false, special: 'text' };
    if (name === 'getc') return { width: 8, signed: true };
    if (['len', 'atoi', 'atohex', 'atooct', 'atobin', 'compare', 'icompare'].includes(name))
      return { width: 32, signed: true };
  }
  if (shape.names) {
    if (ENUM_STEPS.has(name)) return shape;
    if (name === 'num') return { width: 32, signed: true };
    if (name === 'name') return { width: 64, signed: false, special: 'text' };
  }
  throw new GiveUp('no-method', expression.at, `There is no "${name}" that could be called here.`);
}

/** A function inside an instance or a block, called by a hierarchical name; null for a method of a value. */
export function routineOf(
  { base, name }: Expression & { kind: 'method' },
  context: NameContext,
): (Entity & { kind: 'function' }) | null {
  if (base.kind !== 'name' && base.kind !== 'member' && base.kind !== 'index') return null;
  const around = entityOf({ kind: 'member', at: base.at, base, name }, context);
  return around?.kind === 'function' ? around : null;
}

/** Type of a cast. A size keeps the sign of the value. @source IEEE 1800, cast operator */
export function castType({ to, value, at }: Expression & { kind: 'cast' }, context: NameContext): Type {
  if (to === 'signed' || to === 'unsigned') return { width: typeOf(value, context).width, signed: to === 'signed' };
  if (to.kind === 'number' || 'at' in to) {
    const named = typeNamed(to as Expression, context);
    if (named) return named;
    if (to.kind !== 'named') {
      const width = constantNumber(to as Expression, context);
      if (width < 1 || width > WIDEST)
        throw new GiveUp('width', at, `A width of ${width} bits is out of range: 1 to ${WIDEST}.`);
      return { width, signed: value.kind === 'pattern' ? false : typeOf(value, context).signed };
    }
  }
  return resolveType(to as Exclude<typeof to, Expression>, context);
}

/** A name in a cast may be a type that was not known while reading, such as an imported one. */
export function typeNamed(expression: Expression, context: NameContext): Shape | null {
  if (expression.kind !== 'name') return null;
  const entity = lookup(expression, context.scope, context.shared);
  return entity.kind === 'type' ? entity.shape : null;
}

function callType(expression: Expression & { kind: 'call' }, context: NameContext): Type {
  const [first] = expression.arguments;
  if (NUMBER_FUNCTIONS.has(expression.name)) return { width: 32, signed: true };
  if (ONE_BIT_FUNCTIONS.has(expression.name)) return { width: 1, signed: false };
  switch (expression.name) {
    case '$countones':
      return { width: 32, signed: true };
    case '$signed':
    case '$unsigned':
      if (!first) throw new GiveUp('arguments', expression.at, `${expression.name} takes one argument.`);
      return { width: typeOf(first, context).width, signed: expression.name === '$signed' };
    default: {
      const answered = simulationFunction(expression.name);
      if (answered) return answered;
      const { item, scope } = functionOf(expression, context);
      return functionShape(item, scope, context);
    }
  }
}

/** What a function returns. */
export function functionShape(item: FunctionItem, scope: Scope, context: NameContext): Shape {
  return item.type ? resolveType(item.type, context.inScope(scope)) : bitsShape(1);
}

export function functionOf(
  expression: Expression & { kind: 'call' },
  context: NameContext,
): { item: FunctionItem; scope: Scope } {
  if (expression.name.startsWith('$'))
    throw new GiveUp(
      'system-function',
      expression.at,
      `${expression.name} has no hardware. Known here: $clog2, $bits, $signed, $unsigned, $countones, $onehot, ` +
        '$onehot0, $size, $left, $right, $high, $low.',
    );
  const entity =
    expression.package === undefined
      ? context.scope.findFunction(expression.name)
      : lookup(expression, context.scope, context.shared);
  if (entity?.kind !== 'function')
    throw new GiveUp('undeclared', expression.at, `There is no function "${expression.name}" in this module.`);
  return entity;
}

function checkedWidth(width: number, expression: Expression): number {
  if (!(width >= 1 && width <= WIDEST))
    throw new GiveUp('width', expression.at, `A width of ${width} bits is out of range: 1 to ${WIDEST}.`);
  return width;
}

/** Width with numbers of no written size counted as what they need, so that `count + 1` does not warn. */
export function neededWidth(expression: Expression, context: NameContext): number {
  const bitsOf = (value: bigint) => Math.max(1, value.toString(2).length);
  switch (expression.kind) {
    case 'number':
      return expression.width === null ? bitsOf(expression.value) : expression.fill ? 1 : expression.width;
    case 'name': {
      const entity = lookup(expression, context.scope, context.shared);
      if (entity.kind === 'constant') {
        const { value, width, shape, real } = entity.constant;
        if (shape?.names || real !== undefined) return width;
        return BigInt.asIntN(width, value) < 0n ? 1 : bitsOf(value);
      }
      return entity.kind === 'vector' && entity.net === 'integer' ? 1 : typeOf(expression, context).width;
    }
    case 'unary':
      return expression.operator === '-' || expression.operator === '+' || expression.operator === '~'
        ? neededWidth(expression.operand, context)
        : 1;
    case 'binary':
      return neededOfBinary(expression, context);
    case 'conditional':
      return Math.max(neededWidth(expression.then, context), neededWidth(expression.otherwise, context));
    case 'call':
      return expression.name.startsWith('$') && expression.name !== '$signed' && expression.name !== '$unsigned'
        ? 1
        : typeOf(expression, context).width;
    default:
      return typeOf(expression, context).width;
  }
}

function neededOfBinary({ operator, left, right }: Expression & { kind: 'binary' }, context: NameContext): number {
  if (COMPARISONS.has(operator) || LOGICAL.has(operator)) return 1;
  if (operator === '%' || operator === '&') return Math.min(neededWidth(left, context), neededWidth(right, context));
  if (SHIFTS.has(operator)) return operator.startsWith('>') ? 1 : operator === '**' ? 1 : neededWidth(left, context);
  if (operator === '/') return neededWidth(left, context);
  return Math.max(neededWidth(left, context), neededWidth(right, context));
}

/** The number an array query or `$clog2` gives. */
export function numberFunction(expression: Expression & { kind: 'call' }, context: NameContext): bigint | null {
  if (!NUMBER_FUNCTIONS.has(expression.name)) return null;
  const [first] = expression.arguments;
  if (!first) throw new GiveUp('arguments', expression.at, `${expression.name} takes one argument.`);
  if (expression.name === '$clog2') {
    const { value } = context.constant(first);
    return value <= 1n ? 0n : BigInt((value - 1n).toString(2).length);
  }
  const memory = first.kind === 'name' || first.kind === 'member' ? entityOf(first, context) : null;
  if (memory?.kind === 'memory') {
    const [dimension = { left: 0, right: 0 }] = memory.dimensions;
    return expression.name === '$bits'
      ? BigInt(memory.depth * memory.width)
      : query(expression.name, dimension.left, dimension.right);
  }
  const shape =
    first.kind === 'type'
      ? resolveType(first.type, context)
      : memory?.kind === 'type'
        ? memory.shape
        : shapeOf(first, context);
  return expression.name === '$bits' ? BigInt(shape.width) : query(expression.name, shape.left, shape.right);
}

function query(name: string, left: number, right: number): bigint {
  switch (name) {
    case '$left':
      return BigInt(left);
    case '$right':
      return BigInt(right);
    case '$high':
      return BigInt(Math.max(left, right));
    case '$low':
      return BigInt(Math.min(left, right));
    default:
      return BigInt(Math.abs(left - right) + 1);
  }
}
