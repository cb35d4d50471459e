import { own } from '../lists.ts';
import { counted } from '../words.ts';
import type { NodeId } from '../netlist/index.ts';
import { registerArraysOf } from './array-use.ts';
import type { Connection, Declarator, Expression, Item, Module } from './ast.ts';
import { readAlways, readInitial } from './behaviour.ts';
import { declareImplicit, declareName, parameterValue } from './declare.ts';
import { partShape, typeOf } from './expression-type.ts';
import { constantNumber, constantValue, emitAssigned, type ExpressionContext } from './expressions.ts';
import { GiveUp } from './message.ts';
import { importNames } from './packages.ts';
import { Procedure, widthOfTarget } from './procedure.ts';
import { resolveType } from './resolve-type.ts';
import { type Constant, countWork, type Driver, type HierarchyNode, Scope, type Shared, type Vector } from './scope.ts';
import { selection } from './select.ts';
import { bitsShape } from './shape.ts';
import { emitPinValue, mentionsFloat } from './tri-state.ts';
import { targetOf, targetShape } from './update.ts';

const DEEPEST = 100;
const MOST_TURNS = 1 << 16;
/** A turn of a generate loop makes a scope of its own, which takes as long as so many statements. */
const STEPS_A_TURN = 8;
const MOST_GENERATED = 1 << 14;

/** One instance of a module: its names, its behaviours, the instances below it. */
export class Instance {
  readonly #shared: Shared;
  readonly #modules: ReadonlyMap<string, Module>;
  readonly #module: Module;
  readonly #chain: readonly string[];
  readonly #children: HierarchyNode[] = [];
  readonly #behaviours: { item: Item; scope: Scope }[] = [];
  readonly path: string;
  readonly scope: Scope;

  constructor(
    shared: Shared,
    modules: ReadonlyMap<string, Module>,
    module: Module,
    path: string,
    chain: readonly string[],
    parameters: Readonly<Record<string, bigint | Constant>>,
  ) {
    if (chain.length > DEEPEST || chain.indexOf(module.name) < chain.length - 1)
      throw new GiveUp(
        'recursive-instance',
        module.at,
        `The module "${module.name}" contains itself: ${chain.join(' > ')}.`,
      );
    this.#shared = shared;
    this.#modules = modules;
    this.#module = module;
    this.#chain = chain;
    this.path = path;
    this.scope = new Scope(path, shared.unit);
    this.#declareAll(module.items, this.scope, parameters);
    for (const name of Object.keys(parameters))
      if (!module.items.some((item) => item.kind === 'parameter' && item.name === name))
        shared.messages.error('no-parameter', module.at, `The module "${module.name}" has no parameter "${name}".`);
    for (const port of module.ports) {
      const entity = this.scope.names.get(port.name);
      if (entity?.kind !== 'vector' || !entity.direction)
        shared.messages.error(
          'port-undeclared',
          port.at,
          `The port "${port.name}" has no direction. Declare it as input or output.`,
        );
    }
    for (const behaviour of this.#behaviours) this.#guard(() => this.#declareImplicit(behaviour));
    for (const { item, scope } of this.#behaviours) this.#guard(() => this.#behave(item, scope));
  }

  get hierarchy(): HierarchyNode {
    return {
      path: this.path,
      name: this.path.slice(this.path.lastIndexOf('.') + 1),
      module: this.#module.name,
      file: this.#module.at.file,
      line: this.#module.at.line,
      children: this.#children,
    };
  }

  /** The top's ports become the netlist's. */
  connectTop(): void {
    const { build } = this.#shared;
    for (const { name, at } of this.#module.ports) {
      const entity = this.scope.names.get(name);
      if (entity?.kind !== 'vector') continue;
      const pins = entity.drivers.filter((driver) => driver.enable !== undefined);
      if (entity.direction === 'input')
        entity.drivers.push({ lo: 0, width: entity.width, node: build.input(name, entity.width), at });
      else if (entity.direction === 'inout') this.#connectInout(entity, pins);
      else if (entity.direction === 'output')
        build.netlist.outputs.push({
          name,
          node: entity.wire,
          width: entity.width,
          ...(pins.length > 0
            ? {
                enable: joinPins(
                  build,
                  entity,
                  entity.drivers,
                  (driver) => driver.enable ?? build.constant(-1n, driver.width),
                ),
              }
            : {}),
        });
    }
  }

  /** What the design reads on an inout is the pin; what it drives goes out beside it with its enable. */
  #connectInout(port: Vector, pins: readonly Driver[]): void {
    const { build } = this.#shared;
    const others = port.drivers.filter((driver) => driver.enable === undefined);
    const drivers = [...pins, ...others];
    const pin = build.input(port.name, port.width);
    port.drivers.length = 0;
    if (drivers.length === 0) {
      port.drivers.push({ lo: 0, width: port.width, node: pin, at: port.at });
      return;
    }
    const node = joinPins(build, port, drivers, (driver) => driver.node);
    const enable = joinPins(build, port, drivers, (driver) => driver.enable ?? build.constant(-1n, driver.width));
    build.netlist.outputs.push({ name: port.name, node, width: port.width, enable });
    // While it drives, the design reads its own level back.
    port.drivers.push({
      lo: 0,
      width: port.width,
      node: build.or(build.and(enable, node), build.and(build.not(enable), pin)),
      at: port.at,
    });
  }

  #context(scope: Scope): ExpressionContext {
    return { ...new Procedure(this.#shared, scope).context, read: (vector) => vector.wire };
  }

  /** Reports what went wrong with one item and goes on with the next. */
  #guard(work: () => void): void {
    try {
      countWork(this.#shared, this.#module.at);
      work();
    } catch (error) {
      if (!(error instanceof GiveUp) || error.code === 'too-large' || error.code === 'recursive-instance') throw error;
      this.#shared.messages.error(error.code, error.place, error.message);
    }
  }

  #declareAll(items: readonly Item[], scope: Scope, overrides: Readonly<Record<string, bigint | Constant>>): void {
    for (const item of items) this.#guard(() => this.#declare(item, scope, overrides));
  }

  #declare(item: Item, scope: Scope, overrides: Readonly<Record<string, bigint | Constant>>): void {
    const context = this.#context(scope);
    switch (item.kind) {
      case 'parameter':
        return scope.declare(
          item.name,
          {
            kind: 'constant',
            constant: parameterValue(item, item.local ? undefined : own(overrides, item.name), context),
          },
          item.at,
        );
      case 'declaration':
        if (item.net === 'genvar') return;
        for (const declarator of item.names) this.#guard(() => this.#declareName(item, declarator, scope, context));
        return;
      case 'typedef':
        return scope.declare(item.name, { kind: 'type', shape: resolveType(item.type, context, scope) }, item.at);
      case 'import':
        return importNames(item, scope, this.#shared);
      case 'function':
        return scope.declare(item.name, { kind: 'function', item, scope }, item.at);
      case 'task':
        return scope.declare(item.name, { kind: 'task', item, scope }, item.at);
      case 'generate-if': {
        const taken = constantNumber(item.condition, context) !== 0;
        return this.#declareBlock(taken ? item.then : item.otherwise, item.names[taken ? 0 : 1], scope);
      }
      case 'generate-case': {
        const subject = constantNumber(item.subject, context);
        const arm =
          item.arms.find((a) => a.labels.some((label) => constantNumber(label, context) === subject)) ??
          item.arms.find((a) => a.labels.length === 0);
        return arm ? this.#declareBlock(arm.items, arm.name, scope) : undefined;
      }
      case 'generate-for':
        return this.#generateFor(item, scope, context);
      default:
        this.#behaviours.push({ item, scope });
    }
  }

  #declareName(
    item: Item & { kind: 'declaration' },
    declarator: Declarator,
    scope: Scope,
    context: ExpressionContext,
  ): void {
    declareName(this.#shared, item, declarator, scope, context, registerArraysOf(this.#module));
    const { name, at, value } = declarator;
    if (!value || item.net !== 'wire') return;
    this.#behaviours.push({ item: { kind: 'assign', at, target: { kind: 'name', at, name }, value }, scope });
  }

  /** A block of its own scope. A chain of else-if without names stays at one level. */
  #declareBlock(items: readonly Item[], name: string | null, scope: Scope): void {
    if (items.length === 0) return;
    const [only] = items;
    if (name === null && items.length === 1 && (only?.kind === 'generate-if' || only?.kind === 'generate-case'))
      return this.#declareAll(items, scope, {});
    scope.constructs++;
    const label = name ?? `genblk${scope.constructs}`;
    const inner = new Scope(`${scope.path}.${label}`, scope);
    scope.declare(label, { kind: 'block', scope: inner }, (only as Item).at);
    this.#declareAll(items, inner, {});
  }

  #generateFor(item: Item & { kind: 'generate-for' }, scope: Scope, context: ExpressionContext): void {
    scope.constructs++;
    const label = item.name ?? `genblk${scope.constructs}`;
    const scopes = new Map<number, Scope>();
    scope.declare(label, { kind: 'blocks', scopes }, item.at);
    let value = constantNumber(item.first, context);
    for (let turns = 0; ; turns++) {
      if (turns >= MOST_GENERATED)
        throw new GiveUp('endless-loop', item.at, `This generate loop has not ended after ${MOST_GENERATED} turns.`);
      const inner = new Scope(`${scope.path}.${label}[${value}]`, scope);
      inner.names.set(item.variable, {
        kind: 'constant',
        constant: { value: BigInt.asUintN(32, BigInt(value)), width: 32, signed: true },
      });
      const turn = this.#context(inner);
      if (constantNumber(item.condition, turn) === 0) return;
      if (scopes.has(value))
        throw new GiveUp('endless-loop', item.at, `This generate loop comes back to ${value} and never ends.`);
      countWork(this.#shared, item.at, STEPS_A_TURN);
      scopes.set(value, inner);
      this.#declareAll(item.items, inner, {});
      value = constantNumber(item.step, turn);
    }
  }

  /** Nets that only their use declares, before anything reads them. */
  #declareImplicit({ item, scope }: { readonly item: Item; readonly scope: Scope }): void {
    if (!this.#module.implicitNets) return;
    const uses =
      item.kind === 'assign'
        ? [item.target]
        : item.kind === 'instance'
          ? item.ports.flatMap(({ value }) => (value ? [value] : []))
          : [];
    for (const use of uses)
      if (use.kind === 'name' && !use.package && !scope.find(use.name))
        declareImplicit(this.#shared, use.name, use.at, scope);
  }

  #behave(item: Item, scope: Scope): void {
    this.#shared.build.origin = { path: this.path, file: item.at.file, line: item.at.line };
    switch (item.kind) {
      case 'assign': {
        const context = this.#context(scope);
        if (this.#isPin(item.target, item.value, context)) return this.#drivePin(item, context);
        if (item.target.kind === 'concatenation')
          return this.#drive(
            item.target,
            emitAssigned(item.value, bitsShape(widthOfTarget(item.target, context)), context),
            context,
          );
        return this.#drive(
          item.target,
          emitAssigned(item.value, targetShape(targetOf(item.target, context), context), context),
          context,
        );
      }
      case 'always':
        return readAlways(this.#shared, scope, item);
      case 'initial':
        return readInitial(this.#shared, scope, item);
      case 'instance':
        return this.#instantiate(item, scope);
      default:
        return;
    }
  }

  /** Connects a value to a target of a continuous assignment or an output port. */
  #drive(target: Expression, value: number, context: ExpressionContext): void {
    const { build } = this.#shared;
    if (target.kind === 'concatenation') {
      let at = 0;
      for (const part of [...target.parts].reverse()) {
        const width = widthOfTarget(part, context);
        this.#drive(part, build.slice(value, at, width), context);
        at += width;
      }
      return;
    }
    const place = this.#place(target, context);
    if (place)
      place.vector.drivers.push({
        lo: place.lo,
        width: place.width,
        node: build.resize(value, place.width, false),
        at: target.at,
      });
  }

  /** The bits of a net that a continuous assignment drives; null where they lie outside it. */
  #place(target: Expression, context: ExpressionContext): { vector: Vector; lo: number; width: number } | null {
    const { root, parts } = targetOf(target, context);
    if ('memory' in root)
      throw new GiveUp('target', target.at, `The memory "${root.memory.name}" is written at a clock edge only.`);
    if (root.direction === 'input')
      throw new GiveUp(
        'input-driven',
        target.at,
        `"${root.name}" is an input of this module and cannot be driven from inside.`,
      );
    let { shape } = root;
    let lo = 0;
    let { width } = shape;
    for (const part of parts) {
      const select = selection(part, shape, context);
      if (select.lo === null)
        throw new GiveUp(
          'target',
          target.at,
          'Which bit this drives depends on a signal. Use an always block for that.',
        );
      shape = partShape(part, shape, context);
      lo += select.lo;
      ({ width } = select);
    }
    return lo < 0 || lo + width > root.width ? null : { vector: root, lo, width };
  }

  /** An assignment that may leave a pin floating: to an inout port, or of a z to an output, of the top module. */
  #isPin(target: Expression, value: Expression, context: ExpressionContext): boolean {
    if (this.#chain.length > 1 || target.kind === 'concatenation') return false;
    const { root } = targetOf(target, context);
    if ('memory' in root) return false;
    return root.direction === 'inout' || (root.direction === 'output' && mentionsFloat(value));
  }

  #drivePin(item: Item & { kind: 'assign' }, context: ExpressionContext): void {
    const place = this.#place(item.target, context);
    if (!place) return;
    const { value, enable } = emitPinValue(item.value, place.width, context);
    place.vector.drivers.push({ lo: place.lo, width: place.width, node: value, enable, at: item.target.at });
  }

  #instantiate(item: Item & { kind: 'instance' }, scope: Scope): void {
    const { messages } = this.#shared;
    const module = this.#modules.get(item.module);
    if (!module && this.#shared.broken.has(item.module)) return;
    if (!module) throw new GiveUp('no-module', item.at, `There is no module "${item.module}" among the sources.`);
    const context = this.#context(scope);
    const made = instanceNames(item, context).map(
      (name) =>
        new Instance(
          this.#shared,
          this.#modules,
          module,
          `${scope.path}.${name}`,
          [...this.#chain, module.name],
          this.#overrides(item, module, context),
        ),
    );
    const [child] = made;
    if (!child) return;
    this.#children.push(...made.map((one) => one.hierarchy));
    const connected = new Set<string>();
    const byOrder = item.ports.length > 0 && item.ports.every((port) => port.name === null);
    if (byOrder && item.ports.length > module.ports.length)
      messages.error(
        'too-many-ports',
        item.at,
        `"${module.name}" has ${counted(module.ports.length, 'port')}, ${item.ports.length} are connected.`,
      );
    for (const [i, connection] of item.ports.entries()) {
      const name = connection.name ?? module.ports[i]?.name;
      if (name === undefined) continue;
      connected.add(name);
      this.#guard(() => this.#connect(made, name, connection, context));
    }
    for (const port of module.ports) {
      if (connected.has(port.name)) continue;
      const same = item.wildcard ? scope.find(port.name) : null;
      if (same)
        this.#guard(() =>
          this.#connect(
            made,
            port.name,
            { at: item.at, name: port.name, value: { kind: 'name', at: item.at, name: port.name } },
            context,
          ),
        );
      else if (direction(child, port.name) === 'input')
        messages.warning(
          'unconnected',
          item.at,
          `The input "${port.name}" of "${item.name}" is not connected and reads 0.`,
        );
    }
  }

  #overrides(item: Item & { kind: 'instance' }, module: Module, context: ExpressionContext): Record<string, Constant> {
    const names = module.items.flatMap((i) => (i.kind === 'parameter' && !i.local ? [i.name] : []));
    // Without a prototype: a parameter may have any name.
    const out: Record<string, Constant> = Object.create(null);
    for (const [i, { name, value }] of item.parameters.entries()) {
      const key = name ?? names[i];
      if (key !== undefined && value) out[key] = constantValue(value, context);
    }
    return out;
  }

  /**
   * Connects one port of one instance, or of all instances of an array: a word as wide as all of them is divided, the
   * first index leftmost.
   */
  #connect(made: readonly Instance[], name: string, { at, value }: Connection, context: ExpressionContext): void {
    const { build, messages } = this.#shared;
    const ports = made.map((child) => {
      const port = child.scope.names.get(name);
      if (port?.kind !== 'vector' || !port.direction)
        throw new GiveUp(
          'no-port',
          at,
          `There is no port "${name}" on "${child.hierarchy.name}" (module ${child.hierarchy.module}).`,
        );
      return port;
    });
    const [port] = ports;
    if (value === null || !port) return;
    if (port.direction === 'inout')
      throw new GiveUp(
        'not-taken',
        at,
        `The port "${name}" is an inout inside the design, where nothing can float. Give the module an input, an ` +
          'output and an enable, and join them at the pin of the top module.',
      );
    const all = port.width * made.length;
    if (port.direction === 'input') {
      const divided = made.length > 1 && typeOf(value, context).width === all;
      const node = emitAssigned(value, divided ? bitsShape(all) : port.shape, context);
      for (const [i, one] of ports.entries())
        one.drivers.push({
          lo: 0,
          width: one.width,
          node: divided ? build.slice(node, (made.length - 1 - i) * one.width, one.width) : node,
          at,
        });
      return;
    }
    const width = widthOfTarget(value, context);
    if (width < all)
      messages.add(
        'warning',
        'width-loss',
        at,
        `The output "${name}" has ${all} bits, what it is connected to ${width}: the upper ${all - width} are lost.`,
      );
    const word = build.concat(ports.map((one) => one.wire).reverse());
    this.#drive(value, build.resize(word, width, port.signed), context);
  }
}

/** One name, or for an array of instances one for each index, from left to right. */
function instanceNames(item: Item & { kind: 'instance' }, context: ExpressionContext): string[] {
  if (!item.range) return [item.name];
  const [left, right] = [constantNumber(item.range.high, context), constantNumber(item.range.low, context)];
  const count = Math.abs(left - right) + 1;
  if (count > MOST_TURNS) throw new GiveUp('too-large', item.at, `An array of ${count} instances is too large.`);
  return Array.from({ length: count }, (_, i) => `${item.name}[${left >= right ? left - i : left + i}]`);
}

function direction(child: Instance, name: string): Vector['direction'] {
  const entity = child.scope.names.get(name);
  return entity?.kind === 'vector' ? entity.direction : null;
}

/** Drivers of a pin side by side; bits that none drives are 0, which as an enable means floating. */
function joinPins(
  build: Shared['build'],
  port: Vector,
  drivers: readonly Driver[],
  of: (driver: Driver) => NodeId,
): NodeId {
  const parts: NodeId[] = [];
  let at = 0;
  for (const driver of [...drivers].sort((a, b) => a.lo - b.lo)) {
    if (driver.lo < at) continue;
    if (driver.lo > at) parts.push(build.constant(0n, driver.lo - at));
    parts.push(of(driver));
    at = driver.lo + driver.width;
  }
  if (at < port.width) parts.push(build.constant(0n, port.width - at));
  return build.concat(parts);
}
