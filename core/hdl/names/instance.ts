import { own } from '../../lists.ts';
import type { Expression, Item, Module, Primitive } from '../read/index.ts';
import { GiveUp } from '../read/index.ts';
import { registerArraysOf } from './array-use.ts';
import { declareImplicit, declareName, parameterValue } from './declare.ts';
import { evaluationIn } from './evaluate.ts';
import type { Evaluation } from './evaluation.ts';
import { importNames } from './packages.ts';
import { resolveType } from './resolve-type.ts';
import {
  type Behaviour,
  type Constant,
  constantNumber,
  countWork,
  type Elaborated,
  type InstanceItem,
  type Names,
  Scope,
} from './scope.ts';

const DEEPEST = 100;
const MOST_ARRAY = 1 << 16;
/** A turn of a generate loop makes a scope of its own, which takes as long as so many statements. */
const STEPS_A_TURN = 8;
const MOST_GENERATED = 1 << 14;

/** What the sources hold, by name. */
interface Sources {
  readonly modules: ReadonlyMap<string, Module>;
  readonly primitives: ReadonlyMap<string, Primitive>;
}

type Overrides = Readonly<Record<string, bigint | Constant>>;

/** Where a module is put into the design. */
interface Position {
  readonly path: string;
  /** The scope the instance stands in; null for a top. */
  readonly within: Scope | null;
  /** Modules from the top down to this one. */
  readonly chain: readonly string[];
}

/** Makes one instance of a module and all below it: their names and what they do, nothing computed yet. */
export function elaborateModule(
  shared: Names,
  sources: Sources,
  module: Module,
  position: Position,
  parameters: Overrides,
): Elaborated {
  const { path, within, chain } = position;
  if (chain.length > DEEPEST)
    throw new GiveUp(
      'recursive-instance',
      module.at,
      chain.indexOf(module.name) < chain.length - 1
        ? `The module "${module.name}" contains itself without an end: ${chain.slice(0, 4).join(' > ')} > ...`
        : `Instances stand in each other more than ${DEEPEST} levels deep: ${chain.slice(0, 4).join(' > ')} > ...`,
    );
  const scope = new Scope(path, shared.unit, { name: module.name, within });
  const maker = new Maker(shared, sources, module, scope, chain);
  maker.declareAll(module.items, scope, withDefparams(shared, path, module, parameters));
  for (const name of Object.keys(parameters))
    if (!module.items.some((item) => item.kind === 'parameter' && item.name === name))
      shared.messages.error('no-parameter', module.at, `The module "${module.name}" has no parameter "${name}".`);
  for (const port of module.ports) {
    const entity = scope.names.get(port.name);
    if (entity?.kind !== 'vector' || !entity.direction)
      shared.messages.error(
        'port-undeclared',
        port.at,
        `The port "${port.name}" has no direction. Declare it as input or output.`,
      );
  }
  return {
    path,
    name: path.slice(path.lastIndexOf('.') + 1),
    module,
    scope,
    behaviours: maker.behaviours(),
  };
}

/** What `defparam` says of this instance comes before what stands at the instance. @source IEEE 1364-2005, 12.2.1 */
function withDefparams(shared: Names, path: string, module: Module, parameters: Overrides): Overrides {
  if (shared.defparams.size === 0) return parameters;
  const given: Record<string, bigint | Constant> = Object.assign(Object.create(null), parameters);
  for (const item of module.items) {
    if (item.kind !== 'parameter') continue;
    const found = shared.defparams.get(`${path}.${item.name}`);
    if (!found) continue;
    found.used = true;
    given[item.name] = found.constant;
  }
  return given;
}

/** Works through the items of one module. */
class Maker {
  readonly #shared: Names;
  readonly #sources: Sources;
  readonly #module: Module;
  readonly #scope: Scope;
  readonly #chain: readonly string[];
  readonly #found: { item: Item; scope: Scope }[] = [];

  constructor(shared: Names, sources: Sources, module: Module, scope: Scope, chain: readonly string[]) {
    this.#shared = shared;
    this.#sources = sources;
    this.#module = module;
    this.#scope = scope;
    this.#chain = chain;
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

  /**
   * Functions, tasks and types first: they may be used before the line they are written in, as in the range of a
   * declaration. @source IEEE 1364-2005, clause 10
   */
  declareAll(items: readonly Item[], scope: Scope, overrides: Overrides): void {
    for (const item of items)
      if (item.kind === 'function' || item.kind === 'task')
        this.#guard(() =>
          scope.declare(
            item.name,
            item.kind === 'function' ? { kind: 'function', item, scope } : { kind: 'task', item, scope },
            item.at,
          ),
        );
    for (const item of items) this.#guard(() => this.#declare(item, scope, overrides));
  }

  #declare(item: Item, scope: Scope, overrides: Overrides): void {
    const context = evaluationIn(this.#shared, scope);
    switch (item.kind) {
      case 'function':
      case 'task':
        return;
      case 'parameter': {
        const given = item.local ? undefined : own(overrides, item.name);
        return scope.declare(item.name, { kind: 'constant', constant: parameterValue(item, given, context) }, item.at);
      }
      case 'declaration':
        if (item.net === 'genvar') return;
        for (const declarator of item.names) this.#guard(() => this.#declareName(item, declarator, scope, context));
        return;
      case 'typedef':
        return scope.declare(item.name, { kind: 'type', shape: resolveType(item.type, context, scope) }, item.at);
      case 'import':
        return importNames(item, scope, this.#shared);
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
        this.#found.push({ item, scope });
    }
  }

  #declareName(
    item: Item & { kind: 'declaration' },
    declarator: (Item & { kind: 'declaration' })['names'][number],
    scope: Scope,
    context: Evaluation,
  ): void {
    declareName(this.#shared, item, declarator, scope, context, registerArraysOf(this.#module));
    const { name, at, value } = declarator;
    if (!value || item.net !== 'wire') return;
    const { delay, strength } = item;
    const target: Expression = { kind: 'name', at, name };
    this.#found.push({ item: { kind: 'assign', at, target, value, delay, strength }, scope });
  }

  /** A block of its own scope. A chain of else-if without names stays at one level. */
  #declareBlock(items: readonly Item[], name: string | null, scope: Scope): void {
    const [only] = items;
    if (only === undefined) return;
    if (name === null && items.length === 1 && (only.kind === 'generate-if' || only.kind === 'generate-case'))
      return this.declareAll(items, scope, {});
    scope.constructs++;
    const label = name ?? `genblk${scope.constructs}`;
    const inner = new Scope(`${scope.path}.${label}`, scope);
    scope.declare(label, { kind: 'block', scope: inner }, only.at);
    this.declareAll(items, inner, {});
  }

  #generateFor(item: Item & { kind: 'generate-for' }, scope: Scope, context: Evaluation): void {
    scope.constructs++;
    const label = item.name ?? `genblk${scope.constructs}`;
    const scopes = new Map<number, Scope>();
    scope.declare(label, { kind: 'blocks', scopes }, item.at);
    let value = constantNumber(item.first, context);
    for (let turns = 0; ; turns++) {
      if (turns >= MOST_GENERATED)
        throw new GiveUp('endless-loop', item.at, `This generate loop has not ended after ${MOST_GENERATED} turns.`);
      const inner = new Scope(`${scope.path}.${label}[${value}]`, scope);
      const constant = { value: BigInt.asUintN(32, BigInt(value)), unknown: 0n, width: 32, signed: true };
      inner.names.set(item.variable, { kind: 'constant', constant });
      const turn = evaluationIn(this.#shared, inner);
      if (constantNumber(item.condition, turn) === 0) return;
      if (scopes.has(value))
        throw new GiveUp('endless-loop', item.at, `This generate loop comes back to ${value} and never ends.`);
      countWork(this.#shared, item.at, STEPS_A_TURN);
      scopes.set(value, inner);
      this.declareAll(item.items, inner, {});
      value = constantNumber(item.step, turn);
    }
  }

  /** What the module does, with its instances made. */
  behaviours(): Behaviour[] {
    for (const { item, scope } of this.#found) this.#guard(() => this.#declareImplicit(item, scope));
    for (const { item, scope } of this.#found)
      if (item.kind === 'defparam') this.#guard(() => this.#defparam(item, scope));
    const made: Behaviour[] = [];
    for (const { item, scope } of this.#found)
      this.#guard(() => {
        if (item.kind === 'instance') {
          const behaviour = this.#instantiate(item, scope);
          if (behaviour) made.push(behaviour);
        } else if (item.kind !== 'defparam') made.push({ kind: 'item', item: item as BehaviourItem, scope });
      });
    return made;
  }

  /** Nets that only their use declares, before anything reads them. @source IEEE 1364-2005, clause 4.5 */
  #declareImplicit(item: Item, scope: Scope): void {
    if (!this.#module.implicitNets) return;
    const uses =
      item.kind === 'assign'
        ? [item.target]
        : item.kind === 'gate'
          ? item.terminals
          : item.kind === 'instance'
            ? item.ports.flatMap(({ value }) => (value ? [value] : []))
            : [];
    for (const use of uses)
      for (const name of namesOf(use))
        if (name.kind === 'name' && !name.package && !scope.find(name.name))
          declareImplicit(this.#shared, name.name, name.at, scope);
  }

  #defparam({ target, value, at }: Item & { kind: 'defparam' }, scope: Scope): void {
    const context = evaluationIn(this.#shared, scope);
    const names = pathOf(target, context);
    const constant = context.constant(value);
    // The path begins in this module, or at an instance further up. @source IEEE 1364-2005, clause 12.5
    const [first = ''] = names;
    const found = scope.findUpwards(first.replace(/\[.*$/, ''));
    const known = found?.kind === 'block' ? found.scope.path : null;
    const path = known === null ? `${scope.path}.${names.join('.')}` : [known, ...names.slice(1)].join('.');
    this.#shared.defparams.set(path, { constant, at, used: false });
  }

  #instantiate(item: InstanceItem, scope: Scope): Behaviour | null {
    const module = this.#sources.modules.get(item.module);
    const context = evaluationIn(this.#shared, scope);
    const primitive = module ? undefined : this.#sources.primitives.get(item.module);
    if (primitive) return { kind: 'primitives', item, scope, primitive, count: instanceNames(item, context).length };
    if (!module && this.#shared.broken.has(item.module)) return null;
    if (!module) throw new GiveUp('no-module', item.at, `There is no module "${item.module}" among the sources.`);
    if (item.name === '') throw new GiveUp('syntax', item.at, `The instance of "${item.module}" has no name.`);
    const overrides = this.#overrides(item, module, context);
    const scopes = new Map<number, Scope>();
    const made = instanceNames(item, context).map(({ name, index }) => {
      const chain = [...this.#chain, module.name];
      const position = { path: `${scope.path}.${name}`, within: scope, chain };
      const one = elaborateModule(this.#shared, this.#sources, module, position, overrides);
      if (index !== null) scopes.set(index, one.scope);
      return one;
    });
    const [first] = made;
    if (first && !scope.names.has(item.name))
      scope.names.set(item.name, item.range ? { kind: 'blocks', scopes } : { kind: 'block', scope: first.scope });
    return { kind: 'instances', item, scope, made };
  }

  #overrides(item: InstanceItem, module: Module, context: Evaluation): Record<string, Constant> {
    const names = module.items.flatMap((i) => (i.kind === 'parameter' && !i.local ? [i.name] : []));
    // Without a prototype: a parameter may have any name.
    const out: Record<string, Constant> = Object.create(null);
    for (const [i, { name, value, at }] of item.parameters.entries()) {
      const key = name ?? names[i];
      if (key === undefined)
        throw new GiveUp(
          'no-parameter',
          at,
          `"${module.name}" has ${names.length} parameters, ${item.parameters.length} are given.`,
        );
      if (name !== null && !names.includes(name)) {
        this.#shared.messages.error('no-parameter', at, `The module "${module.name}" has no parameter "${name}".`);
        continue;
      }
      if (value) out[key] = context.constant(value);
    }
    return out;
  }
}

type BehaviourItem = Extract<Behaviour, { kind: 'item' }>['item'];

/** Names in an expression that could be nets nobody declared. */
function namesOf(expression: Expression): Expression[] {
  if (expression.kind === 'concatenation') return expression.parts.flatMap(namesOf);
  return expression.kind === 'name' ? [expression] : [];
}

function pathOf(target: Expression, context: Evaluation): string[] {
  switch (target.kind) {
    case 'name':
      return [target.name];
    case 'member':
      return [...pathOf(target.base, context), target.name];
    case 'index': {
      const names = pathOf(target.base, context);
      const last = names.pop() ?? '';
      return [...names, `${last}[${constantNumber(target.index, context)}]`];
    }
    default:
      throw new GiveUp('no-parameter', target.at, 'This is not the name of a parameter.');
  }
}

/** One name, or for an array of instances one for each index, from left to right. */
function instanceNames(item: InstanceItem, context: Evaluation): { name: string; index: number | null }[] {
  if (!item.range) return [{ name: item.name, index: null }];
  const [left, right] = [constantNumber(item.range.high, context), constantNumber(item.range.low, context)];
  const count = Math.abs(left - right) + 1;
  if (!(count <= MOST_ARRAY)) throw new GiveUp('too-large', item.at, `An array of ${count} instances is too large.`);
  return Array.from({ length: count }, (_, i) => {
    const index = left >= right ? left - i : left + i;
    return { name: `${item.name}[${index}]`, index };
  });
}
