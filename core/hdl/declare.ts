import type { Place } from '../result.ts';
import type { Declarator, Expression, Item } from './ast.ts';
import { constantValue, emitAssigned, type ExpressionContext } from './expressions.ts';
import { GiveUp } from './message.ts';
import { bounds, resolveType } from './resolve-type.ts';
import type { Constant, Scope, Shared, Vector } from './scope.ts';
import { arrayShape, bitsShape, type Shape } from './shape.ts';

type Declaration = Item & { readonly kind: 'declaration' };

const WIDEST = 1 << 20;
const WIDEST_ARRAY = 1 << 16;
const MOST_MEMORY_BITS = 1 << 26;

/** A parameter's value: its own, or what an instance overrides it with, in the width its type gives. */
export function parameterValue(
  item: Item & { kind: 'parameter' },
  override: bigint | Constant | undefined,
  context: ExpressionContext,
): Constant {
  const shape = item.type ? resolveType(item.type, context) : null;
  const implicit = item.type?.kind === 'bits' && item.type.dimensions.length === 0;
  const signedOnly = implicit && item.type?.kind === 'bits' && item.type.signed;
  if (typeof override === 'bigint') {
    const width = shape && !implicit ? shape.width : Math.max(32, override.toString(2).length + 1);
    return {
      value: BigInt.asUintN(width, override),
      width,
      signed: shape && !implicit ? shape.signed : true,
      ...(shape && !implicit ? { shape } : {}),
    };
  }
  if (!override && item.value.kind === 'pattern' && shape) {
    const value = context.shared.build.constantOf(emitAssigned(item.value, shape, context));
    if (value === null)
      throw new GiveUp(
        'not-constant',
        item.at,
        'A parameter must be known when the design is built, but depends on a signal.',
      );
    return { value, width: shape.width, signed: shape.signed, shape };
  }
  const given = override ?? openLiteral(item.value, context) ?? constantValue(item.value, context);
  if (!shape || implicit) return signedOnly ? { ...given, signed: true } : given;
  const extended = given.signed ? BigInt.asIntN(given.width, given.value) : given.value;
  return { ...given, value: BigInt.asUintN(shape.width, extended), width: shape.width, signed: shape.signed, shape };
}

/** A parameter such as `4'b1??0`, meant for the labels of casez: its open digits are kept beside its value. */
function openLiteral(value: Expression, { shared }: ExpressionContext): Constant | null {
  if (shared.fourState || value.kind !== 'number' || value.fill || (value.floating === 0n && value.unknown === 0n))
    return null;
  return {
    value: value.value,
    unknown: value.unknown,
    open: value.floating,
    width: value.width ?? 32,
    signed: value.signed,
  };
}

/** Declares one name of a module: a vector or a memory. */
export function declareName(
  shared: Shared,
  item: Declaration,
  declarator: Declarator,
  scope: Scope,
  context: ExpressionContext,
  arrays: ReadonlySet<string>,
): void {
  const { name, at } = declarator;
  const word = resolveType(item.type, context, scope);
  const asWord =
    declarator.dimensions.length === 0 || item.net === 'wire' || item.direction !== null || arrays.has(name);
  if (!asWord) return declareMemory(shared, declarator, word, scope, context);
  const shape = [...declarator.dimensions]
    .reverse()
    .reduce<Shape>((inner, range) => ({ ...arrayShape(inner, ...bounds(range, context)), unpacked: true }), word);
  const most = declarator.dimensions.length > 0 ? WIDEST_ARRAY : WIDEST;
  if (shape.width > most)
    throw new GiveUp(
      'width',
      at,
      `"${name}" would be ${shape.width} bits wide; at most ${most} are ` +
        `taken${most === WIDEST ? '' : ' for an array of registers. Write it one word at a clock edge, without a reset, to make it a memory'}.`,
    );
  const known = scope.names.get(name);
  const init =
    declarator.value && item.net !== 'wire' && item.direction !== 'input'
      ? initialValue(declarator.value, shape, context)
      : null;
  if (known?.kind === 'vector' && (known.direction === null) !== (item.direction === null))
    return redeclare(shared, scope, known, { item, shape, init, at });
  const path = `${scope.path}.${name}`;
  const vector: Vector = {
    kind: 'vector',
    name,
    path,
    at,
    width: shape.width,
    signed: shape.signed,
    shape,
    net: item.net === 'genvar' ? 'integer' : item.net,
    keep: item.keep,
    direction: item.direction,
    wire: shared.build.wire(path, shape.width),
    drivers: [],
    init,
    labels: new Map(),
    temporary: false,
  };
  scope.declare(name, vector, at);
  shared.vectors.push(vector);
}

function initialValue(value: NonNullable<Declarator['value']>, shape: Shape, context: ExpressionContext): bigint {
  const constant = context.shared.build.constantOf(emitAssigned(value, shape, context));
  if (constant === null)
    throw new GiveUp(
      'initial-value',
      value.at,
      'A power-up value must be a constant. For logic, declare a wire or use assign.',
    );
  return constant;
}

/** The older style says a port twice: once its direction, once that it is a reg. */
function redeclare(
  shared: Shared,
  scope: Scope,
  known: Vector,
  {
    item,
    shape,
    init,
    at,
  }: { readonly item: Declaration; readonly shape: Shape; readonly init: bigint | null; readonly at: Place },
): void {
  const plain = item.type.kind === 'bits' && item.type.dimensions.length === 0;
  const before = known.width === 1 && known.shape.left === 0;
  if (known.width !== shape.width && !plain && !before)
    throw new GiveUp(
      'declared-twice',
      at,
      `"${known.name}" is declared with ${known.width} and with ${shape.width} bits.`,
    );
  const wider = known.width >= shape.width ? known.shape : shape;
  const merged: Vector = {
    ...known,
    net: item.net === 'wire' ? known.net : item.net === 'genvar' ? 'integer' : item.net,
    direction: known.direction ?? item.direction,
    init: init ?? known.init,
    keep: known.keep || item.keep,
    shape: wider,
    width: wider.width,
    signed: known.signed || shape.signed,
    wire: wider.width === known.width ? known.wire : shared.build.wire(known.path, wider.width),
  };
  scope.names.set(known.name, merged);
  shared.vectors[shared.vectors.indexOf(known)] = merged;
}

function declareMemory(
  shared: Shared,
  { name, at, dimensions, value }: Declarator,
  shape: Shape,
  scope: Scope,
  context: ExpressionContext,
): void {
  const ranges = dimensions.map((range) => bounds(range, context)).map(([left, right]) => ({ left, right }));
  const depth = ranges.reduce((product, { left, right }) => product * (Math.abs(left - right) + 1), 1);
  if (!(depth * shape.width <= MOST_MEMORY_BITS))
    throw new GiveUp(
      'width',
      at,
      `The memory "${name}" would hold ${depth * shape.width} bits; at most ${MOST_MEMORY_BITS} are taken.`,
    );
  const { memories } = shared.build.netlist;
  const index = memories.push({ name: `${scope.path}.${name}`, width: shape.width, depth, init: [], writes: [] }) - 1;
  scope.declare(name, { kind: 'memory', name, at, index, width: shape.width, shape, dimensions: ranges, depth }, at);
  if (value?.kind !== 'pattern') return;
  const [range = { left: 0, right: 0 }] = ranges;
  const whole = context.shared.build.constantOf(
    emitAssigned(value, arrayShape(shape, range.left, range.right), context),
  );
  if (whole === null || ranges.length > 1)
    throw new GiveUp('initial-value', value.at, 'The contents of a memory must be constant, of one range.');
  const descending = range.left >= range.right;
  for (let i = 0; i < depth; i++) {
    const word = BigInt.asUintN(shape.width, whole >> BigInt(i * shape.width));
    (memories[index] as { init: bigint[] }).init[descending ? i : depth - 1 - i] = word;
  }
}

/** A net that nobody declared but a port or an `assign` uses: one bit. @source IEEE 1364-2005, clause 4.5 */
export function declareImplicit(shared: Shared, name: string, at: Place, scope: Scope): void {
  const path = `${scope.path}.${name}`;
  const vector: Vector = {
    kind: 'vector',
    name,
    path,
    at,
    width: 1,
    signed: false,
    shape: bitsShape(1),
    net: 'wire',
    keep: false,
    direction: null,
    wire: shared.build.wire(path, 1),
    drivers: [],
    init: null,
    labels: new Map(),
    temporary: false,
  };
  scope.declare(name, vector, at);
  shared.vectors.push(vector);
  shared.messages.add(
    'warning',
    'implicit-net',
    at,
    `"${name}" is not declared; it becomes a wire of one bit. If that is not a slip of the pen, declare it.`,
    {
      fix: {
        kind: 'insert',
        label: `Declare it as a wire of one bit`,
        insertions: [{ file: at.file, line: at.line, column: 1, insert: `  wire ${name};\n` }],
      },
    },
  );
}
