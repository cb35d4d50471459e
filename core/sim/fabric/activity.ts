// Watches a design run edge by edge for a while: which registers change time and again, and what stays as it is while
// only those do.
import { intAt, item } from '../../lists.ts';
import type { NodeId } from '../../netlist/index.ts';
import { coneOfEdge } from './assume.ts';
import type { Program } from './compile.ts';
import type { Emitter } from './emitter.ts';
import { emitCone } from './cones.ts';
import { limbsOf } from './layout.ts';

/** How long a design is watched. */
export interface Watching {
  /** Edges watched for what moves, one behind the other. */
  readonly edges: number;
  /**
   * For what stays, some edges are watched now and then, ever more seldom: what is the same for a thousand edges only
   * is not to be taken for what stays.
   */
  readonly bursts: number;
  readonly firstPause: number;
  readonly pausesGrow: number;
}

/** Edges of a burst; of one clock, as few are enough to tell. */
const BURST = 8;
const LEAST_EDGES = 16;
/** A register moves that changes in this share of its clock's edges. */
const MOVES = 1 / 24;
/** So large a share of a clock's edges has to be calm: nothing but what moves changes. */
const CALM = 0.7;

/** Values of nodes: seen once at least, and whether always the same. */
interface Values {
  readonly nodes: readonly NodeId[];
  readonly first: Int32Array;
  readonly differs: Uint8Array;
  calm: number;
}

export interface Stillness {
  readonly movers: ReadonlySet<NodeId>;
  /** By clock: the value that a node had before every calm edge; null where it had several or was not watched. */
  readonly known: ReadonlyMap<number, (id: NodeId) => number | null>;
}

type Probe = (body: (emitter: Emitter) => void) => () => void;

export class Activity {
  readonly #program: Program;
  readonly #words: Int32Array;
  readonly #probe: Probe;
  readonly #scratch: number;
  readonly #watching: Watching;
  /** The register of each word. */
  readonly #registers: NodeId[] = [];
  readonly #before: Int32Array;
  readonly #edges: { readonly domain: number; readonly moved: readonly NodeId[] }[] = [];
  #second: {
    readonly movers: Set<NodeId>;
    readonly values: Map<number, Values>;
    readonly probes: Map<number, () => void>;
  } | null = null;
  #watched = 0;
  #bursts = 0;
  /** Edges that need not be watched before the next one that does. */
  pause = 0;
  isDone = false;

  /** `probe` makes code run; from `scratch` on there is a word for each node. */
  constructor(program: Program, words: Int32Array, scratch: number, probe: Probe, watching: Watching) {
    this.#watching = watching;
    this.#program = program;
    this.#words = words;
    this.#scratch = scratch;
    this.#probe = probe;
    for (const [node, at] of program.layout.registers)
      for (let i = 0; i < limbsOf(item(program.netlist.nodes, node).width); i++) this.#registers[at + i] = node;
    this.#before = new Int32Array(this.#registers.length);
  }

  /** Watches one edge of a clock, which `run` makes. */
  edge(domain: number, run: () => void): void {
    this.#second?.probes.get(domain)?.();
    const values = this.#second?.values.get(domain);
    const seen = values && this.#words.slice(this.#scratch, this.#scratch + values.nodes.length);
    this.#before.set(this.#words.subarray(0, this.#before.length));
    run();
    const moved: NodeId[] = [];
    for (const [at, node] of this.#registers.entries())
      if (this.#before[at] !== this.#words[at] && moved.at(-1) !== node) moved.push(node);
    this.#watched++;
    if (this.#second === null) {
      this.#edges.push({ domain, moved });
      if (this.#watched >= this.#watching.edges) this.#findMovers();
      return;
    }
    const { movers } = this.#second;
    if (values && seen && moved.every((node) => movers.has(node))) see(values, seen);
    if (this.#watched % BURST !== 0) return;
    const { firstPause, pausesGrow, bursts } = this.#watching;
    this.pause = Math.round(firstPause * pausesGrow ** this.#bursts++);
    this.isDone = this.#bursts >= bursts;
  }

  #findMovers(): void {
    const changes = new Map<NodeId, number>();
    const edges = new Map<number, number>();
    for (const { domain, moved } of this.#edges) {
      edges.set(domain, (edges.get(domain) ?? 0) + 1);
      for (const node of moved) changes.set(node, (changes.get(node) ?? 0) + 1);
    }
    const movers = new Set<NodeId>();
    for (const [domain, count] of edges)
      for (const { node } of item(this.#program.members, domain).registers)
        if ((changes.get(node) ?? 0) >= count * MOVES) movers.add(node);
    const values = new Map<number, Values>();
    const probes = new Map<number, () => void>();
    for (const [domain, count] of edges) {
      const own = this.#edges.filter((one) => one.domain === domain);
      const calm = own.filter(({ moved }) => moved.every((node) => movers.has(node)));
      if (count < LEAST_EDGES || calm.length < CALM * own.length) continue;
      const nodes = this.#watchable(domain);
      values.set(domain, {
        nodes,
        first: new Int32Array(nodes.length),
        differs: new Uint8Array(nodes.length),
        calm: 0,
      });
      probes.set(
        domain,
        this.#probe((e) => this.#emitValues(nodes, e)),
      );
    }
    this.#second = { movers, values, probes };
    if (values.size === 0) this.isDone = true;
  }

  #watchable(domain: number): NodeId[] {
    const { netlist, members, layout } = this.#program;
    return coneOfEdge(netlist, item(members, domain), [...layout.derived.keys()]).filter((id) => {
      const { op, width } = item(netlist.nodes, id);
      return op !== 'const' && width === 1;
    });
  }

  #emitValues(nodes: readonly NodeId[], e: Emitter): void {
    const { netlist, layout } = this.#program;
    const { get } = emitCone(netlist, layout, e, nodes);
    for (const [i, id] of nodes.entries()) e.store(this.#scratch + i, item(get(id), 0));
  }

  /** Null where no clock has enough calm edges. */
  result(): Stillness | null {
    if (this.#second === null) return null;
    const { movers, values } = this.#second;
    const { nodes } = this.#program.netlist;
    const known = new Map<number, (id: NodeId) => number | null>();
    for (const [domain, { nodes: watched, first, differs, calm }] of values) {
      if (calm < LEAST_EDGES) continue;
      const constants = new Map<NodeId, number>();
      for (const [i, id] of watched.entries()) if (differs[i] === 0) constants.set(id, intAt(first, i));
      known.set(domain, (id) => {
        const node = item(nodes, id);
        if (node.op === 'const') return node.width === 1 ? Number(node.value) : null;
        return constants.get(id) ?? null;
      });
    }
    return known.size === 0 ? null : { movers, known };
  }
}

function see(values: Values, seen: Int32Array): void {
  const { first, differs } = values;
  if (values.calm++ === 0) first.set(seen);
  else for (let i = 0; i < seen.length; i++) if (seen[i] !== first[i]) differs[i] = 1;
}
