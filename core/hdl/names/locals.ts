import type { Expression, Item } from '../read/index.ts';
import { GiveUp } from '../read/index.ts';
import { bounds, resolveType } from './resolve-type.ts';
import type { NameContext, Scope, Vector } from './scope.ts';
import { arrayShape, type Shape } from './shape.ts';

/** A variable of a block, a function or a task, and the value it is declared with. */
interface Local {
  readonly vector: Vector;
  readonly value: Expression | null;
}

/** Declares the names of a block, a function or a task in their scope; gives its variables in the order written. */
export function declareLocals(scope: Scope, items: readonly Item[], context: NameContext): Local[] {
  const inner = context.inScope(scope);
  return items.flatMap((item) => {
    switch (item.kind) {
      case 'parameter':
        scope.declare(item.name, { kind: 'constant', constant: inner.constant(item.value) }, item.at);
        return [];
      case 'typedef':
        scope.declare(item.name, { kind: 'type', shape: resolveType(item.type, inner, scope) }, item.at);
        return [];
      case 'declaration':
        return declareNames(scope, item, inner);
      default:
        return [];
    }
  });
}

function declareNames(scope: Scope, item: Item & { kind: 'declaration' }, context: NameContext): Local[] {
  const word = resolveType(item.type, context, scope);
  return item.names.flatMap(({ name, at, dimensions, value }) => {
    const known = scope.names.get(name);
    if (known?.kind === 'vector') {
      // `input [3:0] a; reg [3:0] a;` of the older style says a name twice.
      if (known.direction === null && item.direction === null)
        throw new GiveUp('declared-twice', at, `"${name}" is declared twice here.`);
      return [];
    }
    const shape = [...dimensions]
      .reverse()
      .reduce<Shape>((inside, range) => ({ ...arrayShape(inside, ...bounds(range, context)), unpacked: true }), word);
    const vector = localVector(scope, name, at, shape, item);
    scope.declare(name, vector, at);
    return [{ vector, value }];
  });
}

/** A variable that has no place among the declared signals of a module. */
export function localVector(
  scope: Scope,
  name: string,
  at: Vector['at'],
  shape: Shape,
  kind: { readonly net?: 'wire' | 'reg' | 'integer' | 'genvar'; readonly direction?: Vector['direction'] } = {},
): Vector {
  const { width, signed } = shape;
  return {
    kind: 'vector',
    name,
    path: scope.path === '' ? name : `${scope.path}.${name}`,
    at,
    width,
    signed,
    shape,
    net: kind.net === 'genvar' ? 'integer' : (kind.net ?? 'reg'),
    resolution: 'wire',
    keep: false,
    direction: kind.direction ?? null,
    delay: null,
    initial: null,
    temporary: true,
  };
}
