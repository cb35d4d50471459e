import type { Place } from '../result.ts';
import type { Item } from './ast.ts';
import { constantValue, type ExpressionContext } from './expressions.ts';
import { GiveUp } from './message.ts';
import { bounds, resolveType } from './resolve-type.ts';
import type { Scope, Shared, Vector } from './scope.ts';
import { arrayShape, type Shape } from './shape.ts';

/** A vector that lives only while a block or a function runs. */
export function temporary(
  shared: Shared,
  name: string,
  at: Place,
  shape: Shape,
  net: Vector['net'],
  direction: Vector['direction'],
): Vector {
  const { width, signed } = shape;
  return {
    kind: 'vector',
    name,
    path: name,
    at,
    width,
    signed,
    shape,
    net,
    keep: false,
    direction,
    wire: shared.build.wire(name, width),
    drivers: [],
    init: null,
    labels: new Map(),
    temporary: true,
  };
}

/** Declares the names of a block or function; gives its vectors with the values they start with. */
export function declareTemporaries(
  shared: Shared,
  scope: Scope,
  items: readonly Item[],
  context: ExpressionContext,
): { readonly vector: Vector; readonly value: (Item & { kind: 'declaration' })['names'][number]['value'] }[] {
  const made: ReturnType<typeof declareTemporaries> = [];
  const inner = { ...context, scope };
  for (const item of items) {
    if (item.kind === 'parameter') {
      scope.declare(item.name, { kind: 'constant', constant: constantValue(item.value, inner) }, item.at);
      continue;
    }
    if (item.kind === 'typedef') {
      scope.declare(item.name, { kind: 'type', shape: resolveType(item.type, inner, scope) }, item.at);
      continue;
    }
    if (item.kind !== 'declaration') continue;
    const word = resolveType(item.type, inner, scope);
    for (const { name, at, dimensions, value } of item.names) {
      const known = scope.names.get(name);
      if (known?.kind === 'vector') {
        // `input [3:0] a; reg [3:0] a;` of the older style says a name twice.
        if (known.direction === null && item.direction === null)
          throw new GiveUp('declared-twice', at, `"${name}" is declared twice here.`);
        continue;
      }
      const shape = [...dimensions]
        .reverse()
        .reduce<Shape>((inside, range) => ({ ...arrayShape(inside, ...bounds(range, inner)), unpacked: true }), word);
      const vector = temporary(shared, name, at, shape, item.net === 'genvar' ? 'integer' : item.net, item.direction);
      scope.declare(name, vector, at);
      made.push({ vector, value });
    }
  }
  return made;
}
