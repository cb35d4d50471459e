import { item } from '../../lists.ts';
import {
  declareLocals,
  entityOf,
  type Expression,
  type FunctionItem,
  functionShape,
  GiveUp,
  type Item,
  localVector,
  lookup,
  type Scope,
  Scope as NewScope,
  type Statement,
  type TaskItem,
  typeOf,
  type Vector,
} from '../../hdl/index.ts';
import { type Blocks, statementsIn } from './blocks.ts';
import { given, type Port, portsOf } from './call.ts';
import { asNumber, asWord, Code, literalOperand, type Operand, resized } from './code.ts';
import {
  ANYTHING,
  type Context,
  contextIn,
  inScope,
  innerShape,
  type LocalPlace,
  referenceOf,
  type Routine,
  type Shared,
} from './context.ts';
import { emit, emitComparison, emitCondition, emitFor, emitReal, emitSelf } from './expression.ts';
import { type Cell, startOf } from './objects.ts';
import { emitSystemTask } from './system-task.ts';
import { emitAssignment, emitPut, lowOfParts, NOW, type Putters, targetShape, type Way } from './target.ts';

type Kind<K extends Statement['kind']> = Statement & { readonly kind: K };

/** Where a statement stands: what `break`, `return` and `disable` leave. */
interface Place {
  readonly context: Context;
  /** Inside a generator, where time may pass. */
  readonly isTimed: boolean;
  readonly breakTo: string | null;
  readonly continueTo: string | null;
  readonly returnTo: string | null;
  /** Where a function puts its value. */
  readonly result: Vector | null;
  /** Named blocks around, with the labels that leave them. */
  readonly leave: ReadonlyMap<object, string>;
  /** Variables are JavaScript's own. */
  readonly automatic: boolean;
}

interface MadeRoutine extends Routine {
  readonly reads: Set<number>;
  readonly soiled: Set<number>;
  isWhole: boolean;
}

/** Puts statements, functions and tasks into code. */
export class Statements {
  readonly #shared: Shared;
  readonly #putters: Putters;
  readonly #blocks: Blocks;
  /** Code outside of all processes: functions and tasks. */
  readonly #outside: Code;
  readonly #routines = new Map<object, Map<Scope, MadeRoutine>>();
  #names = 0;

  constructor(shared: Shared, putters: Putters, blocks: Blocks, outside: Code) {
    this.#shared = shared;
    this.#putters = putters;
    this.#blocks = blocks;
    this.#outside = outside;
  }

  /** The body of a process. */
  process(body: Statement, context: Context, isTimed: boolean): void {
    this.#statement(body, {
      context,
      isTimed,
      breakTo: null,
      continueTo: null,
      returnTo: null,
      result: null,
      leave: new Map(),
      automatic: false,
    });
  }

  #label(letter: string): string {
    return `${letter}${this.#names++}`;
  }

  #statement(statement: Statement, place: Place): void {
    const { code } = place.context;
    switch (statement.kind) {
      case 'empty':
        return;
      case 'block':
        return this.#block(statement, place);
      case 'assign':
        return this.#assign(statement, place);
      case 'if': {
        const condition = emitCondition(statement.condition, place.context);
        code.line(`if (${condition}) {`);
        this.#statement(statement.then, place);
        code.line('}');
        if (!statement.otherwise) return;
        code.line('else {');
        this.#statement(statement.otherwise, place);
        code.line('}');
        return;
      }
      case 'case':
        return this.#case(statement, place);
      case 'for':
      case 'while':
      case 'repeat':
      case 'forever':
        return this.#loop(statement, place);
      case 'foreach':
        return this.#foreach(statement, place);
      case 'leave':
        return this.#leave(statement, place);
      case 'call':
        return this.#call(statement, place);
      case 'delay':
        this.#wantsTime(statement, place);
        code.line(`Q.later(Q.current, ${emitTicks(statement.delay, place.context)}); yield;`);
        return this.#statement(statement.body, place);
      case 'events':
        this.#wantsTime(statement, place);
        this.#await(statement.events, statement.body, place);
        return this.#statement(statement.body, place);
      case 'wait':
        this.#wantsTime(statement, place);
        this.#wait(statement.condition, place);
        return this.#statement(statement.body, place);
      case 'fork':
        return this.#fork(statement, place);
      case 'trigger': {
        const reference = referenceOf(statement.event, place.context);
        if (reference?.cell.kind !== 'event')
          throw new GiveUp('target', statement.at, 'Only a named event can be triggered: declare it with "event".');
        code.line(`K.trigger(${reference.cell.id});`);
        return;
      }
      case 'hold':
        return this.#hold(statement, place);
      case 'let-go':
        for (const one of this.#heldParts(statement.target, place.context))
          code.line(`K.release(${one.cell.id}, ${statement.force}, ${one.low}, ${one.width});`);
        return;
      case 'assert':
        return this.#assert(statement, place);
    }
  }

  #wantsTime({ at }: Statement, { isTimed }: Place): void {
    if (!isTimed) throw new GiveUp('no-time', at, 'A function takes no time: it cannot wait. Make it a task.');
  }

  #block(block: Kind<'block'>, place: Place): void {
    const { context } = place;
    const inner = this.#opened(block, place);
    const key = inner.context.evaluation.scope;
    if (block.name === null) {
      if (block.declarations.length > 0) context.code.line('{');
      for (const one of block.body) this.#statement(one, inner);
      if (block.declarations.length > 0) context.code.line('}');
      return;
    }
    const label = this.#label('B');
    const leave = new Map<object, string>([...inner.leave, [key, label]]);
    this.#disablable(key, place.isTimed, context.code, () => {
      context.code.line(`${label}: {`);
      for (const one of block.body) this.#statement(one, { ...inner, leave });
      context.code.line('}');
    });
  }

  /** What others may disable while it waits stands between marks that the disabling finds. */
  #disablable(key: object, isTimed: boolean, code: Code, body: () => void): void {
    if (!isTimed || !this.#blocks.isDisabled(key)) return body();
    const name = this.#label('a');
    code.line(`const ${name} = K.enter(${this.#key(key)});`);
    code.line('try {');
    body();
    code.line(`} catch (e) { if (e !== ${name}) throw e; } finally { K.leave(${name}); }`);
  }

  readonly #keys = new Map<object, number>();

  #key(key: object): number {
    const known = this.#keys.get(key);
    if (known !== undefined) return known;
    this.#keys.set(key, this.#keys.size);
    return this.#keys.size - 1;
  }

  /** The place inside a block: its names, and its variables with their first values. */
  #opened(block: { readonly name: string | null; readonly declarations: readonly Item[] }, place: Place): Place {
    const { context } = place;
    const around = context.evaluation.scope;
    if (block.name === null && block.declarations.length === 0) return place;
    if (place.automatic) {
      const scope = new NewScope(block.name === null ? around.path : `${around.path}.${block.name}`, around);
      return { ...place, context: this.#declareAutomatic(scope, block.declarations, context) };
    }
    const scope = this.#blocks.scopeOf(block, around);
    const inner = inScope(context, scope);
    for (const one of block.declarations)
      if (one.kind === 'declaration')
        for (const { name, value } of one.names) {
          const entity = scope.names.get(name);
          if (value && entity?.kind === 'vector')
            emitAssignment({ kind: 'name', at: one.at, name }, value, NOW, inner, this.#putters);
        }
    return { ...place, context: inner };
  }

  /** Variables of an automatic block as JavaScript's own. */
  #declareAutomatic(scope: Scope, items: readonly Item[], context: Context): Context {
    const { code } = context;
    const locals = new Map(context.locals);
    const inner = inScope(context, scope);
    for (const { vector, value } of declareLocals(scope, items, inner.evaluation)) {
      const local = this.#local(vector, code);
      locals.set(vector, local);
      if (!value) continue;
      const word = emitFor(value, vector.shape, { ...inner, locals });
      code.line(`${local.v} = ${word.v}; ${local.x} = ${word.x};`);
    }
    return { ...inner, locals };
  }

  #local(vector: Vector, code: Code): LocalPlace {
    const cell = this.#shared.objects.of(vector);
    const v = this.#label('l');
    const start = startText(cell);
    code.line(`let ${v} = ${start.v}, ${v}x = ${start.x};`);
    return { cell, v, x: `${v}x` };
  }

  #assign({ target, value, timing, blocking }: Kind<'assign'>, place: Place): void {
    const { context } = place;
    const putters = this.#putters;
    if (timing === null) {
      const way: Way = blocking ? NOW : { kind: 'update', ticks: null };
      return emitAssignment(target, value, way, context, putters);
    }
    const word = emitFor(value, targetShape(target, context), context);
    if (timing.kind === 'delay') {
      const ticks = emitTicks(timing.delay, context);
      if (!blocking) return emitPut(target, word, { kind: 'update', ticks }, context, putters);
      this.#wantsTime({ kind: 'empty', at: target.at }, place);
      const kept = copied(word, context.code);
      context.code.line(`Q.later(Q.current, ${ticks}); yield;`);
      return emitPut(target, kept, NOW, context, putters);
    }
    this.#wantsTime({ kind: 'empty', at: target.at }, place);
    if (!blocking)
      throw new GiveUp(
        'not-taken',
        target.at,
        'An event inside a non-blocking assignment is not taken. Wait before it.',
      );
    const kept = copied(word, context.code);
    const { code } = context;
    if (timing.times) {
      const turns = this.#label('n');
      code.line(`for (let ${turns} = ${emitCount(timing.times, context)}; ${turns} > 0; ${turns}--) {`);
      this.#await(timing.events, null, place);
      code.line('}');
    } else this.#await(timing.events, null, place);
    emitPut(target, kept, NOW, context, putters);
  }

  /** One after another; where all labels are known, by JavaScript's own choice. */
  #case(statement: Kind<'case'>, place: Place): void {
    const { context } = place;
    const { code, evaluation } = context;
    const { subject, arms, otherwise, wild } = statement;
    const all = [subject, ...arms.flatMap((arm) => arm.labels).filter((label) => !isRange(label))];
    const types = all.map((one) => typeOf(one, evaluation));
    const isPlain = types.every(({ special }) => special === undefined);
    const width = Math.max(...types.map((one) => one.width));
    const signed = types.every((one) => one.signed);
    const label = this.#label('S');
    code.line(`${label}: {`);
    const value = isPlain ? emit(subject, width, signed, context) : null;
    for (const arm of arms) {
      const tests = arm.labels.map((one) => {
        if (!value || wild === 'inside') return insideTest(subject, one, wild === 'inside', context);
        return labelTest(value, emit(one, width, signed, context), wild);
      });
      code.line(`if (${tests.join(' || ')}) {`);
      this.#statement(arm.body, place);
      code.line(`break ${label}; }`);
    }
    if (otherwise) this.#statement(otherwise, place);
    code.line('}');
  }

  #loop(loop: Kind<'for' | 'while' | 'repeat' | 'forever'>, outer: Place): void {
    const { code } = outer.context;
    const [out, on] = [this.#label('L'), this.#label('N')];
    code.line('{');
    const place = this.#loopPlace(loop, outer);
    const inner: Place = { ...place, breakTo: out, continueTo: on };
    if (loop.kind === 'for' && loop.first) this.#statement(loop.first, place);
    const counter = this.#label('n');
    if (loop.kind === 'repeat')
      code.line(
        `${out}: for (let ${counter} = ${emitCount(loop.count, place.context)}; ${counter} > 0; ${counter}--) {`,
      );
    else code.line(`${out}: for (;;) {`);
    const condition = loop.kind === 'for' || loop.kind === 'while' ? loop.condition : null;
    const bodyFirst = loop.kind === 'while' && loop.bodyFirst;
    const test = () => condition && code.line(`if (!(${emitCondition(condition, place.context)})) break;`);
    if (!bodyFirst) test();
    code.line(`${on}: {`);
    this.#statement(loop.body, inner);
    code.line('}');
    if (loop.kind === 'for') this.#statement(loop.step, place);
    if (bodyFirst) test();
    code.line(`if (--Q.fuel < 0) Q.refuel(${JSON.stringify(`${loop.at.file}, line ${loop.at.line}`)});`);
    code.line('}');
    code.line('}');
  }

  /** `for (int i = 0; ...)`: the loop has a variable of its own. */
  #loopPlace(loop: Statement, place: Place): Place {
    if (loop.kind !== 'for' || !loop.local) return place;
    return this.#opened({ name: null, declarations: this.#declarationsOf(loop) }, place);
  }

  readonly #loopDeclarations = new WeakMap<object, readonly Item[]>();

  /** The same list each time, as the scope of a block is kept by it. */
  #declarationsOf(loop: Kind<'for'>): readonly Item[] {
    const known = this.#loopDeclarations.get(loop);
    if (known) return known;
    const made = loop.local ? [loop.local] : [];
    this.#loopDeclarations.set(loop, made);
    return made;
  }

  #foreach({ array, variables, body, at }: Kind<'foreach'>, place: Place): void {
    const { context } = place;
    const { code } = context;
    const reference = referenceOf(array, context);
    if (!reference) throw new GiveUp('target', at, '"foreach" runs through an array.');
    const shape = reference.cell.shape;
    const ranges = [...reference.cell.dimensions, { left: shape.left, right: shape.right }];
    const out = this.#label('L');
    const around = context.evaluation.scope;
    const scope = new NewScope(around.path, around);
    const locals = new Map(context.locals);
    code.line(`${out}: {`);
    let ends = 0;
    for (const [i, name] of variables.entries()) {
      const range = ranges[i];
      if (!range) throw new GiveUp('target', at, 'The array has fewer ranges than variables are given.');
      if (name === null) continue;
      const integer = { width: 32, signed: true, left: 31, right: 0, element: null, fields: null, names: null };
      const vector = localVector(scope, name, at, { ...integer, twoState: true });
      scope.names.set(name, vector);
      const counter = this.#label('l');
      locals.set(vector, { cell: this.#shared.objects.of(vector), v: counter, x: '0' });
      const step = range.left > range.right ? '--' : '++';
      const test = range.left > range.right ? '>=' : '<=';
      code.line(`for (let ${counter} = ${range.left}; ${counter} ${test} ${range.right}; ${counter}${step}) {`);
      ends++;
    }
    const on = this.#label('N');
    code.line(`${on}: {`);
    const inner: Context = { ...inScope(context, scope), locals };
    this.#statement(body, { ...place, context: inner, breakTo: out, continueTo: on });
    code.line('}');
    for (; ends > 0; ends--) code.line('}');
    code.line('}');
  }

  #leave({ what, block, value, at }: Kind<'leave'>, place: Place): void {
    const { context } = place;
    const { code } = context;
    if (value) {
      if (!place.result) throw new GiveUp('return', at, '"return" with a value belongs in a function.');
      emitAssignment({ kind: 'name', at, name: place.result.name }, value, NOW, context, this.#putters);
    }
    if (what !== 'disable') {
      const to = { return: place.returnTo, break: place.breakTo, continue: place.continueTo }[what];
      if (!to)
        throw new GiveUp('leave', at, `"${what}" stands in no ${what === 'return' ? 'function or task' : 'loop'}.`);
      code.line(`break ${to};`);
      return;
    }
    if (!block) {
      code.line('K.disableFork();');
      return;
    }
    const key = this.#blocks.disabled(block, context.evaluation.scope);
    if (!key) throw new GiveUp('leave', at, 'There is no block or task of that name to be disabled.');
    const label = place.leave.get(key);
    if (label) code.line(`break ${label};`);
    else code.line(`K.disable(${this.#key(key)});`);
  }

  /** Waits for one of several events. */
  #await(events: Kind<'events'>['events'], body: Statement | null, { context }: Place): void {
    const { code } = context;
    code.line(`K.await([${this.terms(events, body, context)}]); yield;`);
  }

  /** Event terms for the runtime: objects and edges, or an expression that is compared with its last value. */
  terms(events: Kind<'events'>['events'], body: Statement | null, context: Context): string {
    if (events === 'any') {
      const ids = body ? this.readsOf(body, context) : new Set<number>();
      return [...ids].map((id) => `{ i: [${id}], e: 0 }`).join(', ');
    }
    return events
      .map(({ edge, signal, only }) => {
        const kind = { any: 0, posedge: 1, negedge: 2, both: 3 }[edge];
        const reference = only ? null : simpleReference(signal, context);
        if (reference) return `{ i: [${reference.id}], e: ${kind} }`;
        const reads = new Set<number>();
        const inner = new Code();
        const there: Context = { ...context, code: inner, reads };
        const word = emitSelf(signal, there);
        const condition = only ? emitCondition(only, there) : 'true';
        const look = `() => { ${inner.text} return { value: ${valueKey(word)}, v: ${lowBit(word, 'v')}, x: ${lowBit(word, 'x')}, only: ${condition} }; }`;
        return `{ i: [${[...reads].join(', ')}], e: ${kind}, f: ${look} }`;
      })
      .join(', ');
  }

  /** Objects that a statement reads. */
  readsOf(body: Statement, context: Context): Set<number> {
    const reads = new Set<number>();
    this.#statement(body, {
      context: { ...context, code: new Code(), reads },
      isTimed: true,
      breakTo: 'none',
      continueTo: 'none',
      returnTo: 'none',
      result: null,
      leave: new Map(),
      automatic: false,
    });
    return reads;
  }

  #wait(condition: Expression, { context }: Place): void {
    const { code } = context;
    const reads = new Set<number>();
    code.line('for (;;) {');
    const is = emitCondition(condition, { ...context, reads });
    code.line(`if (${is}) break;`);
    code.line(`K.await([${[...reads].map((id) => `{ i: [${id}], e: 0 }`).join(', ')}]); yield;`);
    code.line('}');
  }

  /** Each statement of a fork is a process of its own. */
  #fork(fork: Kind<'fork'>, place: Place): void {
    this.#wantsTime(fork, place);
    const { code } = place.context;
    const work = () => {
      const inner = this.#opened(fork, place);
      const children = fork.body.map((one) => {
        const own = new Code();
        const context = { ...inner.context, code: own };
        this.#statement(one, {
          ...inner,
          context,
          breakTo: null,
          continueTo: null,
          returnTo: null,
          leave: new Map(),
        });
        return `function*() { ${own.text} }`;
      });
      code.line(`if (K.fork([${children.join(', ')}], "${fork.join}")) yield;`);
    };
    code.line('{');
    const scope = fork.name === null ? null : this.#blocks.scopeOf(fork, place.context.evaluation.scope);
    if (scope) this.#disablable(scope, true, code, work);
    else work();
    code.line('}');
  }

  /** The cells and bits that `force` or `assign` holds. */
  #heldParts(target: Expression, context: Context): { cell: Cell; low: number; width: number }[] {
    if (target.kind === 'concatenation') return target.parts.flatMap((part) => this.#heldParts(part, context));
    const reference = referenceOf(target, context);
    if (!reference || reference.indexes.length > 0 || reference.local)
      throw new GiveUp('target', target.at, 'A whole net or variable, or fixed bits of one, can be held.');
    const low = lowOfParts(reference.parts, reference.cell.shape, context);
    if (typeof low !== 'number') throw new GiveUp('target', target.at, 'Which bits are held must be known beforehand.');
    return [{ cell: reference.cell, low, width: innerShape(reference, context).width }];
  }

  #hold({ target, value, force }: Kind<'hold'>, { context }: Place): void {
    const { code } = context;
    const parts = this.#heldParts(target, context);
    for (const { cell } of parts) context.soiled?.add(cell.id);
    const own = new Code();
    const reads = new Set<number>();
    const word = emitFor(value, targetShape(target, context), { ...context, code: own, reads });
    const places = parts.map(({ cell, low, width }) => `{ id: ${cell.id}, low: ${low}, width: ${width} }`);
    code.line(
      `K.hold(${force}, [${places.join(', ')}], ${word.width}, [${[...reads].join(', ')}], () => { ${own.text} return ${asWord(word)}; });`,
    );
  }

  #assert({ condition, then, otherwise, at }: Kind<'assert'>, place: Place): void {
    const { code } = place.context;
    const is = emitCondition(condition, place.context);
    code.line(`if (${is}) {`);
    if (then) this.#statement(then, place);
    code.line('} else {');
    const where = this.#shared.constants.push({ at, path: place.context.evaluation.scope.path }) - 1;
    code.line(`K.assertion(C[${where}], ${otherwise !== null});`);
    if (otherwise) this.#statement(otherwise, place);
    code.line('}');
  }

  #call(statement: Kind<'call'>, place: Place): void {
    const { context } = place;
    const { code, evaluation } = context;
    const { name, base, at } = statement;
    if (name === 'wait fork') {
      this.#wantsTime(statement, place);
      code.line('if (K.waitFork()) yield;');
      return;
    }
    if (name.startsWith('$')) return emitSystemTask(statement, context, this.#putters);
    const entity = base
      ? entityOf({ kind: 'member', at, base, name }, evaluation)
      : lookup(statement, evaluation.scope, evaluation.shared);
    if (entity?.kind === 'function') {
      emitSelf({ kind: 'call', at, name, arguments: statement.arguments, ...packaged(statement) }, context);
      return;
    }
    if (entity?.kind !== 'task') throw new GiveUp('undeclared', at, `"${name}" is no task.`);
    this.#taskCall(entity.item, entity.scope, statement, place);
  }

  #taskCall(task: TaskItem, scope: Scope, statement: Kind<'call'>, place: Place): void {
    const { context } = place;
    const { code } = context;
    const ports = portsOf(task, scope, context);
    const complete = given(task, ports, statement.arguments, statement.at);
    const { name, isTimed, soiled } = this.routine(task, scope);
    for (const id of soiled) context.soiled?.add(id);
    if (isTimed) this.#wantsTime(statement, place);
    const inputs = ports.flatMap((port, i) => {
      if (port.direction === 'output') return [];
      const word = emitFor(item(complete, i), port.shape, context);
      return [word.v, word.x];
    });
    const outputs = ports
      .map((port, i) => ({ port, target: item(complete, i) }))
      .filter(({ port }) => port.direction !== 'input');
    const result = this.#label('r');
    code.line(`const ${result} = ${isTimed ? 'yield* ' : ''}${name}(${inputs.join(', ')});`);
    for (const [i, { port, target }] of outputs.entries()) {
      const kind = port.shape.special ?? (port.shape.width <= 32 ? 'narrow' : 'wide');
      const word: Operand = { kind, v: `${result}[${2 * i}]`, x: `${result}[${2 * i + 1}]`, width: port.shape.width };
      const shape = targetShape(target, context);
      emitPut(target, resized(code, word, shape.width, port.shape.signed), NOW, context, this.#putters);
    }
  }

  /** A function or a task, put into code when it is first called. */
  routine(routine: FunctionItem | TaskItem, scope: Scope): Routine {
    const all = this.#routines.get(routine) ?? new Map<Scope, MadeRoutine>();
    this.#routines.set(routine, all);
    const known = all.get(scope);
    // One that calls itself, or two that call each other: what they write is not complete yet.
    if (known && !known.isWhole) known.soiled.add(ANYTHING);
    if (known) return known;
    const isTimed = routine.kind === 'task' && !routine.isVoid && takesTime(routine.body, scope);
    const made: MadeRoutine = {
      name: this.#label(routine.kind === 'task' ? 'task' : 'f'),
      isTimed,
      reads: new Set(),
      soiled: new Set(),
      isWhole: false,
    };
    all.set(scope, made);
    const code = new Code();
    this.#routineBody(routine, scope, made, code);
    this.#outside.line(code.text);
    made.isWhole = true;
    return made;
  }

  #routineBody(
    routine: FunctionItem | TaskItem,
    around: Scope,
    { name, isTimed, reads, soiled }: MadeRoutine,
    code: Code,
  ): void {
    const outer = contextIn(this.#shared, around, code, { reads, soiled });
    const ports = portsOf(routine, around, outer);
    const scope = new NewScope(`${around.path}.${routine.name}`, around);
    const parameters = ports.filter(({ direction }) => direction !== 'output').map((port) => `p_${port.name}`);
    const names = parameters.map((_, i) => `p${i}`);
    code.line(`function${isTimed ? '*' : ''} ${name}(${names.flatMap((one) => [one, `${one}x`]).join(', ')}) {`);
    code.line(`if (K.depth > 5000) K.tooDeep(${JSON.stringify(routine.name)}); K.depth++; try {`);
    let context: Context;
    if (routine.automatic) context = this.#declareAutomatic(scope, routine.items, { ...outer, code });
    else {
      context = { ...outer, evaluation: inScope(outer, scope).evaluation };
      for (const { vector, value } of declareLocals(scope, routine.items, outer.evaluation))
        if (value && vector.direction === null)
          emitAssignment({ kind: 'name', at: vector.at, name: vector.name }, value, NOW, context, this.#putters);
    }
    const result = routine.kind === 'function' ? this.#result(routine, scope, context) : null;
    if (result?.local) {
      const locals = new Map(context.locals);
      locals.set(result.vector, result.local);
      context = { ...context, locals };
    }
    let taken = 0;
    for (const port of ports) {
      if (port.direction === 'output') continue;
      const from = item(names, taken++);
      const kind = port.shape.special ?? (port.shape.width <= 32 ? 'narrow' : 'wide');
      const word: Operand = { kind, v: from, x: `${from}x`, width: port.shape.width };
      emitPut({ kind: 'name', at: routine.at, name: port.name }, word, NOW, context, this.#putters);
    }
    const label = this.#label('E');
    const place: Place = {
      context,
      isTimed,
      breakTo: null,
      continueTo: null,
      returnTo: label,
      result: result?.vector ?? null,
      leave: new Map<object, string>([[routine, label]]),
      automatic: routine.automatic,
    };
    this.#disablable(routine, isTimed, code, () => {
      code.line(`${label}: {`);
      this.#statement(routine.body, place);
      code.line('}');
    });
    if (result) {
      const value = emitSelf({ kind: 'name', at: routine.at, name: routine.name }, context);
      code.line(`R.x = ${value.x}; return ${value.v};`);
    } else code.line(`return [${this.#outputs(ports, routine, context).join(', ')}];`);
    code.line('} finally { K.depth--; } }');
  }

  #outputs(ports: readonly Port[], { at }: { readonly at: Expression['at'] }, context: Context): string[] {
    return ports
      .filter(({ direction }) => direction !== 'input')
      .flatMap(({ name }) => {
        const word = emitSelf({ kind: 'name', at, name }, context);
        return [word.v, word.x];
      });
  }

  /** The variable that has the name of the function. */
  #result(routine: FunctionItem, scope: Scope, context: Context): { vector: Vector; local: LocalPlace | null } {
    const shape = functionShape(routine, scope, context.evaluation);
    const vector = localVector(scope, routine.name, routine.at, shape);
    scope.names.set(routine.name, vector);
    if (routine.automatic) return { vector, local: this.#local(vector, context.code) };
    const cell = this.#shared.objects.of(vector);
    const start = startText(cell);
    this.#putters.note(cell.id, 'otherwise');
    context.code.line(`${this.#putters.whole(cell)}(${start.v}, ${start.x});`);
    return { vector, local: null };
  }

  /** Objects that the functions a process calls read. */
  readsOfRoutines(): Set<number> {
    const all = new Set<number>();
    for (const routines of this.#routines.values())
      for (const { reads } of routines.values()) for (const id of reads) all.add(id);
    return all;
  }
}

const packaged = (value: { readonly package?: string }): { package?: string } =>
  value.package === undefined ? {} : { package: value.package };

function startText(cell: Cell): { v: string; x: string } {
  if (cell.kind === 'real') return { v: '0', x: '0' };
  if (cell.kind === 'text') return { v: '""', x: '0' };
  if (cell.dimensions.length > 0) return { v: `K.bank(${cell.id})`, x: '0' };
  return literalOperand(startOf({ ...cell, isNet: false }), cell.width);
}

/** Kept over a wait: what it was made of may change. */
function copied(word: Operand, code: Code): Operand {
  const keep = (text: string) => {
    if (/^-?\d+n?$/.test(text)) return text;
    const name = code.name('k');
    code.line(`const ${name} = ${text};`);
    return name;
  };
  return { ...word, v: keep(word.v), x: keep(word.x) };
}

/** Ticks of the finest precision that a delay takes. @source IEEE 1364-2005, clause 19.8 */
export function emitTicks(delay: Expression, context: Context): string {
  const { unit, precision } = context.shared.timeOf(context.evaluation.scope);
  const { special } = typeOf(delay, context.evaluation);
  const value = special === 'real' ? emitReal(delay, context) : asNumber(emitSelf(delay, context), false);
  return context.code.held(`K.ticks(${value}, ${unit}, ${precision})`);
}

/** How often something is repeated; not at all where that is unknown. */
function emitCount(count: Expression, context: Context): string {
  const { signed, special } = typeOf(count, context.evaluation);
  if (special === 'real') return context.code.held(`Math.round(${emitReal(count, context)})`);
  const word = emitSelf(count, context);
  return context.code.held(`${word.x} ${word.kind === 'wide' ? '!== 0n' : '!== 0'} ? 0 : ${asNumber(word, signed)}`);
}

/** A name that is one whole cell, of which the runtime itself sees the edges. */
function simpleReference(signal: Expression, context: Context): Cell | null {
  if (signal.kind !== 'name' && signal.kind !== 'member') return null;
  const entity = entityOf(signal, context.evaluation);
  if (entity?.kind !== 'vector' || context.locals.has(entity)) return null;
  const cell = context.shared.objects.of(entity);
  return cell.dimensions.length === 0 ? cell : null;
}

const valueKey = ({ kind, v, x }: Operand): string =>
  kind === 'narrow' || kind === 'wide' ? `\`\${${v}},\${${x}}\`` : v;

const lowBit = ({ kind, v, x }: Operand, bits: 'v' | 'x'): string => {
  const text = bits === 'v' ? v : x;
  return kind === 'wide' ? `Number(${text} & 1n)` : kind === 'narrow' ? `${text} & 1` : '0';
};

const isRange = (label: Expression): boolean => label.kind === 'range' && label.base.kind === 'nothing';

function insideTest(subject: Expression, label: Expression, isInside: boolean, context: Context): string {
  if (label.kind === 'range' && isRange(label)) {
    const from = emitComparison('>=', subject, label.high, context);
    const to = emitComparison('<=', subject, label.low, context);
    return `(${from.v} & ~${from.x} & ${to.v} & ~${to.x}) !== 0`;
  }
  const same = emitComparison(isInside ? '==?' : '===', subject, label, context);
  return `(${same.v} & ~${same.x}) !== 0`;
}

/** @source IEEE 1364-2005, clause 9.5.1 */
function labelTest(value: Operand, label: Operand, wild: Kind<'case'>['wild']): string {
  const none = value.kind === 'wide' ? '0n' : '0';
  if (wild === 'none') return `(${value.v} === ${label.v} && ${value.x} === ${label.x})`;
  const open = wild === 'z' ? `((${value.x} & ~${value.v}) | (${label.x} & ~${label.v}))` : `(${value.x} | ${label.x})`;
  return `(((${value.v} ^ ${label.v}) | (${value.x} ^ ${label.x})) & ~${open}) === ${none}`;
}

/** Whether anything in a statement waits: in itself, or in a task that it calls. */
export function takesTime(statement: Statement, scope: Scope, seen = new Set<object>()): boolean {
  switch (statement.kind) {
    case 'delay':
    case 'events':
    case 'wait':
    case 'fork':
      return true;
    case 'assign':
      if (statement.timing !== null && statement.blocking) return true;
      return false;
    case 'call': {
      if (statement.name === 'wait fork') return true;
      if (statement.name.startsWith('$') || statement.base) return statement.base !== undefined;
      const entity = scope.find(statement.name);
      if (entity?.kind !== 'task' || seen.has(entity.item) || entity.item.isVoid) return false;
      seen.add(entity.item);
      return takesTime(entity.item.body, entity.scope, seen);
    }
    default:
      return statementsIn(statement).some((inner) => takesTime(inner, scope, seen));
  }
}
