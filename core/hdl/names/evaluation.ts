import type { Expression } from '../read/index.ts';
import type { Part } from './expression-type.ts';
import type { Word } from './four-state.ts';
import type { NameContext, Scope, Vector } from './scope.ts';
import type { Shape } from './shape.ts';

/** The value a variable has at this point, where that is known: a loop's counter, a local of a constant function. */
export type Known = (vector: Vector) => Word | null;

/** A place where constant expressions are worked out; `depth` counts the calls of constant functions it stands in. */
export interface Evaluation extends NameContext {
  readonly known: Known;
  readonly depth: number;
  /** The right side of an assignment to something of a shape. */
  readonly assigned: (expression: Expression, shape: Shape) => Word;
  /** The lowest bit of a part in a word of a shape; null where its index is unknown. */
  readonly lowOf: (part: Part, shape: Shape) => number | null;
  /** The same in another scope, as a called function sees it. */
  readonly within: (scope: Scope, known: Known, depth: number) => Evaluation;
}
