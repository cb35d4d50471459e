// Clocks that logic makes: what an edge sets off, until nothing moves any more.
import { entry, item } from '../../lists.ts';
import type { Netlist, NodeId, Register } from '../../netlist/index.ts';
import { coneOf, emitCone, emitResets } from './cones.ts';
import { constant, type Emitter, type Value } from './emitter.ts';
import type { Layout } from './layout.ts';

/** Clocks made by logic that never come to rest are left where they are after so many rounds. */
export const MOST_ROUNDS = 64;

/** One clock edge that registers or memories wait for; see `compile`. */
interface Edge {
  readonly clock: string;
  readonly derived: NodeId | null;
  readonly edge: 'posedge' | 'negedge';
}

/** Places of bodies that are run from others. */
interface Places {
  readonly resets: number;
  readonly round: number;
  /** The first of the edges, each alone. */
  readonly edges: number;
}

interface Clocks {
  readonly netlist: Netlist;
  readonly layout: Layout;
  readonly domains: readonly Edge[];
  readonly resets: ReadonlyMap<NodeId, readonly Register[]>;
  readonly places: Places;
}

/** The edges of a clock that logic makes, and where its level is kept. */
interface Made {
  readonly node: NodeId;
  readonly address: number;
  readonly rises: number;
  readonly falls: number;
}

/** An edge of the domain `at`, where `isOn`. */
interface Move {
  readonly at: number;
  readonly isOn: Value;
}

/** What follows edges where logic makes clocks. */
export class Follow {
  readonly #clocks: Clocks;
  readonly #made: readonly Made[];
  readonly #inner: ReadonlyMap<NodeId, readonly Register[]> | null;

  constructor(clocks: Clocks) {
    this.#clocks = clocks;
    const place = (node: NodeId, edge: Edge['edge']) =>
      clocks.domains.findIndex((domain) => domain.derived === node && domain.edge === edge);
    this.#made = [...clocks.layout.derived].map(([node, address]) => ({
      ...{ node, address },
      ...{ rises: place(node, 'posedge'), falls: place(node, 'negedge') },
    }));
    this.#inner = innerResets(clocks);
  }

  /**
   * Whether it is enough to look at the clocks behind each edge: none of them is a function of a clock's own level, as
   * a gated one is, and no reset is decided by another one.
   */
  get isWatched(): boolean {
    return this.#made.length > 0 && this.#inner !== null;
  }

  /**
   * One round: resets, levels, and an edge of each clock that moved. Repeated it ends where none did. Sets the layout's
   * word where anything but a level has changed.
   */
  round(e: Emitter): void {
    const { layout, places } = this.#clocks;
    if (this.#made.length === 0) return e.stopIf(constant(1));
    // A reset may depend on what another reset clears, hence twice.
    e.run(places.resets, 2);
    const { moves: edges, keep } = this.#movesOf(this.#made, e);
    keep();
    const any = edges.map(({ isOn }) => isOn).reduce((x, y) => e.binary('or', x, y));
    e.stopIf(e.isZero(any));
    e.if(any);
    e.store(layout.disturbed, constant(1));
    for (const { at, isOn } of edges) {
      e.if(isOn);
      e.run(places.edges + at, 1);
      e.end();
    }
    e.end();
  }

  /**
   * Edges of some domains together, and what they set off. `edges` makes edges of these and of further domains, each
   * from what stood before any of them.
   */
  emit(domains: readonly number[], e: Emitter, edges: (also: readonly number[]) => void): void {
    if (this.#made.length > 0 && this.#inner === null) return this.#withLevels(domains, e, edges);
    edges([]);
    if (this.#made.length > 0 && this.#inner !== null) this.#watch(this.#inner, e);
  }

  /** Edges that move no clock cost next to nothing; a level that nobody waits for is only kept. */
  #watch(inner: ReadonlyMap<NodeId, readonly Register[]>, e: Emitter): void {
    const { netlist, layout } = this.#clocks;
    emitResets(netlist, layout, e, inner);
    const { get } = emitCone(netlist, layout, e, [...layout.derived.keys()]);
    const levelOf = (node: NodeId) => item(get(node), 0);
    const moved = this.#made.map(({ node, address }) => e.binary('xor', levelOf(node), e.load(address, 1)));
    e.if(moved.reduce((x, y) => e.binary('or', x, y)));
    const awaited = this.#made.map(({ node, rises, falls }, i) => {
      const own = item(moved, i);
      if (rises >= 0 && falls >= 0) return own;
      return e.binary('and', own, rises >= 0 ? levelOf(node) : e.isZero(levelOf(node)));
    });
    const isAwaited = awaited.reduce((x, y) => e.binary('or', x, y));
    e.if(isAwaited);
    this.#untilRest(e);
    e.end();
    e.if(e.isZero(isAwaited));
    for (const { node, address } of this.#made) e.store(address, levelOf(node));
    e.end();
    e.end();
  }

  /**
   * The clocks' own levels move first: a clock that is made of one, as a gated one is, has its edge with it, before any
   * register has changed. Then what the registers set off follows; one of which only rising edges matter falls again.
   */
  #withLevels(domains: readonly number[], e: Emitter, edges: (also: readonly number[]) => void): void {
    const { layout, domains: all } = this.#clocks;
    const set = (edges: readonly Edge[], level: 0 | 1) => {
      for (const { clock } of edges) e.store(entry(layout.inputs, clock).address, constant(level));
    };
    const moved = domains.map((domain) => item(all, domain)).filter(({ derived }) => derived === null);
    const [rising, falling] = [
      moved.filter(({ edge }) => edge === 'posedge'),
      moved.filter(({ edge }) => edge !== 'posedge'),
    ];
    set(rising, 1);
    set(falling, 0);
    this.#emitGated(e, edges);
    this.#untilRest(e);
    const back = rising.filter(({ clock }) => !all.some((other) => other.clock === clock && other.edge === 'negedge'));
    if (back.length === 0) return;
    set(back, 0);
    this.#untilRest(e);
  }

  /** Each set of gated clocks that may have an edge now is code of its own. */
  #emitGated(e: Emitter, edges: (also: readonly number[]) => void): void {
    const { netlist, domains } = this.#clocks;
    const { moves, keep } = this.#movesOf(
      this.#made.filter(({ node }) => dependsOnClock(netlist, node, domains)),
      e,
    );
    // Of very many the sets would be too many: they then come behind the clock's own edge.
    if (moves.length > MOST_GATED) return edges([]);
    keep();
    for (let set = 0; set < 2 ** moves.length; set++) {
      const is = moves.map(({ isOn }, i) => ((set >>> i) & 1 ? isOn : e.isZero(isOn)));
      const also = moves.flatMap(({ at }, i) => ((set >>> i) & 1 ? [at] : []));
      if (is.length > 0) e.if(is.reduce((x, y) => e.binary('and', x, y)));
      edges(also);
      if (is.length > 0) e.end();
    }
  }

  /** Which edges of some clocks there are now, against the levels that are kept; `keep` keeps those of now. */
  #movesOf(of: readonly Made[], e: Emitter): { readonly moves: readonly Move[]; readonly keep: () => void } {
    const { netlist, layout } = this.#clocks;
    const nodes = of.map(({ node }) => node);
    const { get } = emitCone(netlist, layout, e, nodes);
    const moves = of.flatMap(({ node, address, rises, falls }) => {
      const [level, before] = [item(get(node), 0), e.load(address, 1)];
      return [
        ...(rises < 0 ? [] : [{ at: rises, isOn: e.binary('and', level, e.isZero(before)) }]),
        ...(falls < 0 ? [] : [{ at: falls, isOn: e.binary('and', e.isZero(level), before) }]),
      ];
    });
    const keep = () => {
      for (const { node, address } of of) e.store(address, item(get(node), 0));
    };
    return { moves, keep };
  }

  #untilRest(e: Emitter): void {
    e.run(this.#clocks.places.round, MOST_ROUNDS);
  }
}

/** So many edges of gated clocks are told apart; all sets of them are code of their own. */
const MOST_GATED = 3;

/** Whether a node is a function of a clock's own level. */
const dependsOnClock = (netlist: Netlist, node: NodeId, domains: readonly Edge[]): boolean =>
  coneOf(netlist, [node]).some((id) => isClock(netlist, id, domains));

function isClock(netlist: Netlist, id: NodeId, domains: readonly Edge[]): boolean {
  const node = item(netlist.nodes, id);
  return node.op === 'input' && domains.some(({ clock }) => clock === node.name);
}

/** Resets that registers decide, to be looked at behind each edge; null where that is not enough. */
function innerResets({ netlist, layout, domains, resets }: Clocks): ReadonlyMap<NodeId, readonly Register[]> | null {
  if ([...layout.derived.keys()].some((node) => dependsOnClock(netlist, node, domains))) return null;
  const cleared = new Set([...resets.values()].flat().map(({ node }) => node));
  const conesOf = ([reset, registers]: [NodeId, readonly Register[]]) =>
    coneOf(netlist, [reset, ...registers.flatMap(({ load }) => (load === null ? [] : [load]))]);
  const cones = new Map([...resets].map((group) => [group[0], conesOf(group)]));
  if ([...cones.values()].some((cone) => cone.some((id) => cleared.has(id) || isClock(netlist, id, domains))))
    return null;
  // What comes in from outside is looked at when it is set.
  return new Map(
    [...resets].filter(([reset]) =>
      cones.get(reset)?.some((id) => ['reg', 'memread'].includes(item(netlist.nodes, id).op)),
    ),
  );
}
