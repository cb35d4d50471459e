import type { Shared } from './shared.ts';
import { item } from '../../lists.ts';
import type { NodeId } from '../../netlist/index.ts';
import {
  constantNumber,
  elementAt,
  elementCount,
  elementWidth,
  entityOf,
  isPart,
  type Part,
  partShape,
  type Shape,
  shapeOf,
  typeOf,
  valueless,
  type WordAccess,
  wordAccess,
  type Constant,
} from '../names/index.ts';
import { type Expression, GiveUp } from '../read/index.ts';
import { emitSelf, type ExpressionContext } from './expressions.ts';

/**
 * Which bits of a word a part names: a known place, or one computed at run time. `offset` counts bits from the lowest.
 */
export type Selection =
  | { readonly lo: number; readonly width: number }
  | { readonly lo: null; readonly width: number; readonly offset: NodeId; readonly element: NodeId };

/** The most elements that are chosen from one by one; longer rows are shifted. */
export const MOST_CHOICES = 256;

/** A constant of the source. Hardware knows no x and z: they are 0 there. */
function emitConstant({ value, unknown, width }: Constant, { build }: Shared): NodeId {
  return build.constant(value & ~unknown, width);
}

interface Word {
  readonly node: NodeId;
  readonly shape: Shape;
}

/** The value of a declared name or a part of one. */
export function emitPart(expression: Expression, context: ExpressionContext): Word {
  const entity = entityOf(expression, context);
  if (entity?.kind === 'vector') return { node: context.read(entity), shape: entity.shape };
  if (entity?.kind === 'constant')
    return {
      node: emitConstant(entity.constant, context.shared),
      shape: shapeOf(expression, context),
    };
  if (entity) throw valueless(entity, expression);
  if (!isPart(expression)) return { node: emitSelf(expression, context), shape: shapeOf(expression, context) };
  const access = wordAccess(expression, context);
  if (access)
    return { node: context.readWord(access.memory, wordAddress(access, context)), shape: access.memory.shape };
  const base = emitPart(expression.base, context);
  const shape = partShape(expression, base.shape, context);
  return { node: readSelection(selection(expression, base.shape, context), base, shape, context), shape };
}

function readSelection(select: Selection, base: Word, _shape: Shape, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  if (select.lo !== null) return readBits(context, base.node, select.lo, select.width);
  const count = elementCount(base.shape);
  const size = elementWidth(base.shape);
  if (size > 1 && select.width === size && count <= MOST_CHOICES) {
    const elements = Array.from({ length: count }, (_, i) => build.slice(base.node, i * size, size));
    return choose(elements, select.element, build.width(select.element), context);
  }
  const width = build.width(base.node);
  return build.slice(
    build.resize(build.make('shr', width, [base.node, select.offset]), Math.max(width, select.width), false),
    0,
    select.width,
  );
}

/** A tree of two-way choices by the bits of an index; elements that do not exist read 0. */
function choose(elements: readonly NodeId[], index: NodeId, bits: number, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  const zero = build.constant(0n, build.width(item(elements, 0)));
  let level = [...elements];
  let bit = 0;
  for (; level.length > 1 && bit < bits; bit++) {
    const chooser = build.slice(index, bit, 1);
    level = Array.from({ length: Math.ceil(level.length / 2) }, (_, i) =>
      build.mux(chooser, level[2 * i + 1] ?? zero, item(level, 2 * i)),
    );
  }
  const [found = zero] = level;
  if (bit >= bits) return found;
  return build.mux(build.reduce('redor', build.slice(index, bit, bits - bit)), zero, found);
}

/** Bits outside the word read as 0. */
function readBits({ shared: { build } }: ExpressionContext, whole: NodeId, lo: number, width: number): NodeId {
  const have = build.width(whole);
  const outside = (bits: number) => build.constant(0n, bits);
  const from = Math.max(0, lo);
  const to = Math.min(have, lo + width);
  if (from >= to) return outside(width);
  const parts = [build.slice(whole, from, to - from)];
  if (from > lo) parts.unshift(outside(from - lo));
  if (to < lo + width) parts.push(outside(lo + width - to));
  return build.concat(parts);
}

/** Where in a word of the given shape a part lies. */
export function selection(expression: Part, shape: Shape, context: ExpressionContext): Selection {
  const { build, messages } = context.shared;
  const size = elementWidth(shape);
  const count = elementCount(shape);
  const outside = (text: string) => messages.warning('out-of-range', expression.at, text);
  if (expression.kind === 'member') {
    const field = shape.fields?.find((f) => f.name === expression.name);
    if (!field) throw new GiveUp('no-field', expression.at, `There is no field "${expression.name}".`);
    return { lo: field.lo, width: field.shape.width };
  }
  if (expression.kind === 'range') {
    const high = elementAt(shape, constantNumber(expression.high, context));
    const low = elementAt(shape, constantNumber(expression.low, context));
    if (high < low)
      throw new GiveUp('range-reversed', expression.at, 'The range runs the other way round than the declaration.');
    if (low < 0 || high >= count)
      outside(`The range reaches outside the ${count} ${size === 1 ? 'bits of the word' : 'elements of the array'}.`);
    return { lo: low * size, width: (high - low + 1) * size };
  }
  const start = expression.kind === 'index' ? expression.index : expression.start;
  const length = expression.kind === 'index' ? 1 : constantNumber(expression.width, context);
  const descending = shape.left >= shape.right;
  const node = emitSelf(start, context);
  const known = build.constantOf(node);
  const below = expression.kind === 'indexed-range' && expression.up !== descending ? length - 1 : 0;
  if (known !== null) {
    const type = typeOf(start, context);
    const at = elementAt(shape, Number(type.signed ? BigInt.asIntN(type.width, known) : known)) - below;
    if (at < 0 || at + length > count)
      outside(
        size === 1
          ? `Bit ${at < 0 ? at : at + length - 1} does not exist in a word of ${count} bits.`
          : `Element ${at < 0 ? at : at + length - 1} does not exist in an array of ${count}.`,
      );
    return { lo: at * size, width: length * size };
  }
  const room = Math.max(build.width(node), count.toString(2).length + 1);
  const index = build.resize(node, room, false);
  const shift = (by: number) => build.constant(BigInt(by), room);
  const element = descending
    ? build.sub(index, shift(shape.right + below))
    : build.sub(shift(shape.right - below), index);
  return { lo: null, width: length * size, element, offset: scaled(element, size, context) };
}

function scaled(element: NodeId, size: number, { shared: { build } }: ExpressionContext): NodeId {
  if (size === 1) return element;
  const width = build.width(element) + size.toString(2).length;
  const wide = build.resize(element, width, false);
  const shift = Math.log2(size);
  if (Number.isInteger(shift)) return build.concat([build.constant(0n, shift), build.slice(wide, 0, width - shift)]);
  return build.make('mul', width, [wide, build.constant(BigInt(size), width)]);
}

/** Word number in a memory, rows of the last range side by side. */
export function wordAddress({ memory, indexes }: WordAccess, context: ExpressionContext): NodeId {
  const { build } = context.shared;
  const total = indexes.reduce<{ node: NodeId | null; size: number }>(
    ({ node: before }, index, i) => {
      const { left, right } = memory.dimensions[i] as { left: number; right: number };
      const size = Math.abs(left - right) + 1;
      const own = emitSelf(index, context);
      const lowest = Math.min(left, right);
      const at = lowest === 0 ? own : build.sub(own, build.constant(BigInt(lowest), build.width(own)));
      if (before === null) return { node: at, size };
      const width = Math.max(build.width(at), build.width(before) + size.toString(2).length);
      const rows = build.make('mul', width, [build.resize(before, width, false), build.constant(BigInt(size), width)]);
      return { node: build.add(rows, build.resize(at, width, false)), size };
    },
    { node: null, size: 1 },
  );
  return total.node as NodeId;
}
