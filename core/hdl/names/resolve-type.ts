import type { DataType, Expression, Range } from '../read/index.ts';
import { GiveUp } from '../read/index.ts';
import { lookup } from './lookup.ts';
import { constantNumber, type NameContext, type Scope } from './scope.ts';
import { arrayShape, bitsShape, type Shape, structShape } from './shape.ts';

const WIDEST = 1 << 20;

/** The shape a type describes. An enum's names are declared in `declareIn`, where one is given. */
export function resolveType(type: DataType, context: NameContext, declareIn: Scope | null = null): Shape {
  switch (type.kind) {
    case 'integer':
      return { ...bitsShape(type.width, type.signed), ...(type.twoState ? { twoState: true } : {}) };
    case 'real':
    case 'text':
    case 'event':
      return { ...bitsShape(64, true), special: type.kind };
    case 'bits': {
      const [innermost, ...outer] = [...type.dimensions].reverse();
      const states = type.twoState ? { twoState: true } : {};
      if (!innermost) return { ...bitsShape(1, type.signed), ...states };
      const [left, right] = bounds(innermost, context);
      const bits = bitsShape(
        checked(Math.abs(left - right) + 1, innermost),
        type.signed && outer.length === 0,
        left,
        right,
      );
      const whole = wrapped(bits, outer.reverse(), context);
      return { ...whole, ...(type.signed ? { signed: true } : {}), ...states };
    }
    case 'named': {
      const entity = lookup(
        { name: type.name, package: type.package ?? undefined, at: type.at },
        context.scope,
        context.shared,
      );
      if (entity.kind !== 'type') throw new GiveUp('no-type', type.at, `"${type.name}" is no type.`);
      return wrapped(entity.shape, type.dimensions, context);
    }
    case 'struct': {
      const fields = type.fields.map((field) => ({
        name: field.name,
        shape: resolveType(field.type, context, declareIn),
      }));
      const twice = type.fields.find((field, i) => type.fields.findIndex((f) => f.name === field.name) < i);
      if (twice) throw new GiveUp('declared-twice', twice.at, `The structure has two fields "${twice.name}".`);
      return wrapped(structShape(fields, type.signed), type.dimensions, context);
    }
    case 'enum':
      return wrapped(enumShape(type, context, declareIn), type.dimensions, context);
  }
}

/** @source IEEE 1800, enumerations: a name without a value follows the one before it, the first is 0 */
function enumShape(type: DataType & { kind: 'enum' }, context: NameContext, declareIn: Scope | null): Shape {
  const base = resolveType(type.base, context);
  const names = new Map<bigint, string>();
  const shape: Shape = { ...base, names };
  let next = 0n;
  for (const { name, value, at } of type.members) {
    if (value) next = knownBits(value, context);
    const word = BigInt.asUintN(base.width, next);
    const fits = base.signed ? BigInt.asIntN(base.width, word) === next || word === next : word === next;
    if (!fits)
      throw new GiveUp('enum-value', at, `The value ${next} of "${name}" does not fit into ${base.width} bits.`);
    if (names.has(word)) throw new GiveUp('enum-value', at, `"${name}" has the same value as "${names.get(word)}".`);
    names.set(word, name);
    declareIn?.declare(
      name,
      { kind: 'constant', constant: { value: word, unknown: 0n, width: base.width, signed: base.signed, shape } },
      at,
    );
    next += 1n;
  }
  return shape;
}

const knownBits = (expression: Expression, context: NameContext): bigint => {
  const { value, unknown } = context.constant(expression);
  return value & ~unknown;
};

/** Packed dimensions around a shape, leftmost outermost. */
function wrapped(inner: Shape, dimensions: readonly Range[], context: NameContext): Shape {
  return [...dimensions].reverse().reduce((shape, range) => {
    const [left, right] = bounds(range, context);
    checked(shape.width * (Math.abs(left - right) + 1), range);
    return arrayShape(shape, left, right);
  }, inner);
}

export function bounds(range: Range, context: NameContext): [number, number] {
  return [constantNumber(range.high, context), constantNumber(range.low, context)];
}

function checked(width: number, range: Range): number {
  if (!(width >= 1 && width <= WIDEST))
    throw new GiveUp('width', range.high.at, `A width of ${width} bits is out of range: 1 to ${WIDEST}.`);
  return width;
}
