import { entry, item } from '../../lists.ts';
import type { Netlist, NodeId, Register } from '../../netlist/index.ts';
import { withLookUps } from './choices.ts';
import { coneOf, emitCone, emitResets, resetGroups } from './cones.ts';
import { constant, type Emitter, type Value } from './emitter.ts';
import { type Layout, layOut, limbsOf } from './layout.ts';
import { type Limbs, Lowering } from './lower.ts';
import { Follow } from './follow.ts';
import { type Quiet, quietGroups } from './quiet.ts';

/**
 * One clock edge that registers or memories wait for. `derived` is the node of a clock that logic makes; its name is
 * then empty.
 */
export interface Domain {
  readonly clock: string;
  readonly derived: NodeId | null;
  readonly edge: 'posedge' | 'negedge';
}

/** Places of bodies. Behind them one for each domain, of its edge alone. */
export const RESETS = 0;
export const OUTPUTS = 1;
export const LEVELS = 2;
export const ROUND = 3;
export const FIRST_DOMAIN = 4;

/**
 * Executable form of a netlist. `bodies`: asynchronous resets, outputs, levels of derived clocks, what these set off,
 * then one for each domain; where logic makes clocks, another one for each with what its edge sets off.
 */
export interface Program {
  readonly layout: Layout;
  readonly domains: readonly Domain[];
  /** What waits for the edges of each domain. */
  readonly members: readonly Members[];
  /** Whether edges that move no clock made by logic cost next to nothing more. */
  readonly isWatched: boolean;
  readonly bodies: readonly Body[];
  readonly netlist: Netlist;
  /** Words that say whether what a group remembers means something, with what it depends on; known once code is made. */
  readonly remembered: () => ReadonlyMap<number, readonly NodeId[]>;
  /** Edges of several domains at once, and what they set off: each takes what stood before any of them. */
  readonly together: (domains: readonly number[]) => Body;
}

type Body = (emitter: Emitter) => void;

/** What waits for the edges of one domain. */
export interface Members {
  readonly registers: Register[];
  readonly writes: { readonly memory: number; readonly index: number }[];
}

/** Something a clock edge changes, computed under a condition or always. */
type Target =
  | { readonly kind: 'register'; readonly node: NodeId; readonly value: NodeId }
  | { readonly kind: 'memory'; readonly memory: number; readonly address: NodeId; readonly data: NodeId };

interface Guarded {
  readonly target: Target;
  /** Conditions still to be tested, outermost first. */
  readonly guards: readonly Guard[];
}

interface Guard {
  readonly node: NodeId;
  readonly polarity: boolean;
}

/**
 * Plans the code of an optimised netlist. Logic that matters only while a condition holds (an enable, the absence of
 * reset) is placed inside a test of that condition, so that idle parts of a design cost next to nothing.
 */
export function compile(source: Netlist): Program {
  const netlist = withLookUps(source);
  const layout = layOut(netlist);
  const domains: Domain[] = [];
  const members: Members[] = [];
  const memberOf = (clock: NodeId, edge: 'posedge' | 'negedge') => {
    const node = item(netlist.nodes, clock);
    const plain = node.op === 'input' && node.width === 1 ? node.name : null;
    const domain: Domain = { clock: plain ?? '', derived: plain === null ? clock : null, edge };
    let at = domains.findIndex((d) => d.clock === domain.clock && d.derived === domain.derived && d.edge === edge);
    if (at < 0) {
      at = domains.push(domain) - 1;
      members.push({ registers: [], writes: [] });
    }
    return item(members, at);
  };
  for (const register of netlist.registers) memberOf(register.clock, register.edge).registers.push(register);
  for (const [memory, { writes }] of netlist.memories.entries())
    for (const [index, write] of writes.entries()) memberOf(write.clock, write.edge).writes.push({ memory, index });
  // A clock port that only reaches registers through logic still has to be stepped.
  for (const id of coneOf(netlist, [...layout.derived.keys()])) {
    const { op, width } = item(netlist.nodes, id);
    if (op === 'input' && width === 1) memberOf(id, 'posedge');
  }
  const resets = resetGroups(netlist);
  const remembered = new Remembered(layout);
  const targetsOf = ({ registers, writes }: Members): Guarded[] => {
    const targets: Guarded[] = registers.map((register) => ({
      target: { kind: 'register', node: register.node, value: register.d },
      guards: register.reset === null ? [] : [{ node: register.reset, polarity: false }],
    }));
    for (const { memory, index } of writes) {
      const write = netlist.memories[memory]?.writes[index];
      if (write)
        targets.push({
          target: { kind: 'memory', memory, address: write.address, data: write.data },
          guards: [{ node: write.enable, polarity: true }],
        });
    }
    return targets;
  };
  const edgeOf = (of: readonly Members[]) => (e: Emitter) => {
    const parts = of.map(targetsOf);
    // Registers that this edge neither changes nor reads are reset when somebody looks at them.
    const near = new Set(
      coneOf(netlist, [
        ...of.flatMap(({ registers }) => registers.map(({ node }) => node)),
        ...parts.flat().flatMap(({ target, guards }) => [...rootsOf(target), ...guards.map(({ node }) => node)]),
      ]),
    );
    emitResets(
      netlist,
      layout,
      e,
      new Map([...resets].filter(([, group]) => group.some(({ node }) => near.has(node)))),
    );
    new Block(netlist, layout, e, remembered).emit(parts, NOTHING);
  };
  const edges = members.map((one) => edgeOf([one]));
  const places = { resets: RESETS, round: ROUND, edges: FIRST_DOMAIN };
  const follow = new Follow({ netlist, layout, domains, resets, places });
  const followed = (of: readonly number[]) => (e: Emitter) =>
    follow.emit(of, e, (also) => edgeOf([...of, ...also].map((domain) => item(members, domain)))(e));
  const bodies = [
    (e: Emitter) => emitResets(netlist, layout, e, resets, layout.disturbed),
    (e: Emitter) => emitOutputs(netlist, layout, e),
    (e: Emitter) => emitDerived(netlist, layout, e),
    (e: Emitter) => follow.round(e),
    ...edges,
    ...(layout.derived.size === 0 ? [] : edges.map((_, domain) => followed([domain]))),
  ];
  const together = followed;
  const { isWatched } = follow;
  return { layout, domains, members, isWatched, bodies, netlist, together, remembered: () => remembered.leaves };
}

function emitDerived(netlist: Netlist, layout: Layout, e: Emitter): void {
  const { lowering, get } = emitCone(netlist, layout, e, [...layout.derived.keys()]);
  for (const [node, address] of layout.derived) lowering.storeWord(address, get(node));
}

function emitOutputs(netlist: Netlist, layout: Layout, e: Emitter): void {
  const { lowering, get } = emitCone(
    netlist,
    layout,
    e,
    netlist.outputs.flatMap(({ node, enable }) => (enable === undefined ? [node] : [node, enable])),
  );
  for (const { name, node, enable } of netlist.outputs) {
    const place = layout.outputs.get(name);
    lowering.storeWord(place?.address ?? 0, get(node));
    if (enable !== undefined && place?.enable !== undefined && place.enable !== null)
      lowering.storeWord(place.enable, get(enable));
  }
}

const NOTHING: ReadonlyMap<NodeId, Limbs> = new Map();

/** Targets under one condition, or such as rest together. */
type Group = { readonly members: Guarded[] } & (
  | { readonly guard: Guard; readonly quiet: null }
  | { readonly guard: null; readonly quiet: Quiet }
);

/** Where each group that can rest keeps the words that it depended on last. */
class Remembered {
  readonly #layout: Layout;
  readonly #places = new Map<string, number>();
  /** By the first word of each place. */
  readonly leaves = new Map<number, readonly NodeId[]>();
  #next: number;

  constructor(layout: Layout) {
    this.#layout = layout;
    this.#next = layout.remembered.from;
  }

  /** The same at every time; null where there is no room left. */
  placeOf(netlist: Netlist, { key, leaves, memories }: Quiet): number | null {
    const known = this.#places.get(key);
    if (known !== undefined) return known;
    const words = leaves.reduce((sum, id) => sum + limbsOf(item(netlist.nodes, id).width), 3 + memories.length);
    const { from, words: room } = this.#layout.remembered;
    if (this.#next + words > from + room) return null;
    this.#places.set(key, this.#next);
    this.leaves.set(this.#next, leaves);
    this.#next += words;
    return this.#next - words;
  }
}

/** So many words are not looked at while they move all the time. */
const MANY_WORDS = 8;
const MOVES_TO_BUSY = 16;
const BUSY_EDGES = 240;

/** As many registers must share a condition before it is worth a branch. */
const WORTH_A_TEST = 3;

/** Code of one clock edge: a tree of tests with the work that each one guards. */
class Block {
  readonly #netlist: Netlist;
  readonly #layout: Layout;
  readonly #e: Emitter;
  readonly #lowering: Lowering;

  readonly #remembered: Remembered;

  constructor(netlist: Netlist, layout: Layout, e: Emitter, remembered: Remembered) {
    this.#remembered = remembered;
    this.#netlist = netlist;
    this.#layout = layout;
    this.#e = e;
    this.#lowering = new Lowering(netlist, layout, e);
  }

  /** What belongs to one clock is a part by itself: what it remembers is the same in company and alone. */
  emit(parts: readonly (readonly Guarded[])[], outer: ReadonlyMap<NodeId, Limbs>): void {
    const values = new Map(outer);
    const groups = new Map<string, Group>();
    const lastWrites = new Map<number, string>();
    const join = ({ target, guards }: Guarded, plain: Target[]) => {
      const [guard] = guards;
      if (!guard) {
        if (target.kind === 'memory' || target.value !== target.node) plain.push(target);
        return;
      }
      const key = this.#keyOf(target, guard, lastWrites);
      const group = groups.get(key) ?? { guard, quiet: null, members: [] };
      group.members.push({ target, guards: guards.slice(1) });
      groups.set(key, group);
    };
    const plains = parts.map((targets) => {
      const plain: Target[] = [];
      for (const guarded of this.#divide(targets.map((target) => this.#peel(target)))) join(guarded, plain);
      return plain;
    });
    // Under a condition a register may have been given another value meanwhile.
    const quiet = outer === NOTHING ? plains.flatMap((plain) => this.#quiet(plain)) : [];
    const list = [...groups.values(), ...quiet];
    const plain = plains.flat();
    const get = (id: NodeId): Limbs => entry(values, id);
    for (const id of this.#shared(plain, list, values)) values.set(id, this.#lowering.node(id, get));
    for (const { guard, quiet: rests, members } of list) {
      if (guard) {
        const condition = item(get(guard.node), 0);
        this.#e.if(guard.polarity ? condition : this.#e.isZero(condition));
        this.emit([members], values);
      } else {
        this.#ifMoved(rests, get);
        this.#emitPlain(members, values);
      }
      this.#e.end();
    }
    for (const target of plain) {
      if (target.kind === 'register')
        this.#lowering.storeWord(entry(this.#layout.registers, target.node), get(target.value));
      else
        this.#lowering.memoryWrite(target.memory, get(target.address), this.#width(target.address), get(target.data));
    }
  }

  /** Takes registers out of those that are computed at every edge that can rest while what they depend on does. */
  #quiet(plain: Target[]): Group[] {
    const registers = plain.flatMap((target) => (target.kind === 'register' ? [target] : []));
    const found = quietGroups(this.#netlist, registers, (memory) => {
      const { writes } = item(this.#netlist.memories, memory);
      return writes.length === 0 || (this.#layout.written[memory] ?? null) !== null;
    });
    const groups = new Map<string, Group>();
    for (const [place, target] of registers.entries()) {
      const quiet = found.get(place);
      if (!quiet || this.#remembered.placeOf(this.#netlist, quiet) === null) continue;
      const group = groups.get(quiet.key) ?? { guard: null, quiet, members: [] };
      group.members.push({ target, guards: [] });
      groups.set(quiet.key, group);
      plain.splice(plain.indexOf(target), 1);
    }
    return [...groups.values()];
  }

  /** Begins what is done only where one of the words is another than it was when that was done last. */
  #ifMoved(quiet: Quiet, get: (id: NodeId) => Limbs): void {
    const e = this.#e;
    const from = this.#remembered.placeOf(this.#netlist, quiet) ?? 0;
    // The first word says that the others mean something.
    const now: Value[] = [constant(1)];
    for (const leaf of quiet.leaves) now.push(...get(leaf));
    for (const place of new Set(quiet.memories.map((memory) => this.#layout.written[memory] ?? null)))
      if (place !== null) now.push(e.load(place));
    const look = () =>
      now.map((value, i) => e.binary('xor', e.load(from + i), value)).reduce((x, y) => e.binary('or', x, y));
    const remember = () => {
      for (const [i, value] of now.entries()) e.store(from + i, value);
    };
    if (now.length >= MANY_WORDS) return this.#ifMovedOrBusy(from, now.length, look, remember);
    e.if(look());
    remember();
  }

  /**
   * The same for many words, which take their time to be looked at: where they have moved at every one of the last
   * edges, they are not looked at for a while. Then the first word counts from below 0 to 0, where nothing is
   * remembered.
   */
  #ifMovedOrBusy(from: number, words: number, look: () => Value, remember: () => void): void {
    const e = this.#e;
    const [moves, go] = [from + words, from + words + 1];
    const state = e.load(from);
    const isBusy = e.binary('lts', state, constant(0));
    e.store(go, isBusy);
    e.if(isBusy);
    e.store(from, e.binary('add', state, constant(1)));
    e.end();
    e.if(e.isZero(isBusy));
    const differ = look();
    e.store(go, differ);
    e.if(e.isZero(differ));
    e.store(moves, constant(0));
    e.end();
    e.if(differ);
    remember();
    const count = e.binary('add', e.load(moves), constant(1));
    e.store(moves, count);
    e.if(e.binary('eq', count, constant(MOVES_TO_BUSY)));
    e.store(moves, constant(0));
    e.store(from, constant(-BUSY_EDGES));
    e.end();
    e.end();
    e.end();
    e.if(e.load(go));
  }

  #emitPlain(members: readonly Guarded[], outer: ReadonlyMap<NodeId, Limbs>): void {
    const values = new Map(outer);
    const get = (id: NodeId): Limbs => entry(values, id);
    const targets = members.map(({ target }) => target);
    for (const id of coneOf(this.#netlist, targets.flatMap(rootsOf), values))
      values.set(id, this.#lowering.node(id, get));
    for (const target of targets)
      if (target.kind === 'register')
        this.#lowering.storeWord(entry(this.#layout.registers, target.node), get(target.value));
  }

  /**
   * The group of a target. Of several writes to one memory the later one wins, so none may be moved before another
   * under a different guard.
   */
  #keyOf(target: Target, guard: Guard, lastWrites: Map<number, string>): string {
    const own = `${guard.node}${guard.polarity}`;
    if (target.kind !== 'memory') return own;
    const last = lastWrites.get(target.memory);
    const key = last === undefined || last.split(' ')[0] === own ? (last ?? own) : `${own} after ${last}`;
    lastWrites.set(target.memory, key);
    return key;
  }

  #width(id: NodeId): number {
    return item(this.#netlist.nodes, id).width;
  }

  /** A register whose new value is a choice between something and itself is guarded by that choice. */
  #peel({ target, guards }: Guarded): Guarded {
    if (guards.length > 0 || target.kind !== 'register') return { target, guards };
    const { op, args } = item(this.#netlist.nodes, target.value);
    if (op !== 'mux') return { target, guards };
    const [condition, then, otherwise] = args as [NodeId, NodeId, NodeId];
    if (otherwise === target.node)
      return { target: { ...target, value: then }, guards: [{ node: condition, polarity: true }] };
    if (then === target.node)
      return { target: { ...target, value: otherwise }, guards: [{ node: condition, polarity: false }] };
    return { target, guards };
  }

  /**
   * Registers that several of them choose by the same condition, as a state machine's do, are each computed on the side
   * that holds instead of on both.
   */
  #divide(targets: readonly Guarded[]): Guarded[] {
    const conditionOf = ({ target, guards }: Guarded): NodeId | null => {
      if (guards.length > 0 || target.kind !== 'register') return null;
      const { op, args } = item(this.#netlist.nodes, target.value);
      return op === 'mux' ? item(args, 0) : null;
    };
    const shared = new Map<NodeId, number>();
    for (const target of targets) {
      const condition = conditionOf(target);
      if (condition !== null) shared.set(condition, (shared.get(condition) ?? 0) + 1);
    }
    return targets.flatMap((guarded) => {
      const condition = conditionOf(guarded);
      const { target } = guarded;
      if (condition === null || entry(shared, condition) < WORTH_A_TEST || target.kind !== 'register') return [guarded];
      const [, then, otherwise] = item(this.#netlist.nodes, target.value).args as [NodeId, NodeId, NodeId];
      const side = (value: NodeId, polarity: boolean): Guarded => ({
        target: { ...target, value },
        guards: [{ node: condition, polarity }],
      });
      return [side(then, true), side(otherwise, false)];
    });
  }

  /**
   * The nodes to compute at this level, in order: those the plain targets and the tests need, and those that more than
   * one group needs. A register or memory that one group changes and another reads counts as needed by both, so it is
   * read before either.
   */
  #shared(plain: readonly Target[], groups: readonly Group[], known: ReadonlyMap<NodeId, Limbs>): NodeId[] {
    const HERE = -1;
    const owner = new Map<NodeId, number>();
    const need = (id: NodeId, by: number) => {
      if (known.has(id)) return;
      const now = owner.get(id);
      if (now === undefined) owner.set(id, by);
      else if (now !== by) owner.set(id, HERE);
    };
    for (const target of plain) for (const id of rootsOf(target)) need(id, HERE);
    const writers: { target: Target; by: number }[] = [];
    for (const [by, { guard, quiet, members }] of groups.entries()) {
      if (guard) need(guard.node, HERE);
      for (const id of quiet?.leaves ?? []) need(id, HERE);
      for (const { target, guards } of members) {
        for (const id of rootsOf(target)) need(id, by);
        for (const inner of guards) need(inner.node, by);
        writers.push({ target, by });
      }
    }
    const all = coneOf(this.#netlist, [...owner.keys()], known);
    const readsOf = new Map<number, NodeId[]>();
    for (const id of all) {
      const node = item(this.#netlist.nodes, id);
      if (node.op === 'memread') readsOf.set(node.memory, [...(readsOf.get(node.memory) ?? []), id]);
    }
    const inCone = new Set(all);
    for (const { target, by } of writers) {
      if (target.kind === 'register') {
        if (inCone.has(target.node)) need(target.node, by);
      } else for (const id of readsOf.get(target.memory) ?? []) need(id, by);
    }
    for (let i = all.length - 1; i >= 0; i--) {
      const id = item(all, i);
      const by = entry(owner, id);
      const { op, args } = item(this.#netlist.nodes, id);
      if (op !== 'reg') for (const arg of args) need(arg, by);
    }
    return all.filter((id) => owner.get(id) === HERE);
  }
}

const rootsOf = (target: Target): readonly NodeId[] =>
  target.kind === 'register' ? [target.value] : [target.address, target.data];
