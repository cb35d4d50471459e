import type { Expression } from '../read/index.ts';
import { GiveUp } from '../read/index.ts';
import { constantNumber, type Entity, type MemoryArray, type NameContext, type Names, type Scope } from './scope.ts';

/** What a name stands for. */
export function lookup(
  {
    name,
    package: from,
    at,
  }: { readonly name: string; readonly package?: string | undefined; readonly at: Expression['at'] },
  scope: Scope,
  shared: Names,
): Entity {
  if (from !== undefined) {
    const inside = from === '$unit' ? shared.unit : shared.packages.get(from);
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
 * The declared thing an expression names as a whole: a name, or a name inside a block or an instance. Null for parts
 * and computed values.
 *
 * @source IEEE 1364-2005, clause 12.4, hierarchical names
 */
export function entityOf(expression: Expression, context: NameContext): Entity | null {
  switch (expression.kind) {
    case 'name':
      return lookup(expression, context.scope, context.shared);
    case 'member': {
      const base = baseOf(expression.base, context);
      if (base?.kind !== 'block') return null;
      const inner = base.scope.names.get(expression.name);
      if (!inner) throw new GiveUp('undeclared', expression.at, `"${base.scope.path}" has no "${expression.name}".`);
      return inner;
    }
    case 'index': {
      const base =
        expression.base.kind === 'name' || expression.base.kind === 'member' ? baseOf(expression.base, context) : null;
      if (base?.kind !== 'blocks') return null;
      const index = constantNumber(expression.index, context);
      const scope = base.scopes.get(index);
      if (!scope) throw new GiveUp('undeclared', expression.at, `There is no number ${index} of these blocks.`);
      return { kind: 'block', scope };
    }
    default:
      return null;
  }
}

/** What stands before a dot or an index: its first name may lie further up. */
function baseOf(base: Expression, context: NameContext): Entity | null {
  if (base.kind !== 'name' || base.package !== undefined) return entityOf(base, context);
  const found = context.scope.find(base.name) ?? context.scope.findUpwards(base.name);
  if (found) return found;
  throw new GiveUp(
    'undeclared',
    base.at,
    `"${base.name}" is neither declared in this module nor the name of an instance or block.`,
  );
}

export interface WordAccess {
  readonly memory: MemoryArray;
  readonly indexes: readonly Expression[];
}

/** `memory[i]...` with as many indexes as the memory has ranges; null for anything else. */
export function wordAccess(expression: Expression, context: NameContext): WordAccess | null {
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
    block: 'is a block or an instance, not a value',
    blocks: 'is a row of blocks or instances, not a value',
    vector: '',
    constant: '',
  }[entity.kind];
  return new GiveUp('whole-array', expression.at, `"${name}" ${what}.`);
}
