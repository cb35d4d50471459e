import type { NodeId } from '../netlist/index.ts';
import type { Place } from '../result.ts';
import type { Expression, Statement } from './ast.ts';
import { constantNumber, emitAssigned, emitCondition, emitSelf, type ExpressionContext, lookup, memoryAddress, memoryOf, selection, type Type, typeOf } from './expressions.ts';
import { GiveUp } from './message.ts';
import { type FunctionItem, type MemoryArray, Scope, type Shared, type Vector } from './scope.ts';

export interface MemoryStore {
  readonly memory: MemoryArray;
  readonly condition: NodeId;
  readonly address: NodeId;
  readonly data: NodeId;
  readonly at: Place;
}

/** What a run of statements has assigned so far on one path. */
interface Frame {
  readonly blocking: Map<Vector, NodeId>;
  readonly pending: Map<Vector, NodeId>;
  readonly condition: NodeId;
}

export interface Executed {
  /** Final value of every vector assigned. Bits no path assigned are exactly the vector's `hold` node. */
  readonly values: ReadonlyMap<Vector, NodeId>;
  /** For each vector assigned: the node that stands for "keeps its value". */
  readonly holds: ReadonlyMap<Vector, NodeId>;
  readonly stores: readonly MemoryStore[];
}

const MOST_TURNS = 1 << 16;
const DEEPEST_CALL = 64;

/**
 * Runs statements symbolically: both sides of every choice are followed and their results joined by a two-way choice, loops are
 * unrolled. What comes out is one expression for each vector.
 */
export class Procedure {
  readonly #shared: Shared;
  readonly #holds = new Map<Vector, NodeId>();
  readonly #stores: MemoryStore[] = [];
  #scope: Scope;
  #frame: Frame;
  #depth: number;

  constructor(shared: Shared, scope: Scope, depth = 0) {
    this.#shared = shared;
    this.#scope = scope;
    this.#depth = depth;
    this.#frame = { blocking: new Map(), pending: new Map(), condition: shared.build.constant(1n, 1) };
  }

  run(statement: Statement): Executed {
    this.#statement(statement);
    const values = new Map([...this.#frame.blocking, ...this.#frame.pending]);
    return { values, holds: this.#holds, stores: this.#stores };
  }

  get context(): ExpressionContext {
    return {
      shared: this.#shared,
      scope: this.#scope,
      read: (vector) => this.#frame.blocking.get(vector) ?? vector.wire,
      call: (item, scope, values, outer) => this.#call(item, scope, values, outer),
    };
  }

  #hold(vector: Vector): NodeId {
    let hold = this.#holds.get(vector);
    if (hold === undefined) {
      hold = this.#shared.build.wire(`${vector.path} (kept)`, vector.width);
      this.#holds.set(vector, hold);
    }
    return hold;
  }

  #statement(statement: Statement): void {
    switch (statement.kind) {
      case 'empty':
        return;
      case 'block':
        return this.#block(statement);
      case 'assign':
        return this.#assign(statement);
      case 'if': {
        const condition = emitCondition(statement.condition, this.context);
        return this.#choose(condition, () => this.#statement(statement.then), () => statement.otherwise && this.#statement(statement.otherwise));
      }
      case 'case':
        return this.#case(statement);
      case 'for':
        this.#statement(statement.first);
        return this.#loop(statement.condition, statement.body, statement.step);
      case 'while':
        return this.#loop(statement.condition, statement.body, null);
      case 'repeat': {
        const turns = constantNumber(statement.count, this.context);
        if (turns > MOST_TURNS) throw tooManyTurns(statement.at);
        for (let i = 0; i < turns; i++) this.#statement(statement.body);
        return;
      }
      case 'call':
        return statement.name.startsWith('$') ? this.#systemCall(statement) : this.#task(statement);
    }
  }

  #block(block: Statement & { kind: 'block' }): void {
    const outer = this.#scope;
    if (block.declarations.length > 0) {
      this.#scope = new Scope(outer.path, outer);
      declareTemporaries(this.#shared, this.#scope, block.declarations, this.context);
    }
    for (const statement of block.body) this.#statement(statement);
    this.#scope = outer;
  }

  #loop(condition: Expression, body: Statement, step: Statement | null): void {
    const { build } = this.#shared;
    for (let turns = 0; ; turns++) {
      const goOn = build.constantOf(emitCondition(condition, this.context));
      if (goOn === null) throw new GiveUp('loop-not-constant', condition.at, 'How often this loop runs depends on a signal; hardware needs a number known when it is built.');
      if (goOn === 0n) return;
      if (turns >= MOST_TURNS) throw tooManyTurns(condition.at);
      this.#statement(body);
      if (step) this.#statement(step);
    }
  }

  #choose(condition: NodeId, then: () => void, otherwise: () => void): void {
    const { build } = this.#shared;
    const known = build.constantOf(condition);
    if (known !== null) return known === 1n ? then() : otherwise();
    const before = this.#frame;
    const branch = (c: NodeId): Frame => ({ blocking: new Map(before.blocking), pending: new Map(before.pending), condition: build.and(before.condition, c) });
    const taken = branch(condition);
    this.#frame = taken;
    then();
    const afterThen = this.#frame;
    this.#frame = branch(build.not(condition));
    otherwise();
    const afterOther = this.#frame;
    const join = (a: Map<Vector, NodeId>, b: Map<Vector, NodeId>): Map<Vector, NodeId> => {
      const out = new Map<Vector, NodeId>();
      for (const vector of new Set([...a.keys(), ...b.keys()])) {
        const x = a.get(vector) ?? this.#hold(vector);
        const y = b.get(vector) ?? this.#hold(vector);
        out.set(vector, muxBits(this.#shared, condition, x, y));
      }
      return out;
    };
    this.#frame = { blocking: join(afterThen.blocking, afterOther.blocking), pending: join(afterThen.pending, afterOther.pending), condition: before.condition };
  }

  #case(statement: Statement & { kind: 'case' }): void {
    const arms = statement.arms.map((arm) => ({ test: this.#armTest(statement, arm.labels), body: arm.body }));
    const full = statement.otherwise === null && this.#isFull(statement);
    const from = (index: number): void => {
      const arm = arms[index];
      if (!arm) {
        if (statement.otherwise) this.#statement(statement.otherwise);
      } else if (full && index === arms.length - 1) this.#statement(arm.body);
      else this.#choose(arm.test, () => this.#statement(arm.body), () => from(index + 1));
    };
    from(0);
  }

  #armTest(statement: Statement & { kind: 'case' }, labels: readonly Expression[]): NodeId {
    const { build, messages } = this.#shared;
    const { context } = this;
    let any = build.constant(0n, 1);
    for (const label of labels) {
      const [s, l] = [typeOf(statement.subject, context), typeOf(label, context)];
      const width = Math.max(s.width, l.width);
      const type: Type = { width, signed: s.signed && l.signed };
      const subject = build.resize(emitSelf(statement.subject, context), width, type.signed);
      const value = build.resize(emitSelf(label, context), width, type.signed);
      const open = label.kind === 'number' ? openDigits(statement.wild, label) : 0n;
      if (label.kind === 'number' && open === 0n && (label.unknown || label.floating)) {
        messages.warning('never-matches', label.at, 'A label with x or z digits never matches in hardware. Use casez with ? digits to leave bits open.');
        continue;
      }
      const mask = build.constant(~open, width);
      any = build.or(any, build.eq(build.and(subject, mask), build.and(value, mask)));
    }
    return any;
  }

  /** Every value of the subject has a label of its own. */
  #isFull(statement: Statement & { kind: 'case' }): boolean {
    const { width } = typeOf(statement.subject, this.context);
    if (statement.wild !== 'none' || width > 12) return false;
    const seen = new Set<bigint>();
    for (const label of statement.arms.flatMap((arm) => arm.labels)) {
      const value = this.#shared.build.constantOf(emitSelf(label, this.context));
      if (value === null || value >= 1n << BigInt(width)) return false;
      seen.add(value);
    }
    return seen.size === 2 ** width;
  }

  #assign(statement: Statement & { kind: 'assign' }): void {
    const { context } = this;
    const { width } = typeOfTarget(statement.target, context);
    this.#store(statement.target, emitAssigned(statement.value, width, context), statement.blocking);
  }

  #store(target: Expression, value: NodeId, blocking: boolean): void {
    const { build } = this.#shared;
    const { context } = this;
    if (target.kind === 'concatenation') {
      let at = 0;
      for (const part of [...target.parts].reverse()) {
        const { width } = typeOfTarget(part, context);
        this.#store(part, build.slice(value, at, width), blocking);
        at += width;
      }
      return;
    }
    if (target.kind === 'name') return this.#set(assignable(target, context), value, blocking);
    if (target.kind !== 'index' && target.kind !== 'range' && target.kind !== 'indexed-range') throw new GiveUp('target', target.at, 'This cannot be assigned to.');
    const memory = target.kind === 'index' ? memoryOf(target.base, context) : null;
    if (memory && target.kind === 'index') {
      this.#stores.push({ memory, condition: this.#frame.condition, address: memoryAddress(memory, target.index, context), data: value, at: target.at });
      return;
    }
    if (target.base.kind !== 'name') throw new GiveUp('target', target.at, 'Only one index is taken on the left side. For part of a memory word, read the word, change it and write it back.');
    const vector = assignable(target.base, context);
    const select = selection(target, vector, vector.width, context);
    const now = (blocking ? this.#frame.blocking : this.#frame.pending).get(vector) ?? this.#hold(vector);
    if (select.lo === null) {
      const ones = build.constant((1n << BigInt(select.width)) - 1n, vector.width);
      const mask = build.make('shl', vector.width, [ones, select.offset]);
      const moved = build.make('shl', vector.width, [build.resize(value, vector.width, false), select.offset]);
      this.#set(vector, build.or(build.and(now, build.not(mask)), build.and(moved, mask)), blocking);
      return;
    }
    const from = Math.max(0, select.lo);
    const to = Math.min(vector.width, select.lo + select.width);
    if (from >= to) return;
    const parts: NodeId[] = [];
    if (from > 0) parts.push(build.slice(now, 0, from));
    parts.push(build.slice(value, from - select.lo, to - from));
    if (to < vector.width) parts.push(build.slice(now, to, vector.width - to));
    this.#set(vector, build.concat(parts), blocking);
  }

  #set(vector: Vector, value: NodeId, blocking: boolean): void {
    if (blocking) this.#frame.blocking.set(vector, value);
    else this.#frame.pending.set(vector, value);
  }

  #systemCall(statement: Statement & { kind: 'call' }): void {
    if (statement.name !== '$readmemh' && statement.name !== '$readmemb') return;
    const [file, target] = statement.arguments;
    if (file?.kind !== 'string' || !target) throw new GiveUp('arguments', statement.at, `${statement.name} takes a file name in quotes and a memory.`);
    const memory = memoryOf(target, this.context);
    if (!memory) throw new GiveUp('arguments', target.at, `${statement.name} fills a memory; this is none.`);
    const text = this.#shared.readData(file.text);
    if (text === null) throw new GiveUp('include', file.at, `The data file "${file.text}" is not among the project's files.`);
    const { build } = this.#shared;
    for (const [address, word] of readWords(text, statement.name === '$readmemh' ? 16 : 2, file.at))
      this.#stores.push({ memory, condition: this.#frame.condition, address: build.constant(BigInt(address - memory.lowest), 32), data: build.constant(word, memory.width), at: file.at });
  }

  /** Runs a task's body where it is called: inputs are copied in, outputs copied out, the rest is the caller's own time and place. */
  #task(statement: Statement & { kind: 'call' }): void {
    const caller = this.#scope;
    const entity = caller.find(statement.name);
    if (entity?.kind !== 'task') throw new GiveUp('undeclared', statement.at, `There is no task "${statement.name}" in this module.`);
    if (this.#depth >= DEEPEST_CALL) throw new GiveUp('recursion', statement.at, `The task "${statement.name}" calls itself without an end.`);
    const local = new Scope(entity.scope.path, entity.scope);
    const declared = declareTemporaries(this.#shared, local, entity.item.items, { ...this.context, scope: local });
    const ports = declared.filter((vector) => vector.direction !== null);
    if (ports.length !== statement.arguments.length) throw new GiveUp('arguments', statement.at, `The task "${statement.name}" takes ${ports.length} arguments, ${statement.arguments.length} are given.`);
    const given = (i: number) => statement.arguments[i] as Expression;
    const values = ports.map((port, i) => (port.direction === 'output' ? null : emitAssigned(given(i), port.width, this.context)));
    for (const [i, port] of ports.entries()) if (values[i] !== null) this.#frame.blocking.set(port, values[i] as NodeId);
    this.#scope = local;
    this.#depth++;
    this.#statement(entity.item.body);
    this.#depth--;
    this.#scope = caller;
    for (const [i, port] of ports.entries())
      if (port.direction !== 'input') this.#store(given(i), this.#shared.build.resize(this.#frame.blocking.get(port) ?? this.#hold(port), typeOfTarget(given(i), this.context).width, port.signed), true);
    for (const vector of declared) {
      this.#frame.blocking.delete(vector);
      this.#holds.delete(vector);
    }
  }

  #call(item: FunctionItem, scope: Scope, values: readonly Expression[], outer: ExpressionContext): { node: NodeId; type: Type } {
    if (this.#depth >= DEEPEST_CALL) throw new GiveUp('recursion', item.at, `The function "${item.name}" calls itself without an end.`);
    const local = new Scope(scope.path, scope);
    const inner = new Procedure(this.#shared, local, this.#depth + 1);
    const declared = declareTemporaries(this.#shared, local, item.items, inner.context);
    const inputs = declared.filter((vector) => vector.direction === 'input');
    if (inputs.length !== values.length) throw new GiveUp('arguments', item.at, `The function "${item.name}" takes ${inputs.length} arguments, ${values.length} are given.`);
    for (const [i, input] of inputs.entries()) inner.#frame.blocking.set(input, emitAssigned(values[i] as Expression, input.width, outer));
    // What the caller knows of module signals holds inside the function too.
    for (const [vector, node] of this.#frame.blocking) if (!inner.#frame.blocking.has(vector)) inner.#frame.blocking.set(vector, node);
    const width = item.range ? Math.abs(constantNumber(item.range.high, inner.context) - constantNumber(item.range.low, inner.context)) + 1 : 1;
    const result = temporary(this.#shared, item.name, item.at, width, item.signed, width - 1, 0, null);
    local.names.set(item.name, result);
    inner.#statement(item.body);
    const node = inner.#frame.blocking.get(result);
    return { node: node ?? this.#shared.build.constant(0n, width), type: { width, signed: item.signed } };
  }
}

/**
 * A choice between words that keeps bits neither side touched recognisable: where both have the same part in the same place it stays as
 * it is.
 */
function muxBits({ build }: Shared, condition: NodeId, x: NodeId, y: NodeId): NodeId {
  if (x === y) return x;
  const cuts = new Set<number>();
  for (const side of [x, y]) {
    const { op, args } = build.node(side);
    let at = 0;
    if (op === 'concat') for (const part of args) cuts.add((at += build.width(part)));
  }
  const width = build.width(x);
  cuts.add(width);
  const parts: { x: NodeId; y: NodeId; lo: number; width: number }[] = [];
  let lo = 0;
  for (const cut of [...cuts].sort((a, b) => a - b)) {
    parts.push({ x: build.slice(x, lo, cut - lo), y: build.slice(y, lo, cut - lo), lo, width: cut - lo });
    lo = cut;
  }
  if (!parts.some((part) => part.x === part.y)) return build.mux(condition, x, y);
  return build.concat(parts.map((part) => build.mux(condition, part.x, part.y)));
}

const openDigits = (wild: 'none' | 'z' | 'xz', label: Expression & { kind: 'number' }): bigint =>
  wild === 'none' ? 0n : wild === 'z' ? label.floating : label.floating | label.unknown;

export function assignable(target: Expression & { kind: 'name' }, context: ExpressionContext): Vector {
  const entity = lookup(target.path, target.at, context.scope);
  if (entity.kind !== 'vector') throw new GiveUp('target', target.at, `"${target.path.join('.')}" cannot be assigned to as a whole.`);
  return entity;
}

export function typeOfTarget(target: Expression, context: ExpressionContext): Type {
  return target.kind === 'name' ? assignable(target, context) : typeOf(target, context);
}

export function temporary(shared: Shared, name: string, at: Place, width: number, signed: boolean, left: number, right: number, direction: Vector['direction']): Vector {
  return { kind: 'vector', name, path: name, at, width, signed, left, right, net: 'reg', direction, wire: shared.build.wire(name, width), drivers: [], init: null, temporary: true };
}

function declareTemporaries(shared: Shared, scope: Scope, items: readonly import('./ast.ts').Item[], context: ExpressionContext): Vector[] {
  const made: Vector[] = [];
  const inner = { ...context, scope };
  for (const item of items) {
    if (item.kind === 'parameter') {
      const type = typeOf(item.value, inner);
      const value = shared.build.constantOf(emitSelf(item.value, inner));
      if (value !== null) scope.declare(item.name, { kind: 'constant', constant: { value, ...type } }, item.at);
      continue;
    }
    if (item.kind !== 'declaration') continue;
    const left = item.range ? constantNumber(item.range.high, inner) : item.net === 'integer' ? 31 : 0;
    const right = item.range ? constantNumber(item.range.low, inner) : 0;
    for (const { name, at } of item.names) {
      const known = scope.names.get(name);
      if (known) continue; // `input [3:0] a; reg [3:0] a;` of the older style
      const vector = temporary(shared, name, at, Math.abs(left - right) + 1, item.signed, left, right, item.direction);
      scope.declare(name, vector, at);
      made.push(vector);
    }
  }
  return made;
}

const tooManyTurns = (at: Place): GiveUp => new GiveUp('endless-loop', at, `This loop has not ended after ${MOST_TURNS} turns.`);

/** Words of a memory file with their addresses. @source IEEE 1364-2005, clause 17.2.9 */
function* readWords(text: string, base: 2 | 16, at: Place): Generator<[number, bigint]> {
  let address = 0;
  const prefix = base === 16 ? '0x' : '0b';
  for (const word of text.replace(/\/\/[^\n]*|\/\*[\s\S]*?\*\//g, ' ').split(/\s+/)) {
    if (word === '') continue;
    if (word.startsWith('@')) {
      address = Number.parseInt(word.slice(1), 16);
      continue;
    }
    const digits = word.replace(/_/g, '').replace(/[xXzZ]/g, '0');
    if (!(base === 16 ? /^[0-9a-fA-F]+$/ : /^[01]+$/).test(digits)) throw new GiveUp('memory-file', at, `"${word}" in the data file is no ${base === 16 ? 'hexadecimal' : 'binary'} word.`);
    yield [address++, BigInt(prefix + digits)];
  }
}
