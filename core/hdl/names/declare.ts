import type { Place } from '../../result.ts';
import type { Declarator, Item } from '../read/index.ts';
import { ofReal, realConstant } from './evaluate.ts';
import type { Evaluation } from './evaluation.ts';
import { resize } from './four-state.ts';
import { GiveUp } from '../read/index.ts';
import { bounds, resolveType } from './resolve-type.ts';
import type { Constant, Initial, MemoryArray, Names, Scope, Vector } from './scope.ts';
import { arrayShape, bitsShape, type Shape } from './shape.ts';

type Declaration = Item & { readonly kind: 'declaration' };

const WIDEST = 1 << 20;
const WIDEST_ARRAY = 1 << 16;
const MOST_MEMORY_BITS = 1 << 26;

/** A parameter's value: its own, or what an instance overrides it with, in the width its type gives. */
export function parameterValue(
  item: Item & { kind: 'parameter' },
  override: bigint | Constant | undefined,
  context: Evaluation,
): Constant {
  const shape = item.type ? resolveType(item.type, context) : null;
  const implicit = item.type?.kind === 'bits' && item.type.dimensions.length === 0;
  const signedOnly = implicit && item.type?.kind === 'bits' && item.type.signed;
  const given = typeof override === 'bigint' ? wholeConstant(override) : override;
  if (!given && item.value.kind === 'pattern' && shape) {
    const { v, x } = context.assigned(item.value, shape);
    return { value: v, unknown: x, width: shape.width, signed: shape.signed, shape };
  }
  const value = given ?? context.constant(item.value);
  if (shape?.special === 'real') return realConstant(value.real ?? numberOf(value));
  if (!shape || implicit) return signedOnly ? { ...value, signed: true } : value;
  const word =
    value.real === undefined
      ? resize({ v: value.value, x: value.unknown }, value.width, shape.width, value.signed)
      : ofReal(value.real, shape.width);
  return { value: word.v, unknown: word.x, width: shape.width, signed: shape.signed, shape };
}

/** As the person wrote it: 32 bits, or as many as it takes. */
function wholeConstant(number: bigint): Constant {
  const width = Math.max(32, number.toString(2).length + 1);
  return { value: BigInt.asUintN(width, number), unknown: 0n, width, signed: true };
}

const numberOf = ({ value, width, signed }: Constant): number => Number(signed ? BigInt.asIntN(width, value) : value);

/** Declares one name of a module: a vector or a memory. */
export function declareName(
  shared: Names,
  item: Declaration,
  declarator: Declarator,
  scope: Scope,
  context: Evaluation,
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
  const initial =
    declarator.value && item.net !== 'wire' && item.direction !== 'input' ? { value: declarator.value, scope } : null;
  if (known?.kind === 'vector' && (known.direction === null) !== (item.direction === null))
    return redeclare(shared, scope, known, { item, shape, initial, at });
  const vector: Vector = {
    kind: 'vector',
    name,
    path: `${scope.path}.${name}`,
    at,
    width: shape.width,
    signed: shape.signed,
    shape,
    net: item.net === 'genvar' ? 'integer' : item.net,
    resolution: item.resolution,
    keep: item.keep,
    direction: item.direction,
    delay: item.delay,
    initial,
    temporary: false,
  };
  scope.declare(name, vector, at);
  shared.vectors.push(vector);
}

/** The older style says a port twice: once its direction, once that it is a reg. */
function redeclare(
  shared: Names,
  scope: Scope,
  known: Vector,
  {
    item,
    shape,
    initial,
    at,
  }: { readonly item: Declaration; readonly shape: Shape; readonly initial: Initial | null; readonly at: Place },
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
    resolution: known.resolution === 'wire' ? item.resolution : known.resolution,
    direction: known.direction ?? item.direction,
    delay: known.delay ?? item.delay,
    initial: initial ?? known.initial,
    keep: known.keep || item.keep,
    shape: wider,
    width: wider.width,
    signed: known.signed || shape.signed,
  };
  scope.names.set(known.name, merged);
  shared.vectors[shared.vectors.indexOf(known)] = merged;
}

function declareMemory(
  shared: Names,
  { name, at, dimensions, value }: Declarator,
  shape: Shape,
  scope: Scope,
  context: Evaluation,
): void {
  const ranges = dimensions.map((range) => bounds(range, context)).map(([left, right]) => ({ left, right }));
  const depth = ranges.reduce((product, { left, right }) => product * (Math.abs(left - right) + 1), 1);
  if (!(depth * shape.width <= MOST_MEMORY_BITS))
    throw new GiveUp(
      'width',
      at,
      `The memory "${name}" would hold ${depth * shape.width} bits; at most ${MOST_MEMORY_BITS} are taken.`,
    );
  const memory: MemoryArray = {
    kind: 'memory',
    name,
    path: `${scope.path}.${name}`,
    at,
    width: shape.width,
    shape,
    dimensions: ranges,
    depth,
    initial: value ? { value, scope } : null,
  };
  shared.memories.push(memory);
  scope.declare(name, memory, at);
}

/** A net that nobody declared but a port or an `assign` uses: one bit. @source IEEE 1364-2005, clause 4.5 */
export function declareImplicit(shared: Names, name: string, at: Place, scope: Scope): void {
  const vector: Vector = {
    kind: 'vector',
    name,
    path: `${scope.path}.${name}`,
    at,
    width: 1,
    signed: false,
    shape: bitsShape(1),
    net: 'wire',
    resolution: 'wire',
    keep: false,
    direction: null,
    delay: null,
    initial: null,
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
