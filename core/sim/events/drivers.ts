// Which nets have one driver and which have several, and what several make of a net.
import {
  type Behaviour,
  type Elaborated,
  type Expression,
  four,
  GiveUp,
  isPart,
  type Names,
  type Scope,
  type Vector,
  type Word,
  entityOf,
  evaluationIn,
} from '../../hdl/index.ts';

/** Drive strengths of 0 and of 1 as IEEE 1364-2005, clause 7.10 numbers them; 6 is `strong`. */
export interface Strength {
  readonly zero: number;
  readonly one: number;
}

export const STRONG: Strength = { zero: 6, one: 6 };

export type Resolution = Vector['resolution'];

/** Vectors that a target names, whatever part of them. */
function rootsOf(target: Expression, scope: Scope, names: Names): Vector[] {
  if (target.kind === 'concatenation') return target.parts.flatMap((part) => rootsOf(part, scope, names));
  const context = evaluationIn(names, scope);
  let at: Expression = target;
  for (;;) {
    const entity = entityOf(at, context);
    if (entity?.kind === 'vector') return [entity];
    if (entity || !isPart(at)) return [];
    at = at.base;
  }
}

/** How many things drive each net: assignments, gates, outputs of instances. */
export function countDrivers(
  instance: Elaborated,
  names: Names,
  found = new Map<Vector, number>(),
): Map<Vector, number> {
  const count = (target: Expression, scope: Scope): void => {
    try {
      for (const root of rootsOf(target, scope, names)) found.set(root, (found.get(root) ?? 0) + 1);
    } catch (error) {
      // Told where the assignment itself is read.
      if (!(error instanceof GiveUp)) throw error;
    }
  };
  for (const behaviour of instance.behaviours) {
    if (behaviour.kind === 'instances') {
      for (const one of behaviour.made) countDrivers(one, names, found);
      for (const { value, direction } of connectionsOf(behaviour))
        if (value && direction !== 'input') count(value, behaviour.scope);
    } else if (behaviour.kind === 'primitives') {
      const [first] = behaviour.item.ports;
      if (first?.value) count(first.value, behaviour.scope);
    } else if (behaviour.item.kind === 'assign') count(behaviour.item.target, behaviour.scope);
    else if (behaviour.item.kind === 'gate')
      for (const target of outputsOf(behaviour.item.gate, behaviour.item.terminals)) count(target, behaviour.scope);
  }
  return found;
}

/** Terminals that a gate drives. @source IEEE 1364-2005, clauses 7.2 to 7.8 */
export function outputsOf(gate: string, terminals: readonly Expression[]): readonly Expression[] {
  if (gate === 'buf' || gate === 'not') return terminals.slice(0, -1);
  return terminals.slice(0, 1);
}

/** One port of one instance, or of each of a row of them, and what it is connected to. */
interface Connected {
  readonly name: string;
  readonly value: Expression | null;
  readonly direction: 'input' | 'output' | 'inout';
  readonly at: Expression['at'];
}

export function connectionsOf({ item, scope, made }: Behaviour & { kind: 'instances' }): Connected[] {
  const [child] = made;
  if (!child) return [];
  const directionOf = (name: string) => {
    const port = child.scope.names.get(name);
    return port?.kind === 'vector' ? port.direction : null;
  };
  const found: Connected[] = [];
  const connected = new Set<string>();
  for (const [i, { name: given, value, at }] of item.ports.entries()) {
    const name = given ?? child.module.ports[i]?.name;
    if (name === undefined)
      throw new GiveUp(
        'too-many-ports',
        item.at,
        `"${child.module.name}" has ${child.module.ports.length} ports, ${item.ports.length} are connected.`,
      );
    const direction = directionOf(name);
    if (!direction)
      throw new GiveUp('no-port', at, `There is no port "${name}" on "${item.name}" (module ${child.module.name}).`);
    connected.add(name);
    found.push({ name, value, direction, at });
  }
  for (const { name } of child.module.ports) {
    const direction = directionOf(name);
    if (connected.has(name) || !direction) continue;
    const value: Expression | null = item.wildcard && scope.find(name) ? { kind: 'name', at: item.at, name } : null;
    found.push({ name, value, direction, at: item.at });
  }
  return found;
}

/** What one driver says. */
interface Said {
  readonly word: Word;
  readonly strength: Strength;
}

/**
 * What several drivers make of a net: bit by bit the strongest wins, equally strong ones that differ make x; wired
 * nets join; a pull or a charge fills what nobody drives.
 *
 * @source IEEE 1364-2005, clauses 4.6.2 to 4.6.6 and 7.10
 */
export function resolve(drivers: readonly Said[], width: number, resolution: Resolution, before: Word): Word {
  let v = 0n;
  let x = 0n;
  for (let bit = 0; bit < width; bit++) {
    const at = BigInt(bit);
    const [value, unknown] = bitOf(drivers, at, resolution);
    if (value === 0n && unknown === 1n && resolution === 'trireg') {
      v |= before.v & (1n << at);
      x |= before.x & (1n << at);
      continue;
    }
    v |= value << at;
    x |= unknown << at;
  }
  return { v, x };
}

const PULL = 5;

function bitOf(drivers: readonly Said[], at: bigint, resolution: Resolution): readonly [bigint, bigint] {
  let zero = resolution === 'tri0' ? PULL : resolution === 'supply0' ? 7 : 0;
  let one = resolution === 'tri1' ? PULL : resolution === 'supply1' ? 7 : 0;
  let maybe = 0;
  for (const { word, strength } of drivers) {
    const v = (word.v >> at) & 1n;
    const x = (word.x >> at) & 1n;
    if (x === 0n) {
      if (v === 0n) zero = Math.max(zero, strength.zero);
      else one = Math.max(one, strength.one);
    } else if (v === 1n) maybe = Math.max(maybe, strength.zero, strength.one);
  }
  if (zero === 0 && one === 0 && maybe === 0) return [0n, 1n];
  if (resolution === 'wand' && zero > 0) return [0n, 0n];
  if (resolution === 'wor' && one > 0) return [1n, 0n];
  if (maybe >= zero && maybe >= one) return [1n, 1n];
  if (zero > one) return [0n, 0n];
  return one > zero ? [1n, 0n] : [1n, 1n];
}

export const floating = (width: number): Word => ({ v: 0n, x: four.mask(width) });
