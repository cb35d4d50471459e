import { item } from '../../lists.ts';
import type { NodeId } from '../../netlist/index.ts';
import type { Place } from '../../result.ts';
import type { Scope, Vector } from '../names/index.ts';
import { type Edge, type Expression, type Fix, GiveUp, type Item, type Statement } from '../read/index.ts';
import { emitCondition } from './expressions.ts';
import { type Executed, MOST_FILLED, Procedure } from './procedure.ts';
import { type Shared, netOf, memoryIndex } from './shared.ts';

interface Clock {
  readonly node: NodeId;
  readonly edge: 'posedge' | 'negedge';
}

/** Turns one always block into combinational drivers or registers. */
export function readAlways(shared: Shared, scope: Scope, item: Item & { kind: 'always' }): void {
  const { edges } = item;
  if (edges === null)
    throw new GiveUp('sensitivity', item.at, 'An "always" without "@(...)" never waits; hardware needs an event list.');
  if (edges === 'any' || edges.every((e) => e.edge === 'any')) return combinational(shared, scope, item);
  const clocked = edges.filter((e) => e.edge !== 'any');
  if (clocked.length < edges.length)
    throw new GiveUp(
      'sensitivity',
      item.at,
      'The event list mixes edges with plain signals. Use either edges (a register) or @* (logic).',
    );
  if (clocked.length === 1) return registers(shared, scope, item.body, clockOf(shared, scope, clocked[0] as Edge), []);
  asynchronous(shared, scope, item, clocked);
}

function combinational(shared: Shared, scope: Scope, item: Item & { kind: 'always' }): void {
  const { build, messages } = shared;
  const { values, holds, stores } = new Procedure(shared, scope).run(item.body);
  for (const store of stores)
    messages.error(
      'memory-without-clock',
      store.at,
      `The memory "${store.memory.name}" is written without a clock. Write it in an always block with an edge.`,
    );
  for (const [vector, value] of values) {
    const hold = holds.get(vector);
    if (vector.temporary || loopVariable(shared, vector, value)) continue;
    if (vector.direction === 'input')
      throw new GiveUp(
        'input-driven',
        item.at,
        `"${vector.name}" is an input of this module and cannot be assigned to inside.`,
      );
    for (const part of assignedParts(shared, value, hold)) {
      if (hold !== undefined && reaches(shared, part.node, hold))
        messages.add(
          'error',
          'latch',
          item.at,
          `"${vector.name}" keeps its old value on some path through this block, which needs a latch. Give it a ` +
            'value before the first "if" or "case".',
          latchFix(item.body, vector.name),
        );
      netOf(shared, vector).drivers.push({ ...part, at: item.at });
    }
    if (hold !== undefined) build.node(hold).args = [];
  }
}

/** A value at the top of the block, which every path that says nothing else keeps. */
function latchFix(body: Statement, name: string): { fix?: Fix } {
  if (body.kind !== 'block') return {};
  const { file, line, column } = body.at;
  return {
    fix: {
      kind: 'insert',
      label: `Begin the block with ${name} = 0`,
      insertions: [{ file, line, column: column + 'begin'.length, insert: ` ${name} = 0;` }],
    },
  };
}

function clockOf(shared: Shared, scope: Scope, { edge, signal }: Edge): Clock {
  if (edge === 'any' || edge === 'both')
    throw new GiveUp('sensitivity', signal.at, 'A clock needs posedge or negedge.');
  return { node: emitCondition(signal, contextOf(shared, scope)), edge };
}

const contextOf = (shared: Shared, scope: Scope) => new Procedure(shared, scope).context;

/** One asynchronous reset or set of a block, strongest first. */
interface Reset {
  readonly active: NodeId;
  readonly values: Executed;
}

/** `if (reset) ... else if (set) ... else ...` under an event list of a clock and as many resets. */
function asynchronous(shared: Shared, scope: Scope, item: Item & { kind: 'always' }, edges: readonly Edge[]): void {
  const resets: Reset[] = [];
  let rest = [...edges];
  let body = unwrap(item.body);
  while (rest.length > 1) {
    if (body.kind !== 'if' || !body.otherwise)
      throw new GiveUp(
        'async-reset',
        item.at,
        'An always block with several edges must be "if (reset) ... else ..." so that the reset can be told from ' +
          'the clock.',
      );
    const tested = body.condition;
    const reset = rest.find((e) => testsSignal(tested, e.signal));
    if (!reset)
      throw new GiveUp(
        'async-reset',
        body.at,
        'The first "if" must test the reset that stands in the event list, alone.',
      );
    const values = new Procedure(shared, scope).run(body.then);
    if (values.stores.length > 0)
      throw new GiveUp('memory-reset', body.at, 'A memory cannot be reset as a whole in hardware.');
    resets.push({ active: emitCondition(tested, contextOf(shared, scope)), values });
    rest = rest.filter((e) => e !== reset);
    body = unwrap(body.otherwise);
  }
  registers(shared, scope, body, clockOf(shared, scope, rest[0] as Edge), resets);
}

const unwrap = (statement: Statement): Statement =>
  statement.kind === 'block' && statement.body.length === 1 && statement.declarations.length === 0
    ? unwrap(item(statement.body, 0))
    : statement;

/** rst, !rst_n, ~rst_n, rst == 1'b1 and the like. */
function testsSignal(condition: Expression, signal: Expression): boolean {
  if (signal.kind !== 'name') return false;
  switch (condition.kind) {
    case 'name':
      return condition.name === signal.name;
    case 'unary':
      return (condition.operator === '!' || condition.operator === '~') && testsSignal(condition.operand, signal);
    case 'binary':
      return (
        (condition.operator === '==' || condition.operator === '!=') &&
        testsSignal(condition.left, signal) &&
        condition.right.kind === 'number'
      );
    default:
      return false;
  }
}

function registers(shared: Shared, scope: Scope, body: Statement, clock: Clock, resets: readonly Reset[]): void {
  const { build } = shared;
  const run = new Procedure(shared, scope).run(body);
  const vectors = new Set([...run.values.keys(), ...resets.flatMap((reset) => [...reset.values.values.keys()])]);
  for (const vector of vectors) {
    if (vector.temporary) continue;
    const own = run.values.get(vector);
    if (own !== undefined && loopVariable(shared, vector, own)) continue;
    if (vector.direction === 'input')
      throw new GiveUp(
        'input-driven',
        body.at,
        `"${vector.name}" is an input of this module and cannot be assigned to inside.`,
      );
    register(shared, vector, { clock, value: own, hold: run.holds.get(vector), resets, at: body.at });
  }
  for (const hold of run.holds) build.node(hold[1]).args = [netOf(shared, hold[0]).wire];
  for (const reset of resets)
    for (const hold of reset.values.holds) build.node(hold[1]).args = [netOf(shared, hold[0]).wire];
  const block = (shared.stores.at(-1)?.block ?? 0) + 1;
  for (const { memory, condition, address, data, base, at } of run.stores)
    shared.stores.push({ memory, condition, address, data, base, clock, block, at });
}

/** What a process makes of a register: the value it is given at an edge, and what its resets do. */
interface Clocked {
  readonly clock: Clock;
  readonly value: NodeId | undefined;
  readonly hold: NodeId | undefined;
  readonly resets: readonly Reset[];
  readonly at: Place;
}

function register(shared: Shared, vector: Vector, { clock, value, hold, resets, at }: Clocked): void {
  const { build } = shared;
  const assigned = value === undefined ? [] : assignedParts(shared, value, hold);
  const cleared = resets.map(({ active, values }) => {
    const word = values.values.get(vector);
    return { active, word, parts: word === undefined ? [] : assignedParts(shared, word, values.holds.get(vector)) };
  });
  const cuts = new Set([0, vector.width]);
  for (const part of [...assigned, ...cleared.flatMap((reset) => reset.parts)])
    cuts.add(part.lo).add(part.lo + part.width);
  const edges = [...cuts].sort((a, b) => a - b);
  const inside = (parts: readonly Part[], bit: number) => parts.some((p) => p.lo <= bit && bit < p.lo + p.width);
  for (let i = 0; i + 1 < edges.length; i++) {
    const lo = item(edges, i);
    const width = item(edges, i + 1) - lo;
    const hasValue = inside(assigned, lo);
    const own = cleared.filter((reset) => inside(reset.parts, lo));
    if (!hasValue && own.length === 0) continue;
    const node = build.register(width);
    let d = hasValue ? build.slice(value as NodeId, lo, width) : node;
    for (const { active, parts } of cleared) if (!inside(parts, lo)) d = build.mux(active, node, d);
    const values = own.map(({ word }) => {
      const constant = build.constantOf(build.slice(word as NodeId, lo, width));
      if (constant === null)
        throw new GiveUp(
          'reset-value',
          at,
          `The reset gives "${vector.name}" a value that is not constant. An asynchronous reset can only load a ` +
            'constant.',
        );
      return constant;
    });
    const reset = own.length === 0 ? null : own.map(({ active }) => active).reduce((a, b) => build.or(a, b));
    // Where set and reset are both active, the first in the source wins.
    const loads = own.map(({ active }, k) => ({ active, value: build.constant(item(values, k), width) }));
    const load =
      own.length < 2
        ? null
        : loads.reduceRight<NodeId>(
            (rest, { active, value: word }) => build.mux(active, word, rest),
            (loads.at(-1) as { value: NodeId }).value,
          );
    build.netlist.registers.push({
      node,
      clock: clock.node,
      edge: clock.edge,
      d,
      reset,
      resetValue: values[0] ?? 0n,
      load,
      init: 0n,
      initialised: false,
    });
    netOf(shared, vector).drivers.push({ lo, width, node, at });
  }
}

/** Power-up values. @source IEEE 1364-2005, clause 9.9.1; FPGAs load them with the configuration (common practice) */
export function readInitial(shared: Shared, scope: Scope, item: Item & { kind: 'initial' }): void {
  const { build, messages } = shared;
  const { values, holds, stores } = new Procedure(shared, scope).run(item.body, MOST_FILLED);
  for (const [vector, value] of values) {
    if (vector.temporary) continue;
    const net = netOf(shared, vector);
    const hold = holds.get(vector);
    if (hold !== undefined) build.node(hold).args = [build.constant(net.init ?? 0n, vector.width)];
    let init = net.init ?? 0n;
    for (const part of assignedParts(shared, value, hold)) {
      const constant = build.constantOf(part.node);
      if (constant === null)
        messages.error('initial-value', item.at, `The power-up value of "${vector.name}" depends on a signal.`);
      else init = (init & ~(((1n << BigInt(part.width)) - 1n) << BigInt(part.lo))) | (constant << BigInt(part.lo));
    }
    net.init = init;
  }
  for (const { memory, address, data, at } of stores) {
    const [where, word] = [build.constantOf(address), build.constantOf(data)];
    const { init } = build.netlist.memories[memoryIndex(shared, memory)] ?? { init: [] };
    if (where === null || word === null)
      messages.error('initial-value', at, `The power-up contents of "${memory.name}" depend on a signal.`);
    else if (where < BigInt(memory.depth)) init[Number(where)] = BigInt.asUintN(memory.width, word);
  }
}

interface Part {
  readonly lo: number;
  readonly width: number;
  readonly node: NodeId;
}

/** The bits of a value that are not exactly the kept ones in their own places. */
export function assignedParts({ build }: Shared, value: NodeId, hold: NodeId | undefined): Part[] {
  const { op, args } = build.node(value);
  const parts: Part[] = [];
  let lo = 0;
  for (const node of op === 'concat' ? args : [value]) {
    const width = build.width(node);
    if (hold === undefined || node !== build.slice(hold, lo, width)) parts.push({ lo, width, node });
    lo += width;
  }
  return parts;
}

/** An integer that ends a block with a known value only counted a loop. */
const loopVariable = ({ build }: Shared, vector: Vector, value: NodeId): boolean =>
  vector.net === 'integer' && build.constantOf(value) !== null;

function reaches({ build }: Shared, from: NodeId, wanted: NodeId): boolean {
  const seen = new Set<NodeId>();
  const open = [from];
  for (let id = open.pop(); id !== undefined; id = open.pop()) {
    if (id === wanted) return true;
    const { op, args } = build.node(id);
    if (op === 'wire' || op === 'reg') continue;
    for (const next of args)
      if (!seen.has(next)) {
        seen.add(next);
        open.push(next);
      }
  }
  return false;
}
