import type { NodeId } from '../netlist/index.ts';
import type { Expression } from './ast.ts';
import { GiveUp } from './message.ts';
import { type Constant, type FunctionItem, type MemoryArray, offsetOf, type Scope, type Shared, type Vector } from './scope.ts';

/** How a name is read at the present point: a procedural block knows values that a wire does not have yet. */
export type Reader = (vector: Vector) => NodeId;

export interface Type {
  readonly width: number;
  readonly signed: boolean;
}

/** Calls into procedural code, handed in so that expressions need not know statements. */
export type CallFunction = (item: FunctionItem, scope: Scope, values: readonly Expression[], context: ExpressionContext) => { node: NodeId; type: Type };

export interface ExpressionContext {
  readonly shared: Shared;
  readonly scope: Scope;
  readonly read: Reader;
  readonly call: CallFunction;
}

const COMPARISONS = new Set(['<', '<=', '>', '>=', '==', '!=', '===', '!==']);
const LOGICAL = new Set(['&&', '||']);
const SHIFTS = new Set(['<<', '>>', '<<<', '>>>', '**']);
const REDUCTIONS = new Set(['&', '~&', '|', '~|', '^', '~^', '^~']);
const WIDEST = 1 << 20;

/**
 * Self-determined width and sign of an expression.
 *
 * @source IEEE 1364-2005, clauses 5.4 and 5.5, table 5-22
 */
export function typeOf(expression: Expression, context: ExpressionContext): Type {
  switch (expression.kind) {
    case 'number':
      return { width: expression.width ?? 32, signed: expression.signed };
    case 'string':
      return { width: Math.max(8, expression.text.length * 8), signed: false };
    case 'name': {
      const entity = lookup(expression.path, expression.at, context.scope);
      if (entity.kind === 'constant') return entity.constant;
      if (entity.kind === 'vector') return entity;
      throw new GiveUp('whole-array', expression.at, `"${expression.path.join('.')}" is ${entity.kind === 'memory' ? 'a memory: read one word of it, as in name[address]' : `a ${entity.kind}: call it with arguments`}.`);
    }
    case 'index': {
      const memory = memoryOf(expression.base, context);
      return memory ? { width: memory.width, signed: memory.signed } : { width: 1, signed: false };
    }
    case 'range': {
      const high = constantNumber(expression.high, context);
      const low = constantNumber(expression.low, context);
      return { width: checkedWidth(Math.abs(high - low) + 1, expression), signed: false };
    }
    case 'indexed-range':
      return { width: checkedWidth(constantNumber(expression.width, context), expression), signed: false };
    case 'unary':
      if (expression.operator === '!' || (REDUCTIONS.has(expression.operator) && expression.operator !== '~')) return { width: 1, signed: false };
      return typeOf(expression.operand, context);
    case 'binary': {
      if (COMPARISONS.has(expression.operator) || LOGICAL.has(expression.operator)) return { width: 1, signed: false };
      const left = typeOf(expression.left, context);
      if (SHIFTS.has(expression.operator)) return left;
      const right = typeOf(expression.right, context);
      return { width: Math.max(left.width, right.width), signed: left.signed && right.signed };
    }
    case 'conditional': {
      const then = typeOf(expression.then, context);
      const otherwise = typeOf(expression.otherwise, context);
      return { width: Math.max(then.width, otherwise.width), signed: then.signed && otherwise.signed };
    }
    case 'concatenation':
      return { width: checkedWidth(expression.parts.reduce((sum, part) => sum + typeOf(part, context).width, 0), expression), signed: false };
    case 'replication':
      return { width: checkedWidth(constantNumber(expression.count, context) * typeOf(expression.part, context).width, expression), signed: false };
    case 'call':
      return callType(expression, context);
  }
}

function callType(expression: Expression & { kind: 'call' }, context: ExpressionContext): Type {
  const [first] = expression.arguments;
  switch (expression.name) {
    case '$clog2':
    case '$bits':
      return { width: 32, signed: true };
    case '$signed':
    case '$unsigned':
      if (!first) throw new GiveUp('arguments', expression.at, `${expression.name} takes one argument.`);
      return { width: typeOf(first, context).width, signed: expression.name === '$signed' };
    default: {
      const { item, scope } = functionOf(expression, context);
      const inner = { ...context, scope };
      const width = item.range ? Math.abs(constantNumber(item.range.high, inner) - constantNumber(item.range.low, inner)) + 1 : 1;
      return { width, signed: item.signed };
    }
  }
}

function functionOf(expression: Expression & { kind: 'call' }, context: ExpressionContext): { item: FunctionItem; scope: Scope } {
  if (expression.name.startsWith('$')) throw new GiveUp('system-function', expression.at, `${expression.name} has no hardware. Known here: $clog2, $bits, $signed, $unsigned.`);
  const entity = context.scope.find(expression.name);
  if (entity?.kind !== 'function') throw new GiveUp('undeclared', expression.at, `There is no function "${expression.name}" in this module.`);
  return entity;
}

function checkedWidth(width: number, expression: Expression): number {
  if (width < 1 || width > WIDEST) throw new GiveUp('width', expression.at, `A width of ${width} bits is out of range: 1 to ${WIDEST}.`);
  return width;
}

export function lookup(path: readonly string[], at: Expression['at'], scope: Scope) {
  const [name = ''] = path;
  if (path.length > 1) throw new GiveUp('hierarchical-name', at, `"${path.join('.')}" reaches into another module. Bring the signal out through a port.`);
  const entity = scope.find(name);
  if (!entity) throw new GiveUp('undeclared', at, `"${name}" is not declared in this module.`);
  return entity;
}

export function memoryOf(base: Expression, context: ExpressionContext): MemoryArray | null {
  if (base.kind !== 'name') return null;
  const entity = lookup(base.path, base.at, context.scope);
  return entity.kind === 'memory' ? entity : null;
}

/** The value of an expression that must be known now. */
export function constantValue(expression: Expression, context: ExpressionContext): Constant {
  const type = typeOf(expression, context);
  const value = context.shared.build.constantOf(emit(expression, type.width, type.signed, context));
  if (value === null) throw new GiveUp('not-constant', expression.at, 'This must be known when the design is built, but depends on a signal.');
  return { value, ...type };
}

export function constantNumber(expression: Expression, context: ExpressionContext): number {
  const { value, width, signed } = constantValue(expression, context);
  return Number(signed ? BigInt.asIntN(width, value) : value);
}

/** One bit: is the expression non-zero? */
export function emitCondition(expression: Expression, context: ExpressionContext): NodeId {
  return context.shared.build.reduce('redor', emitSelf(expression, context));
}

export function emitSelf(expression: Expression, context: ExpressionContext): NodeId {
  const type = typeOf(expression, context);
  return emit(expression, type.width, type.signed, context);
}

/** The right side of an assignment to `width` bits: evaluated at the wider of the two, then cut. */
export function emitAssigned(expression: Expression, width: number, context: ExpressionContext): NodeId {
  const type = typeOf(expression, context);
  const needed = neededWidth(expression, context);
  if (needed > width)
    context.shared.messages.warning('width-loss', expression.at, `The value has ${needed} bits, its target ${width}: the upper ${needed - width} are lost.`);
  const node = emit(expression, Math.max(type.width, width), type.signed, context);
  return context.shared.build.resize(node, width, type.signed);
}

/** Width with numbers of no written size counted as what they need, so that `count + 1` does not warn. */
function neededWidth(expression: Expression, context: ExpressionContext): number {
  switch (expression.kind) {
    case 'number':
      return expression.width === null ? Math.max(1, expression.value.toString(2).length) : expression.fill ? 1 : expression.width;
    case 'name': {
      const entity = lookup(expression.path, expression.at, context.scope);
      if (entity.kind === 'constant') return Math.max(1, (BigInt.asIntN(entity.constant.width, entity.constant.value) < 0n ? 1n : entity.constant.value).toString(2).length);
      return entity.kind === 'vector' && entity.net === 'integer' ? 1 : typeOf(expression, context).width;
    }
    case 'unary':
      return expression.operator === '-' || expression.operator === '+' || expression.operator === '~' ? neededWidth(expression.operand, context) : 1;
    case 'binary':
      if (COMPARISONS.has(expression.operator) || LOGICAL.has(expression.operator)) return 1;
      if (expression.operator === '%' || expression.operator === '&') return Math.min(neededWidth(expression.left, context), neededWidth(expression.right, context));
      if (SHIFTS.has(expression.operator)) return expression.operator.startsWith('>') ? 1 : neededWidth(expression.left, context);
      if (expression.operator === '/') return neededWidth(expression.left, context);
      return Math.max(neededWidth(expression.left, context), neededWidth(expression.right, context));
    case 'conditional':
      return Math.max(neededWidth(expression.then, context), neededWidth(expression.otherwise, context));
    case 'call':
      return expression.name.startsWith('$') ? 1 : typeOf(expression, context).width;
    default:
      return typeOf(expression, context).width;
  }
}

/** The node of an expression evaluated at `width` bits, all context-determined operands taken as `signed` says. */
export function emit(expression: Expression, width: number, signed: boolean, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  switch (expression.kind) {
    case 'number': {
      if (expression.fill) return build.constant(expression.value ? -1n : 0n, width);
      return build.resize(build.constant(expression.value, expression.width ?? Math.max(32, expression.value.toString(2).length)), width, signed && expression.signed);
    }
    case 'string': {
      let value = 0n;
      for (const char of expression.text) value = (value << 8n) | BigInt(char.charCodeAt(0) & 0xff);
      return build.resize(build.constant(value, Math.max(8, expression.text.length * 8)), width, false);
    }
    case 'name': {
      const entity = lookup(expression.path, expression.at, context.scope);
      if (entity.kind === 'constant') return build.resize(build.constant(entity.constant.value, entity.constant.width), width, signed);
      if (entity.kind === 'vector') return build.resize(context.read(entity), width, signed);
      typeOf(expression, context);
      return build.constant(0n, width);
    }
    case 'index':
    case 'range':
    case 'indexed-range':
      return build.resize(emitSelect(expression, context), width, signed);
    case 'unary':
      return emitUnary(expression, width, signed, context);
    case 'binary':
      return emitBinary(expression, width, signed, context);
    case 'conditional':
      return build.mux(emitCondition(expression.condition, context), emit(expression.then, width, signed, context), emit(expression.otherwise, width, signed, context));
    case 'concatenation':
      return build.resize(build.concat(expression.parts.map((part) => emitSelf(part, context)).reverse()), width, false);
    case 'replication': {
      const count = constantNumber(expression.count, context);
      typeOf(expression, context);
      return build.resize(build.concat(Array<NodeId>(count).fill(emitSelf(expression.part, context))), width, false);
    }
    case 'call':
      return emitCall(expression, width, signed, context);
  }
}

function emitCall(expression: Expression & { kind: 'call' }, width: number, signed: boolean, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  const [first] = expression.arguments;
  switch (expression.name) {
    case '$signed':
    case '$unsigned': {
      if (!first) throw new GiveUp('arguments', expression.at, `${expression.name} takes one argument.`);
      return build.resize(emitSelf(first, context), width, signed);
    }
    case '$clog2': {
      if (!first) throw new GiveUp('arguments', expression.at, '$clog2 takes one argument.');
      const { value } = constantValue(first, context);
      return build.constant(value <= 1n ? 0n : BigInt((value - 1n).toString(2).length), width);
    }
    case '$bits':
      if (!first) throw new GiveUp('arguments', expression.at, '$bits takes one argument.');
      return build.constant(BigInt(typeOf(first, context).width), width);
    default: {
      const { item, scope } = functionOf(expression, context);
      const { node, type } = context.call(item, scope, expression.arguments, context);
      return build.resize(node, width, signed && type.signed);
    }
  }
}

function emitUnary(expression: Expression & { kind: 'unary' }, width: number, signed: boolean, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  const { operator, operand } = expression;
  if (operator === '+') return emit(operand, width, signed, context);
  if (operator === '-') return build.sub(build.constant(0n, width), emit(operand, width, signed, context));
  if (operator === '~') return build.not(emit(operand, width, signed, context));
  const inner = emitSelf(operand, context);
  const bit = (() => {
    switch (operator) {
      case '!': return build.not(build.reduce('redor', inner));
      case '&': return build.reduce('redand', inner);
      case '~&': return build.not(build.reduce('redand', inner));
      case '|': return build.reduce('redor', inner);
      case '~|': return build.not(build.reduce('redor', inner));
      case '^': return build.reduce('redxor', inner);
      default: return build.not(build.reduce('redxor', inner));
    }
  })();
  return build.resize(bit, width, false);
}

function emitBinary(expression: Expression & { kind: 'binary' }, width: number, signed: boolean, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  const { operator, left, right } = expression;
  if (LOGICAL.has(operator)) {
    const [a, b] = [emitCondition(left, context), emitCondition(right, context)];
    return build.resize(operator === '&&' ? build.and(a, b) : build.or(a, b), width, false);
  }
  if (COMPARISONS.has(operator)) return build.resize(emitComparison(operator, left, right, context), width, false);
  if (SHIFTS.has(operator)) return emitShift(operator, emit(left, width, signed, context), right, width, signed, context);
  const a = emit(left, width, signed, context);
  const b = emit(right, width, signed, context);
  switch (operator) {
    case '+': return build.add(a, b);
    case '-': return build.sub(a, b);
    case '*': return build.make('mul', width, [a, b]);
    case '/': return build.make(signed ? 'divs' : 'divu', width, [a, b]);
    case '%': return build.make(signed ? 'mods' : 'modu', width, [a, b]);
    case '&': return build.and(a, b);
    case '|': return build.or(a, b);
    case '^': return build.xor(a, b);
    case '~^':
    case '^~': return build.not(build.xor(a, b));
    default: throw new GiveUp('operator', expression.at, `The operator "${operator}" is not taken.`);
  }
}

function emitComparison(operator: string, left: Expression, right: Expression, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  const [l, r] = [typeOf(left, context), typeOf(right, context)];
  const width = Math.max(l.width, r.width);
  const signed = l.signed && r.signed;
  const a = emit(left, width, signed, context);
  const b = emit(right, width, signed, context);
  const less = (x: NodeId, y: NodeId) => build.make(signed ? 'lts' : 'ltu', 1, [x, y]);
  switch (operator) {
    case '<': return less(a, b);
    case '>': return less(b, a);
    case '<=': return build.not(less(b, a));
    case '>=': return build.not(less(a, b));
    case '!=':
    case '!==': return build.not(build.eq(a, b));
    default: return build.eq(a, b);
  }
}

function emitShift(operator: string, value: NodeId, amount: Expression, width: number, signed: boolean, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  if (operator === '**') {
    const base = build.constantOf(value);
    const exponent = constantNumber(amount, context);
    if (base === null || exponent < 0 || exponent > 4096) throw new GiveUp('power', amount.at, '"**" needs a constant base and a small constant exponent. A power of two is a shift: 1 << n.');
    return build.constant(base ** BigInt(exponent), width);
  }
  const by = emitSelf(amount, context);
  const known = build.constantOf(by);
  const op = operator.startsWith('<') ? 'shl' : operator === '>>>' && signed ? 'sra' : 'shr';
  if (known === null) return build.make(op, width, [value, by]);
  const n = Number(known > BigInt(width) ? BigInt(width) : known);
  if (n === 0) return value;
  const keep = width - n;
  if (op === 'sra') return build.resize(keep === 0 ? build.slice(value, width - 1, 1) : build.slice(value, n, keep), width, true);
  if (keep === 0) return build.constant(0n, width);
  return op === 'shl' ? build.concat([build.constant(0n, n), build.slice(value, 0, keep)]) : build.resize(build.slice(value, n, keep), width, false);
}

function emitSelect(expression: Expression & { kind: 'index' | 'range' | 'indexed-range' }, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  if (expression.kind === 'index') {
    const memory = memoryOf(expression.base, context);
    if (memory) return build.memoryRead(memory.index, memory.width, memoryAddress(memory, expression.index, context));
  }
  const { base } = expression;
  const vector = base.kind === 'name' ? lookup(base.path, base.at, context.scope) : null;
  const whole = emitSelf(base, context);
  const width = build.width(whole);
  const shape: Pick<Vector, 'left' | 'right'> = vector?.kind === 'vector' ? vector : { left: width - 1, right: 0 };
  const select = selection(expression, shape as Vector, width, context);
  if (select.lo !== null) return readBits(build, whole, select.lo, select.width);
  return build.slice(build.resize(build.make('shr', width, [whole, select.offset]), Math.max(width, select.width), false), 0, select.width);
}

/** Bits outside the word read as 0 (the standard's x). */
function readBits(build: ExpressionContext['shared']['build'], whole: NodeId, lo: number, width: number): NodeId {
  const have = build.width(whole);
  const from = Math.max(0, lo);
  const to = Math.min(have, lo + width);
  if (from >= to) return build.constant(0n, width);
  const parts = [build.slice(whole, from, to - from)];
  if (from > lo) parts.unshift(build.constant(0n, from - lo));
  if (to < lo + width) parts.push(build.constant(0n, lo + width - to));
  return build.concat(parts);
}

export type Selection =
  | { readonly lo: number; readonly width: number }
  | { readonly lo: null; readonly width: number; readonly offset: NodeId };

/** Which bits of a word an index or range names: a known place, or an offset computed at run time. */
export function selection(expression: Expression & { kind: 'index' | 'range' | 'indexed-range' }, vector: Vector, width: number, context: ExpressionContext): Selection {
  const { build, messages } = context.shared;
  if (expression.kind === 'range') {
    const high = offsetOf(vector, constantNumber(expression.high, context));
    const low = offsetOf(vector, constantNumber(expression.low, context));
    if (high < low) throw new GiveUp('range-reversed', expression.at, 'The range runs the other way round than the declaration.');
    if (low < 0 || high >= width) messages.warning('out-of-range', expression.at, `The range reaches outside the ${width} bits of the word.`);
    return { lo: low, width: high - low + 1 };
  }
  const start = expression.kind === 'index' ? expression.index : expression.start;
  const size = expression.kind === 'index' ? 1 : constantNumber(expression.width, context);
  const descending = vector.left >= vector.right;
  const node = emitSelf(start, context);
  const known = build.constantOf(node);
  const below = expression.kind === 'indexed-range' && expression.up !== descending ? size - 1 : 0;
  if (known !== null) {
    const type = typeOf(start, context);
    const lo = offsetOf(vector, Number(type.signed ? BigInt.asIntN(type.width, known) : known)) - below;
    if (lo < 0 || lo + size > width) messages.warning('out-of-range', expression.at, `Bit ${lo < 0 ? lo : lo + size - 1} does not exist in a word of ${width} bits.`);
    return { lo, width: size };
  }
  const room = Math.max(build.width(node), width.toString(2).length + 1);
  const index = build.resize(node, room, false);
  const shift = (by: number) => build.constant(BigInt(by), room);
  const offset = descending ? build.sub(index, shift(vector.right + below)) : build.sub(shift(vector.right - below), index);
  return { lo: null, width: size, offset };
}

export function memoryAddress(memory: MemoryArray, index: Expression, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  const node = emitSelf(index, context);
  return memory.lowest === 0 ? node : build.sub(node, build.constant(BigInt(memory.lowest), build.width(node)));
}
