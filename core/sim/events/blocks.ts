// Scopes of named blocks, and which of them are disabled from outside: found before any code is put together, since a
// name may be used before its block is read.
import {
  declareLocals,
  type Elaborated,
  entityOf,
  evaluationIn,
  type Expression,
  GiveUp,
  type Names,
  Scope,
  type Statement,
} from '../../hdl/index.ts';

type Block = Extract<Statement, { kind: 'block' | 'fork' }>;
type Named = Pick<Block, 'name' | 'declarations'>;

const isBlock = (statement: Statement): statement is Block => statement.kind === 'block' || statement.kind === 'fork';

export class Blocks {
  readonly #scopes = new Map<object, Map<Scope, Scope>>();
  readonly #disabled = new Set<object>();
  readonly #names: Names;

  constructor(names: Names) {
    this.#names = names;
  }

  /** Enters what stands in one instance and in all below it. */
  enter(instance: Elaborated): void {
    for (const behaviour of instance.behaviours) {
      if (behaviour.kind === 'instances') for (const one of behaviour.made) this.enter(one);
      else if ('body' in behaviour.item) this.#walk(behaviour.item.body, behaviour.scope);
    }
    for (const item of instance.module.items)
      if (item.kind === 'task' || item.kind === 'function') this.#walk(item.body, instance.scope);
  }

  /** Then: whom `disable` names. */
  findDisabled(instance: Elaborated): void {
    for (const behaviour of instance.behaviours) {
      if (behaviour.kind === 'instances') for (const one of behaviour.made) this.findDisabled(one);
      else if ('body' in behaviour.item) this.#disables(behaviour.item.body, behaviour.scope);
    }
    for (const item of instance.module.items)
      if (item.kind === 'task' || item.kind === 'function') this.#disables(item.body, instance.scope);
  }

  /** The scope of a block whose names are its own; the same for each time it is asked. */
  scopeOf(block: Named, around: Scope): Scope {
    const known = this.#scopes.get(block)?.get(around);
    if (known) return known;
    const path = block.name === null ? around.path : `${around.path}.${block.name}`;
    const made = new Scope(path, around);
    const all = this.#scopes.get(block) ?? new Map<Scope, Scope>();
    all.set(around, made);
    this.#scopes.set(block, all);
    declareLocals(made, block.declarations, evaluationIn(this.#names, around));
    if (block.name !== null && !around.names.has(block.name))
      around.names.set(block.name, { kind: 'block', scope: made });
    return made;
  }

  /** What a `disable` stops: the scope of a block, or the task. */
  disabled(target: Expression, scope: Scope): object | null {
    const entity = entityOf(target, evaluationIn(this.#names, scope));
    if (entity?.kind === 'block') return entity.scope;
    return entity?.kind === 'task' || entity?.kind === 'function' ? entity.item : null;
  }

  isDisabled(key: object): boolean {
    return this.#disabled.has(key);
  }

  /** Where the statements inside a block find their names. */
  inside(block: Block, around: Scope): Scope {
    return block.name !== null || block.declarations.length > 0 ? this.scopeOf(block, around) : around;
  }

  #walk(statement: Statement, scope: Scope): void {
    const inner = isBlock(statement) ? this.inside(statement, scope) : scope;
    for (const one of statementsIn(statement)) this.#walk(one, inner);
  }

  #disables(statement: Statement, scope: Scope): void {
    if (statement.kind === 'leave' && statement.block) {
      try {
        const key = this.disabled(statement.block, scope);
        if (key) this.#disabled.add(key);
      } catch (error) {
        // Told where the statement itself is read.
        if (!(error instanceof GiveUp)) throw error;
      }
      return;
    }
    const inner = isBlock(statement) ? this.inside(statement, scope) : scope;
    for (const one of statementsIn(statement)) this.#disables(one, inner);
  }
}

/** Statements right inside another. */
export function statementsIn(statement: Statement): readonly Statement[] {
  switch (statement.kind) {
    case 'block':
    case 'fork':
      return statement.body;
    case 'if':
    case 'assert':
      return [statement.then, statement.otherwise].filter((one) => one !== null);
    case 'case':
      return [...statement.arms.map((arm) => arm.body), ...(statement.otherwise ? [statement.otherwise] : [])];
    case 'for':
      return [...(statement.first ? [statement.first] : []), statement.step, statement.body];
    case 'while':
    case 'repeat':
    case 'forever':
    case 'foreach':
    case 'delay':
    case 'events':
    case 'wait':
      return [statement.body];
    default:
      return [];
  }
}
