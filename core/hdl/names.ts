import type { Expression } from './ast.ts';
import { GiveUp } from './message.ts';
import type { Entity, MemoryArray, Scope, Shared } from './scope.ts';
import { constantNumber, type ExpressionContext } from './expressions.ts';

/** What a name stands for. */
export function lookup(
  {
    name,
    package: from,
    at,
  }: { readonly name: string; readonly package?: string | undefined; readonly at: Expression['at'] },
  scope: Scope,
  shared: Shared,
): Entity {
  if (from !== undefined) {
    const inside = shared.packages.get(from);
    if (!inside) throw new GiveUp('no-package', at, `There is no package "${from}" among the sources.`);
    const entity = inside.names.get(name);
    if (!entity) throw new GiveUp('undeclared', at, `The package "${from}" has no "${name}".`);
    return entity;
  }
  const entity = scope.find(name);
  if (!entity) throw new GiveUp('undeclared', at, `"${name}" is not declared in this module.`);
  return entity;
}

/**
 * The declared thing an expression names as a whole: a name, or a name inside a generate block. Null for parts and
 * computed values.
 */
export function entityOf(expression: Expression, context: ExpressionContext): Entity | null {
  switch (expression.kind) {
    case 'name':
      return lookup(expression, context.scope, context.shared);
    case 'member': {
      if (expression.base.kind === 'name' && !expression.base.package && !context.scope.find(expression.base.name))
        throw new GiveUp(
          'hierarchical-name',
          expression.at,
          `"${expression.base.name}.${expression.name}" reaches into another module, or into a name that is not ` +
            'declared. Bring the signal out through a port.',
        );
      const base = entityOf(expression.base, context);
      if (base?.kind !== 'block') return null;
      const inner = base.scope.names.get(expression.name);
      if (!inner) throw new GiveUp('undeclared', expression.at, `The block has no "${expression.name}".`);
      return inner;
    }
    case 'index': {
      const base =
        expression.base.kind === 'name' || expression.base.kind === 'member'
          ? entityOf(expression.base, context)
          : null;
      if (base?.kind !== 'blocks') return null;
      const index = constantNumber(expression.index, context);
      const scope = base.scopes.get(index);
      if (!scope) throw new GiveUp('undeclared', expression.at, `The generate loop has no turn ${index}.`);
      return { kind: 'block', scope };
    }
    default:
      return null;
  }
}

export interface WordAccess {
  readonly memory: MemoryArray;
  readonly indexes: readonly Expression[];
}

/** `memory[i]...` with as many indexes as the memory has ranges; null for anything else. */
export function wordAccess(expression: Expression, context: ExpressionContext): WordAccess | null {
  const indexes: Expression[] = [];
  let at: Expression = expression;
  while (at.kind === 'index') {
    indexes.unshift(at.index);
    at = at.base;
    if (at.kind !== 'name' && at.kind !== 'member') continue;
    const entity = entityOf(at, context);
    return entity?.kind === 'memory' && entity.dimensions.length === indexes.length
      ? { memory: entity, indexes }
      : null;
  }
  return null;
}

/** Refuses what is declared but has no value of its own. */
export function valueless(entity: Entity, expression: Expression & { at: Expression['at'] }): GiveUp {
  const name = expression.kind === 'name' || expression.kind === 'member' ? expression.name : 'This';
  const what = {
    memory: 'is a memory: read one word of it, as in name[address]',
    function: 'is a function: call it with arguments',
    task: 'is a task: call it as a statement',
    type: 'is a type, not a value',
    block: 'is a block of names, not a value',
    blocks: 'is a row of generate blocks, not a value',
    vector: '',
    constant: '',
  }[entity.kind];
  return new GiveUp('whole-array', expression.at, `"${name}" ${what}.`);
}
