import { entry, item } from '../../lists.ts';
import type { Netlist, NodeId, Register } from '../../netlist/index.ts';
import type { Emitter } from './emitter.ts';
import { type Layout, layOut } from './layout.ts';
import { type Limbs, Lowering } from './lower.ts';

/**
 * One clock edge that registers or memories wait for. `derived` is the node of a clock that logic makes; its name is
 * then empty.
 */
export interface Domain {
  readonly clock: string;
  readonly derived: NodeId | null;
  readonly edge: 'posedge' | 'negedge';
}

/**
 * Executable form of a netlist. `bodies`: asynchronous resets, outputs, levels of derived clocks, then one for each
 * domain.
 */
export interface Program {
  readonly layout: Layout;
  readonly domains: readonly Domain[];
  readonly bodies: readonly ((emitter: Emitter) => void)[];
  readonly netlist: Netlist;
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
export function compile(netlist: Netlist): Program {
  const layout = layOut(netlist);
  const domains: Domain[] = [];
  const members: { registers: Register[]; writes: { memory: number; index: number }[] }[] = [];
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
  const bodies = [
    (e: Emitter) => emitResets(netlist, layout, e, resets),
    (e: Emitter) => emitOutputs(netlist, layout, e),
    (e: Emitter) => emitDerived(netlist, layout, e),
    ...members.map(({ registers, writes }) => (e: Emitter) => {
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
      // Registers that this edge neither changes nor reads are reset when somebody looks at them.
      const near = new Set(
        coneOf(netlist, [
          ...registers.map(({ node }) => node),
          ...targets.flatMap(({ target, guards }) => [...rootsOf(target), ...guards.map(({ node }) => node)]),
        ]),
      );
      emitResets(
        netlist,
        layout,
        e,
        new Map([...resets].filter(([, group]) => group.some(({ node }) => near.has(node)))),
      );
      new Block(netlist, layout, e).emit(targets, new Map());
    }),
  ];
  return { layout, domains, bodies, netlist };
}

function resetGroups(netlist: Netlist): Map<NodeId, Register[]> {
  const groups = new Map<NodeId, Register[]>();
  for (const register of netlist.registers)
    if (register.reset !== null) groups.set(register.reset, [...(groups.get(register.reset) ?? []), register]);
  return groups;
}

function emitResets(
  netlist: Netlist,
  layout: Layout,
  e: Emitter,
  groups: ReadonlyMap<NodeId, readonly Register[]>,
): void {
  const loads = [...groups.values()].flat().flatMap(({ load }) => (load === null ? [] : [load]));
  const { lowering, get } = emitCone(netlist, layout, e, [...groups.keys(), ...loads]);
  for (const [reset, registers] of groups) {
    e.if(item(get(reset), 0));
    for (const { node, resetValue, load } of registers)
      lowering.storeWord(
        entry(layout.registers, node),
        load === null ? lowering.constantLimbs(resetValue, item(netlist.nodes, node).width) : get(load),
      );
    e.end();
  }
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

/** The code of everything the roots depend on; `get` then knows their values. */
function emitCone(
  netlist: Netlist,
  layout: Layout,
  e: Emitter,
  roots: readonly NodeId[],
): { lowering: Lowering; get: (id: NodeId) => Limbs } {
  const lowering = new Lowering(netlist, layout, e);
  const values = new Map<NodeId, Limbs>();
  const get = (id: NodeId): Limbs => entry(values, id);
  for (const id of coneOf(netlist, roots)) values.set(id, lowering.node(id, get));
  return { lowering, get };
}

/** Everything the roots depend on within one clock, arguments first. Node numbers are in that order already. */
function coneOf(netlist: Netlist, roots: readonly NodeId[], known?: ReadonlyMap<NodeId, Limbs>): NodeId[] {
  const seen = new Set<NodeId>();
  const open = [...roots];
  for (let id = open.pop(); id !== undefined; id = open.pop()) {
    if (seen.has(id) || known?.has(id)) continue;
    seen.add(id);
    const { op, args } = item(netlist.nodes, id);
    if (op !== 'reg') open.push(...args);
  }
  return [...seen].sort((a, b) => a - b);
}

/** As many registers must share a condition before it is worth a branch. */
const WORTH_A_TEST = 3;

/** Code of one clock edge: a tree of tests with the work that each one guards. */
class Block {
  readonly #netlist: Netlist;
  readonly #layout: Layout;
  readonly #e: Emitter;
  readonly #lowering: Lowering;

  constructor(netlist: Netlist, layout: Layout, e: Emitter) {
    this.#netlist = netlist;
    this.#layout = layout;
    this.#e = e;
    this.#lowering = new Lowering(netlist, layout, e);
  }

  emit(targets: readonly Guarded[], outer: ReadonlyMap<NodeId, Limbs>): void {
    const values = new Map(outer);
    const plain: Target[] = [];
    const groups = new Map<string, { guard: Guard; members: Guarded[] }>();
    const lastWrites = new Map<number, string>();
    const join = ({ target, guards }: Guarded) => {
      const [guard] = guards;
      if (!guard) {
        if (target.kind === 'memory' || target.value !== target.node) plain.push(target);
        return;
      }
      const key = this.#keyOf(target, guard, lastWrites);
      const group = groups.get(key) ?? { guard, members: [] };
      group.members.push({ target, guards: guards.slice(1) });
      groups.set(key, group);
    };
    for (const guarded of this.#divide(targets.map((target) => this.#peel(target)))) join(guarded);
    const list = [...groups.values()];
    const get = (id: NodeId): Limbs => entry(values, id);
    for (const id of this.#shared(plain, list, values)) values.set(id, this.#lowering.node(id, get));
    for (const { guard, members } of list) {
      const condition = item(get(guard.node), 0);
      this.#e.if(guard.polarity ? condition : this.#e.isZero(condition));
      this.emit(members, values);
      this.#e.end();
    }
    for (const target of plain) {
      if (target.kind === 'register')
        this.#lowering.storeWord(entry(this.#layout.registers, target.node), get(target.value));
      else
        this.#lowering.memoryWrite(target.memory, get(target.address), this.#width(target.address), get(target.data));
    }
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
  #shared(
    plain: readonly Target[],
    groups: readonly { guard: Guard; members: readonly Guarded[] }[],
    known: ReadonlyMap<NodeId, Limbs>,
  ): NodeId[] {
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
    for (const [by, { guard, members }] of groups.entries()) {
      need(guard.node, HERE);
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
