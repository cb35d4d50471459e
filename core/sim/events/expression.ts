import { item } from '../../lists.ts';
import {
  castType,
  COMPARISONS,
  elementWidth,
  entityOf,
  type Expression,
  four,
  GiveUp,
  literal,
  LOGICAL,
  numberFunction,
  type Part,
  partShape,
  patternValues,
  placesOf,
  resolveType,
  routineOf,
  type Shape,
  shapeOf,
  SHIFTS,
  simulationFunction,
  sliceOf,
  type Type,
  typeNamed,
  typeOf,
} from '../../hdl/index.ts';
import { emitRoutineCall } from './call.ts';
import {
  asNumber,
  asWord,
  cut,
  fromWord,
  isKnown,
  kindOf,
  literalOperand,
  narrow,
  ones,
  type Operand,
  resized,
  unknownOperand,
  wide,
  wideOnes,
} from './code.ts';
import { calledFunction, type Context, innerShape, type Reference, referenceOf, wordOf } from './context.ts';
import { emitSystemFunction } from './system-function.ts';

/** An expression by itself. */
export function emitSelf(expression: Expression, context: Context): Operand {
  const { width, signed } = typeOf(expression, context.evaluation);
  return emit(expression, width, signed, context);
}

/** The right side of an assignment to something of a shape: as wide as the wider of the two, then cut. */
export function emitFor(expression: Expression, shape: Shape, context: Context): Operand {
  const { code, evaluation } = context;
  if (expression.kind === 'pattern') return emitPattern(expression, shape, context);
  if (shape.special === 'text') return asText(expression, context);
  const type = typeOf(expression, evaluation);
  if (shape.special === 'real') return real(emitReal(expression, context));
  if (type.special === 'real') return rounded(emitReal(expression, context), shape.width, context);
  if (type.special === 'text') return textAsWord(emit(expression, 64, false, context), shape.width, context);
  const wide0 = emit(expression, Math.max(type.width, shape.width), type.signed, context);
  const word = resized(code, wide0, shape.width, type.signed);
  return shape.twoState ? plain(word, context) : word;
}

/** x and z become 0 in what has two states. */
function plain(word: Operand, { code }: Context): Operand {
  if (isKnown(word)) return word;
  return { ...word, v: code.held(`${word.v} & ~${word.x}`), x: word.kind === 'wide' ? '0n' : '0' };
}

const real = (v: string): Operand => ({ kind: 'real', v, x: '0', width: 64 });
const text = (v: string): Operand => ({ kind: 'text', v, x: '0', width: 64 });

/** A real number to the nearest whole one. @source IEEE 1364-2005, clause 3.9.2 */
const rounded = (value: string, width: number, { code }: Context): Operand =>
  fromWord(code, `K.ofReal(${value}, ${width})`, width);

const textAsWord = ({ v }: Operand, width: number, { code }: Context): Operand =>
  fromWord(code, `K.textWord(${v}, ${width})`, width);

/** A text, or a word read as characters. */
export function asText(expression: Expression, context: Context): Operand {
  if (expression.kind === 'string') return text(JSON.stringify(expression.text));
  const { special } = typeOf(expression, context.evaluation);
  if (special === 'text') return emit(expression, 64, false, context);
  if (expression.kind === 'concatenation') {
    const parts = expression.parts.map((part) => asText(part, context).v);
    return text(context.code.held(parts.join(' + ') || '""'));
  }
  const word = emitSelf(expression, context);
  return text(context.code.held(`K.wordText(${asWord(word)})`));
}

/** A JavaScript number. */
export function emitReal(expression: Expression, context: Context): string {
  const { special, signed } = typeOf(expression, context.evaluation);
  if (special !== 'real') return context.code.held(asNumber(emitSelf(expression, context), signed));
  return emit(expression, 64, true, context).v;
}

/** Whether an expression is known to be other than 0, as a JavaScript condition. */
export function emitCondition(expression: Expression, context: Context): string {
  const value = emitSelf(expression, context);
  return truth(value);
}

function truth(value: Operand): string {
  if (value.kind === 'real') return `${value.v} !== 0`;
  if (value.kind === 'text') return `${value.v} !== ""`;
  const zero = value.kind === 'wide' ? '0n' : '0';
  return isKnown(value) ? `${value.v} !== ${zero}` : `(${value.v} & ~${value.x}) !== ${zero}`;
}

/** The bits of an expression at `width`, all operands that follow the context taken as `signed` says. */
export function emit(expression: Expression, width: number, signed: boolean, context: Context): Operand {
  const { code, evaluation } = context;
  switch (expression.kind) {
    case 'number':
      return literalOperand(literal(expression, width, signed), width);
    case 'string':
      return literalOperand(
        four.resize(four.ofText(expression.text), Math.max(8, expression.text.length * 8), width, false),
        width,
      );
    case 'real':
      return real(`${expression.value}`);
    case 'time':
      return real(`${expression.seconds / 10 ** context.shared.timeOf(evaluation.scope).unit}`);
    case 'name':
    case 'member':
    case 'index':
    case 'range':
    case 'indexed-range':
      return emitNamed(expression, width, signed, context);
    case 'unary':
      return emitUnary(expression, width, signed, context);
    case 'binary':
      return emitBinary(expression, width, signed, context);
    case 'conditional':
      return emitConditional(expression, width, signed, context);
    case 'concatenation':
      return resized(code, emitConcatenation(expression.parts, context), width, false);
    case 'replication':
      return resized(code, emitReplication(expression, context), width, false);
    case 'stream':
      return resized(code, emitStream(expression, context), width, false);
    case 'call':
      return emitCall(expression, width, signed, context);
    case 'method':
      return emitMethod(expression, width, signed, context);
    case 'cast':
      return emitCast(expression, width, signed, context);
    case 'inside':
      return resized(code, emitInside(expression, context), width, false);
    case 'pattern':
    case 'type':
    case 'nothing':
      typeOf(expression, evaluation);
      throw new GiveUp('not-taken', expression.at, 'There is no value here.');
  }
}

function emitNamed(expression: Expression, width: number, signed: boolean, context: Context): Operand {
  const entity = entityOf(expression, context.evaluation);
  if (entity?.kind === 'constant') {
    const { value, unknown, width: own, signed: ownSigned, real: number } = entity.constant;
    if (number !== undefined) return real(`${number}`);
    return literalOperand(four.resize({ v: value, x: unknown }, own, width, signed && ownSigned), width);
  }
  const reference = referenceOf(expression, context);
  if (!reference) return emitConstantPart(expression, width, signed, context);
  const word = emitReference(wordOf(reference, expression.at), context);
  return resized(context.code, word, width, signed && innerShape(reference, context).signed);
}

/** A part of a parameter, or of what a function gives. */
function emitConstantPart(expression: Expression, width: number, signed: boolean, context: Context): Operand {
  if (!('base' in expression) || expression.kind === 'method')
    throw new GiveUp('undeclared', expression.at, 'This has no value.');
  const part = expression as Part;
  const own = typeOf(part.base, context.evaluation);
  const base = emitSelf(part.base, context);
  const entity = entityOf(part.base, context.evaluation);
  const shape =
    entity?.kind === 'constant' && entity.constant.shape
      ? entity.constant.shape
      : { width: own.width, signed: false, left: own.width - 1, right: 0, element: null, fields: null, names: null };
  const inner = partShape(part, shape, context.evaluation);
  return resized(context.code, emitPart(part, base, shape, context), width, signed && inner.signed);
}

/** The value of an object, of one word of it, or of a part of that. */
function emitReference(reference: Reference, context: Context): Operand {
  let word = emitWord(reference, context);
  let { shape } = reference.cell;
  for (const part of reference.parts) {
    word = emitPart(part, word, shape, context);
    shape = partShape(part, shape, context.evaluation);
  }
  return word;
}

/** The whole word that a reference starts from. */
function emitWord({ cell, local, indexes }: Reference, context: Context): Operand {
  const { code } = context;
  const { id, kind, width, twoState } = cell;
  context.reads?.add(id);
  if (indexes.length > 0) return emitArrayWord(cell, local, indexes, context);
  if (local) return { kind, v: local.v, x: twoState ? zero(kind) : local.x, width };
  const isPlain = twoState || (context.known?.has(id) ?? false);
  switch (kind) {
    case 'narrow':
      return narrow(code.held(`V[${id}]`), isPlain ? '0' : code.held(`X[${id}]`), width);
    case 'wide':
      return wide(code.held(`BV[${id}]`), isPlain ? '0n' : code.held(`BX[${id}]`), width);
    case 'real':
      return real(code.held(`BV[${id}]`));
    case 'text':
      return text(code.held(`BV[${id}]`));
    case 'event':
      return narrow('0', '0', 1);
  }
}

const zero = (kind: Operand['kind']): string => (kind === 'wide' ? '0n' : '0');

/** One word of an array; outside of it, or where an index is unknown, it is unknown. */
function emitArrayWord(
  cell: Reference['cell'],
  local: Reference['local'],
  indexes: readonly Expression[],
  context: Context,
): Operand {
  const { code } = context;
  const address = emitAddress(cell, indexes, context);
  const bank = local ? local.v : `A[${cell.id}]`;
  const v = code.name();
  const x = code.name();
  const { kind, width } = cell;
  if (kind === 'real' || kind === 'text') {
    code.line(`const ${v} = ${address} < 0 ? ${kind === 'real' ? '0' : '""'} : ${bank}.v[${address}];`);
    return { kind, v, x: '0', width };
  }
  const none = cell.twoState ? literalOperand(four.known(0n), width) : unknownOperand(width);
  code.line(`let ${v} = ${none.v}, ${x} = ${none.x};`);
  code.line(`if (${address} >= 0) { ${v} = ${bank}.v[${address}]; ${x} = ${bank}.x[${address}]; }`);
  return { kind, v, x, width };
}

/** Address of a word in its bank, or -1 where there is none. */
export function emitAddress(cell: Reference['cell'], indexes: readonly Expression[], context: Context): string {
  const { code } = context;
  let total: string | null = null;
  const outside: string[] = [];
  for (const [i, index] of indexes.entries()) {
    const { left, right } = item(cell.dimensions, i);
    const size = Math.abs(left - right) + 1;
    const number = emitIndex(index, context);
    const at = code.held(`${number} - ${Math.min(left, right)}`);
    outside.push(`!(${at} >= 0 && ${at} < ${size})`);
    total = total === null ? at : `${total} * ${size} + ${at}`;
  }
  return code.held(`${outside.join(' || ')} ? -1 : ${total}`);
}

/** An index as a JavaScript number; NaN where it is unknown. */
function emitIndex(index: Expression, context: Context): string {
  const { code, evaluation } = context;
  const { signed, special } = typeOf(index, evaluation);
  if (special === 'real') return code.held(`Math.round(${emitReal(index, context)})`);
  const word = emitSelf(index, context);
  const plainNumber = asNumber({ ...word, x: zero(word.kind) }, signed);
  if (isKnown(word)) return code.held(plainNumber);
  return code.held(`${word.x} !== ${zero(word.kind)} ? NaN : ${plainNumber}`);
}

/** Where a part begins in a word of a shape: a number known now, or the name of one known when it runs. */
export function lowOf(part: Part, shape: Shape, context: Context): number | string {
  const { evaluation, code } = context;
  if (part.kind === 'member' || part.kind === 'range') return evaluation.lowOf(part, shape) ?? 'NaN';
  const known = constantLow(part, shape, context);
  if (known !== null) return known;
  const size = elementWidth(shape);
  const index = emitIndex(part.kind === 'index' ? part.index : part.start, context);
  const descending = shape.left >= shape.right;
  const length = part.kind === 'index' ? 1 : numberOf(part.width, context);
  const below = part.kind === 'indexed-range' && part.up !== descending ? length - 1 : 0;
  const element = descending ? `${index} - ${shape.right + below}` : `${shape.right - below} - ${index}`;
  return code.held(size === 1 ? element : `(${element}) * ${size}`);
}

function constantLow(part: Part, shape: Shape, { evaluation }: Context): number | null {
  const index = part.kind === 'index' ? part.index : part.kind === 'indexed-range' ? part.start : null;
  return index !== null && isConstant(index, evaluation) ? evaluation.lowOf(part, shape) : null;
}

/** Whether an expression is made of numbers and parameters alone. */
export function isConstant(expression: Expression, evaluation: Context['evaluation']): boolean {
  switch (expression.kind) {
    case 'number':
    case 'real':
    case 'time':
      return true;
    case 'name':
    case 'member':
      return entityOf(expression, evaluation)?.kind === 'constant';
    case 'unary':
      return isConstant(expression.operand, evaluation);
    case 'binary':
      return isConstant(expression.left, evaluation) && isConstant(expression.right, evaluation);
    case 'conditional':
      return [expression.condition, expression.then, expression.otherwise].every((one) => isConstant(one, evaluation));
    case 'call':
      return numberFunction(expression, evaluation) !== null;
    default:
      return false;
  }
}

const numberOf = (expression: Expression, { evaluation }: Context): number => {
  const { value, width, signed } = evaluation.constant(expression);
  return Number(signed ? BigInt.asIntN(width, value) : value);
};

/** A part of a word; bits outside of it are unknown. @source IEEE 1364-2005, clause 5.2.1 */
function emitPart(part: Part, word: Operand, shape: Shape, context: Context): Operand {
  if (word.kind === 'text') return textCharacter(part, word, context);
  const { width } = partShape(part, shape, context.evaluation);
  const low = lowOf(part, shape, context);
  return emitSlice(word, low, width, context);
}

function textCharacter(part: Part, word: Operand, context: Context): Operand {
  if (part.kind !== 'index') throw new GiveUp('not-taken', part.at, 'Of a text one character is taken at a time.');
  const index = emitIndex(part.index, context);
  return narrow(context.code.held(`(${word.v}.charCodeAt(${index}) | 0) & 255`), '0', 8);
}

export function emitSlice(word: Operand, low: number | string, width: number, context: Context): Operand {
  const { code } = context;
  const known = isKnown(word);
  if (typeof low === 'number' && low >= 0 && low + width <= word.width) {
    if (width === word.width) return word;
    if (word.kind === 'narrow') {
      const take = (bits: string) => code.held(cut(`${bits} >>> ${low}`, width));
      return narrow(take(word.v), known ? '0' : take(word.x), width);
    }
    if (width <= 32) {
      const take = (bits: string) => code.held(cut(`Number(BigInt.asIntN(32, ${bits} >> ${low}n))`, width));
      return narrow(take(word.v), known ? '0' : take(word.x), width);
    }
    const take = (bits: string) => code.held(`BigInt.asUintN(${width}, ${bits} >> ${low}n)`);
    return wide(take(word.v), known ? '0n' : take(word.x), width);
  }
  if (word.kind === 'narrow' && typeof low === 'string') {
    const v = code.name();
    const x = code.name();
    const none = unknownOperand(width);
    code.line(`let ${v} = ${none.v}, ${x} = ${none.x};`);
    const inside = `${low} >= 0 && ${low} <= ${word.width - width}`;
    const take = (bits: string) => cut(`${bits} >>> ${low}`, width);
    const partly =
      width === 1
        ? ''
        : ` else if (${low} > ${-width} && ${low} < ${word.width}) { const w = K.slice(${asWord(word)}, ${word.width}, ${low}, ${width}); ${v} = Number(BigInt.asIntN(32, w.v)); ${x} = Number(BigInt.asIntN(32, w.x)); }`;
    code.line(`if (${inside}) { ${v} = ${take(word.v)}; ${x} = ${known ? '0' : take(word.x)}; }${partly}`);
    return narrow(v, x, width);
  }
  return fromWord(code, `K.slice(${asWord(word)}, ${word.width}, ${low}, ${width})`, width);
}

function emitUnary(
  { operator, operand }: Expression & { kind: 'unary' },
  width: number,
  signed: boolean,
  context: Context,
): Operand {
  const { code, evaluation } = context;
  const type = typeOf(operand, evaluation);
  if (type.special === 'real' && operator !== '!') return real(code.held(`${operator}(${emitReal(operand, context)})`));
  if (operator === '+') return emit(operand, width, signed, context);
  if (operator === '-') {
    const value = emit(operand, width, signed, context);
    return arithmetic('-', literalOperand(four.known(0n), width), value, { width, signed }, context);
  }
  if (operator === '~') return inverted(emit(operand, width, signed, context), context);
  const inner = emitSelf(operand, context);
  const bit = operator === '!' ? logicalNot(inner, context) : emitReduction(operator, inner, context);
  return resized(code, bit, width, false);
}

function inverted(value: Operand, { code }: Context): Operand {
  const { kind, v, x, width } = value;
  const all = kind === 'wide' ? wideOnes(width) : ones(width);
  if (isKnown(value)) return { ...value, v: code.held(`~${v} & ${all}`) };
  return { ...value, v: code.held(`(~${v} & ~${x} & ${all}) | ${x}`) };
}

/** One bit of a JavaScript condition. */
const bitOf = (condition: string, { code }: Context): Operand => narrow(code.held(`${condition} ? 1 : 0`), '0', 1);

function logicalNot(value: Operand, context: Context): Operand {
  if (value.kind === 'real' || value.kind === 'text' || isKnown(value)) return bitOf(`!(${truth(value)})`, context);
  const is = emitTruth(value, context);
  return narrow(context.code.held(`${is.x} !== 0 ? 1 : ${is.v} ^ 1`), is.x, 1);
}

/** 1, 0 or unknown. */
function emitTruth(value: Operand, context: Context): Operand {
  const { code } = context;
  if (value.kind === 'real' || value.kind === 'text' || isKnown(value)) return bitOf(truth(value), context);
  const v = code.name();
  const x = code.name();
  const nothing = zero(value.kind);
  code.line(`let ${v} = 1, ${x} = 0;`);
  code.line(`if (!(${truth(value)})) { if (${value.x} === ${nothing}) ${v} = 0; else ${x} = 1; }`);
  return narrow(v, x, 1);
}

function emitReduction(operator: string, value: Operand, context: Context): Operand {
  const { code } = context;
  const isInverted = operator.length === 2;
  const kind = operator.replace('~', '');
  const bit = (() => {
    if (kind === '|') return emitTruth(value, context);
    if (kind === '^') {
      const count = value.kind === 'wide' ? `K.parity(${value.v})` : `parity(${value.v})`;
      if (isKnown(value)) return narrow(code.held(count), '0', 1);
      const x = code.held(`${value.x} !== ${zero(value.kind)} ? 1 : 0`);
      return narrow(code.held(`${x} === 1 ? 1 : ${count}`), x, 1);
    }
    const none = value.kind === 'wide' ? '0n' : '0';
    const all = value.kind === 'wide' ? wideOnes(value.width) : ones(value.width);
    if (isKnown(value)) return bitOf(`${value.v} === ${all}`, context);
    const v = code.name();
    const x = code.name();
    code.line(`let ${v} = 1, ${x} = 0;`);
    code.line(
      `if ((~${value.v} & ~${value.x} & ${all}) !== ${none}) ${v} = 0; else if (${value.x} !== ${none}) ${x} = 1;`,
    );
    return narrow(v, x, 1);
  })();
  return isInverted ? inverted(bit, context) : bit;
}

function emitBinary(
  { operator, left, right, at }: Expression & { kind: 'binary' },
  width: number,
  signed: boolean,
  context: Context,
): Operand {
  const { code, evaluation } = context;
  if (LOGICAL.has(operator)) return resized(code, emitLogical(operator, left, right, context), width, false);
  if (COMPARISONS.has(operator)) return resized(code, emitComparison(operator, left, right, context), width, false);
  const [l, r] = [typeOf(left, evaluation), typeOf(right, evaluation)];
  if (l.special === 'real' || (r.special === 'real' && !/^(<<|>>)/.test(operator))) {
    const [a, b] = [emitReal(left, context), emitReal(right, context)];
    const sign = operator === '**' ? '**' : operator;
    return real(code.held(operator === '**' ? `(${a}) ** (${b})` : `${a} ${sign} ${b}`));
  }
  if (operator === '**') {
    const base = emit(left, width, signed, context);
    const by = emitSelf(right, context);
    const signs = `{ base: ${signed}, exponent: ${r.signed}, exponentWidth: ${r.width} }`;
    return fromWord(code, `K.power(${asWord(base)}, ${asWord(by)}, ${width}, ${signs})`, width);
  }
  if (SHIFTS.has(operator)) return emitShift(operator, left, right, { width, signed }, context);
  const a = emit(left, width, signed, context);
  const b = emit(right, width, signed, context);
  if ('+-*/%'.includes(operator)) return arithmetic(operator, a, b, { width, signed }, context);
  switch (operator) {
    case '&':
    case '|':
    case '^':
      return bitwise(operator, a, b, context);
    case '~^':
    case '^~':
      return inverted(bitwise('^', a, b, context), context);
    default:
      throw new GiveUp('operator', at, `The operator "${operator}" is not taken.`);
  }
}

/** An unknown bit anywhere makes the whole result unknown. @source IEEE 1364-2005, clause 5.1.5 */
function arithmetic(operator: string, a: Operand, b: Operand, type: Type, context: Context): Operand {
  const { code } = context;
  const { width } = type;
  const isWide = kindOf(width) === 'wide';
  const result = isWide ? wideResult(operator, a, b, type) : narrowResult(operator, a, b, type);
  const isDivision = operator === '/' || operator === '%';
  if (isKnown(a) && isKnown(b) && !isDivision) return { kind: a.kind, v: code.held(result), x: zero(a.kind), width };
  const none = zero(a.kind);
  const all = isWide ? wideOnes(width) : ones(width);
  const conditions = [a, b].filter((one) => !isKnown(one)).map(({ x }) => x);
  const unknown = conditions.length > 0 ? `(${conditions.join(' | ')}) !== ${none}` : 'false';
  const x = code.held(`${unknown}${isDivision ? ` || ${b.v} === ${none}` : ''} ? ${all} : ${none}`);
  const v = code.held(`${x} !== ${none} ? ${all} : ${result}`);
  return { kind: a.kind, v, x, width };
}

function narrowResult(operator: string, { v: a }: Operand, { v: b }: Operand, { width, signed }: Type): string {
  if (operator === '+' || operator === '-') return cut(`${a} ${operator} ${b}`, width);
  if (operator === '*') return cut(`Math.imul(${a}, ${b})`, width);
  const shift = 32 - width;
  const number = (bits: string) => (signed ? `((${bits} << ${shift}) >> ${shift})` : `(${bits} >>> 0)`);
  return cut(`${number(a)} ${operator} ${number(b)}`, width);
}

function wideResult(operator: string, { v: a }: Operand, { v: b }: Operand, { width, signed }: Type): string {
  const number = (bits: string) =>
    signed && (operator === '/' || operator === '%') ? `BigInt.asIntN(${width}, ${bits})` : bits;
  return `BigInt.asUintN(${width}, ${number(a)} ${operator} ${number(b)})`;
}

function bitwise(operator: '&' | '|' | '^', a: Operand, b: Operand, { code }: Context): Operand {
  const { kind, width } = a;
  if (isKnown(a) && isKnown(b)) return { kind, v: code.held(`${a.v} ${operator} ${b.v}`), x: zero(kind), width };
  const unknown = code.held(`${a.x} | ${b.x}`);
  if (operator === '^') return { kind, v: code.held(`(${a.v} ^ ${b.v}) | ${unknown}`), x: unknown, width };
  const v = code.name();
  const x = code.name();
  code.line(`let ${v} = ${a.v} ${operator} ${b.v}, ${x} = ${unknown};`);
  const decided =
    operator === '&'
      ? `${x} &= ~((~${a.v} & ~${a.x}) | (~${b.v} & ~${b.x})); ${v} = (${a.v} & ${b.v} & ~(~${a.v} & ~${a.x}) & ~(~${b.v} & ~${b.x})) | ${x};`
      : `${x} &= ~((${a.v} & ~${a.x}) | (${b.v} & ~${b.x})); ${v} = (${a.v} & ~${a.x}) | (${b.v} & ~${b.x}) | ${x};`;
  code.line(`if (${x} !== ${zero(kind)}) { ${decided} }`);
  return { kind, v, x, width };
}

function emitShift(
  operator: string,
  left: Expression,
  right: Expression,
  { width, signed }: Type,
  context: Context,
): Operand {
  const { code } = context;
  const value = emit(left, width, signed, context);
  const by = emitSelf(right, context);
  if (value.kind === 'wide')
    return fromWord(
      code,
      `K.shift(${JSON.stringify(operator)}, ${asWord(value)}, ${width}, ${asWord(by)}, ${signed})`,
      width,
    );
  const amount = code.held(asNumber({ ...by, x: zero(by.kind) }, false));
  const all = ones(width);
  const sign = 32 - width;
  const moved = (bits: string): string => {
    if (operator.startsWith('<')) return cut(`(${amount} > 31 ? 0 : ${bits} << ${amount})`, width);
    if (operator === '>>' || !signed) return cut(`(${amount} > 31 ? 0 : ${bits} >>> ${amount})`, width);
    return cut(`((${bits} << ${sign}) >> ${sign}) >> (${amount} > 31 ? 31 : ${amount})`, width);
  };
  if (isKnown(value) && isKnown(by)) return narrow(code.held(moved(value.v)), '0', width);
  const bad = isKnown(by) ? 'false' : `${by.x} !== ${zero(by.kind)}`;
  return narrow(
    code.held(`${bad} ? ${all} : ${moved(value.v)}`),
    code.held(`${bad} ? ${all} : ${isKnown(value) ? '0' : moved(value.x)}`),
    width,
  );
}

/** The right side is worked out only where the left one does not decide. */
function emitLogical(operator: string, left: Expression, right: Expression, context: Context): Operand {
  const { code } = context;
  const a = emitTruth(emitSelf(left, context), context);
  const v = code.name();
  const x = code.name();
  code.line(`let ${v} = ${a.v}, ${x} = ${a.x};`);
  const undecided = operator === '&&' ? `${v} !== 0 || ${x} !== 0` : `${v} === 0 || ${x} !== 0`;
  code.line(`if (${undecided}) {`);
  const b = emitTruth(emitSelf(right, context), context);
  const both = bitwise(operator === '&&' ? '&' : '|', { ...a, v, x }, b, context);
  code.line(`${v} = ${both.v}; ${x} = ${both.x};`);
  code.line('}');
  return narrow(v, x, 1);
}

export function emitComparison(operator: string, left: Expression, right: Expression, context: Context): Operand {
  const { evaluation, code } = context;
  const [l, r] = [typeOf(left, evaluation), typeOf(right, evaluation)];
  if (l.special === 'text' || r.special === 'text') {
    const [a, b] = [asText(left, context).v, asText(right, context).v];
    return bitOf(`${a} ${jsOperator(operator)} ${b}`, context);
  }
  if (l.special === 'real' || r.special === 'real') {
    const [a, b] = [emitReal(left, context), emitReal(right, context)];
    return bitOf(`${a} ${jsOperator(operator)} ${b}`, context);
  }
  const width = Math.max(l.width, r.width);
  const signed = l.signed && r.signed;
  const a = emit(left, width, signed, context);
  const b = emit(right, width, signed, context);
  if (operator.startsWith('<') || operator.startsWith('>')) return emitLess(operator, a, b, { width, signed }, context);
  if (operator.length === 3 && operator.endsWith('=')) {
    const same = `${a.v} === ${b.v} && ${a.x} === ${b.x}`;
    return bitOf(operator === '===' ? same : `!(${same})`, context);
  }
  const wanted = operator.endsWith('?') ? openSide(a, b, context) : ([a, b] as const);
  const equal = emitEqual(...wanted, context);
  if (!operator.startsWith('!')) return equal;
  return isKnown(equal)
    ? narrow(code.held(`${equal.v} ^ 1`), '0', 1)
    : narrow(code.held(`${equal.x} !== 0 ? 1 : ${equal.v} ^ 1`), equal.x, 1);
}

const jsOperator = (operator: string): string =>
  /^[<>]/.test(operator) ? operator : operator.startsWith('!') ? '!==' : '===';

/** x and z of the right side fit anything. */
function openSide(a: Operand, b: Operand, { code }: Context): readonly [Operand, Operand] {
  const close = (one: Operand): Operand => ({
    ...one,
    v: code.held(`${one.v} & ~${b.x}`),
    x: isKnown(one) ? one.x : code.held(`${one.x} & ~${b.x}`),
  });
  return isKnown(b) ? [a, b] : [close(a), { ...close(b), x: zero(b.kind) }];
}

function emitEqual(a: Operand, b: Operand, context: Context): Operand {
  const { code } = context;
  if (isKnown(a) && isKnown(b)) return bitOf(`${a.v} === ${b.v}`, context);
  const unknown = code.held(isKnown(a) ? b.x : isKnown(b) ? a.x : `${a.x} | ${b.x}`);
  const none = zero(a.kind);
  const v = code.name();
  const x = code.name();
  code.line(`let ${v} = 0, ${x} = 0;`);
  code.line(`if (((${a.v} ^ ${b.v}) & ~${unknown}) === ${none}) { ${v} = 1; if (${unknown} !== ${none}) ${x} = 1; }`);
  return narrow(v, x, 1);
}

function emitLess(operator: string, a: Operand, b: Operand, { width, signed }: Type, context: Context): Operand {
  const number = (one: Operand): string => {
    if (one.kind === 'wide') return signed ? `BigInt.asIntN(${width}, ${one.v})` : one.v;
    return asNumber({ ...one, x: '0' }, signed);
  };
  const is = `${number(a)} ${operator} ${number(b)}`;
  if (isKnown(a) && isKnown(b)) return bitOf(is, context);
  const none = zero(a.kind);
  const conditions = [a, b].filter((one) => !isKnown(one)).map(({ x }) => x);
  const x = context.code.held(`(${conditions.join(' | ')}) !== ${none} ? 1 : 0`);
  return narrow(context.code.held(`${x} === 1 || ${is} ? 1 : 0`), x, 1);
}

/** One side is worked out where the condition is known, else both. @source IEEE 1364-2005, clause 5.1.13 */
function emitConditional(
  { condition, then, otherwise }: Expression & { kind: 'conditional' },
  width: number,
  signed: boolean,
  context: Context,
): Operand {
  const { code, evaluation } = context;
  const { special } = typeOf({ kind: 'conditional', at: condition.at, condition, then, otherwise }, evaluation);
  const chooser = emitTruth(emitSelf(condition, context), context);
  const v = code.name();
  const x = code.name();
  const side = (one: Expression): Operand => {
    if (special === 'real') return real(emitReal(one, context));
    if (special === 'text') return asText(one, context);
    return emit(one, width, signed, context);
  };
  const decided = isKnown(chooser);
  const [isThen, isOther] = [code.name('c'), code.name('c')];
  code.line(`const ${isThen} = ${decided ? '' : `${chooser.x} !== 0 || `}${chooser.v} !== 0;`);
  code.line(`const ${isOther} = ${decided ? '' : `${chooser.x} !== 0 || `}${chooser.v} === 0;`);
  code.line(`let ${v}, ${x}, ${v}b, ${x}b;`);
  code.line(`if (${isThen}) {`);
  const first = side(then);
  code.line(`${v} = ${first.v}; ${x} = ${first.x};`);
  code.line('}');
  code.line(`if (${isOther}) {`);
  const second = side(otherwise);
  code.line(`${v}b = ${second.v}; ${x}b = ${second.x};`);
  code.line('}');
  const merge = special
    ? `${v} = ${v}b; ${x} = ${x}b;`
    : `const d = (${v} ^ ${v}b) | (${x} | ${x}b); ${v} = (${v} & ~d) | d; ${x} = d;`;
  const both = decided ? '' : `if (${isThen}) { ${merge} } else `;
  code.line(`if (${isOther}) { ${both}{ ${v} = ${v}b; ${x} = ${x}b; } }`);
  return { kind: first.kind, v, x: decided && isKnown(first) && isKnown(second) ? first.x : x, width };
}

function emitConcatenation(parts: readonly Expression[], context: Context): Operand {
  return joined(
    parts.map((part) => emitSelf(part, context)),
    context,
  );
}

/** Words side by side, the first uppermost. */
function joined(words: readonly Operand[], { code }: Context): Operand {
  const width = words.reduce((sum, one) => sum + one.width, 0);
  const known = words.every(isKnown);
  if (width <= 32) {
    const put = (bits: 'v' | 'x') => {
      let below = width;
      const pieces = words.flatMap((one) => {
        below -= one.width;
        const piece = one[bits];
        return piece === '0' ? [] : [below === 0 ? piece : `(${piece} << ${below})`];
      });
      return pieces.length === 0 ? '0' : code.held(pieces.join(' | '));
    };
    return narrow(put('v'), known ? '0' : put('x'), width);
  }
  const put = (bits: 'v' | 'x') => {
    let below = width;
    const pieces = words.flatMap((one) => {
      below -= one.width;
      const piece = one[bits];
      if (piece === '0' || piece === '0n') return [];
      const big = one.kind === 'wide' ? piece : `BigInt(${piece} >>> 0)`;
      return [below === 0 ? big : `(${big} << ${below}n)`];
    });
    return pieces.length === 0 ? '0n' : code.held(pieces.join(' | '));
  };
  return wide(put('v'), known ? '0n' : put('x'), width);
}

function emitReplication(expression: Expression & { kind: 'replication' }, context: Context): Operand {
  const count = numberOf(expression.count, context);
  typeOf(expression, context.evaluation);
  const part = emitSelf(expression.part, context);
  const width = part.width * count;
  if (width <= 32 || count <= 8) return joined(Array<Operand>(count).fill(part), context);
  return fromWord(context.code, `K.repeat(${asWord(part)}, ${part.width}, ${count})`, width);
}

function emitStream(expression: Expression & { kind: 'stream' }, context: Context): Operand {
  const whole = emitConcatenation(expression.parts, context);
  if (expression.right) return whole;
  const slice = sliceOf(expression, context.evaluation);
  return fromWord(context.code, `K.stream(${asWord(whole)}, ${whole.width}, ${slice})`, whole.width);
}

function emitCall(
  expression: Expression & { kind: 'call' },
  width: number,
  signed: boolean,
  context: Context,
): Operand {
  const { code, evaluation } = context;
  const number = numberFunction(expression, evaluation);
  if (number !== null) return literalOperand(four.known(BigInt.asUintN(width, number)), width);
  const [first] = expression.arguments;
  const type = typeOf(expression, evaluation);
  const sized = (word: Operand): Operand => (type.special ? word : resized(code, word, width, signed && type.signed));
  switch (expression.name) {
    case '$signed':
    case '$unsigned':
      return sized(emitSelf(first as Expression, context));
    default:
  }
  if (expression.name.startsWith('$') && (simulationFunction(expression.name) || BIT_FUNCTIONS.has(expression.name)))
    return sized(emitSystemFunction(expression, context, { emitSelf, emitReal, asText, emitFor }));
  const { item: routine, scope } = calledFunction(expression, context);
  return sized(emitRoutineCall(routine, scope, expression.arguments, context, { emitFor }));
}

const BIT_FUNCTIONS = new Set(['$countones', '$onehot', '$onehot0', '$isunknown', '$rtoi', '$realtobits']);

function emitMethod(
  expression: Expression & { kind: 'method' },
  width: number,
  signed: boolean,
  context: Context,
): Operand {
  const { code, evaluation } = context;
  const type = typeOf(expression, evaluation);
  const routine = routineOf(expression, evaluation);
  if (routine)
    return resized(
      code,
      emitRoutineCall(routine.item, routine.scope, expression.arguments, context, { emitFor }),
      width,
      signed && type.signed,
    );
  const values = expression.arguments.map((value) => {
    const { special } = typeOf(value, evaluation);
    return special === 'text' || value.kind === 'string' ? asText(value, context).v : emitReal(value, context);
  });
  const { names } = shapeOf(expression.base, evaluation);
  const base = emitSelf(expression.base, context);
  if (names) {
    const table = context.shared.constants.push([...names]) - 1;
    const call = `K.enumMethod(${JSON.stringify(expression.name)}, C[${table}], ${asWord(base)}, ${values[0] ?? 1})`;
    if (type.special === 'text') return text(code.held(call));
    return resized(code, fromWord(code, call, type.width), width, signed && type.signed);
  }
  const call = `K.textMethod(${JSON.stringify(expression.name)}, ${[base.v, ...values].join(', ')})`;
  if (type.special === 'text') return text(code.held(call));
  return resized(code, narrow(code.held(cut(call, type.width)), '0', type.width), width, signed && type.signed);
}

function emitCast(
  expression: Expression & { kind: 'cast' },
  width: number,
  signed: boolean,
  context: Context,
): Operand {
  const { code, evaluation } = context;
  const { to, value, at } = expression;
  const type = castType(expression, evaluation);
  const shape: Shape = {
    width: type.width,
    signed: type.signed,
    left: type.width - 1,
    right: 0,
    element: null,
    fields: null,
    names: null,
  };
  if (value.kind === 'pattern') {
    if (typeof to === 'string') throw new GiveUp('pattern', at, 'A pattern needs a type before it.');
    const named =
      'at' in to && to.kind !== 'named'
        ? typeNamed(to as Expression, evaluation)
        : resolveType(to as Exclude<typeof to, Expression>, evaluation);
    return resized(code, emitPattern(value, named ?? shape, context), width, signed);
  }
  return resized(code, emitFor(value, shape, context), width, signed);
}

function emitInside({ value, among }: Expression & { kind: 'inside' }, context: Context): Operand {
  return among
    .map((one) => {
      if (!('kind' in one))
        return bitwise(
          '&',
          emitComparison('>=', value, one.high, context),
          emitComparison('<=', value, one.low, context),
          context,
        );
      return emitComparison('==?', value, one, context);
    })
    .reduce((any, fits) => bitwise('|', any, fits, context));
}

function emitPattern(pattern: Expression & { kind: 'pattern' }, shape: Shape, context: Context): Operand {
  const words = patternValues(pattern, shape).map(({ value, shape: inner, deep }) =>
    deep ? filled(value, inner, context) : emitFor(value, inner, context),
  );
  return joined(words, context);
}

function filled(value: Expression, shape: Shape, context: Context): Operand {
  if (!shape.fields && !shape.element) return emitFor(value, shape, context);
  return joined(
    placesOf(shape).map((place) => filled(value, place.shape, context)),
    context,
  );
}
