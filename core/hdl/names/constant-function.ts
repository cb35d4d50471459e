import { item } from '../../lists.ts';
import { counted } from '../../words.ts';
import type { Expression, Item, Statement } from '../read/index.ts';
import { GiveUp } from '../read/index.ts';
import type { Evaluation } from './evaluation.ts';
import { functionShape, isPart, type Part, partShape } from './expression-type.ts';
import * as four from './four-state.ts';
import type { Word } from './four-state.ts';
import { declareLocals, localVector } from './locals.ts';
import { entityOf } from './lookup.ts';
import { constantNumber, countWork, type FunctionItem, Scope, type Vector } from './scope.ts';
import type { Shape } from './shape.ts';

const DEEPEST_CALL = 1000;
const MOST_TURNS = 1 << 16;

type Kind<K extends Statement['kind']> = Statement & { readonly kind: K };

/**
 * Calls a function whose arguments are all known, as in the range of a declaration.
 *
 * @source IEEE 1364-2005, clause 10.4.5, constant functions
 */
export function runFunction(
  routine: FunctionItem,
  scope: Scope,
  values: readonly Expression[],
  caller: Evaluation,
): Word {
  if (caller.depth >= DEEPEST_CALL)
    throw new GiveUp('recursion', routine.at, `The function "${routine.name}" calls itself without an end.`);
  const shape = functionShape(routine, scope, caller);
  return new Run(routine, scope, shape, caller).run(values);
}

/** Why a statement ends before its end: what is to be left. */
type Leaving = 'return' | 'break' | 'continue' | { readonly block: string } | null;

/** One call: its locals, and what they hold. */
class Run {
  readonly #held = new Map<Vector, Word>();
  readonly #routine: FunctionItem;
  readonly #caller: Evaluation;
  readonly #result: Vector;
  #context: Evaluation;

  constructor(routine: FunctionItem, scope: Scope, shape: Shape, caller: Evaluation) {
    this.#routine = routine;
    this.#caller = caller;
    const local = new Scope(scope.path, scope);
    this.#context = caller.within(local, (vector) => this.#held.get(vector) ?? null, caller.depth + 1);
    this.#declare(routine.items);
    this.#result = localVector(local, routine.name, routine.at, shape);
    local.names.set(routine.name, this.#result);
    this.#hold(this.#result, four.allUnknown(shape.width));
  }

  run(values: readonly Expression[]): Word {
    const ports = [...this.#held.keys()].filter(({ direction }) => direction !== null);
    if (ports.length !== values.length)
      throw new GiveUp(
        'arguments',
        this.#routine.at,
        `The function "${this.#routine.name}" takes ${counted(ports.length, 'argument')}, ${values.length} are given.`,
      );
    for (const [i, port] of ports.entries()) this.#hold(port, this.#caller.assigned(item(values, i), port.shape));
    this.#statement(this.#routine.body);
    return this.#held.get(this.#result) ?? four.allUnknown(this.#result.width);
  }

  #hold(vector: Vector, word: Word): void {
    const plain = vector.shape.twoState ? four.known(word.v & ~word.x) : word;
    this.#held.set(vector, plain);
  }

  #declare(items: readonly Item[]): void {
    for (const { vector, value } of declareLocals(this.#context.scope, items, this.#context)) {
      if (vector.shape.special)
        throw new GiveUp('not-constant', vector.at, 'A function that is worked out beforehand holds words only.');
      this.#hold(vector, value ? this.#context.assigned(value, vector.shape) : four.allUnknown(vector.width));
    }
  }

  #isTrue(condition: Expression): boolean {
    const { value, unknown, real } = this.#context.constant(condition);
    return real !== undefined ? real !== 0 : four.isTrue({ v: value, x: unknown });
  }

  #statement(statement: Statement): Leaving {
    countWork(this.#context.shared, statement.at);
    switch (statement.kind) {
      case 'empty':
        return null;
      case 'block':
        return this.#block(statement);
      case 'assign':
        this.#assign(statement.target, statement.value);
        return null;
      case 'if':
        if (this.#isTrue(statement.condition)) return this.#statement(statement.then);
        return statement.otherwise ? this.#statement(statement.otherwise) : null;
      case 'case':
        return this.#case(statement);
      case 'for':
      case 'while':
      case 'repeat':
      case 'forever':
        return this.#loop(statement);
      case 'leave':
        return this.#leave(statement);
      case 'call':
        if (statement.name.startsWith('$')) return null;
        break;
      default:
    }
    throw new GiveUp(
      'not-constant',
      statement.at,
      'A function whose value must be known beforehand holds assignments, choices and loops only.',
    );
  }

  #block(block: Kind<'block'>): Leaving {
    const outer = this.#context;
    if (block.declarations.length > 0) {
      this.#context = outer.within(new Scope(outer.scope.path, outer.scope), outer.known, outer.depth);
      this.#declare(block.declarations);
    }
    let left: Leaving = null;
    for (const statement of block.body) {
      left = this.#statement(statement);
      if (left !== null) break;
    }
    this.#context = outer;
    return typeof left === 'object' && left !== null && left.block === block.name ? null : left;
  }

  #leave({ what, block, value }: Kind<'leave'>): Leaving {
    if (value) this.#hold(this.#result, this.#context.assigned(value, this.#result.shape));
    if (what !== 'disable') return what;
    const name = block?.kind === 'name' ? block.name : '';
    return name === this.#routine.name ? 'return' : { block: name };
  }

  #loop(loop: Kind<'for' | 'while' | 'repeat' | 'forever'>): Leaving {
    const outer = this.#context;
    if (loop.kind === 'for' && loop.local) {
      this.#context = outer.within(new Scope(outer.scope.path, outer.scope), outer.known, outer.depth);
      this.#declare([loop.local]);
    }
    const left = this.#turns(loop);
    this.#context = outer;
    return left;
  }

  #turns(loop: Kind<'for' | 'while' | 'repeat' | 'forever'>): Leaving {
    if (loop.kind === 'for' && loop.first) this.#statement(loop.first);
    const times = loop.kind === 'repeat' ? constantNumber(loop.count, this.#context) : Number.POSITIVE_INFINITY;
    for (let turns = 0; turns < times; turns++) {
      if (turns > MOST_TURNS)
        throw new GiveUp('endless-loop', loop.at, `This loop has not ended after ${MOST_TURNS} turns.`);
      const first = loop.kind === 'while' && loop.bodyFirst && turns === 0;
      if ('condition' in loop && !first && !this.#isTrue(loop.condition)) return null;
      const left = this.#statement(loop.body);
      if (left === 'break') return null;
      if (left !== null && left !== 'continue') return left;
      if (loop.kind === 'for') this.#statement(loop.step);
    }
    return null;
  }

  #case({ subject, arms, otherwise, wild, at }: Kind<'case'>): Leaving {
    if (wild === 'inside') throw new GiveUp('not-constant', at, 'Write the choice with "if" here.');
    const labels = arms.flatMap((arm) => arm.labels);
    const all = [subject, ...labels].map((one) => this.#context.constant(one));
    const width = Math.max(...all.map((one) => one.width));
    const signed = all.every((one) => one.signed);
    const sized = (expression: Expression) => {
      const one = this.#context.constant(expression);
      return four.resize({ v: one.value, x: one.unknown }, one.width, width, signed && one.signed);
    };
    const value = sized(subject);
    for (const arm of arms)
      if (arm.labels.some((label) => four.fitsLabel(value, sized(label), wild))) return this.#statement(arm.body);
    return otherwise ? this.#statement(otherwise) : null;
  }

  #assign(target: Expression, value: Expression): void {
    if (target.kind !== 'concatenation') {
      const { shape } = this.#place(target);
      this.#put(target, this.#context.assigned(value, shape));
      return;
    }
    const shapes = target.parts.map((part) => this.#place(part).shape);
    const width = shapes.reduce((sum, shape) => sum + shape.width, 0);
    const whole = this.#context.assigned(value, {
      ...item(shapes, 0),
      width,
      fields: null,
      element: null,
      signed: false,
    });
    let lo = width;
    for (const [i, part] of target.parts.entries()) {
      lo -= item(shapes, i).width;
      this.#put(part, four.slice(whole, width, lo, item(shapes, i).width));
    }
  }

  /** What a target names: a local, the parts of it from outside in, and the shape of the innermost. */
  #place(target: Expression): { vector: Vector; parts: Part[]; shape: Shape } {
    const parts: Part[] = [];
    let at = target;
    for (;;) {
      const entity = entityOf(at, this.#context);
      if (entity?.kind === 'vector' && this.#held.has(entity)) {
        const shape = parts.reduce((inner, part) => partShape(part, inner, this.#context), entity.shape);
        return { vector: entity, parts, shape };
      }
      if (!isPart(at))
        throw new GiveUp(
          'not-constant',
          target.at,
          'A function whose value must be known beforehand assigns to its own variables only.',
        );
      parts.unshift(at);
      at = at.base;
    }
  }

  #put(target: Expression, word: Word): void {
    const { vector, parts, shape } = this.#place(target);
    let lo = 0;
    let around = vector.shape;
    for (const part of parts) {
      const inner = this.#context.lowOf(part, around);
      if (inner === null) return;
      lo += inner;
      around = partShape(part, around, this.#context);
    }
    const now = this.#held.get(vector) ?? four.allUnknown(vector.width);
    this.#hold(vector, parts.length === 0 ? word : four.splice(now, vector.width, lo, word, shape.width));
  }
}
