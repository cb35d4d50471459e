import type { NodeId } from '../../netlist/index.ts';
import {
  bitsShape,
  castType,
  COMPARISONS,
  type FunctionItem,
  functionOf,
  LOGICAL,
  type MemoryArray,
  neededWidth,
  numberFunction,
  resolveType,
  type Scope,
  type Shape,
  SHIFTS,
  type Type,
  typeNamed,
  typeOf,
  type Vector,
  type NameContext,
  constantNumber,
  ofReal,
  sliceOf,
  routineOf,
  shapeOf,
} from '../names/index.ts';
import { type Expression, GiveUp, type Range } from '../read/index.ts';
import type { Shared } from './shared.ts';

/** How a name is read at the present point: a procedural block knows values that a wire does not have yet. */
type Reader = (vector: Vector) => NodeId;

/** Calls into procedural code, handed in so that expressions need not know statements. */
type CallFunction = (
  item: FunctionItem,
  scope: Scope,
  values: readonly Expression[],
  context: ExpressionContext,
) => { node: NodeId; type: Type };

type EmitPart = (
  expression: Expression,
  context: ExpressionContext,
) => { readonly node: NodeId; readonly shape: Shape };
type EmitPattern = (
  pattern: Expression & { readonly kind: 'pattern' },
  shape: Shape,
  context: ExpressionContext,
) => NodeId;

export interface ExpressionContext extends NameContext {
  readonly shared: Shared;
  readonly read: Reader;
  /** A word of a memory, with what the block has written so far. */
  readonly readWord: (memory: MemoryArray, address: NodeId) => NodeId;
  readonly call: CallFunction;
  readonly inScope: (scope: Scope) => ExpressionContext;
  /** Parts and patterns hold expressions, and expressions them. */
  readonly part: EmitPart;
  readonly pattern: EmitPattern;
}

const LARGEST_POWER = 16;

/** One bit: is the expression non-zero? */
export function emitCondition(expression: Expression, context: ExpressionContext): NodeId {
  return context.shared.build.reduce('redor', emitSelf(expression, context));
}

export function emitSelf(expression: Expression, context: ExpressionContext): NodeId {
  const type = typeOf(expression, context);
  return emit(expression, type.width, type.signed, context);
}

/** The right side of an assignment to a word: evaluated at the wider of the two, then cut. */
export function emitAssigned(expression: Expression, target: Shape, context: ExpressionContext): NodeId {
  const { width } = target;
  if (expression.kind === 'pattern') return context.pattern(expression, target, context);
  if (target.unpacked) return emitArray(expression, target, context);
  const type = typeOf(expression, context);
  if (type.special === 'real') return emitReal(expression, width, context);
  const needed = neededWidth(expression, context);
  if (needed > width)
    context.shared.messages.add(
      'warning',
      'width-loss',
      expression.at,
      `The value has ${needed} bits, its target ${width}: the upper ${needed - width} are lost.`,
    );
  const node = emit(expression, Math.max(type.width, width), type.signed, context);
  return context.shared.build.resize(node, width, type.signed);
}

/** A real number can only stand where it is known when the design is built, as in `localparam N = 1.5 * RATE`. */
function emitReal(expression: Expression, width: number, context: ExpressionContext): NodeId {
  const { real = 0 } = context.constant(expression);
  return context.shared.build.constant(ofReal(real, width).v, width);
}

/** The node of an expression evaluated at `width` bits, all context-determined operands taken as `signed` says. */
export function emit(expression: Expression, width: number, signed: boolean, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  switch (expression.kind) {
    case 'number':
      return emitNumber(expression, width, signed, context);
    case 'string': {
      // Of a long text the digits together are read at once; one after another takes the square of its length.
      const digits = Array.from({ length: expression.text.length }, (_, i) =>
        (expression.text.charCodeAt(i) & 0xff).toString(16).padStart(2, '0'),
      );
      const value = BigInt(`0x0${digits.join('')}`);
      return build.resize(build.constant(value, Math.max(8, digits.length * 8)), width, false);
    }
    case 'name':
    case 'member':
    case 'index':
    case 'range':
    case 'indexed-range':
      return build.resize(emitNumberOf(expression, context), width, signed);
    case 'unary':
      return emitUnary(expression, width, signed, context);
    case 'binary':
      return emitBinary(expression, width, signed, context);
    case 'conditional':
      return build.mux(
        emitCondition(expression.condition, context),
        emit(expression.then, width, signed, context),
        emit(expression.otherwise, width, signed, context),
      );
    case 'concatenation':
      return build.resize(
        build.concat(expression.parts.map((part) => emitSelf(part, context)).reverse()),
        width,
        false,
      );
    case 'replication': {
      const count = constantNumber(expression.count, context);
      typeOf(expression, context);
      return build.resize(build.concat(Array<NodeId>(count).fill(emitSelf(expression.part, context))), width, false);
    }
    case 'call':
      return emitCall(expression, width, signed, context);
    case 'cast':
      return build.resize(emitCast(expression, context), width, signed);
    case 'inside':
      return build.resize(emitInside(expression, context), width, false);
    case 'stream':
      return build.resize(emitStream(expression, context), width, false);
    case 'method':
      return emitMethod(expression, width, signed, context);
    case 'real':
    case 'time':
      return emitReal(expression, width, context);
    case 'pattern':
    case 'type':
    case 'nothing':
      typeOf(expression, context);
      return build.constant(0n, width);
  }
}

/** Slices of the parts, from the right side on where the sign is `<<`. @source IEEE 1800, streaming operators */
function emitStream(expression: Expression & { kind: 'stream' }, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  const whole = build.concat(expression.parts.map((part) => context.part(part, context).node).reverse());
  if (expression.right) return whole;
  const width = build.width(whole);
  const slice = sliceOf(expression, context);
  const parts: NodeId[] = [];
  for (let lo = 0; lo < width; lo += slice) parts.unshift(build.slice(whole, lo, Math.min(slice, width - lo)));
  return build.concat(parts);
}

/** A function of another instance; the methods of an enum as choices between its values. */
function emitMethod(
  expression: Expression & { kind: 'method' },
  width: number,
  signed: boolean,
  context: ExpressionContext,
): NodeId {
  const { build } = context.shared;
  const routine = routineOf(expression, context);
  if (routine) {
    const { node, type } = context.call(routine.item, routine.scope, expression.arguments, context);
    return build.resize(node, width, signed && type.signed);
  }
  const type = typeOf(expression, context);
  const { names } = shapeOf(expression.base, context);
  if (!names || type.special)
    throw new GiveUp('not-synthesizable', expression.at, `"${expression.name}" has no hardware here.`);
  const values = [...names.keys()];
  const value = (i: number) => build.constant(values.at(i % values.length) ?? 0n, type.width);
  if (expression.name === 'num') return build.constant(BigInt(values.length), width);
  if (expression.name === 'first') return build.resize(value(0), width, signed);
  if (expression.name === 'last') return build.resize(value(-1), width, signed);
  const [by] = expression.arguments;
  const steps = (by ? constantNumber(by, context) : 1) * (expression.name === 'next' ? 1 : -1);
  const now = emitSelf(expression.base, context);
  const next = values.reduce<NodeId>(
    (other, one, i) => build.mux(build.eq(now, build.constant(one, type.width)), value(i + steps), other),
    build.constant(0n, type.width),
  );
  return build.resize(next, width, signed && type.signed);
}

function emitNumberOf(expression: Expression, context: ExpressionContext): NodeId {
  const { node, shape } = context.part(expression, context);
  if (shape.unpacked)
    throw new GiveUp(
      'whole-array',
      expression.at,
      'This is an array, not a number: choose one element, as in name[index].',
    );
  return node;
}

/** A whole array, copied to one of the same size. */
function emitArray(expression: Expression, target: Shape, context: ExpressionContext): NodeId {
  if (expression.kind === 'conditional')
    return context.shared.build.mux(
      emitCondition(expression.condition, context),
      emitArray(expression.then, target, context),
      emitArray(expression.otherwise, target, context),
    );
  const { node, shape } = context.part(expression, context);
  if (!shape.unpacked || shape.width !== target.width || shape.element?.width !== target.element?.width)
    throw new GiveUp(
      'whole-array',
      expression.at,
      "An array takes its value from an array of the same size, or from a pattern as in '{default: 0}.",
    );
  return node;
}

/** A literal, extended as its sign and the context ask. z has no meaning inside hardware. */
function emitNumber(
  expression: Expression & { kind: 'number' },
  width: number,
  signed: boolean,
  { shared: { build } }: ExpressionContext,
): NodeId {
  const { value, floating, fill } = expression;
  if (floating !== 0n)
    throw new GiveUp(
      'tri-state',
      expression.at,
      'The value z exists on pins only: in an assignment to an inout or output port of the top module, as in ' +
        '"assign pin = enable ? value : 1\'bz". Inside, choose between the sources with ?: or case.',
    );
  if (fill) return build.constant(value ? -1n : 0n, width);
  return build.resize(
    build.constant(value, expression.width ?? Math.max(32, value.toString(2).length)),
    width,
    signed && expression.signed,
  );
}

function emitCast(expression: Expression & { kind: 'cast' }, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  const { to, value } = expression;
  const type = castType(expression, context);
  if (value.kind === 'pattern') {
    if (typeof to === 'string')
      throw new GiveUp('pattern', expression.at, 'A pattern needs the type of a structure or an array before it.');
    const shape =
      'at' in to && to.kind !== 'named'
        ? typeNamed(to as Expression, context)
        : resolveType(to as Exclude<typeof to, Expression>, context);
    return context.pattern(value, shape ?? bitsShape(type.width), context);
  }
  const own = typeOf(value, context);
  return build.resize(emit(value, Math.max(own.width, type.width), own.signed, context), type.width, own.signed);
}

/** @source IEEE 1800, set membership operator */
function emitInside({ value, among }: Expression & { kind: 'inside' }, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  return among.reduce<NodeId>(
    (any, item) => {
      const fits =
        'high' in item && !('kind' in item)
          ? inRange(value, item, context)
          : emitComparison('==?', value, item as Expression, context);
      return build.or(any, fits);
    },
    build.constant(0n, 1),
  );
}

function inRange(value: Expression, { high, low }: Range, context: ExpressionContext): NodeId {
  return context.shared.build.and(
    emitComparison('>=', value, high, context),
    emitComparison('<=', value, low, context),
  );
}

function emitCall(
  expression: Expression & { kind: 'call' },
  width: number,
  signed: boolean,
  context: ExpressionContext,
): NodeId {
  const { build } = context.shared;
  const [first] = expression.arguments;
  const number = numberFunction(expression, context);
  if (number !== null) return build.constant(number, width);
  switch (expression.name) {
    case '$signed':
    case '$unsigned': {
      if (!first) throw new GiveUp('arguments', expression.at, `${expression.name} takes one argument.`);
      return build.resize(emitSelf(first, context), width, signed);
    }
    case '$countones':
      if (!first) throw new GiveUp('arguments', expression.at, '$countones takes one argument.');
      return build.resize(countOnes(emitSelf(first, context), context), width, false);
    case '$onehot':
    case '$onehot0': {
      if (!first) throw new GiveUp('arguments', expression.at, `${expression.name} takes one argument.`);
      const count = countOnes(emitSelf(first, context), context);
      const one = build.eq(count, build.constant(1n, 32));
      return build.resize(
        expression.name === '$onehot' ? one : build.or(one, build.eq(count, build.constant(0n, 32))),
        width,
        false,
      );
    }
    default: {
      const { item, scope } = functionOf(expression, context);
      const { node, type } = context.call(item, scope, expression.arguments, context);
      return build.resize(node, width, signed && type.signed);
    }
  }
}

function countOnes(word: NodeId, { shared: { build } }: ExpressionContext): NodeId {
  const bits = Array.from({ length: build.width(word) }, (_, i) => build.resize(build.slice(word, i, 1), 32, false));
  return bits.reduce((sum, bit) => build.add(sum, bit));
}

function emitUnary(
  expression: Expression & { kind: 'unary' },
  width: number,
  signed: boolean,
  context: ExpressionContext,
): NodeId {
  const { build } = context.shared;
  const { operator, operand } = expression;
  if (operator === '+') return emit(operand, width, signed, context);
  if (operator === '-') return build.sub(build.constant(0n, width), emit(operand, width, signed, context));
  if (operator === '~') return build.not(emit(operand, width, signed, context));
  const inner = emitSelf(operand, context);
  const bit = (() => {
    switch (operator) {
      case '!':
        return build.not(build.reduce('redor', inner));
      case '&':
        return build.reduce('redand', inner);
      case '~&':
        return build.not(build.reduce('redand', inner));
      case '|':
        return build.reduce('redor', inner);
      case '~|':
        return build.not(build.reduce('redor', inner));
      case '^':
        return build.reduce('redxor', inner);
      default:
        return build.not(build.reduce('redxor', inner));
    }
  })();
  return build.resize(bit, width, false);
}

function emitBinary(
  expression: Expression & { kind: 'binary' },
  width: number,
  signed: boolean,
  context: ExpressionContext,
): NodeId {
  const { build } = context.shared;
  const { operator, left, right } = expression;
  if (LOGICAL.has(operator)) {
    const [a, b] = [emitCondition(left, context), emitCondition(right, context)];
    return build.resize(operator === '&&' ? build.and(a, b) : build.or(a, b), width, false);
  }
  if (COMPARISONS.has(operator)) return build.resize(emitComparison(operator, left, right, context), width, false);
  if (SHIFTS.has(operator))
    return emitShift(operator, emit(left, width, signed, context), right, width, signed, context);
  const a = emit(left, width, signed, context);
  const b = emit(right, width, signed, context);
  switch (operator) {
    case '+':
      return build.add(a, b);
    case '-':
      return build.sub(a, b);
    case '*':
      return build.make('mul', width, [a, b]);
    case '/':
      return build.make(signed ? 'divs' : 'divu', width, [a, b]);
    case '%':
      return build.make(signed ? 'mods' : 'modu', width, [a, b]);
    case '&':
      return build.and(a, b);
    case '|':
      return build.or(a, b);
    case '^':
      return build.xor(a, b);
    case '~^':
    case '^~':
      return build.not(build.xor(a, b));
    default:
      throw new GiveUp('operator', expression.at, `The operator "${operator}" is not taken.`);
  }
}

function emitComparison(operator: string, left: Expression, right: Expression, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  const [l, r] = [typeOf(left, context), typeOf(right, context)];
  const width = Math.max(l.width, r.width);
  if (operator === '==?' || operator === '!=?') {
    const open = right.kind === 'number' ? right.unknown | right.floating : 0n;
    const mask = build.constant(~open, width);
    const wanted =
      right.kind === 'number' ? build.constant(right.value, width) : emit(right, width, l.signed && r.signed, context);
    const same = build.eq(build.and(emit(left, width, l.signed && r.signed, context), mask), build.and(wanted, mask));
    return operator === '==?' ? same : build.not(same);
  }
  const signed = l.signed && r.signed;
  const a = emit(left, width, signed, context);
  const b = emit(right, width, signed, context);
  const less = (x: NodeId, y: NodeId) => build.make(signed ? 'lts' : 'ltu', 1, [x, y]);
  switch (operator) {
    case '<':
      return less(a, b);
    case '>':
      return less(b, a);
    case '<=':
      return build.not(less(b, a));
    case '>=':
      return build.not(less(a, b));
    case '===':
      return build.eq(a, b);
    case '!==':
      return build.not(build.eq(a, b));
    case '!=':
      return build.not(build.eq(a, b));
    default:
      return build.eq(a, b);
  }
}

function emitShift(
  operator: string,
  value: NodeId,
  amount: Expression,
  width: number,
  signed: boolean,
  context: ExpressionContext,
): NodeId {
  const { build } = context.shared;
  if (operator === '**') return emitPower(value, amount, width, context);
  const by = emitSelf(amount, context);
  const known = build.constantOf(by);
  const op = operator.startsWith('<') ? 'shl' : operator === '>>>' && signed ? 'sra' : 'shr';
  if (known === null) return build.make(op, width, [value, by]);
  const n = Number(known > BigInt(width) ? BigInt(width) : known);
  if (n === 0) return value;
  const keep = width - n;
  if (op === 'sra')
    return build.resize(keep === 0 ? build.slice(value, width - 1, 1) : build.slice(value, n, keep), width, true);
  if (keep === 0) return build.constant(0n, width);
  return op === 'shl'
    ? build.concat([build.constant(0n, n), build.slice(value, 0, keep)])
    : build.resize(build.slice(value, n, keep), width, false);
}

/** A constant power, a power of two by a signal, or a signal multiplied by itself a few times. */
function emitPower(base: NodeId, amount: Expression, width: number, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  const known = build.constantOf(base);
  const by = emitSelf(amount, context);
  const exponent = build.constantOf(by);
  if (known === 2n && exponent === null) return build.make('shl', width, [build.constant(1n, width), by]);
  if (exponent === null || exponent > 4096n)
    throw new GiveUp('power', amount.at, '"**" needs a small constant exponent, or 2 as its base.');
  if (known !== null) return build.constant(known ** exponent, width);
  if (exponent > LARGEST_POWER)
    throw new GiveUp('power', amount.at, `"**" of a signal is taken up to a power of ${LARGEST_POWER}.`);
  let product = build.constant(1n, width);
  for (let i = 0; i < Number(exponent); i++) product = i === 0 ? base : build.make('mul', width, [product, base]);
  return product;
}
