import { item } from '../../lists.ts';
import type { NodeId } from '../../netlist/index.ts';
import type { Place } from '../../result.ts';
import { counted } from '../../words.ts';
import {
  constantNumber,
  declareLocals,
  localVector,
  entityOf,
  four,
  type FunctionItem,
  functionShape,
  lookup,
  type MemoryArray,
  readWords,
  Scope,
  type Shape,
  shapeOf,
  type TaskItem,
  type Type,
  type Vector,
  type Evaluation,
  evaluationIn,
  type Word,
} from '../names/index.ts';
import { type Expression, GiveUp, type Item, type Statement } from '../read/index.ts';
import { labelTests, nameLabels, reportOpenCase, someArmAlwaysFits } from './case-labels.ts';
import { emitAssigned, emitCondition, type ExpressionContext } from './expressions.ts';
import { muxBits } from './mux-bits.ts';
import { emitPattern } from './pattern.ts';
import { emitPart, wordAddress } from './select.ts';
import { countWork, type Shared, netOf, memoryIndex } from './shared.ts';
import { targetOf, targetShape, updated } from './update.ts';

interface MemoryStore {
  readonly memory: MemoryArray;
  readonly condition: NodeId;
  readonly address: NodeId;
  readonly data: NodeId;
  /**
   * A wire that stands in `data` for the bits of the word that this store leaves as they are; null where it writes the
   * whole word.
   */
  readonly base: NodeId | null;
  readonly blocking: boolean;
  readonly at: Place;
}

/** `return`, `break`, `continue`, or `disable` and the name of a block around. */
type Leaving = string;

/** What a run of statements has assigned so far on one path, and what makes it leave a loop or a function early. */
interface Frame {
  readonly blocking: Map<Vector, NodeId>;
  readonly pending: Map<Vector, NodeId>;
  readonly condition: NodeId;
  readonly left: Readonly<Record<Leaving, NodeId>>;
}

export interface Executed {
  /** Final value of every vector assigned. Bits no path assigned are exactly the vector's `hold` node. */
  readonly values: ReadonlyMap<Vector, NodeId>;
  /** For each vector assigned: the node that stands for "keeps its value". */
  readonly holds: ReadonlyMap<Vector, NodeId>;
  readonly stores: readonly MemoryStore[];
}

/** More than any part has room for. */
const MOST_TURNS = 1 << 15;
/** Turns of a loop that gives a memory its contents. */
export const MOST_FILLED = 1 << 16;
const DEEPEST_CALL = 64;
const DELAY = 'The delay has no hardware and is passed over when this is built.';
const NO_HARDWARE = {
  events: 'Waiting for an event inside a block',
  wait: '"wait"',
  forever: '"forever"',
  fork: '"fork"',
  trigger: 'An event',
  hold: '"force" and "assign" in a block',
  'let-go': '"release" and "deassign"',
};

/**
 * Runs statements symbolically: both sides of every choice are followed and their results joined by a two-way choice,
 * loops are unrolled. What comes out is one expression for each vector.
 */
export class Procedure {
  readonly #shared: Shared;
  readonly #holds = new Map<Vector, NodeId>();
  readonly #stores: MemoryStore[] = [];
  #scope: Scope;
  #frame: Frame;
  #evaluation: Evaluation | null = null;
  #depth: number;
  /** Where `return` puts its value; null outside functions. */
  #result: Vector | null = null;
  #mostTurns = MOST_TURNS;

  constructor(shared: Shared, scope: Scope, depth = 0) {
    this.#shared = shared;
    this.#scope = scope;
    this.#depth = depth;
    this.#frame = { blocking: new Map(), pending: new Map(), condition: shared.build.constant(1n, 1), left: {} };
  }

  run(statement: Statement, mostTurns = MOST_TURNS): Executed {
    this.#mostTurns = mostTurns;
    this.#statement(statement);
    const values = new Map([...this.#frame.blocking, ...this.#frame.pending]);
    return { values, holds: this.#holds, stores: this.#stores };
  }

  get context(): ExpressionContext {
    return this.#contextIn(this.#scope);
  }

  #contextIn(scope: Scope): ExpressionContext {
    return {
      shared: this.#shared,
      scope,
      constant: this.#constants(scope),
      inScope: (inner) => this.#contextIn(inner),
      read: (vector) => this.#frame.blocking.get(vector) ?? netOf(this.#shared, vector).wire,
      readWord: (memory, address) => this.#readWord(memory, address, true),
      part: emitPart,
      pattern: emitPattern,
      call: (item, from, values, outer) => this.#call(item, from, values, outer),
    };
  }

  #constants(scope: Scope): ExpressionContext['constant'] {
    if (this.#evaluation?.scope !== scope)
      this.#evaluation = evaluationIn(this.#shared, scope, (vector) => this.#known(vector));
    return this.#evaluation.constant;
  }

  /** What a variable is known to hold here, such as the counter of a loop. */
  #known(vector: Vector): Word | null {
    const node = this.#frame.blocking.get(vector);
    const value = node === undefined ? null : this.#shared.build.constantOf(node);
    return value === null ? null : { v: value, x: 0n };
  }

  #hold(vector: Vector): NodeId {
    let hold = this.#holds.get(vector);
    if (hold === undefined) {
      hold = this.#shared.build.wire(`${vector.path} (kept)`, vector.width);
      this.#holds.set(vector, hold);
    }
    return hold;
  }

  /** Statements behind a `return`, `break`, `continue` or `disable` run only where it was not reached. */
  #statement(statement: Statement): void {
    const gone = this.#gone();
    const known = this.#shared.build.constantOf(gone);
    if (known === 1n) return;
    if (known === 0n) this.#reached(statement);
    else
      this.#choose(
        gone,
        () => {},
        () => this.#reached(statement),
      );
  }

  #gone(): NodeId {
    const { build } = this.#shared;
    return Object.values(this.#frame.left).reduce((any, one) => build.or(any, one), build.constant(0n, 1));
  }

  #reached(statement: Statement): void {
    const { build } = this.#shared;
    countWork(this.#shared, statement.at);
    const { file, line } = statement.at;
    if (build.origin && (build.origin.line !== line || build.origin.file !== file))
      build.origin = { ...build.origin, file, line };
    switch (statement.kind) {
      case 'empty':
        return;
      case 'block':
        return this.#block(statement);
      case 'assign':
        if (statement.timing?.kind === 'events')
          throw new GiveUp(
            'delay',
            statement.at,
            'Waiting for an event inside an assignment has no hardware. Use a clocked counter to wait.',
          );
        if (statement.timing) this.#shared.messages.warning('delay', statement.at, DELAY);
        return this.#store(statement.target, statement.value, statement.blocking);
      case 'if': {
        const condition = emitCondition(statement.condition, this.context);
        return this.#choose(
          condition,
          () => this.#statement(statement.then),
          () => statement.otherwise && this.#statement(statement.otherwise),
        );
      }
      case 'case':
        return this.#case(statement);
      case 'for':
        return this.#for(statement);
      case 'while':
        return this.#loop(statement.condition, statement.body, null, statement.bodyFirst);
      case 'repeat': {
        const turns = constantNumber(statement.count, this.context);
        if (turns > this.#mostTurns) throw tooManyTurns(statement.at, this.#mostTurns);
        this.#leavable('break', () => {
          for (let i = 0; i < turns; i++) this.#leavable('continue', () => this.#statement(statement.body));
        });
        return;
      }
      case 'leave':
        return this.#leave(statement);
      case 'call':
        return statement.name.startsWith('$') ? this.#systemCall(statement) : this.#task(statement);
      case 'delay':
        this.#shared.messages.warning('delay', statement.at, DELAY);
        return this.#statement(statement.body);
      case 'foreach':
        return this.#foreach(statement);
      case 'assert':
        return;
      default:
        throw new GiveUp(
          'not-synthesizable',
          statement.at,
          `${NO_HARDWARE[statement.kind]} belongs in a simulation and cannot become hardware. Mark the file as one for ` +
            'simulation only, or leave this out.',
        );
    }
  }

  #block(block: Statement & { kind: 'block' }): void {
    const outer = this.#scope;
    if (block.declarations.length > 0) {
      this.#scope = new Scope(outer.path, outer);
      this.#declare(block.declarations);
    }
    const run = () => {
      for (const statement of block.body) this.#statement(statement);
    };
    if (block.name === null) run();
    else this.#leavable(`disable ${block.name}`, run);
    this.#scope = outer;
  }

  #declare(items: readonly Item[]): void {
    for (const { vector, value } of declareLocals(this.#scope, items, this.context))
      if (value) this.#frame.blocking.set(vector, emitAssigned(value, vector.shape, this.context));
  }

  #for(statement: Statement & { kind: 'for' }): void {
    const outer = this.#scope;
    if (statement.local) {
      this.#scope = new Scope(outer.path, outer);
      this.#declare([statement.local]);
    }
    if (statement.first) this.#statement(statement.first);
    this.#loop(statement.condition, statement.body, statement.step, false);
    this.#scope = outer;
  }

  /** A turn for each index of an array, from the left bounds on; the variables are constants in it. */
  #foreach({ array, variables, body }: Statement & { kind: 'foreach' }): void {
    const entity = entityOf(array, this.context);
    const ranges =
      entity?.kind === 'memory' ? entity.dimensions : rangesOf(shapeOf(array, this.context), variables.length);
    const outer = this.#scope;
    const turn = (level: number): void => {
      const range = ranges[level];
      if (level >= variables.length || !range) return this.#statement(body);
      const name = variables[level];
      const step = range.left > range.right ? -1 : 1;
      for (let index = range.left; index !== range.right + step; index += step) {
        countWork(this.#shared, body.at);
        const inner: Scope = new Scope(this.#scope.path, this.#scope);
        const constant = { value: BigInt.asUintN(32, BigInt(index)), unknown: 0n, width: 32, signed: true };
        if (name) inner.names.set(name, { kind: 'constant', constant });
        const before = this.#scope;
        this.#scope = inner;
        this.#leavable('continue', () => turn(level + 1));
        this.#scope = before;
      }
    };
    this.#leavable('break', () => turn(0));
    this.#scope = outer;
  }

  #loop(condition: Expression, body: Statement, step: Statement | null, bodyFirst: boolean): void {
    const { build } = this.#shared;
    const isLeft = canLeave(body);
    if (this.#shared.endless.has(condition)) throw tooManyTurns(condition.at, this.#mostTurns);
    this.#leavable('break', () => {
      for (let turns = 0; ; turns++) {
        if (turns > 0 || !bodyFirst) {
          const goOn = build.constantOf(emitCondition(condition, this.context));
          if (goOn === null)
            throw new GiveUp(
              'loop-not-constant',
              condition.at,
              'How often this loop runs depends on a signal; hardware needs a number known when it is built. ' +
                'Count to a fixed bound and leave early with "break".',
            );
          if (goOn === 0n) return;
        }
        if (turns >= this.#mostTurns) {
          this.#shared.endless.add(condition);
          throw tooManyTurns(condition.at, this.#mostTurns);
        }
        if (isLeft) {
          this.#leavable('continue', () => this.#statement(body));
          if (build.constantOf(this.#gone()) === 1n) return;
        } else this.#statement(body);
        // The counter goes on even on paths that have left, so that it stays a known number.
        if (step) this.#reached(step);
      }
    });
  }

  /** Runs work that `what` leaves, and forgets afterwards that it did. */
  #leavable(what: Leaving, work: () => void): void {
    const outer = this.#frame.left[what];
    const no = this.#shared.build.constant(0n, 1);
    this.#frame = { ...this.#frame, left: { ...this.#frame.left, [what]: outer ?? no } };
    work();
    const { [what]: _, ...others } = this.#frame.left;
    this.#frame = { ...this.#frame, left: outer === undefined ? others : { ...others, [what]: outer } };
  }

  #leave({ what, block: named, value, at }: Statement & { kind: 'leave' }): void {
    const block = named === null ? null : named.kind === 'name' ? named.name : '';
    const leaving = block === null ? what : `disable ${block}`;
    if (!(leaving in this.#frame.left))
      throw block === null
        ? new GiveUp('leave', at, `"${what}" stands in no ${what === 'return' ? 'function or task' : 'loop'}.`)
        : new GiveUp(
            'leave',
            at,
            `"disable ${block}" stands in no block of that name; other blocks cannot be left from here. Name the ` +
              `block around with "begin : ${block}".`,
          );
    if (value) {
      if (!this.#result) throw new GiveUp('return', at, '"return" with a value belongs in a function.');
      this.#frame.blocking.set(this.#result, emitAssigned(value, this.#result.shape, this.context));
    }
    this.#frame = { ...this.#frame, left: { ...this.#frame.left, [leaving]: this.#shared.build.constant(1n, 1) } };
  }

  #choose(condition: NodeId, then: () => void, otherwise: () => void): void {
    const { build } = this.#shared;
    const known = build.constantOf(condition);
    if (known !== null) return known === 1n ? then() : otherwise();
    const before = this.#frame;
    const afterThen = this.#branch(before, build.and(before.condition, condition), then);
    const no = build.not(condition);
    const afterOther = this.#branch(before, build.and(before.condition, no), otherwise);
    this.#frame = this.#join(before, condition, afterThen, afterOther);
  }

  /** What a way from `before` on leads to. */
  #branch(before: Frame, condition: NodeId, work: () => void): Frame {
    this.#frame = { ...before, blocking: new Map(before.blocking), pending: new Map(before.pending), condition };
    work();
    return this.#frame;
  }

  /** Two ways that began at `before` come together; the first one is taken where the condition holds. */
  #join(before: Frame, condition: NodeId, then: Frame, otherwise: Frame): Frame {
    const { build } = this.#shared;
    const both = (a: Map<Vector, NodeId>, b: Map<Vector, NodeId>): Map<Vector, NodeId> => {
      const out = new Map<Vector, NodeId>();
      for (const vector of new Set([...a.keys(), ...b.keys()])) {
        const x = a.get(vector) ?? this.#hold(vector);
        const y = b.get(vector) ?? this.#hold(vector);
        out.set(vector, muxBits(this.#shared, condition, x, y));
      }
      return out;
    };
    const left = Object.entries(before.left).map(
      ([what, no]) => [what, build.mux(condition, then.left[what] ?? no, otherwise.left[what] ?? no)] as const,
    );
    return {
      blocking: both(then.blocking, otherwise.blocking),
      pending: both(then.pending, otherwise.pending),
      condition: before.condition,
      left: Object.fromEntries(left),
    };
  }

  /** One arm after another, not one inside the other: a table may have more of them than the call stack is deep. */
  #case(statement: Statement & { kind: 'case' }): void {
    const { context } = this;
    const { build } = this.#shared;
    nameLabels(statement, context);
    const tests = labelTests(statement, context);
    const full = statement.otherwise === null && someArmAlwaysFits(statement, context);
    if (statement.otherwise === null && !full && statement.promise !== 'unique0') reportOpenCase(statement, context);
    const before = this.#frame;
    const ways: { readonly test: NodeId; readonly after: Frame }[] = [];
    let rest = before.condition;
    let last = statement.otherwise;
    for (const [i, { body }] of statement.arms.entries()) {
      const test = item(tests, i);
      const known = build.constantOf(test);
      if (known === 0n && !(full && i === statement.arms.length - 1)) continue;
      if (known === 1n || (full && i === statement.arms.length - 1)) {
        last = body;
        break;
      }
      ways.push({ test, after: this.#branch(before, build.and(rest, test), () => this.#statement(body)) });
      rest = build.and(rest, build.not(test));
    }
    const other = last;
    let frame = this.#branch(before, rest, () => other && this.#statement(other));
    for (const { test, after } of ways.reverse()) frame = this.#join(before, test, after, frame);
    this.#frame = { ...frame, condition: before.condition };
  }

  #store(target: Expression, value: Expression, blocking: boolean): void {
    const { context } = this;
    if (target.kind !== 'concatenation') {
      const shape = targetShape(targetOf(target, context), context);
      return this.#put(target, emitAssigned(value, shape, context), blocking);
    }
    const width = widthOfTarget(target, context);
    this.#put(
      target,
      emitAssigned(
        value,
        { width, signed: false, left: width - 1, right: 0, element: null, fields: null, names: null },
        context,
      ),
      blocking,
    );
  }

  #put(target: Expression, value: NodeId, blocking: boolean): void {
    const { build } = this.#shared;
    const { context } = this;
    if (target.kind === 'concatenation') {
      let at = 0;
      for (const part of [...target.parts].reverse()) {
        const width = widthOfTarget(part, context);
        this.#put(part, build.slice(value, at, width), blocking);
        at += width;
      }
      return;
    }
    const { root, parts } = targetOf(target, context);
    if ('memory' in root) {
      const address = wordAddress(root, context);
      const { shape } = root.memory;
      const base =
        parts.length === 0
          ? null
          : build.wire(
              '',
              shape.width,
              build.memoryRead(memoryIndex(this.#shared, root.memory), root.memory.width, address),
            );
      const data =
        base === null
          ? build.resize(value, shape.width, false)
          : updated(this.#readWord(root.memory, address, false, base), shape, parts, value, context);
      this.#stores.push({
        memory: root.memory,
        condition: this.#frame.condition,
        address,
        data,
        base,
        blocking,
        at: target.at,
      });
      return;
    }
    const assigned = blocking ? this.#frame.blocking : this.#frame.pending;
    assigned.set(
      root,
      parts.length === 0
        ? build.resize(value, root.width, false)
        : updated(assigned.get(root) ?? this.#hold(root), root.shape, parts, value, context),
    );
  }

  /** A word as this block sees it: what it has stored itself comes before what the memory holds. */
  #readWord(memory: MemoryArray, address: NodeId, blockingOnly: boolean, held: NodeId | null = null): NodeId {
    const { build } = this.#shared;
    return this.#stores.reduce(
      (word, store) => {
        if (store.memory !== memory || (blockingOnly && !store.blocking)) return word;
        const width = Math.max(build.width(address), build.width(store.address));
        const same = build.eq(build.resize(address, width, false), build.resize(store.address, width, false));
        return build.mux(build.and(store.condition, same), store.data, word);
      },
      held ?? build.memoryRead(memoryIndex(this.#shared, memory), memory.width, address),
    );
  }

  #systemCall(statement: Statement & { kind: 'call' }): void {
    if (statement.name !== '$readmemh' && statement.name !== '$readmemb') return;
    const [file, target, first] = statement.arguments;
    const name = file ? textNow(file, this.context) : null;
    if (!file || name === null || !target)
      throw new GiveUp(
        'arguments',
        statement.at,
        `${statement.name} takes the name of a file, known when the design is built, and a memory.`,
      );
    const memory = entityOf(target, this.context);
    const text = this.#shared.readData(name, file.at.file);
    if (text === null)
      throw new GiveUp('include', file.at, `The data file "${name}" is not among the project's files.`);
    const { build } = this.#shared;
    const base = statement.name === '$readmemh' ? 16 : 2;
    if (memory?.kind === 'memory') {
      const [dimension = { left: 0, right: 0 }] = memory.dimensions;
      const lowest = Math.min(dimension.left, dimension.right);
      const start = first ? constantNumber(first, this.context) : lowest;
      for (const [address, word] of readWords(text, base, file.at, start))
        this.#stores.push({
          memory,
          condition: this.#frame.condition,
          address: build.constant(BigInt(address - lowest), 32),
          data: build.constant(word, memory.width),
          base: null,
          blocking: true,
          at: file.at,
        });
      return;
    }
    if (memory?.kind !== 'vector' || !memory.shape.element)
      throw new GiveUp('arguments', target.at, `${statement.name} fills a memory; this is none.`);
    const start = first ? constantNumber(first, this.context) : Math.min(memory.shape.left, memory.shape.right);
    for (const [address, word] of readWords(text, base, file.at, start)) {
      const literal = (value: bigint): Expression => ({
        kind: 'number',
        at: file.at,
        width: memory.shape.element?.width ?? 1,
        signed: false,
        value,
        unknown: 0n,
        floating: 0n,
      });
      const index: Expression = {
        kind: 'number',
        at: file.at,
        width: null,
        signed: true,
        value: BigInt(address),
        unknown: 0n,
        floating: 0n,
      };
      this.#store({ kind: 'index', at: target.at, base: target, index }, literal(word), true);
    }
  }

  #routine(
    item: FunctionItem | TaskItem,
    scope: Scope,
    values: readonly Expression[],
  ): { local: Scope; ports: Vector[]; declared: Vector[] } {
    if (this.#depth >= DEEPEST_CALL)
      throw new GiveUp('recursion', item.at, `The ${item.kind} "${item.name}" calls itself without an end.`);
    const local = new Scope(scope.path, scope);
    const declared = declareLocals(local, item.items, this.#contextIn(local)).map(({ vector }) => vector);
    const ports = declared.filter((vector) => vector.direction !== null);
    if (ports.length !== values.length)
      throw new GiveUp(
        'arguments',
        item.at,
        `The ${item.kind} "${item.name}" takes ${counted(ports.length, 'argument')}, ${values.length} are given.`,
      );
    return { local, ports, declared };
  }

  /**
   * Runs a task's body where it is called: inputs are copied in, outputs copied out, the rest is the caller's own time
   * and place.
   */
  #task(statement: Statement & { kind: 'call' }): void {
    const caller = this.#scope;
    const entity = statement.base
      ? entityOf({ kind: 'member', at: statement.at, base: statement.base, name: statement.name }, this.context)
      : lookup(statement, caller, this.#shared);
    if (entity?.kind !== 'task') throw new GiveUp('undeclared', statement.at, `"${statement.name}" is no task.`);
    const { local, ports, declared } = this.#routine(entity.item, entity.scope, statement.arguments);
    const given = (i: number) => item(statement.arguments, i);
    const values = ports.map((port, i) =>
      port.direction === 'output' ? null : emitAssigned(given(i), port.shape, this.context),
    );
    for (const [i, port] of ports.entries()) {
      const value = values[i] ?? null;
      if (value !== null) this.#frame.blocking.set(port, value);
    }
    this.#scope = local;
    this.#depth++;
    this.#leavable(`disable ${entity.item.name}`, () =>
      this.#leavable('return', () => this.#statement(entity.item.body)),
    );
    this.#depth--;
    this.#scope = caller;
    for (const [i, port] of ports.entries())
      if (port.direction !== 'input')
        this.#put(
          given(i),
          this.#shared.build.resize(
            this.#frame.blocking.get(port) ?? this.#hold(port),
            widthOfTarget(given(i), this.context),
            port.signed,
          ),
          true,
        );
    for (const vector of declared) {
      this.#frame.blocking.delete(vector);
      this.#holds.delete(vector);
    }
  }

  #call(
    item: FunctionItem,
    scope: Scope,
    values: readonly Expression[],
    outer: ExpressionContext,
  ): { node: NodeId; type: Type } {
    const inner = new Procedure(this.#shared, scope, this.#depth + 1);
    const { local, ports } = inner.#routine(item, scope, values);
    inner.#scope = local;
    for (const [i, input] of ports.entries())
      inner.#frame.blocking.set(input, emitAssigned(values[i] as Expression, input.shape, outer));
    // What the caller knows of module signals holds inside the function too.
    for (const [vector, node] of this.#frame.blocking)
      if (!inner.#frame.blocking.has(vector)) inner.#frame.blocking.set(vector, node);
    const shape = functionShape(item, scope, this.context);
    const result = localVector(local, item.name, item.at, shape);
    local.names.set(item.name, result);
    inner.#result = result;
    inner.#leavable(`disable ${item.name}`, () => inner.#leavable('return', () => inner.#statement(item.body)));
    const node = inner.#frame.blocking.get(result) ?? inner.#hold(result);
    for (const [, hold] of inner.#holds)
      this.#shared.build.node(hold).args = [this.#shared.build.constant(0n, this.#shared.build.width(hold))];
    return { node, type: { width: shape.width, signed: shape.signed } };
  }
}

/** A text in quotes, or a parameter that holds one; null for what is neither. */
function textNow(expression: Expression, context: ExpressionContext): string | null {
  if (expression.kind === 'string') return expression.text;
  const entity = expression.kind === 'name' ? entityOf(expression, context) : null;
  if (entity?.kind !== 'constant') return null;
  const { value, unknown, width } = entity.constant;
  return four.textOf({ v: value, x: unknown }, width);
}

/** Bounds of the ranges of a value from outside in, as many as are asked for. */
function rangesOf(shape: Shape, count: number): { readonly left: number; readonly right: number }[] {
  const { left, right, element } = shape;
  return count <= 1 || !element ? [{ left, right }] : [{ left, right }, ...rangesOf(element, count - 1)];
}

/** Bits that an assignment to this target takes. */
export function widthOfTarget(target: Expression, context: ExpressionContext): number {
  if (target.kind === 'concatenation') return target.parts.reduce((sum, part) => sum + widthOfTarget(part, context), 0);
  return targetShape(targetOf(target, context), context).width;
}

const leaving = new WeakMap<object, boolean>();

/** Whether anything inside may end more than itself: then each turn of a loop has to ask. */
function canLeave(tree: object): boolean {
  const known = leaving.get(tree);
  if (known !== undefined) return known;
  const found =
    ('kind' in tree && (tree.kind === 'leave' || tree.kind === 'call')) ||
    Object.values(tree).some((inner: unknown) => typeof inner === 'object' && inner !== null && canLeave(inner));
  leaving.set(tree, found);
  return found;
}

const tooManyTurns = (at: Place, most: number): GiveUp =>
  new GiveUp('endless-loop', at, `This loop has not ended after ${most} turns.`);
