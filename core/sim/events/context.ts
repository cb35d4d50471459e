import {
  entityOf,
  type Evaluation,
  evaluationIn,
  type Expression,
  functionOf,
  type FunctionItem,
  GiveUp,
  isPart,
  type MemoryArray,
  type Names,
  type Part,
  partShape,
  type Scope,
  type Shape,
  type TaskItem,
  type Vector,
} from '../../hdl/index.ts';
import type { Code } from './code.ts';
import type { Cell, Objects } from './objects.ts';

/** What a variable of an automatic function or task is in the code: JavaScript's own variables. */
export interface LocalPlace {
  readonly cell: Cell;
  readonly v: string;
  readonly x: string;
}

/** A function or a task in the generated code. */
export interface Routine {
  readonly name: string;
  /** Takes time: it is called as a generator. */
  readonly isTimed: boolean;
  readonly reads: ReadonlySet<number>;
  readonly soiled: ReadonlySet<number>;
}

/** What the code of one simulation shares while it is put together. */
export interface Shared {
  readonly names: Names;
  readonly objects: Objects;
  /** Objects that `force` or a procedural `assign` may hold. */
  readonly held: ReadonlySet<number>;
  /** Values handed to the code by number: formats, places, tables. */
  readonly constants: unknown[];
  /** A function `(word) => void` that writes to a target. */
  readonly store: (target: Expression, context: Context) => string;
  readonly routine: (item: FunctionItem | TaskItem, scope: Scope) => Routine;
  /** Ticks of the finest precision in a unit of time of the module that a scope stands in, and its precision. */
  readonly timeOf: (scope: Scope) => { readonly unit: number; readonly precision: number };
}

/** Where code is put together: which names hold, and what they are. */
export interface Context {
  readonly shared: Shared;
  readonly evaluation: Evaluation;
  readonly code: Code;
  readonly locals: ReadonlyMap<Vector, LocalPlace>;
  /** Objects whose change changes what was generated; null where nobody asks. */
  readonly reads: Set<number> | null;
  /** Objects that hold nothing unknown wherever this code begins to run, and are not soiled by it. */
  readonly known: ReadonlySet<number> | null;
  /** Objects that may hold something unknown once this code has written to them; null where nobody asks. */
  readonly soiled: Set<number> | null;
}

/** Among the soiled: nothing is known of what the code writes. */
export const ANYTHING = -1;

export const contextIn = (
  shared: Shared,
  scope: Scope,
  code: Code,
  more: Partial<Pick<Context, 'locals' | 'reads' | 'known' | 'soiled'>> = {},
): Context => ({
  shared,
  evaluation: evaluationIn(shared.names, scope),
  code,
  locals: more.locals ?? new Map(),
  reads: more.reads ?? null,
  known: more.known ?? null,
  soiled: more.soiled ?? null,
});

export const inScope = (context: Context, scope: Scope): Context => ({
  ...context,
  evaluation: evaluationIn(context.shared.names, scope),
});

/** A declared object, the indexes that choose one of its words, and the parts of that word, from outside in. */
export interface Reference {
  readonly thing: Vector | MemoryArray;
  readonly cell: Cell;
  readonly local: LocalPlace | null;
  readonly indexes: readonly Expression[];
  readonly parts: readonly Part[];
}

/** What a name or a part of one refers to; null for other expressions and for constants. */
export function referenceOf(expression: Expression, context: Context): Reference | null {
  const steps: Part[] = [];
  let at: Expression = expression;
  for (;;) {
    const entity = entityOf(at, context.evaluation);
    if (entity?.kind === 'vector' || entity?.kind === 'memory') {
      const local = entity.kind === 'vector' ? (context.locals.get(entity) ?? null) : null;
      const cell = local?.cell ?? context.shared.objects.of(entity);
      return divided(entity, cell, local, steps);
    }
    if (entity || !isPart(at)) return null;
    steps.unshift(at);
    at = at.base;
  }
}

function divided(thing: Reference['thing'], cell: Cell, local: LocalPlace | null, steps: readonly Part[]): Reference {
  const indexes: Expression[] = [];
  for (const step of steps) {
    if (indexes.length >= cell.dimensions.length) break;
    if (step.kind !== 'index')
      throw new GiveUp('not-taken', step.at, 'Of an array one word is taken at a time: a range of words is not taken.');
    indexes.push(step.index);
  }
  return { thing, cell, local, indexes, parts: steps.slice(indexes.length) };
}

/** Refuses a whole array, or a row of one, where a word is wanted. */
export function wordOf(reference: Reference, at: Expression['at']): Reference {
  if (reference.indexes.length < reference.cell.dimensions.length)
    throw new GiveUp('whole-array', at, 'This is an array, not a number: choose one element, as in name[index].');
  return reference;
}

/** The shape of the innermost part. */
export const innerShape = ({ cell, parts }: Reference, context: Context): Shape =>
  parts.reduce((shape, part) => partShape(part, shape, context.evaluation), cell.shape);

export const calledFunction = (expression: Expression & { kind: 'call' }, context: Context) =>
  functionOf(expression, context.evaluation);
