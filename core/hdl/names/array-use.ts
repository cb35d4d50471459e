import type { Expression, Item, Module, Statement } from '../read/index.ts';

/**
 * Names of arrays that cannot be a memory, since a memory is written a word at a time at a clock edge: those driven by
 * logic or instances, loaded by an asynchronous reset, written all at once in a loop, or used as a whole. They become
 * one register each word.
 */
function arraysOfRegisters(module: Module): ReadonlySet<string> {
  const found: Found = { registers: new Set(), connected: new Set(), clocked: new Set() };
  for (const item of module.items) ofItem(item, found);
  return new Set([...found.registers, ...[...found.connected].filter((name) => !found.clocked.has(name))]);
}

interface Found {
  readonly registers: Set<string>;
  /** At ports of instances; a memory that is written at a clock edge stays one even so. */
  readonly connected: Set<string>;
  readonly clocked: Set<string>;
}

const cache = new WeakMap<Module, ReadonlySet<string>>();

export function registerArraysOf(module: Module): ReadonlySet<string> {
  let known = cache.get(module);
  if (!known) {
    known = arraysOfRegisters(module);
    cache.set(module, known);
  }
  return known;
}

function ofItem(item: Item, found: Found): void {
  switch (item.kind) {
    case 'assign':
      targets(item.target, found);
      return wholes(item.value, found);
    case 'always':
      return ofAlways(item, found);
    case 'instance':
      for (const { value } of item.ports) if (value) for (const name of partsOf(value)) found.connected.add(name);
      return;
    case 'generate-if':
      for (const inner of [...item.then, ...item.otherwise]) ofItem(inner, found);
      return;
    case 'generate-case':
      for (const inner of item.arms.flatMap((arm) => arm.items)) ofItem(inner, found);
      return;
    case 'generate-for':
      for (const inner of item.items) ofItem(inner, found);
      return;
    default:
      return;
  }
}

function ofAlways(item: Item & { kind: 'always' }, found: Found): void {
  const { edges } = item;
  const clocked = edges !== 'any' && edges !== null && edges.some((edge) => edge.edge !== 'any');
  const asynchronous = edges !== 'any' && edges !== null && edges.filter((edge) => edge.edge !== 'any').length > 1;
  ofStatement(item.body, { all: !clocked, resets: asynchronous, counters: [] }, found);
}

interface Where {
  /** Every assignment here needs registers. */
  readonly all: boolean;
  /** The first `if` on the way down is an asynchronous reset. */
  readonly resets: boolean;
  /** Variables of the loops around. */
  readonly counters: readonly string[];
}

function ofStatement(statement: Statement, where: Where, found: Found): void {
  switch (statement.kind) {
    case 'assign':
      if (!where.all) targets(statement.target, { ...found, registers: found.clocked });
      if (where.all || innermostIndex(statement.target).some((name) => where.counters.includes(name)))
        targets(statement.target, found);
      else if (statement.target.kind === 'name' || statement.target.kind === 'concatenation')
        targets(statement.target, found);
      return wholes(statement.value, found);
    case 'block':
      for (const inner of statement.body) ofStatement(inner, where, found);
      return;
    case 'if':
      ofStatement(statement.then, { ...where, all: where.all || where.resets, resets: false }, found);
      if (statement.otherwise) ofStatement(statement.otherwise, where, found);
      return;
    case 'case':
      for (const arm of statement.arms) ofStatement(arm.body, { ...where, resets: false }, found);
      if (statement.otherwise) ofStatement(statement.otherwise, { ...where, resets: false }, found);
      return;
    case 'for':
      return ofStatement(
        statement.body,
        { ...where, resets: false, counters: [...where.counters, ...counterOf(statement)] },
        found,
      );
    case 'while':
    case 'repeat':
      return ofStatement(statement.body, { ...where, resets: false }, found);
    default:
      return;
  }
}

function counterOf(statement: Statement & { kind: 'for' }): string[] {
  const { step } = statement;
  return step.kind === 'assign' && step.target.kind === 'name' ? [step.target.name] : [];
}

/** Names in the index next to the array's own name. */
function innermostIndex(target: Expression): string[] {
  if (target.kind !== 'index') return 'base' in target ? innermostIndex(target.base) : [];
  return target.base.kind === 'name' ? namesIn(target.index) : innermostIndex(target.base);
}

function namesIn(expression: Expression): string[] {
  switch (expression.kind) {
    case 'name':
      return [expression.name];
    case 'binary':
      return [...namesIn(expression.left), ...namesIn(expression.right)];
    case 'unary':
      return namesIn(expression.operand);
    case 'concatenation':
      return expression.parts.flatMap(namesIn);
    default:
      return [];
  }
}

/** Names on the left side, whatever part of them is assigned. */
function targets(target: Expression, found: Found): void {
  if (target.kind === 'concatenation') for (const part of target.parts) targets(part, found);
  else if (target.kind === 'name') found.registers.add(target.name);
  else if ('base' in target) targets(target.base, found);
}

/** Names that stand alone as a value: an array copied as a whole. */
function wholes(value: Expression, found: Found): void {
  if (value.kind === 'name') found.registers.add(value.name);
  else if (value.kind === 'conditional') for (const side of [value.then, value.otherwise]) wholes(side, found);
  else if (value.kind === 'call' && !value.name.startsWith('$'))
    for (const argument of value.arguments) wholes(argument, found);
}

/** Names whose whole or part is connected to a port. A word read at an address that varies stays a memory. */
function partsOf(value: Expression): string[] {
  if (value.kind === 'name') return [value.name];
  if (value.kind === 'concatenation') return value.parts.flatMap(partsOf);
  if (value.kind === 'index' && value.index.kind === 'number') return partsOf(value.base);
  if (value.kind === 'index' && value.index.kind === 'name') return partsOf(value.base);
  return [];
}
