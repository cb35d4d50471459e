// What has to hold so that an edge changes a few registers alone, and how little is computed then.
import { item } from '../../lists.ts';
import type { Netlist, NodeId } from '../../netlist/index.ts';
import type { Members } from './compile.ts';
import { coneOf, resetGroups } from './cones.ts';

/** One write of a memory. */
interface Writing {
  readonly memory: number;
  readonly enable: NodeId;
  readonly address: NodeId;
  readonly data: NodeId;
}

/** What is to be compared so that registers are known to keep their words; choices are bits that decide what it is. */
export interface Rest {
  /** A node, and the register whose word it has to be. */
  readonly same: (readonly [NodeId, NodeId])[];
  readonly choices: Map<NodeId, { readonly yes: Rest; readonly no: Rest }>;
}

/**
 * Edges of one clock at which only the movers change. As long as every fact is one and all that has to rest does, no
 * other register takes another value; the writes are made.
 */
export interface Calm {
  /** By register what it takes. */
  readonly movers: ReadonlyMap<NodeId, NodeId>;
  /** Bits with the value that each has to have; what follows from other facts is among them. */
  readonly facts: ReadonlyMap<NodeId, number>;
  /** The facts that do not follow from others. */
  readonly checked: ReadonlySet<NodeId>;
  readonly rest: Rest;
  /** Clocks that logic makes and movers decide: each has to stay at its level. */
  readonly levels: readonly NodeId[];
  /** Asynchronous resets that movers decide; each is a fact. */
  readonly resets: readonly NodeId[];
  readonly writes: readonly Writing[];
  /** Nodes that movers decide, of this clock or of another one. */
  readonly moving: ReadonlySet<NodeId>;
}

interface Seen {
  readonly netlist: Netlist;
  readonly members: Members;
  /** Registers of all clocks that change time and again. */
  readonly movers: ReadonlySet<NodeId>;
  /** Clocks that logic makes. */
  readonly derived: readonly NodeId[];
  /** Memories that are written at edges of any clock at which only movers change. */
  readonly written: ReadonlySet<number>;
  /** The value that a node had at all of these edges; null where it had several, or has more than 32 bits. */
  readonly knownOf: (id: NodeId) => number | null;
}

/** All writes at edges of a clock. */
const writingsOf = (netlist: Netlist, { writes }: Members): Writing[] =>
  writes.map(({ memory, index }) => {
    const { enable, address, data } = item(item(netlist.memories, memory).writes, index);
    return { memory, enable, address, data };
  });

/** Nodes that have to be known of a clock's edges: what its registers, its memories and the resets depend on. */
export function coneOfEdge(netlist: Netlist, members: Members, derived: readonly NodeId[]): NodeId[] {
  const written = writingsOf(netlist, members).flatMap(({ enable, address, data }) => [enable, address, data]);
  return coneOf(netlist, [
    ...members.registers.map(({ d }) => d),
    ...written,
    ...resetGroups(netlist).keys(),
    ...derived,
  ]);
}

/** Writes that happen at edges at which only movers change, as far as is known: all that are not known to be off. */
export const writesIn = (netlist: Netlist, members: Members, knownOf: Seen['knownOf']): Writing[] =>
  writingsOf(netlist, members).filter(({ enable }) => knownOf(enable) !== 0);

/** Null where a reset comes and goes. */
export function assume(seen: Seen): Calm | null {
  const { netlist, members, movers, knownOf } = seen;
  const search = new Search(seen);
  const held = new Set<NodeId>();
  for (const [reset, registers] of resetGroups(netlist)) {
    if (knownOf(reset) === null) return null;
    search.require(reset);
    if (knownOf(reset) === 0) continue;
    for (const { node, load } of registers) {
      if (movers.has(node)) return null;
      held.add(node);
      if (load !== null) search.hold(load, node);
    }
  }
  for (const { node, d } of members.registers)
    if (movers.has(node)) search.simplify(d);
    else if (!held.has(node)) search.hold(d, node);
  for (const { enable, address, data } of writingsOf(netlist, members)) {
    if (knownOf(enable) !== null) search.require(enable);
    else search.simplify(enable);
    if (knownOf(enable) === 0) continue;
    search.simplify(address);
    search.simplify(data);
  }
  for (const clock of seen.derived) search.simplify(clock, true);
  const { facts, checked, rest, moving } = search;
  const levels = seen.derived.filter((clock) => moving.has(clock));
  const resets = [...resetGroups(netlist).keys()].filter((reset) => moving.has(reset));
  const own = new Map(members.registers.flatMap(({ node, d }) => (movers.has(node) ? [[node, d] as const] : [])));
  return { movers: own, facts, checked, rest, levels, resets, writes: writesIn(netlist, members, knownOf), moving };
}

const nothing = (): Rest => ({ same: [], choices: new Map() });

/** Goes from what has to stay as it is back to the least that makes it so. */
class Search {
  readonly facts = new Map<NodeId, number>();
  readonly checked = new Set<NodeId>();
  readonly rest: Rest = nothing();
  readonly moving: ReadonlySet<NodeId>;
  readonly #netlist: Netlist;
  readonly #knownOf: Seen['knownOf'];
  readonly #simplified = { all: new Set<NodeId>(), still: new Set<NodeId>() };

  constructor({ netlist, movers, written, knownOf }: Seen) {
    this.#netlist = netlist;
    this.#knownOf = knownOf;
    const moving = new Set(movers);
    for (const [id, node] of netlist.nodes.entries())
      if (node.op === 'memread' && written.has(node.memory)) moving.add(id);
      else if (node.op !== 'reg' && node.args.some((arg) => moving.has(arg))) moving.add(id);
    this.moving = moving;
  }

  /** Finds what keeps a node at the value that it is known to have, of the things that movers decide. */
  require(id: NodeId): void {
    const open = [id];
    for (let at = open.pop(); at !== undefined; at = open.pop()) {
      const value = this.#knownOf(at);
      if (value === null || this.facts.has(at) || item(this.#netlist.nodes, at).op === 'const') continue;
      const from = this.#reasonOf(at, value);
      this.facts.set(at, value);
      // What follows from others is not looked at itself, but is known all the same.
      if (from === null) this.checked.add(at);
      else open.push(...from);
    }
  }

  /** Arguments whose values alone make a bit what it is; null where it is to be looked at itself. */
  #reasonOf(id: NodeId, value: number): readonly NodeId[] | null {
    const node = item(this.#netlist.nodes, id);
    if (!this.moving.has(id) || node.width !== 1) return null;
    const isKnown = (arg: NodeId) => this.#knownOf(arg) !== null && item(this.#netlist.nodes, arg).width === 1;
    switch (node.op) {
      case 'not':
        return isKnown(node.args[0]) ? node.args : null;
      case 'and':
      case 'or': {
        const deciding = node.op === 'and' ? 0 : 1;
        if (value !== deciding) return node.args.every(isKnown) ? node.args : null;
        const deciders = node.args.filter((arg) => isKnown(arg) && this.#knownOf(arg) === deciding);
        const [best] = deciders.toSorted((a, b) => this.#effort(a) - this.#effort(b));
        return best === undefined ? null : [best];
      }
      case 'mux': {
        const [condition, then, otherwise] = node.args;
        const chosen = this.#knownOf(condition) === 0 ? otherwise : then;
        return isKnown(condition) && isKnown(chosen) ? [condition, chosen] : null;
      }
      default:
        return null;
    }
  }

  /** What does not move costs nothing; what is known already costs nothing more. */
  #effort(id: NodeId): number {
    if (!this.moving.has(id) || this.facts.has(id)) return 0;
    return item(this.#netlist.nodes, id).op === 'reg' ? 1 : 2;
  }

  /**
   * Finds what keeps a node at a register's word, where all that moves is the movers. Facts are made of what does not
   * move: what does is looked at where it is, since it may be the other way for a long time too.
   */
  hold(id: NodeId, register: NodeId, rest: Rest = this.rest, isSure = true): void {
    if (id === register || (isSure && !this.moving.has(id))) return;
    const node = item(this.#netlist.nodes, id);
    if (isSure && node.width === 1 && this.#isStill(id)) return this.require(id);
    if (node.op !== 'mux' || !this.moving.has(id)) {
      this.simplify(id, true);
      rest.same.push([id, register]);
      return;
    }
    const [condition, then, otherwise] = node.args;
    if (this.#isStill(condition)) {
      this.require(condition);
      return this.hold(this.#chosen(node.args), register, rest, isSure);
    }
    this.simplify(condition, true);
    const choice = rest.choices.get(condition) ?? { yes: nothing(), no: nothing() };
    rest.choices.set(condition, choice);
    this.hold(then, register, choice.yes, false);
    this.hold(otherwise, register, choice.no, false);
  }

  /** Whether a bit is known, and what it follows from does not move. */
  #isStill(id: NodeId): boolean {
    const open = [id];
    const seen = new Set<NodeId>();
    for (let at = open.pop(); at !== undefined; at = open.pop()) {
      const value = this.#knownOf(at);
      if (value === null) return false;
      if (seen.has(at) || !this.moving.has(at)) continue;
      seen.add(at);
      const from = this.#reasonOf(at, value);
      if (from === null) return false;
      open.push(...from);
    }
    return true;
  }

  /** Finds the choices that need not be made again in what is computed; `isStill`: those alone that do not move. */
  simplify(id: NodeId, isStill = false): void {
    const open = [id];
    const simplified = isStill ? this.#simplified.still : this.#simplified.all;
    for (let at = open.pop(); at !== undefined; at = open.pop()) {
      if (simplified.has(at) || !this.moving.has(at)) continue;
      simplified.add(at);
      const node = item(this.#netlist.nodes, at);
      if (node.op === 'reg') continue;
      if (node.op === 'mux' && (isStill ? this.#isStill(node.args[0]) : this.#knownOf(node.args[0]) !== null)) {
        this.require(node.args[0]);
        open.push(this.#chosen(node.args));
      } else open.push(...node.args);
    }
  }

  #chosen([condition, then, otherwise]: readonly [NodeId, NodeId, NodeId]): NodeId {
    return this.#knownOf(condition) === 0 ? otherwise : then;
  }
}

/** All nodes that are compared or decide what is. */
export function nodesOf({ same, choices }: Rest): NodeId[] {
  const inner = [...choices].flatMap(([condition, { yes, no }]) => [condition, ...nodesOf(yes), ...nodesOf(no)]);
  return [...same.flat(), ...inner];
}
