import type { Item, Package } from '../read/index.ts';
import { parameterValue } from './declare.ts';
import { GiveUp } from '../read/index.ts';
import { evaluationIn } from './evaluate.ts';
import { resolveType } from './resolve-type.ts';
import type { Names, Scope } from './scope.ts';

/** Enters the names of a package, or one of them, into a scope. */
export function importNames(item: Item & { kind: 'import' }, scope: Scope, shared: Names): void {
  const inside = shared.packages.get(item.package);
  if (!inside) throw new GiveUp('no-package', item.at, `There is no package "${item.package}" among the sources.`);
  if (item.name === null) {
    scope.imports.push(inside);
    return;
  }
  const entity = inside.names.get(item.name);
  if (!entity) throw new GiveUp('undeclared', item.at, `The package "${item.package}" has no "${item.name}".`);
  scope.names.set(item.name, entity);
}

/** Declares parameters, types, functions and tasks of a package, or of what stands outside any module. */
export function readPackage({ items }: Pick<Package, 'items'>, scope: Scope, shared: Names): void {
  for (const item of items) {
    try {
      const context = evaluationIn(shared, scope);
      if (item.kind === 'parameter')
        scope.declare(item.name, { kind: 'constant', constant: parameterValue(item, undefined, context) }, item.at);
      else if (item.kind === 'typedef')
        scope.declare(item.name, { kind: 'type', shape: resolveType(item.type, context, scope) }, item.at);
      else if (item.kind === 'function' || item.kind === 'task')
        scope.declare(
          item.name,
          item.kind === 'function' ? { kind: 'function', item, scope } : { kind: 'task', item, scope },
          item.at,
        );
      else if (item.kind === 'import') importNames(item, scope, shared);
      else
        throw new GiveUp(
          'not-taken',
          item.at,
          'Only parameters, types, functions and tasks are taken outside modules.',
        );
    } catch (error) {
      if (!(error instanceof GiveUp)) throw error;
      shared.messages.error(error.code, error.place, error.message);
    }
  }
}
