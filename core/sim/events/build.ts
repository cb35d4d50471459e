import { item } from '../../lists.ts';
import {
  asGiveUp,
  type Behaviour,
  type BehaviourItem,
  bitsShape,
  constantNumber,
  type Design,
  type Elaborated,
  entityOf,
  evaluationIn,
  type Expression,
  GiveUp,
  type Names,
  type Scope,
  type Statement,
  typeOf,
  type Vector,
} from '../../hdl/index.ts';
import { Blocks, statementsIn } from './blocks.ts';
import { asWord, Code, fromWord, literalOperand, narrow, type Operand, resized } from './code.ts';
import { ANYTHING, type Context, contextIn, innerShape, referenceOf, type Shared } from './context.ts';
import { connectionsOf, countDrivers, outputsOf, STRONG, type Strength } from './drivers.ts';
import { emitFor, emitSelf, emitSlice, isConstant } from './expression.ts';
import { type Cell, Objects } from './objects.ts';
import { emitTicks, Statements, takesTime } from './statement.ts';
import { emitAssignment, emitPut, lowOfParts, NOW, Putters, targetShape, targetWidth } from './target.ts';

/** A design as JavaScript: text, and what it refers to by number. */
export interface Built {
  readonly text: string;
  readonly constants: readonly unknown[];
  readonly objects: Objects;
  /** Power of ten of a second that a tick lasts. */
  readonly precision: number;
}

/** Without any `timescale` a module counts in these. */
const NO_TIMESCALE = { unit: -9, precision: -9 };
const DELAYS = 3;
/** Rounds in which the fast way of a process is looked for. */
const MOST_ROUNDS = 4;

type Item<K extends BehaviourItem['kind']> = BehaviourItem & { readonly kind: K };

interface DriverPlace {
  readonly low: number;
  readonly width: number;
}

/** Puts a whole design into code; what cannot be is told among the messages of the design. */
export function buildSimulation(design: Design): Built | null {
  const { top, names } = design;
  if (!top || names.messages.failed) return null;
  try {
    const builder = new Builder(names, top);
    const built = builder.build();
    return names.messages.failed ? null : built;
  } catch (error) {
    const wrong = asGiveUp(error, top.module.at);
    if (!wrong) throw error;
    names.messages.error(wrong.code, wrong.place, wrong.message);
    return null;
  }
}

/** Code of a process that never waits. */
interface Ways {
  readonly text: string;
  readonly reads: ReadonlySet<number>;
  /** All of it, also what stands outside of `text`. */
  readonly all: string;
}

/** A process, what it writes, and what it reads. */
interface MayIdle {
  readonly process: number;
  readonly writes: readonly number[];
  readonly reads: ReadonlySet<number>;
}

/** Anything but non-blocking updates: other writes, calls, time, what a function leaves behind. */
const OTHER_WORK = /(?<!\bQ\.update\()\bput\d|\b[KR]\.|\bQ\.(?!next\(|update\()|\bf\d+\(|\bW\d+\(|\byield\b/;

class Builder {
  readonly #names: Names;
  readonly #top: Elaborated;
  readonly #objects = new Objects();
  readonly #blocks: Blocks;
  readonly #constants: unknown[] = [];
  readonly #outside = new Code();
  readonly #setup = new Code();
  readonly #putters: Putters;
  readonly #statements: Statements;
  readonly #shared: Shared;
  readonly #modules = new Map<Scope, Elaborated>();
  readonly #held = new Set<number>();
  readonly #drivers = new Map<number, DriverPlace[]>();
  readonly #nets = new Map<number, Vector>();
  readonly #resolved = new Map<number, number>();
  readonly #mayIdle: MayIdle[] = [];
  #precision = 0;
  #processes = 0;
  #behaviours = 0;

  constructor(names: Names, top: Elaborated) {
    this.#names = names;
    this.#top = top;
    this.#blocks = new Blocks(names);
    this.#putters = new Putters(this.#outside, this.#held);
    this.#shared = {
      names,
      objects: this.#objects,
      held: this.#held,
      constants: this.#constants,
      store: (target, context) => this.#store(target, context),
      routine: (routine, scope) => this.#statements.routine(routine, scope),
      timeOf: (scope) => this.#timeOf(scope),
    };
    this.#statements = new Statements(this.#shared, this.#putters, this.#blocks, this.#outside);
  }

  build(): Built {
    this.#enter(this.#top);
    this.#findPrecision();
    this.#blocks.enter(this.#top);
    this.#blocks.findDisabled(this.#top);
    this.#join(this.#top, countDrivers(this.#top, this.#names));
    for (const instance of this.#modules.values()) {
      this.#findHeld(instance);
      this.#findDrivers(instance);
    }
    for (const vector of this.#names.vectors) this.#objects.of(vector);
    for (const vector of this.#names.vectors) this.#initial(vector);
    for (const memory of this.#names.memories) this.#initialMemory(memory);
    for (const vector of this.#names.vectors) this.#resolution(vector);
    for (const instance of this.#modules.values())
      for (const behaviour of instance.behaviours) this.#guard(() => this.#behaviour(behaviour));
    const text = `"use strict";\n${this.#outside.text}\n${this.#setup.text}`
      .replace(/Q\.next\((\d+),/g, (all, id: string) => (this.#putters.isCalm(Number(id)) ? `Q.calm(${id},` : all))
      .replace(/"@(\d+)@"/g, (_, index: string) => {
        const { process, writes, reads } = item(this.#mayIdle, Number(index));
        return writes.every((id) => this.#putters.isOnlyOf(id, process)) ? `[${[...reads].join(', ')}]` : 'null';
      });
    return { text, constants: this.#constants, objects: this.#objects, precision: this.#precision };
  }

  #guard(work: () => void): void {
    try {
      work();
    } catch (error) {
      if (!(error instanceof GiveUp)) throw error;
      this.#names.messages.error(error.code, error.place, error.message);
    }
  }

  #enter(instance: Elaborated): void {
    this.#modules.set(instance.scope, instance);
    for (const behaviour of instance.behaviours)
      if (behaviour.kind === 'instances') for (const one of behaviour.made) this.#enter(one);
  }

  #findPrecision(): void {
    const scales = [...this.#modules.values()].map(({ module }) => module.timescale);
    const given = scales.filter((one) => one !== null);
    const without = [...this.#modules.values()].find(({ module }) => module.timescale === null);
    if (given.length > 0 && without)
      this.#names.messages.warning(
        'timescale',
        without.module.at,
        `"${without.module.name}" has no \`timescale while others have one; it counts in nanoseconds.`,
      );
    this.#precision = Math.min(...scales.map((one) => (one ?? NO_TIMESCALE).precision));
  }

  #timeOf(scope: Scope): { unit: number; precision: number } {
    for (let at: Scope | null = scope; at; at = at.parent) {
      const instance = this.#modules.get(at);
      if (instance) return instance.module.timescale ?? NO_TIMESCALE;
    }
    return NO_TIMESCALE;
  }

  /** A port and the net it is connected to are one, where they are of one size and nothing is lost by it. */
  #join(instance: Elaborated, drivers: ReadonlyMap<Vector, number>): void {
    for (const behaviour of instance.behaviours) {
      if (behaviour.kind !== 'instances') continue;
      this.#guard(() => {
        const [child, another] = behaviour.made;
        if (!child || another) return;
        for (const { name, value, direction } of connectionsOf(behaviour)) {
          const port = child.scope.names.get(name);
          const net = value ? this.#wholeNet(value, behaviour.scope) : null;
          if (port?.kind !== 'vector' || !net || !isAlike(port, net)) continue;
          if (direction === 'output' && port.net !== 'wire') {
            if (net.net === 'wire' && drivers.get(net) === 1) this.#objects.join(net, port);
          } else if (port.net === 'wire' && (direction === 'input' || net.net === 'wire'))
            this.#objects.join(port, net);
        }
      });
      for (const one of behaviour.made) this.#join(one, drivers);
    }
  }

  #wholeNet(value: Expression, scope: Scope): Vector | null {
    if (value.kind !== 'name' && value.kind !== 'member') return null;
    const entity = entityOf(value, evaluationIn(this.#names, scope));
    return entity?.kind === 'vector' ? entity : null;
  }

  #context(scope: Scope, code: Code, more: Partial<Pick<Context, 'reads' | 'known' | 'soiled'>> = {}): Context {
    return contextIn(this.#shared, scope, code, more);
  }

  /** What `force` and `assign` in blocks may hold. */
  #findHeld(instance: Elaborated): void {
    const walk = (statement: Statement, scope: Scope): void => {
      if (statement.kind === 'hold') {
        this.#guard(() => this.#markHeld(statement.target, this.#context(scope, new Code())));
        return;
      }
      const isBlock = statement.kind === 'block' || statement.kind === 'fork';
      const inner = isBlock ? this.#blocks.inside(statement, scope) : scope;
      for (const one of statementsIn(statement)) walk(one, inner);
    };
    for (const behaviour of instance.behaviours)
      if (behaviour.kind === 'item' && 'body' in behaviour.item) walk(behaviour.item.body, behaviour.scope);
    for (const one of instance.module.items)
      if (one.kind === 'task' || one.kind === 'function') walk(one.body, instance.scope);
  }

  #markHeld(target: Expression, context: Context): void {
    if (target.kind === 'concatenation') for (const part of target.parts) this.#markHeld(part, context);
    else {
      const reference = referenceOf(target, context);
      if (reference) this.#held.add(reference.cell.id);
    }
  }

  #findDrivers(instance: Elaborated): void {
    const note = (target: Expression, scope: Scope) =>
      this.#guard(() => this.#noteDriver(target, this.#context(scope, new Code())));
    for (const behaviour of instance.behaviours) {
      const { scope } = behaviour;
      if (behaviour.kind === 'instances')
        this.#guard(() => {
          for (const { name, value, direction } of connectionsOf(behaviour)) {
            if (!value || direction === 'input') continue;
            for (const one of behaviour.made) if (!this.#isJoined(one, name, value, scope)) note(value, scope);
          }
        });
      else if (behaviour.kind === 'primitives') {
        const [first] = behaviour.item.ports;
        if (first?.value) for (let i = 0; i < behaviour.count; i++) note(first.value, scope);
      } else if (behaviour.item.kind === 'assign') note(behaviour.item.target, scope);
      else if (behaviour.item.kind === 'gate')
        for (const target of outputsOf(behaviour.item.gate, behaviour.item.terminals)) note(target, scope);
    }
  }

  #isJoined(instance: Elaborated, name: string, value: Expression, scope: Scope): boolean {
    const port = instance.scope.names.get(name);
    const net = this.#wholeNet(value, scope);
    return port?.kind === 'vector' && net !== null && this.#objects.of(port) === this.#objects.of(net);
  }

  #noteDriver(target: Expression, context: Context): void {
    if (target.kind === 'concatenation') {
      for (const part of target.parts) this.#noteDriver(part, context);
      return;
    }
    const reference = referenceOf(target, context);
    if (!reference || reference.indexes.length > 0) return;
    const { cell, parts, thing } = reference;
    const low = lowOfParts(parts, cell.shape, context);
    if (typeof low !== 'number')
      throw new GiveUp('target', target.at, 'Which bit this drives depends on a signal. Use an always block for that.');
    if (thing.kind === 'vector' && thing.net !== 'wire' && thing.direction !== 'output' && cell.isNet) return;
    const places = this.#drivers.get(cell.id) ?? [];
    places.push({ low, width: innerShape(reference, context).width });
    this.#drivers.set(cell.id, places);
    if (thing.kind === 'vector') this.#nets.set(cell.id, thing);
  }

  /** Nets with several drivers, or of a kind that is more than a wire, are worked out from what each driver says. */
  #resolution(vector: Vector): void {
    const cell = this.#objects.of(vector);
    if (this.#resolved.has(cell.id) || !cell.isNet || cell.dimensions.length > 0) return;
    const places = this.#drivers.get(cell.id) ?? [];
    const overlap = places.some((one, i) =>
      places.slice(i + 1).some((other) => one.low < other.low + other.width && other.low < one.low + one.width),
    );
    if (!overlap && vector.resolution === 'wire') return;
    const number = this.#resolved.size;
    this.#resolved.set(cell.id, number);
    this.#setup.line(`K.net(${number}, ${cell.id}, ${cell.width}, ${JSON.stringify(vector.resolution)});`);
  }

  #initial(vector: Vector): void {
    const { initial } = vector;
    if (!initial) return;
    this.#guard(() => {
      const code = new Code();
      const context = this.#context(initial.scope, code);
      emitAssignment({ kind: 'name', at: vector.at, name: vector.name }, initial.value, NOW, context, this.#putters);
      this.#setup.line(`{ ${code.text} }`);
    });
  }

  #initialMemory(memory: Names['memories'][number]): void {
    const { initial } = memory;
    if (!initial) return;
    this.#guard(() => {
      const code = new Code();
      const context = this.#context(initial.scope, code);
      emitAssignment({ kind: 'name', at: memory.at, name: memory.name }, initial.value, NOW, context, this.#putters);
      this.#setup.line(`{ ${code.text} }`);
    });
  }

  #behaviour(behaviour: Behaviour): void {
    this.#putters.process = this.#behaviours++;
    if (behaviour.kind === 'instances') return this.#connections(behaviour);
    if (behaviour.kind === 'primitives') return this.#primitives(behaviour);
    const { item: what, scope } = behaviour;
    switch (what.kind) {
      case 'assign':
        return this.#assign(what, scope);
      case 'gate':
        return this.#gate(what, scope);
      case 'always':
        return this.#always(what, scope);
      case 'initial':
        return this.#initially(what, scope);
    }
  }

  #name(scope: Scope, { file, line }: { readonly file: string; readonly line: number }): string {
    return JSON.stringify(`${scope.path} (${file}, line ${line})`);
  }

  /** A process that computes and writes whenever what it reads changes. */
  #continuous(scope: Scope, at: Expression['at'], make: (context: Context) => void): void {
    const { text, reads } = this.#inTwoWays(scope, make);
    const terms = [...reads].map((id) => `{ i: [${id}], e: 0 }`).join(', ');
    this.#setup.line(`K.always(${this.#name(scope, at)}, true, 0, () => { ${text} }, [${terms}]);`);
  }

  /**
   * What never waits, in two ways: one without any marks for unknown bits, gone where nothing that it reads has one,
   * and one for everything else.
   */
  #inTwoWays(scope: Scope, make: (context: Context) => void): Ways {
    const code = new Code();
    const reads = new Set<number>();
    const soiled = new Set<number>();
    make(this.#context(scope, code, { reads, soiled }));
    const fast = soiled.has(ANYTHING) ? null : this.#withoutMarks(scope, make, reads);
    if (!fast) return { text: code.text, reads, all: code.text };
    const name = `W${this.#processes++}`;
    this.#outside.line(`function ${name}() { ${code.text} }`);
    return {
      text: `if (${fast.test}) { ${fast.text} } else ${name}();`,
      reads,
      all: `${code.text}\n${fast.text}`,
    };
  }

  /** Takes all that is read as known, then less and less, until what the code writes keeps known what is taken so. */
  #withoutMarks(
    scope: Scope,
    make: (context: Context) => void,
    reads: ReadonlySet<number>,
  ): { text: string; test: string } | null {
    const cells = [...reads].map((id) => item(this.#objects.cells, id));
    let known = new Set(cells.filter(isMarked).map(({ id }) => id));
    for (let round = 0; round < MOST_ROUNDS && known.size > 0; round++) {
      const code = new Code();
      const soiled = new Set<number>();
      make(this.#context(scope, code, { known, soiled }));
      const left = new Set([...known].filter((id) => !soiled.has(id)));
      if (left.size === known.size) {
        const narrowOnes = [...known].filter((id) => item(this.#objects.cells, id).kind === 'narrow');
        const marks = narrowOnes.map((id) => `X[${id}]`).join(' | ');
        const wideOnes = [...known].filter((id) => item(this.#objects.cells, id).kind === 'wide');
        const tests = [...(marks === '' ? [] : [`(${marks}) === 0`]), ...wideOnes.map((id) => `BX[${id}] === 0n`)];
        return { text: code.text, test: tests.join(' && ') };
      }
      known = left;
    }
    return null;
  }

  #assign({ target, value, delay, strength, at }: Item<'assign'>, scope: Scope): void {
    this.#continuous(scope, at, (context) => {
      const shape = targetShape(target, context);
      const reference = target.kind === 'concatenation' ? null : referenceOf(target, context);
      if (reference && reference.indexes.length < reference.cell.dimensions.length)
        return emitAssignment(target, value, NOW, context, this.#putters);
      this.#drive(target, emitFor(value, shape, context), { delay, strength }, context);
    });
  }

  /** Gives a driven value to its target, through delays and several drivers where there are any. */
  #drive(
    target: Expression,
    word: Operand,
    { delay, strength }: Pick<Item<'assign'>, 'delay' | 'strength'>,
    context: Context,
  ): void {
    if (target.kind === 'concatenation') {
      let low = word.width;
      for (const part of target.parts) {
        const width = targetWidth(part, context);
        low -= width;
        this.#drive(part, emitSlice(word, low, width, context), { delay, strength }, context);
      }
      return;
    }
    const silent = { ...context, reads: null };
    const reference = referenceOf(target, silent);
    if (!reference) throw new GiveUp('target', target.at, 'This cannot be assigned to.');
    const { cell, thing } = reference;
    const netDelay = thing.kind === 'vector' ? thing.delay : null;
    const number = this.#resolved.get(cell.id);
    const isPlainDriver = number === undefined && (strength === null || cell.kind === 'real');
    if (isPlainDriver && !delay && !netDelay) return emitPut(target, word, NOW, silent, this.#putters);
    const low = lowOfParts(reference.parts, cell.shape, silent);
    if (typeof low !== 'number' || reference.indexes.length > 0)
      throw new GiveUp('target', target.at, 'Which bit this drives must be known beforehand.');
    // A driver is set up once: there is one way alone.
    context.soiled?.add(ANYTHING);
    const place = this.#processes++;
    const put =
      number === undefined
        ? `(w) => K.putBits(${cell.id}, ${low}, ${word.width}, w)`
        : `(w) => K.drive(${number}, ${place}, ${low}, ${word.width}, w)`;
    const { zero, one }: Strength = strength ?? STRONG;
    if (number !== undefined) this.#setup.line(`K.driver(${number}, ${place}, ${zero}, ${one});`);
    const delays = (delay ?? netDelay)?.slice(0, DELAYS).map((part) => emitTicks(part, silent)) ?? [];
    this.#outside.line(`const D${place} = K.delayed(${put});`);
    context.code.line(`D${place}(${asWord(word)}, ${word.width}, [${delays.join(', ')}]);`);
  }

  #always({ edges, form, body, at }: Item<'always'>, scope: Scope): void {
    const code = new Code();
    const name = this.#name(scope, at);
    const timed = takesTime(body, scope);
    const context = this.#context(scope, code);
    if (edges === null) {
      if (!timed)
        throw new GiveUp(
          'no-time',
          at,
          'This "always" never waits and would run for ever at one moment. Give it an event list or a delay.',
        );
      if (body.kind === 'delay' && !takesTime(body.body, scope)) return this.#repeating(body, name, scope);
      this.#statements.process(body, context, true);
      this.#setup.line(
        `K.start(${name}, function*() { for (;;) { ${code.text}\nif (--Q.fuel < 0) Q.refuel(${name}); } }, 1);`,
      );
      return;
    }
    if (timed) {
      const terms = this.#statements.terms(edges, body, context);
      this.#statements.process(body, context, true);
      this.#setup.line(
        `K.start(${name}, function*() { for (;;) { K.await([${terms}]); yield; ${code.text}\nif (--Q.fuel < 0) Q.refuel(${name}); } }, 1);`,
      );
      return;
    }
    const isImplied = form === 'always_comb' || form === 'always_latch';
    const ways = this.#inTwoWays(scope, (inside) => this.#statements.process(body, inside, false));
    const reads = new Set(ways.reads);
    if (isImplied) for (const id of this.#statements.readsOfRoutines()) reads.add(id);
    const terms =
      edges === 'any'
        ? [...reads].map((id) => `{ i: [${id}], e: 0 }`).join(', ')
        : this.#statements.terms(edges, body, context);
    // What starts by itself: `always_comb` runs once without waiting. @source IEEE 1800, always_comb
    const idle = edges === 'any' ? 'null' : this.#idle(ways);
    this.#setup.line(`K.always(${name}, false, ${isImplied ? 0 : -1}, () => { ${ways.text} }, [${terms}], ${idle});`);
  }

  /**
   * What a process reads that does nothing but compute values for registers of its own: as long as none of it changes,
   * the registers hold what it would give them again. Whether they are its own is known when all is built; until then
   * a number stands for it.
   */
  #idle({ all, reads }: Ways): string {
    if (OTHER_WORK.test(all)) return 'null';
    const { process } = this.#putters;
    if (process === null) return 'null';
    const writes = [...all.matchAll(/Q\.(?:next\(|update\(put)(\d+)/g)].map(([, id]) => Number(id));
    return `"@${this.#mayIdle.push({ process, writes, reads }) - 1}@"`;
  }

  /** `always #5 clk = ~clk;`: needs no generator. */
  #repeating(body: Statement & { kind: 'delay' }, name: string, scope: Scope): void {
    const [wait, work] = [new Code(), new Code()];
    const ticks = emitTicks(body.delay, this.#context(scope, wait));
    this.#statements.process(body.body, this.#context(scope, work), false);
    // A delay that never changes is worked out once.
    const isFixed = isConstant(body.delay, evaluationIn(this.#names, scope));
    const always = `() => { ${work.text} }`;
    this.#setup.line(
      isFixed
        ? `{ ${wait.text} K.repeating(${name}, () => ${ticks}, ${always}); }`
        : `K.repeating(${name}, () => { ${wait.text} return ${ticks}; }, ${always});`,
    );
  }

  #initially({ body, at, atEnd }: Item<'initial'>, scope: Scope): void {
    const code = new Code();
    const name = this.#name(scope, at);
    const timed = takesTime(body, scope);
    if (atEnd && timed) throw new GiveUp('no-time', at, 'A "final" block takes no time: it cannot wait.');
    // At the very beginning of time it is over.
    if (!timed && !atEnd) this.#putters.process = null;
    this.#statements.process(body, this.#context(scope, code), !atEnd);
    if (atEnd) this.#setup.line(`K.finally(() => { ${code.text} });`);
    else this.#setup.line(`K.start(${name}, function*() { ${code.text} }, 2);`);
  }

  /** Ports that are not one with what they are connected to. */
  #connections(behaviour: Behaviour & { kind: 'instances' }): void {
    const { made, scope, item: instance } = behaviour;
    for (const { name, value, direction, at } of connectionsOf(behaviour))
      for (const [i, one] of made.entries())
        this.#guard(() => {
          const port = one.scope.names.get(name);
          if (port?.kind !== 'vector') return;
          if (!value) return this.#unconnected(port, one, direction);
          if (this.#isJoined(one, name, value, scope)) return;
          if (direction === 'inout')
            throw new GiveUp(
              'not-taken',
              at,
              `The inout "${name}" of "${instance.name}" must be connected to a whole net of the same width.`,
            );
          this.#connect({ port, inner: one.scope, value, scope, at, direction, index: i, count: made.length });
        });
  }

  #connect(link: Link): void {
    const { port, inner, value, scope, at, direction, index, count } = link;
    const name: Expression = { kind: 'name', at, name: port.name };
    if (direction === 'input') {
      this.#continuous(scope, at, (context) => {
        const target = this.#context(inner, context.code);
        if (port.shape.unpacked) return this.#copyArray(value, port, context);
        const divided = count > 1 && typeOf(value, context.evaluation).width === port.width * count;
        const word = emitFor(value, divided ? bitsShape(port.width * count) : port.shape, context);
        const own = divided ? emitSlice(word, (count - 1 - index) * port.width, port.width, context) : word;
        emitPut(name, own, NOW, target, this.#putters);
      });
      return;
    }
    this.#continuous(inner, at, (context) => {
      const outer = { ...this.#context(scope, context.code), reads: null };
      if (port.shape.unpacked) return this.#copyBack(value, port, context, outer);
      const word = emitSelf(name, context);
      const width = targetWidth(value, outer);
      if (count > 1) {
        const whole = referenceOf(value, outer);
        if (!whole || width !== port.width * count || whole.parts.length > 0)
          throw new GiveUp('not-taken', at, 'The outputs of a row of instances go to one whole net, as wide as all.');
        const low = (count - 1 - index) * port.width;
        const part: Expression = {
          kind: 'range',
          at,
          base: value,
          high: numberAt(at, whole.cell.shape.left >= whole.cell.shape.right ? low + port.width - 1 : low),
          low: numberAt(at, whole.cell.shape.left >= whole.cell.shape.right ? low : low + port.width - 1),
        };
        return this.#drive(part, word, { delay: null, strength: null }, outer);
      }
      this.#drive(value, resized(context.code, word, width, port.signed), { delay: null, strength: null }, outer);
    });
  }

  #copyArray(value: Expression, port: Vector, context: Context): void {
    const from = referenceOf(value, context);
    if (!from || from.indexes.length > 0) throw new GiveUp('whole-array', value.at, 'An array is wanted here.');
    context.reads?.add(from.cell.id);
    context.code.line(`K.copyArray(${from.cell.id}, ${this.#objects.of(port).id}, false);`);
  }

  #copyBack(value: Expression, port: Vector, context: Context, outer: Context): void {
    const to = referenceOf(value, outer);
    if (!to || to.indexes.length > 0) throw new GiveUp('whole-array', value.at, 'An array is wanted here.');
    const { id } = this.#objects.of(port);
    context.reads?.add(id);
    context.code.line(`K.copyArray(${id}, ${to.cell.id}, false);`);
  }

  /** An input that nothing is connected to floats, or is pulled. @source IEEE 1364-2005, clause 19.9 */
  #unconnected(port: Vector, { module }: Elaborated, direction: string): void {
    if (direction !== 'input' || module.unconnected === 'z') return;
    const cell = this.#objects.of(port);
    const word =
      module.unconnected === 'pull1'
        ? literalOperand({ v: (1n << BigInt(cell.width)) - 1n, x: 0n }, cell.width)
        : literalOperand({ v: 0n, x: 0n }, cell.width);
    this.#putters.note(cell.id, 'otherwise');
    this.#setup.line(`${this.#putters.whole(cell)}(${word.v}, ${word.x});`);
  }

  /** A gate, or a row of them. @source IEEE 1364-2005, clause 7 */
  #gate(what: Item<'gate'>, scope: Scope): void {
    const { gate, terminals, at, range, delay, strength } = what;
    const evaluation = evaluationIn(this.#names, scope);
    const count = range
      ? Math.abs(constantNumber(range.high, evaluation) - constantNumber(range.low, evaluation)) + 1
      : 1;
    const outputs = outputsOf(gate, terminals);
    const inputs = terminals.slice(outputs.length);
    if (/^r?tran/.test(gate))
      throw new GiveUp(
        'not-taken',
        at,
        `"${gate}" joins two nets both ways, which is not simulated here. Connect the nets, or write drivers with a z.`,
      );
    for (const output of outputs)
      this.#continuous(scope, at, (context) => {
        const spread = (value: Expression): Operand => {
          const word = emitSelf(value, context);
          if (word.width === count) return word;
          if (word.width === 1) return fromWord(context.code, `K.repeat(${asWord(word)}, 1, ${count})`, count);
          return emitSlice(word, 0, count, context);
        };
        const words = inputs.map(spread);
        const isPull = gate.startsWith('pull');
        const value = gateValue(gate, words, count, context);
        const force: Strength | null = isPull ? (strength ?? { zero: 5, one: 5 }) : strength;
        this.#drive(output, value, { delay, strength: force }, context);
      });
  }

  #primitives({ item: instance, scope, primitive, count }: Behaviour & { kind: 'primitives' }): void {
    const { ports, at, delay, strength } = instance;
    const [output, ...inputs] = ports.map(({ value }) => value);
    if (!output || inputs.length !== primitive.inputs.length || inputs.some((one) => one === null))
      throw new GiveUp('arguments', at, `"${primitive.name}" has ${primitive.inputs.length} inputs and one output.`);
    const table = this.#constants.push(primitive) - 1;
    for (let i = 0; i < count; i++) {
      const number = this.#processes++;
      this.#outside.line(`const U${number} = K.table(C[${table}]);`);
      this.#continuous(scope, at, (context) => {
        const levels = inputs.map((value) => {
          const word = emitSelf(value as Expression, context);
          const bit =
            word.width === 1 || count === 1
              ? emitSlice(word, 0, 1, context)
              : emitSlice(word, count - 1 - i, 1, context);
          return `${bit.x} !== 0 ? 2 : ${bit.v}`;
        });
        const level = context.code.held(`U${number}.next([${levels.join(', ')}])`);
        const word = narrow(
          context.code.held(`${level} === 2 ? 1 : ${level}`),
          context.code.held(`${level} === 2 ? 1 : 0`),
          1,
        );
        this.#drive(output, word, { delay, strength }, context);
      });
    }
  }

  /** A function that writes to a target, for the runtime. */
  #store(target: Expression, context: Context): string {
    const code = new Code();
    const inner: Context = { ...context, code, reads: null };
    const shape = targetShape(target, inner);
    const kind = shape.special ?? (shape.width <= 32 ? 'narrow' : 'wide');
    emitPut(target, { kind, v: 'v', x: 'x', width: shape.width }, NOW, inner, this.#putters);
    return `(v, x) => { ${code.text} }`;
  }
}

interface Link {
  readonly port: Vector;
  readonly inner: Scope;
  readonly value: Expression;
  readonly scope: Scope;
  readonly at: Expression['at'];
  readonly direction: 'input' | 'output';
  readonly index: number;
  readonly count: number;
}

/** One word that may hold unknown bits. */
const isMarked = ({ kind, twoState, dimensions }: Cell): boolean =>
  (kind === 'narrow' || kind === 'wide') && !twoState && dimensions.length === 0;

const numberAt = (at: Expression['at'], value: number): Expression => ({
  kind: 'number',
  at,
  width: null,
  signed: true,
  value: BigInt(value),
  unknown: 0n,
  floating: 0n,
});

/** Of one width, and both words or both arrays of the same size. */
function isAlike(a: Vector, b: Vector): boolean {
  if (a.shape.special || b.shape.special) return a.shape.special === b.shape.special;
  if (a.width !== b.width || a.signed !== b.signed || a.shape.twoState !== b.shape.twoState) return false;
  if (a.shape.left !== b.shape.left || a.shape.right !== b.shape.right) return false;
  if (a.resolution !== b.resolution && b.net === 'wire') return false;
  if (a.shape.unpacked || b.shape.unpacked)
    return a.shape.unpacked === b.shape.unpacked && a.shape.element?.width === b.shape.element?.width;
  return JSON.stringify(a.shape.element) === JSON.stringify(b.shape.element) && !a.shape.fields === !b.shape.fields;
}

/** What a gate gives. z at an input counts as unknown. */
function gateValue(gate: string, words: readonly Operand[], width: number, context: Context): Operand {
  const { code } = context;
  const asWords = words.map(asWord);
  if (gate === 'pullup' || gate === 'pulldown')
    return literalOperand(gate === 'pullup' ? { v: (1n << BigInt(width)) - 1n, x: 0n } : { v: 0n, x: 0n }, width);
  return fromWord(code, `K.gate(${JSON.stringify(gate)}, [${asWords.join(', ')}], ${width})`, width);
}
