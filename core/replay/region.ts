// What is chosen to be seen, in bits, and what of it nothing but a record can tell.
import { item } from '../lists.ts';
import { clockNameOf, type NodeId, type Register } from '../netlist/index.ts';
import { fail, ok, type Result } from '../result.ts';
import { BitGraph, CONSTANT, type Vertex } from './bit-graph.ts';
import type { NamedSignal, ReplayDesign } from './design.ts';
import { problem } from './problems.ts';

/** A signal by its full name, and one of its bits, 0 the lowest. */
interface NamedBit {
  readonly signal: NamedSignal;
  readonly bit: number;
}

/** A clock whose edges are known, as the input of the netlist that it is. */
export interface KnownClock {
  readonly input: string;
  /** Falling edges are known too, not rising ones alone. */
  readonly falls: boolean;
}

/** What is to be seen. */
export interface Wishes {
  /** Instances or signals, from the top module down or within it; several are seen together. */
  readonly see: readonly string[];
  /** Full name of the clock's signal; that of most registers in what is seen, where it is not said. */
  readonly clock?: string | undefined;
}

/** Why a bit can only be recorded. */
export type Reason =
  | { readonly kind: 'input'; readonly name: string }
  | { readonly kind: 'lever' | 'free' | 'loop'; readonly name: string }
  | { readonly kind: 'clock'; readonly name: string; readonly clock: string }
  | { readonly kind: 'edge'; readonly name: string };

/** The bits of a design seen from one clock. */
export class Region {
  readonly design: ReplayDesign;
  readonly graph: BitGraph;
  /** The input of the netlist that is the clock, and its signal's full name. */
  readonly clock: { readonly input: string; readonly name: string };
  /** Signals that are to be seen: those of the clocks themselves are left out. */
  readonly signals: readonly NamedSignal[];
  /** All clocks of registers among them, by name. */
  readonly clocks: readonly string[];
  /** Bits that are to be seen. */
  readonly targets: readonly Vertex[];
  readonly #names: ReadonlyMap<Vertex, readonly NamedBit[]>;
  readonly #own: readonly KnownClock[];
  readonly #seen: ReadonlySet<Vertex>;

  constructor(design: ReplayDesign, graph: BitGraph, signals: readonly NamedSignal[], clock: Region['clock']) {
    this.design = design;
    this.graph = graph;
    this.clock = clock;
    const { netlist } = design;
    this.#own = [{ input: clock.input, falls: false }];
    const clockBits = new Set(
      [...netlist.registers, ...netlist.memories.flatMap(({ writes }) => writes)].map((one) => graph.bit(one.clock, 0)),
    );
    this.signals = signals.filter(({ node, width }) => width > 1 || !clockBits.has(graph.bit(node, 0)));
    this.targets = [
      ...new Set(this.signals.flatMap(({ node }) => graph.bitsOf(node)).filter((vertex) => vertex !== CONSTANT)),
    ];
    this.#seen = new Set(this.targets);
    this.clocks = clocksIn(graph, signals);
    this.#names = namesOf(graph, design.signals);
  }

  /** All names of a bit. */
  namesOf(vertex: Vertex): readonly NamedBit[] {
    return this.#names.get(vertex) ?? [];
  }

  isSeen(vertex: Vertex): boolean {
    return this.#seen.has(vertex);
  }

  /** What a bit is called in words: a name of it, else that of what it is computed for. */
  nameOf(vertex: Vertex): string {
    const [first] = this.namesOf(vertex);
    if (first) return first.signal.width === 1 ? first.signal.name : `${first.signal.name}[${first.bit}]`;
    const memory = this.graph.memoryOf(vertex);
    if (memory !== null) return item(this.design.netlist.memories, memory).name;
    const word = this.graph.wordOf(vertex);
    const origin = word && this.design.netlist.origins[word.node];
    return origin ? `${origin.path}, line ${origin.line} of ${origin.file}` : 'a signal without a name';
  }

  /**
   * Why nothing in the design decides a bit at the edges that are known, which are the rising ones of this clock where
   * it is not said; null where something does.
   */
  reasonOf(vertex: Vertex, clocks: readonly KnownClock[] = this.#own): Reason | null {
    const { graph, design } = this;
    const input = graph.inputOf(vertex);
    if (input !== null) {
      const undecided = design.undecided.get(input);
      return undecided ? { kind: undecided.why, name: undecided.signal } : { kind: 'input', name: input };
    }
    const register = graph.registerOf(vertex);
    if (register) return this.#ofAnotherClock(register, this.nameOf(vertex), clocks);
    const memory = graph.memoryOf(vertex);
    if (memory === null) return null;
    const { writes, name } = item(design.netlist.memories, memory);
    return writes.map((write) => this.#ofAnotherClock(write, name, clocks)).find((reason) => reason !== null) ?? null;
  }

  #ofAnotherClock(
    { clock, edge }: Pick<Register, 'clock' | 'edge'>,
    name: string,
    clocks: readonly KnownClock[],
  ): Reason | null {
    const node = item(this.design.netlist.nodes, clock);
    const known = node.op === 'input' ? clocks.find(({ input }) => input === node.name) : undefined;
    if (!known) return { kind: 'clock', name, clock: clockNameOf(node) ?? this.nameOf(this.graph.bit(clock, 0)) };
    return edge === 'posedge' || known.falls ? null : { kind: 'edge', name };
  }
}

/** Finds what is chosen. */
export function regionOf(design: ReplayDesign, wishes: Wishes, graph = new BitGraph(design.netlist)): Result<Region> {
  const top = design.signals[0]?.name.split('.')[0] ?? '';
  const chosen = new Set<NamedSignal>();
  for (const path of wishes.see) {
    const found = signalsOf(design, path, top);
    if (found.length === 0) return fail(problem('nothing-there', { path, near: nearestTo(design, path) }));
    for (const signal of found) chosen.add(signal);
  }
  if (chosen.size === 0) return fail(problem('nothing-chosen'));
  const signals = design.signals.filter((signal) => chosen.has(signal));
  const clock =
    wishes.clock === undefined ? commonClock(design, graph, signals) : clockNamed(design, graph, wishes.clock);
  return clock.ok ? ok(new Region(design, graph, signals, clock.value)) : clock;
}

/** The signals of an instance and of all within it, or the one signal of that name. */
function signalsOf({ signals }: ReplayDesign, path: string, top: string): NamedSignal[] {
  for (const full of [path, `${top}.${path}`]) {
    const found = signals.filter(
      ({ name }) => name === full || name.startsWith(`${full}.`) || name.startsWith(`${full}[`),
    );
    if (found.length > 0) return found;
  }
  return [];
}

/** Instances whose name is like one that is not there. */
function nearestTo({ signals }: ReplayDesign, path: string): string {
  const last = path.split('.').at(-1)?.toLowerCase() ?? '';
  const instances = new Set(signals.map(({ name }) => name.slice(0, name.lastIndexOf('.'))));
  const like = [...instances].filter((name) => last !== '' && name.toLowerCase().includes(last));
  return (like.length > 0 ? like : [...instances]).slice(0, 5).join(', ');
}

function clocksIn(graph: BitGraph, signals: readonly NamedSignal[]): string[] {
  const counted = countedClocks(graph, signals);
  return [...counted].sort(([, a], [, b]) => b - a).map(([node]) => nameOfClock(graph, node));
}

const nameOfClock = ({ netlist }: BitGraph, node: NodeId): string =>
  clockNameOf(item(netlist.nodes, node)) ?? 'a clock that logic makes';

/** How many register bits each clock has among the signals. */
function countedClocks(graph: BitGraph, signals: readonly NamedSignal[]): Map<NodeId, number> {
  const counted = new Map<NodeId, number>();
  for (const { node } of signals)
    for (const vertex of graph.bitsOf(node)) {
      const register = graph.registerOf(vertex);
      if (register) counted.set(register.clock, (counted.get(register.clock) ?? 0) + 1);
    }
  return counted;
}

/** The clock of most registers that are seen; in a region of logic alone, of what its inputs come from. */
function commonClock(
  design: ReplayDesign,
  graph: BitGraph,
  signals: readonly NamedSignal[],
): Result<{ input: string; name: string }> {
  const { netlist } = design;
  const all = new Map<NodeId, number>();
  for (const { clock } of [...netlist.registers, ...netlist.memories.flatMap(({ writes }) => writes)])
    all.set(clock, (all.get(clock) ?? 0) + 1);
  for (const counted of [countedClocks(graph, signals), all]) {
    const most = [...counted].filter(([node]) => netlist.nodes[node]?.op === 'input').sort(([, a], [, b]) => b - a)[0];
    if (most) return named(design, graph, most[0]);
  }
  return fail(problem('no-clock'));
}

function clockNamed(design: ReplayDesign, graph: BitGraph, name: string): Result<{ input: string; name: string }> {
  const top = design.signals[0]?.name.split('.')[0] ?? '';
  const signal = design.signals.find((one) => one.name === name || one.name === `${top}.${name}`);
  const word = signal && graph.wordOf(graph.bit(signal.node, 0));
  if (!signal || !word || graph.inputOf(graph.bit(signal.node, 0)) === null)
    return fail(problem('no-such-clock', { name }));
  return named(design, graph, word.node);
}

/** A clock with the shortest of its names. */
function named(
  { signals, netlist }: ReplayDesign,
  graph: BitGraph,
  node: NodeId,
): Result<{ input: string; name: string }> {
  const word = item(netlist.nodes, node);
  const names = signals.filter(({ node: of, width }) => width === 1 && graph.bit(of, 0) === graph.bit(node, 0));
  const [shortest] = names.map(({ name }) => name).sort((a, b) => a.split('.').length - b.split('.').length);
  if (word.op !== 'input' || shortest === undefined) return fail(problem('no-clock'));
  return ok({ input: word.name, name: shortest });
}

function namesOf(graph: BitGraph, signals: readonly NamedSignal[]): Map<Vertex, NamedBit[]> {
  const names = new Map<Vertex, NamedBit[]>();
  for (const signal of signals)
    for (const [bit, vertex] of graph.bitsOf(signal.node).entries()) {
      if (vertex === CONSTANT) continue;
      const known = names.get(vertex);
      if (known) known.push({ signal, bit });
      else names.set(vertex, [{ signal, bit }]);
    }
  return names;
}
