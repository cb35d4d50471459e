// Why a signal has its value: what decided it, at the same moment or one edge before.
import { floatAt, item, numberAt } from '../lists.ts';
import type { NetNode, NodeId, Origin } from '../netlist/index.ts';
import { indexAt, type Recording, type Trace } from '../wave/index.ts';
import { CONSTANT } from './bit-graph.ts';
import { Decisions } from './decisions.ts';
import type { NamedSignal } from './design.ts';
import type { Region } from './region.ts';
import { operate, type Word, wordOf } from './words.ts';

/** Something that decides a value. */
export interface Cause {
  /** Full name of the signal. */
  readonly signal: string;
  /** Place on the record's axis. */
  readonly tick: number;
  /** Highest bit first; x where it is not known. */
  readonly value: string;
  /** It chose between values, or is the value that was taken. */
  readonly role: 'chose' | 'gave';
  /** The signal is declared there. */
  readonly file: string;
  readonly line: number;
}

/** One step back. */
export interface Explanation {
  readonly signal: string;
  readonly tick: number;
  readonly value: string;
  /** Where it took the value that it has there: of a register the edge that is told lies before that. */
  readonly since: number;
  /**
   * `logic`: decided at the same moment; `edge`: taken over at the clock edge before; `reset`: by an active
   * asynchronous reset; `start`: nothing is known of before; `constant`: it is always so; `edge-of-design`: comes from
   * outside, or nothing inside decides it.
   */
  readonly how: 'logic' | 'edge' | 'reset' | 'start' | 'constant' | 'edge-of-design';
  readonly causes: readonly Cause[];
  /** The statement that says so. */
  readonly at: Pick<Origin, 'file' | 'line'> | null;
}

/** Anonymous logic looked through in one step. */
const MOST_STEPS = 4000;
const MOST_NODES = 1 << 16;

/**
 * Looks one step back from a signal at a tick: through logic without names up to the signals that decide, each with its
 * value. `before` gives the tick of the sample before, null where there is none or it is not known.
 */
export function whyIs(
  region: Region,
  recording: Pick<Recording, 'traces'>,
  name: string,
  tick: number,
  before: (tick: number) => number | null,
): Explanation | null {
  const signal = region.design.signals.find((one) => one.name === name);
  if (!signal) return null;
  return new Look(region, recording, before).explain(signal, tick);
}

class Look {
  readonly #region: Region;
  readonly #traces: ReadonlyMap<string, Trace>;
  readonly #before: (tick: number) => number | null;
  readonly #functions = new Decisions(MOST_NODES);
  readonly #known = new Map<string, Word>();
  readonly #named = new Map<NodeId, NamedSignal>();
  #variables = 0;
  #steps = 0;

  constructor(region: Region, { traces }: Pick<Recording, 'traces'>, before: (tick: number) => number | null) {
    this.#region = region;
    this.#traces = new Map(traces.map((trace) => [trace.name, trace]));
    this.#before = before;
    // Of several names the one nearest to what is seen, then the shortest.
    const rank = (one: NamedSignal) => (region.signals.includes(one) ? 0 : 1000) + one.name.length;
    for (const one of region.design.signals) {
      const known = this.#named.get(one.node);
      if (!known || rank(one) < rank(known)) this.#named.set(one.node, one);
    }
  }

  explain(signal: NamedSignal, tick: number): Explanation {
    const { netlist, undecided } = this.#region.design;
    const since = this.#since(signal, tick);
    const about = { signal: signal.name, tick, value: this.#text(signal, tick), since };
    const node = item(netlist.nodes, signal.node);
    const at = placeOf(netlist.origins[signal.node]);
    if (node.op === 'const') return { ...about, how: 'constant', causes: [], at: at ?? signal.at };
    if (node.op === 'input' || undecided.has(signal.name))
      return { ...about, how: 'edge-of-design', causes: [], at: signal.at };
    const register = netlist.registers.find((one) => one.node === signal.node);
    if (!register) return { ...about, how: 'logic', causes: this.#causesOf(signal.node, tick), at };
    if (register.reset !== null && this.#word(register.reset, tick) === 1n)
      return { ...about, how: 'reset', causes: this.#through(register.reset, tick, 'chose'), at };
    // Edges at which it kept what it had say nothing; the one before it began to have it does.
    const earlier = this.#before(since);
    if (earlier === null) return { ...about, how: 'start', causes: [], at };
    return {
      ...about,
      how: 'edge',
      causes: this.#through(register.d, earlier, 'gave'),
      at: placeOf(netlist.origins[register.d]) ?? at,
    };
  }

  /** The first tick of the value that a signal has; where it stands from the beginning on, that. */
  #since({ name }: NamedSignal, tick: number): number {
    const trace = this.#traces.get(name);
    const index = trace ? indexAt(trace, tick) : -1;
    return trace && index >= 0 ? floatAt(trace.at, index) : tick;
  }

  /** What a word that has a name is made of. */
  #causesOf(node: NodeId, tick: number): Cause[] {
    return distinct(this.#arguments(node, tick).flatMap(({ arg, role }) => this.#through(arg, tick, role)));
  }

  /** The word itself where it has a name, else what it is made of. */
  #through(node: NodeId, tick: number, role: Cause['role']): Cause[] {
    const word = item(this.#region.design.netlist.nodes, node);
    if (word.op === 'const' || ++this.#steps > MOST_STEPS) return [];
    const named = this.#named.get(node);
    if (named) {
      const { file, line } = named.at;
      return [{ signal: named.name, tick, value: this.#text(named, tick), role, file, line }];
    }
    return distinct(
      this.#arguments(node, tick).flatMap(({ arg, role: own }) =>
        this.#through(arg, tick, role === 'chose' ? 'chose' : own),
      ),
    );
  }

  /** The arguments that decided: of a choice the condition and the side taken, of an `and` of bits those that are 0. */
  #arguments(node: NodeId, tick: number): { readonly arg: NodeId; readonly role: Cause['role'] }[] {
    const word = item(this.#region.design.netlist.nodes, node);
    if (word.op === 'mux') {
      const [condition, then, otherwise] = word.args;
      const chosen = this.#word(condition, tick);
      const sides = chosen === 1n ? [then] : chosen === 0n ? [otherwise] : [then, otherwise];
      return [{ arg: condition, role: 'chose' }, ...sides.map((arg) => ({ arg, role: 'gave' as const }))];
    }
    const all = word.args.map((arg) => ({ arg, role: 'gave' as const }));
    if ((word.op === 'and' || word.op === 'or') && word.width === 1) {
      const deciding = word.op === 'and' ? 0n : 1n;
      if (this.#word(node, tick) !== deciding) return all;
      const those = all.filter(({ arg }) => this.#word(arg, tick) === deciding);
      return those.length > 0 ? those : all;
    }
    return all;
  }

  #text(signal: NamedSignal, tick: number): string {
    const word = this.#word(signal.node, tick);
    let text = '';
    for (let bit = signal.width - 1; bit >= 0; bit--)
      text += typeof word === 'bigint' ? String((word >> BigInt(bit)) & 1n) : digit(numberAt(word, bit));
    return text;
  }

  /** What is known of a word; a bit that is not known is a variable of its own. */
  #word(node: NodeId, tick: number): Word {
    const key = `${node} ${tick}`;
    const known = this.#known.get(key);
    if (known !== undefined) return known;
    const word = this.#compute(node, tick);
    this.#known.set(key, word);
    return word;
  }

  #compute(id: NodeId, tick: number): Word {
    const { netlist } = this.#region.design;
    const node = item(netlist.nodes, id);
    if (node.op === 'const') return node.value;
    const recorded = this.#recorded(id, node, tick);
    if (recorded !== null) return recorded;
    if (node.op === 'input' || node.op === 'reg' || node.op === 'memread' || node.op === 'wire')
      return Array.from({ length: node.width }, () => this.#functions.variable(this.#variables++));
    return operate(
      this.#functions,
      node,
      node.args.map((arg) => this.#word(arg, tick)),
      node.args.map((arg) => item(netlist.nodes, arg).width),
    );
  }

  /** From the record, bit by bit under whatever names; null where none of them has a trace. */
  #recorded(id: NodeId, { width }: NetNode, tick: number): Word | null {
    const { graph } = this.#region;
    let found = false;
    const bits = Array.from({ length: width }, (_, bit) => {
      const vertex = graph.bit(id, bit);
      for (const { signal, bit: of } of vertex === CONSTANT ? [] : this.#region.namesOf(vertex)) {
        const trace = this.#traces.get(signal.name);
        const index = trace ? indexAt(trace, tick) : -1;
        if (!trace || index < 0) continue;
        found = true;
        const at = index * trace.words + (of >>> 5);
        if (((trace.unknown?.[at] ?? 0) >>> (of & 31)) & 1) continue;
        return ((trace.bits[at] ?? 0) >>> (of & 31)) & 1;
      }
      return null;
    });
    if (!found) return null;
    return wordOf(bits.map((bit) => bit ?? this.#functions.variable(this.#variables++)));
  }
}

const digit = (bit: number): string => (bit > 1 ? 'x' : String(bit));

const placeOf = (origin: Origin | undefined): Pick<Origin, 'file' | 'line'> | null =>
  origin && origin.file !== '' ? { file: origin.file, line: origin.line } : null;

/** Each signal once; what chose before what was given. */
function distinct(causes: readonly Cause[]): Cause[] {
  const found = new Map<string, Cause>();
  for (const cause of causes) {
    const known = found.get(cause.signal);
    if (!known || (known.role === 'gave' && cause.role === 'chose')) found.set(cause.signal, cause);
  }
  return [...found.values()];
}
