import type { Connection, Expression, Item, Module, Range } from './ast.ts';
import { readAlways, readInitial } from './behaviour.ts';
import { constantNumber, constantValue, emitAssigned, type ExpressionContext, selection, typeOf } from './expressions.ts';
import { GiveUp } from './message.ts';
import { assignable, Procedure, typeOfTarget } from './procedure.ts';
import { type Constant, type HierarchyNode, Scope, type Shared, type Vector } from './scope.ts';

const DEEPEST = 100;
const MOST_NODES = 3_000_000;
const MOST_TURNS = 1 << 16;
const WIDEST = 1 << 20;
const MOST_MEMORY_BITS = 1 << 26;

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

  constructor(shared: Shared, modules: ReadonlyMap<string, Module>, module: Module, path: string, chain: readonly string[], parameters: Readonly<Record<string, bigint | Constant>>) {
    if (chain.length > DEEPEST || chain.indexOf(module.name) < chain.length - 1)
      throw new GiveUp('recursive-instance', module.at, `The module "${module.name}" contains itself: ${chain.join(' > ')}.`);
    this.#shared = shared;
    this.#modules = modules;
    this.#module = module;
    this.#chain = chain;
    this.path = path;
    this.scope = new Scope(path, null);
    this.#declareAll(module.items, this.scope, parameters);
    for (const name of Object.keys(parameters))
      if (!module.items.some((item) => item.kind === 'parameter' && item.name === name)) shared.messages.error('no-parameter', module.at, `The module "${module.name}" has no parameter "${name}".`);
    for (const port of module.ports) {
      const entity = this.scope.names.get(port.name);
      if (entity?.kind !== 'vector' || !entity.direction) shared.messages.error('port-undeclared', port.at, `The port "${port.name}" has no direction. Declare it as input or output.`);
    }
    for (const { item, scope } of this.#behaviours) this.#guard(() => this.#behave(item, scope));
  }

  get hierarchy(): HierarchyNode {
    return { path: this.path, name: this.path.slice(this.path.lastIndexOf('.') + 1), module: this.#module.name, file: this.#module.at.file, line: this.#module.at.line, children: this.#children };
  }

  /** The top's ports become the netlist's. */
  connectTop(): void {
    const { build, messages } = this.#shared;
    for (const { name, at } of this.#module.ports) {
      const entity = this.scope.names.get(name);
      if (entity?.kind !== 'vector') continue;
      if (entity.direction === 'input') entity.drivers.push({ lo: 0, width: entity.width, node: build.input(name, entity.width), at });
      else if (entity.direction === 'output') build.netlist.outputs.push({ name, node: entity.wire, width: entity.width });
      else messages.error('not-taken', at, `The inout port "${name}" is not taken yet. Split it into an input, an output and an enable.`);
    }
  }

  #context(scope: Scope): ExpressionContext {
    return { ...new Procedure(this.#shared, scope).context, read: (vector) => vector.wire };
  }

  /** Reports what went wrong with one item and goes on with the next. */
  #guard(work: () => void): void {
    try {
      if (this.#shared.build.netlist.nodes.length > MOST_NODES) throw new GiveUp('too-large', this.#module.at, `The design grew past ${MOST_NODES} operations; a loop or a parameter is probably far too large.`);
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
        return scope.declare(item.name, { kind: 'constant', constant: this.#parameter(item, item.local ? undefined : overrides[item.name], context) }, item.at);
      case 'declaration':
        if (item.net === 'genvar') return;
        for (const declarator of item.names) this.#guard(() => this.#declareName(item, declarator, scope, context));
        return;
      case 'function':
        return scope.declare(item.name, { kind: 'function', item, scope }, item.at);
      case 'task':
        return scope.declare(item.name, { kind: 'task', item, scope }, item.at);
      case 'generate-if': {
        const taken = constantNumber(item.condition, context) !== 0;
        const name = item.names[taken ? 0 : 1];
        return this.#declareAll(taken ? item.then : item.otherwise, name ? new Scope(`${scope.path}.${name}`, scope) : scope, {});
      }
      case 'generate-case': {
        const subject = constantNumber(item.subject, context);
        const arm = item.arms.find((a) => a.labels.some((label) => constantNumber(label, context) === subject)) ?? item.arms.find((a) => a.labels.length === 0);
        if (arm) this.#declareAll(arm.items, arm.name ? new Scope(`${scope.path}.${arm.name}`, scope) : scope, {});
        return;
      }
      case 'generate-for':
        return this.#generateFor(item, scope, context);
      default:
        this.#behaviours.push({ item, scope });
    }
  }

  #parameter(item: Item & { kind: 'parameter' }, override: bigint | Constant | undefined, context: ExpressionContext): Constant {
    const range = item.range ? { high: constantNumber(item.range.high, context), low: constantNumber(item.range.low, context) } : null;
    const width = range ? Math.abs(range.high - range.low) + 1 : null;
    if (typeof override === 'bigint') {
      const size = width ?? Math.max(32, override.toString(2).length + 1);
      return { value: BigInt.asUintN(size, override), width: size, signed: width === null || item.signed };
    }
    const given = override ?? constantValue(item.value, context);
    if (width === null) return given;
    const extended = given.signed ? BigInt.asIntN(given.width, given.value) : given.value;
    return { value: BigInt.asUintN(width, extended), width, signed: item.signed };
  }

  #declareName(item: Item & { kind: 'declaration' }, declarator: (Item & { kind: 'declaration' })['names'][number], scope: Scope, context: ExpressionContext): void {
    const { name, at } = declarator;
    const [left, right] = this.#bounds(item.range, item.net === 'integer', context);
    const width = Math.abs(left - right) + 1;
    if (width > WIDEST) throw new GiveUp('width', at, `"${name}" would be ${width} bits wide; at most ${WIDEST} are taken.`);
    if (declarator.dimensions.length > 0) return this.#declareMemory(item, declarator, width, scope, context);
    const known = scope.names.get(name);
    const initial = declarator.value && item.net !== 'wire' ? constantValue(declarator.value, context).value : null;
    if (known?.kind === 'vector' && (known.direction === null) !== (item.direction === null)) {
      // The older style says a port twice: once its direction, once that it is a reg.
      const merged: Vector = { ...known, net: item.net === 'reg' ? 'reg' : known.net, direction: known.direction ?? item.direction, init: initial ?? known.init };
      if (merged.width !== width && item.range) throw new GiveUp('declared-twice', at, `"${name}" is declared with ${known.width} and with ${width} bits.`);
      scope.names.set(name, merged);
      this.#shared.vectors[this.#shared.vectors.indexOf(known)] = merged;
      return;
    }
    const path = `${scope.path}.${name}`;
    const vector: Vector = {
      kind: 'vector', name, path, at, width, signed: item.signed, left, right,
      net: item.net === 'genvar' ? 'integer' : item.net,
      direction: item.direction, wire: this.#shared.build.wire(path, width), drivers: [], init: initial === null ? null : BigInt.asUintN(width, initial), temporary: false,
    };
    scope.declare(name, vector, at);
    this.#shared.vectors.push(vector);
    if (declarator.value && item.net === 'wire') {
      const target: Expression = { kind: 'name', at, path: [name] };
      this.#behaviours.push({ item: { kind: 'assign', at, target, value: declarator.value }, scope });
    }
  }

  #declareMemory(item: Item & { kind: 'declaration' }, declarator: (Item & { kind: 'declaration' })['names'][number], width: number, scope: Scope, context: ExpressionContext): void {
    const { name, at, dimensions } = declarator;
    const [dimension, more] = dimensions;
    if (!dimension || more) throw new GiveUp('not-taken', at, `"${name}" has more than one dimension. Use one, with a computed address.`);
    const first = constantNumber(dimension.high, context);
    const last = constantNumber(dimension.low, context);
    const depth = Math.abs(first - last) + 1;
    if (depth * width > MOST_MEMORY_BITS) throw new GiveUp('width', at, `The memory "${name}" would hold ${depth * width} bits; at most ${MOST_MEMORY_BITS} are taken.`);
    const { memories } = this.#shared.build.netlist;
    const index = memories.push({ name: `${scope.path}.${name}`, width, depth, init: [], writes: [] }) - 1;
    scope.declare(name, { kind: 'memory', name, at, index, width, signed: item.signed, depth, lowest: Math.min(first, last) }, at);
  }

  #bounds(range: Range | null, integer: boolean, context: ExpressionContext): [number, number] {
    if (integer) return [31, 0];
    return range ? [constantNumber(range.high, context), constantNumber(range.low, context)] : [0, 0];
  }

  #generateFor(item: Item & { kind: 'generate-for' }, scope: Scope, context: ExpressionContext): void {
    let value = constantNumber(item.first, context);
    for (let turns = 0; ; turns++) {
      if (turns >= MOST_TURNS) throw new GiveUp('endless-loop', item.at, `This generate loop has not ended after ${MOST_TURNS} turns.`);
      const inner = new Scope(`${scope.path}.${item.name ?? 'for'}[${value}]`, scope);
      inner.names.set(item.variable, { kind: 'constant', constant: { value: BigInt.asUintN(32, BigInt(value)), width: 32, signed: true } });
      const turn = this.#context(inner);
      if (constantNumber(item.condition, turn) === 0) return;
      if (this.#shared.build.netlist.nodes.length > MOST_NODES) throw new GiveUp('too-large', item.at, `This generate loop makes more than ${MOST_NODES} operations.`);
      this.#declareAll(item.items, inner, {});
      value = constantNumber(item.step, turn);
    }
  }

  #behave(item: Item, scope: Scope): void {
    switch (item.kind) {
      case 'assign': {
        const context = this.#context(scope);
        const { width } = typeOfTarget(item.target, context);
        return this.#drive(item.target, emitAssigned(item.value, width, context), context);
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
        const { width } = typeOfTarget(part, context);
        this.#drive(part, build.slice(value, at, width), context);
        at += width;
      }
      return;
    }
    const base = target.kind === 'index' || target.kind === 'range' || target.kind === 'indexed-range' ? target.base : target;
    if (base.kind !== 'name') throw new GiveUp('target', target.at, 'This cannot be driven: an output needs a net, part of a net, or a concatenation of nets.');
    const vector = assignable(base, context);
    if (vector.direction === 'input') throw new GiveUp('input-driven', target.at, `"${vector.name}" is an input of this module and cannot be driven from inside.`);
    if (target.kind === 'name') {
      vector.drivers.push({ lo: 0, width: vector.width, node: build.resize(value, vector.width, false), at: target.at });
      return;
    }
    const select = selection(target as Expression & { kind: 'index' }, vector, vector.width, context);
    if (select.lo === null) throw new GiveUp('target', target.at, 'Which bit this drives depends on a signal. Use an always block for that.');
    vector.drivers.push({ lo: select.lo, width: select.width, node: build.resize(value, select.width, false), at: target.at });
  }

  #instantiate(item: Item & { kind: 'instance' }, scope: Scope): void {
    const { messages } = this.#shared;
    const module = this.#modules.get(item.module);
    if (!module && this.#shared.broken.has(item.module)) return;
    if (!module) throw new GiveUp('no-module', item.at, `There is no module "${item.module}" among the sources.`);
    const context = this.#context(scope);
    const made = instanceNames(item, context).map((name) => new Instance(this.#shared, this.#modules, module, `${scope.path}.${name}`, [...this.#chain, module.name], this.#overrides(item, module, context)));
    const [child] = made;
    if (!child) return;
    this.#children.push(...made.map((one) => one.hierarchy));
    const connected = new Set<string>();
    const byOrder = item.ports.length > 0 && item.ports.every((port) => port.name === null);
    if (byOrder && item.ports.length > module.ports.length) messages.error('too-many-ports', item.at, `"${module.name}" has ${module.ports.length} ports, ${item.ports.length} are connected.`);
    for (const [i, connection] of item.ports.entries()) {
      const name = connection.name ?? module.ports[i]?.name;
      if (name === undefined) continue;
      connected.add(name);
      this.#guard(() => this.#connect(made, name, connection, context));
    }
    for (const port of module.ports) {
      if (connected.has(port.name)) continue;
      const same = item.wildcard ? scope.find(port.name) : null;
      if (same) this.#guard(() => this.#connect(made, port.name, { at: item.at, name: port.name, value: { kind: 'name', at: item.at, path: [port.name] } }, context));
      else if (direction(child, port.name) === 'input') messages.warning('unconnected', item.at, `The input "${port.name}" of "${item.name}" is not connected and reads 0.`);
    }
  }

  #overrides(item: Item & { kind: 'instance' }, module: Module, context: ExpressionContext): Record<string, Constant> {
    const names = module.items.flatMap((i) => (i.kind === 'parameter' && !i.local ? [i.name] : []));
    const out: Record<string, Constant> = {};
    for (const [i, { name, value }] of item.parameters.entries()) {
      const key = name ?? names[i];
      if (key !== undefined && value) out[key] = constantValue(value, context);
    }
    return out;
  }

  /** Connects one port of one instance, or of all instances of an array: a word as wide as all of them is divided, the first index leftmost. */
  #connect(made: readonly Instance[], name: string, { at, value }: Connection, context: ExpressionContext): void {
    const { build, messages } = this.#shared;
    const ports = made.map((child) => {
      const port = child.scope.names.get(name);
      if (port?.kind !== 'vector' || !port.direction) throw new GiveUp('no-port', at, `There is no port "${name}" on "${child.hierarchy.name}" (module ${child.hierarchy.module}).`);
      return port;
    });
    const [port] = ports;
    if (value === null || !port) return;
    if (port.direction === 'inout') throw new GiveUp('not-taken', at, 'inout ports are not taken inside a design.');
    const all = port.width * made.length;
    if (port.direction === 'input') {
      const divided = made.length > 1 && typeOf(value, context).width === all;
      const node = emitAssigned(value, divided ? all : port.width, context);
      for (const [i, one] of ports.entries()) one.drivers.push({ lo: 0, width: one.width, node: divided ? build.slice(node, (made.length - 1 - i) * one.width, one.width) : node, at });
      return;
    }
    const { width } = typeOfTarget(value, context);
    if (width < all) messages.warning('width-loss', at, `The output "${name}" has ${all} bits, what it is connected to ${width}: the upper ${all - width} are lost.`);
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
