import type { Place } from '../../result.ts';
import type { Delay, Direction, Expression, Item, Module, Messages, Primitive, Resolution } from '../read/index.ts';
import { GiveUp } from '../read/index.ts';
import type { Shape } from './shape.ts';

/** A value known at elaboration, such as a parameter's. Bits as in `Word`: value and unknown together tell 0, 1, x, z. */
export interface Constant {
  readonly value: bigint;
  readonly unknown: bigint;
  readonly width: number;
  readonly signed: boolean;
  readonly shape?: Shape;
  /** Of a real number, which has no bits of its own. */
  readonly real?: number;
}

/** A declared net or variable; an array that is no memory, too. */
export interface Vector {
  readonly kind: 'vector';
  readonly name: string;
  readonly path: string;
  readonly at: Place;
  readonly width: number;
  readonly signed: boolean;
  readonly shape: Shape;
  readonly net: 'wire' | 'reg' | 'integer';
  readonly resolution: Resolution;
  readonly keep: boolean;
  readonly direction: Direction | null;
  /** Of a net: what its drivers take to change it. */
  readonly delay: Delay | null;
  /** Of a variable: its value before anything runs. */
  readonly initial: Initial | null;
  /** Lives only inside a function call or a block: has no place in the hierarchy. */
  readonly temporary: boolean;
}

export interface Initial {
  readonly value: Expression;
  readonly scope: Scope;
}

export interface MemoryArray {
  readonly kind: 'memory';
  readonly name: string;
  readonly path: string;
  readonly at: Place;
  readonly width: number;
  readonly shape: Shape;
  /** Bounds of the ranges behind the name, in the order written. */
  readonly dimensions: readonly { readonly left: number; readonly right: number }[];
  /** Words in all. */
  readonly depth: number;
  readonly initial: Initial | null;
}

export type FunctionItem = Extract<Item, { kind: 'function' }>;

export type TaskItem = Extract<Item, { kind: 'task' }>;

export type Entity =
  | Vector
  | MemoryArray
  | { readonly kind: 'constant'; readonly constant: Constant }
  | { readonly kind: 'function'; readonly item: FunctionItem; readonly scope: Scope }
  | { readonly kind: 'task'; readonly item: TaskItem; readonly scope: Scope }
  | { readonly kind: 'type'; readonly shape: Shape }
  | { readonly kind: 'block'; readonly scope: Scope }
  | { readonly kind: 'blocks'; readonly scopes: ReadonlyMap<number, Scope> };

/**
 * Names of one module instance, generate block or call; looks outward through generate blocks and into imported
 * packages, never into another instance.
 */
export class Scope {
  readonly path: string;
  readonly parent: Scope | null;
  readonly names = new Map<string, Entity>();
  /** Packages whose names are all imported here. */
  readonly imports: Scope[] = [];
  /** Of a module's own scope: the module and the scope its instance stands in, null for the top. */
  readonly module: { readonly name: string; readonly within: Scope | null } | null;
  /** Generate constructs met so far; unnamed blocks are named by it. @source IEEE 1364-2005, clause 12.4.3 */
  constructs = 0;

  constructor(path: string, parent: Scope | null, module: Scope['module'] = null) {
    this.path = path;
    this.parent = parent;
    this.module = module;
  }

  find(name: string): Entity | null {
    const own = this.names.get(name);
    if (own) return own;
    for (const scope of this.imports) {
      const imported = scope.names.get(name);
      if (imported) return imported;
    }
    return this.parent?.find(name) ?? null;
  }

  /**
   * A block, an instance or a module further up, which the first part of a hierarchical name may be.
   *
   * @source IEEE 1364-2005, clause 12.5
   */
  findUpwards(name: string): Entity | null {
    for (let scope: Scope | null = this; scope; scope = scope.module ? scope.module.within : scope.parent) {
      const own = scope.names.get(name);
      if (own && own.kind !== 'constant') return own;
      if (scope.module?.name === name) return { kind: 'block', scope };
      if (scope.module && scope.module.within === null && scope.path === name) return { kind: 'block', scope };
    }
    return null;
  }

  /** The nearest function of that name: inside a function its own name is also that of its result. */
  findFunction(name: string): (Entity & { kind: 'function' }) | null {
    for (let scope: Scope | null = this; scope; scope = scope.parent) {
      for (const names of [scope.names, ...scope.imports.map((imported) => imported.names)]) {
        const found = names.get(name);
        if (found?.kind === 'function') return found;
      }
    }
    return null;
  }

  declare(name: string, entity: Entity, at: Place): void {
    if (this.names.has(name)) throw new GiveUp('declared-twice', at, `"${name}" is declared twice here.`);
    this.names.set(name, entity);
  }
}

/** One module instance of the elaborated design; `path` is its full name, `children` its instances. */
export interface HierarchyNode {
  readonly path: string;
  readonly name: string;
  readonly module: string;
  readonly file: string;
  readonly line: number;
  readonly children: readonly HierarchyNode[];
}

/** What something in a module does, with the scope its names are looked up in. */
export type Behaviour =
  | { readonly kind: 'item'; readonly item: BehaviourItem; readonly scope: Scope }
  | {
      readonly kind: 'instances';
      readonly item: InstanceItem;
      readonly scope: Scope;
      readonly made: readonly Elaborated[];
    }
  | {
      readonly kind: 'primitives';
      readonly item: InstanceItem;
      readonly scope: Scope;
      readonly primitive: Primitive;
      readonly count: number;
    };

export type InstanceItem = Extract<Item, { kind: 'instance' }>;
export type BehaviourItem = Extract<Item, { kind: 'assign' | 'always' | 'initial' | 'gate' }>;

/** One instance of a module with all that is in it. */
export interface Elaborated {
  readonly path: string;
  readonly name: string;
  readonly module: Module;
  readonly scope: Scope;
  /** In the order of the source. */
  readonly behaviours: readonly Behaviour[];
}

/** What all parts of one elaboration share. */
export interface Names {
  readonly messages: Messages;
  /** Modules that are there but have errors of their own. */
  readonly broken: ReadonlySet<string>;
  readonly vectors: Vector[];
  readonly memories: MemoryArray[];
  readonly packages: Map<string, Scope>;
  /** Names declared outside any module. */
  readonly unit: Scope;
  /** Values that `defparam` gives, by the full path of the parameter. */
  readonly defparams: Map<string, { readonly constant: Constant; readonly at: Place; used: boolean }>;
  /** Statements carried out, turns of loops and instances made so far. */
  readonly work: { done: number };
  readonly readData: (name: string, from: string) => string | null;
}

/** What is needed to say what a name or an expression means. */
export interface NameContext {
  readonly shared: Names;
  readonly scope: Scope;
  /** The value of an expression that must be known now. */
  readonly constant: (expression: Expression) => Constant;
  /** The same where another scope's names hold. */
  readonly inScope: (scope: Scope) => NameContext;
}

export const constantNumber = (expression: Expression, context: NameContext): number => {
  const { value, width, signed, real } = context.constant(expression);
  if (real !== undefined) return Math.round(real);
  return Number(signed ? BigInt.asIntN(width, value) : value);
};

/** Three steps for each word of the largest memory that a loop may fill. */
const MOST_WORK = 200_000;

/** Counts more work, and stops a design that grows beyond all bounds. */
export function countWork({ work }: Names, at: Place, steps = 1): void {
  work.done += steps;
  if (work.done > MOST_WORK)
    throw new GiveUp(
      'too-large',
      at,
      `Reading the design took more than ${MOST_WORK} steps; a loop or a parameter is probably far too large.`,
    );
}
