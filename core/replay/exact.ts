// The beginning of a record, exactly: each bit as a function of what nobody knows, and what the record says of it.
import { item, numberAt } from '../lists.ts';
import type { Memory, Netlist, NodeId } from '../netlist/index.ts';
import { Decisions, type Fn, TooLarge } from './decisions.ts';
import { bitOf, operate, type Word, wordOf } from './words.ts';

/** A value of which some bits may not be known; those are 0 in `value`. */
export interface PartlyKnown {
  readonly value: bigint;
  readonly unknown: bigint;
}

/** What comes from outside at a moment. */
export interface Outside {
  /** Of an input of the netlist. */
  readonly input: (name: string) => PartlyKnown;
  /** What the record says an output is; null where it says nothing of it. */
  readonly observed: (output: string) => PartlyKnown | null;
  /** Edges before the moment: of which clocks, by the names of their inputs. */
  readonly edges: readonly { readonly clock: string; readonly edge: 'posedge' | 'negedge' }[];
}

/** How unknown bits are filled where somebody has to have a value. */
export type Fill = 'zeros' | 'ones' | { readonly seed: number };

/** What is known of a stretch of moments at its start. */
export interface Beginning {
  /** Moments it covers, and what that took of the budget. */
  readonly count: number;
  readonly work: number;
  /** It ended because functions grew too large, or the budget was used up. */
  readonly isCutShort: boolean;
  /** What is filled in makes everything come as it was recorded up to the next break, of the outputs that it is of. */
  readonly explains: boolean;
  /** What an output is at a moment; null where it is the same as at the moment before. */
  readonly changeAt: (output: string, moment: number) => PartlyKnown | null;
  /** Registers of the netlist, by their places, at the first and at the last of its moments. */
  readonly first: readonly PartlyKnown[];
  readonly last: readonly PartlyKnown[];
  /** Words of memories as they were met or written, in order of time. */
  readonly words: readonly {
    readonly moment: number;
    readonly memory: number;
    readonly word: number;
    readonly is: PartlyKnown;
  }[];
  /**
   * Values at a moment with which everything comes as it was recorded, what is not known filled in: of outputs of the
   * netlist by their names.
   */
  readonly filled: (fill: Fill) => (output: string, moment: number) => bigint;
  /** The same of words of memories at the first moment, by their places; null for those that nothing has met. */
  readonly startWord: (fill: Fill | 'x') => (memory: number, word: number) => PartlyKnown | null;
}

/** What it may take, and what is known. */
export interface Budget {
  readonly moments: number;
  /** Nodes of functions. */
  readonly nodes: number;
  /** Words computed, and steps of functions. */
  readonly work: number;
  /** Something unknown may still come in when everything is known. */
  readonly goesOn: boolean;
  /** What is known of the registers at the first moment, by their places; absent for nothing. */
  readonly starts?: readonly PartlyKnown[];
}

/** Looking at a word that has not changed takes so much of what computing one takes. */
const SHARE_OF_MOMENT = 1 / 32;

/** Nodes that what is observed of one bit may take. */
const MOST_FOR_A_BIT = 1 << 12;

/** Words of a memory that are looked at one by one where the address is not known. */
const MOST_WORDS = 64;

/**
 * Computes a netlist without asynchronous resets from its first moment on, for as long as something is not known and
 * the budget lasts; at least nothing, where even the first moment is too much. Registers and memories that are written
 * start as variables; whatever the record says of an output that depends on them leaves fewer starts possible. A bit is
 * known when it is the same for all starts that are left.
 */
export function exactBeginning(
  netlist: Netlist,
  outputs: ReadonlySet<string>,
  outside: (moment: number) => Outside | null,
  budget: Budget,
): Beginning | null {
  const made = new Symbolic(netlist, outputs, budget);
  made.run(outside, budget);
  return made.count === 0 ? null : made.beginning();
}

class Symbolic {
  readonly #netlist: Netlist;
  readonly #f: Decisions;
  /** What the outputs are made of at one moment, and what the next moment is made of besides. */
  readonly #order: readonly NodeId[];
  readonly #onward: readonly NodeId[];
  readonly #values: Word[] = [];
  /** 1 for each node whose word is another one than at the moment before. */
  readonly #isNew: Uint8Array;
  readonly #widths: readonly (readonly number[])[];
  #state: Word[];
  #memories: Map<number, Word>[];
  /** For each moment the words of all outputs. */
  readonly #outputs: Word[][] = [];
  readonly #starts: readonly Word[];
  #lastState: readonly Word[] = [];
  readonly #words: { moment: number; memory: number; word: number; is: Word }[] = [];
  readonly #startWords = new Map<string, Word>();
  #moment = 0;
  #isCutShort = false;
  #isEnded = false;
  #hasLeftOut = false;
  #work = 0;
  /** What is left possible. */
  #possible: Fn = 1;
  readonly #ports: Netlist['outputs'];
  /** By the places of registers and memories: whether the outputs depend on them. */
  readonly #isNeeded: readonly boolean[];
  readonly #isRead: readonly boolean[];
  #variables: number;
  readonly #sure = new Map<Fn, 0 | 1 | null>();
  readonly #outputPlaces: ReadonlyMap<string, number>;

  constructor(netlist: Netlist, outputs: ReadonlySet<string>, { nodes, starts = [] }: Budget) {
    this.#netlist = netlist;
    this.#f = new Decisions(nodes);
    this.#ports = netlist.outputs.filter(({ name }) => outputs.has(name));
    const needed = neededFor(netlist, this.#ports);
    const atOnce = madeOf(netlist, this.#ports);
    this.#order = needed.nodes.filter((node) => atOnce[node] === 1);
    this.#onward = needed.nodes.filter((node) => atOnce[node] === 0);
    this.#isNew = new Uint8Array(netlist.nodes.length);
    this.#isNeeded = netlist.registers.map(({ node }) => needed.has(node));
    this.#isRead = netlist.memories.map((_, memory) => needed.memories.has(memory));
    this.#widths = netlist.nodes.map(({ args }) => args.map((arg) => item(netlist.nodes, arg).width));
    this.#outputPlaces = new Map(this.#ports.map(({ name }, i) => [name, i]));
    // Bits of one weight side by side: sums and comparisons of registers are small then.
    const { registers } = netlist;
    const widest = registers.reduce((most, { node }) => Math.max(most, item(netlist.nodes, node).width), 0);
    this.#variables = widest * registers.length;
    this.#starts = registers.map(({ node }, r): Word => {
      const { width } = item(netlist.nodes, node);
      const known = starts[r] ?? { value: 0n, unknown: (1n << BigInt(width)) - 1n };
      if (known.unknown === 0n) return known.value;
      return Array.from({ length: width }, (_, bit) =>
        (known.unknown >> BigInt(bit)) & 1n
          ? this.#f.variable(bit * registers.length + r)
          : Number((known.value >> BigInt(bit)) & 1n),
      );
    });
    this.#state = [...this.#starts];
    this.#memories = netlist.memories.map(() => new Map());
  }

  get count(): number {
    return this.#outputs.length;
  }

  run(outside: (moment: number) => Outside | null, budget: Budget): void {
    try {
      for (let moment = 0; moment < budget.moments; moment++) {
        const now = outside(moment);
        if (now === null) {
          this.#isEnded = true;
          return;
        }
        if (this.#work >= budget.work) {
          this.#isCutShort = true;
          return;
        }
        const before = this.#f.work;
        this.#moment = moment;
        if (moment > 0) this.#edge(now.edges);
        this.#evaluate(this.#order, now);
        const outputs = this.#ports.map(({ node }) => item(this.#values, node));
        this.#observe(now, outputs);
        this.#outputs.push(outputs);
        this.#lastState = [...this.#state];
        if (moment + 1 < budget.moments) this.#evaluate(this.#onward, now);
        this.#work += SHARE_OF_MOMENT * (this.#order.length + this.#onward.length) + (this.#f.work - before);
        if (
          !budget.goesOn &&
          this.#state.every((word, i) => !this.#isNeeded[i] || typeof word === 'bigint') &&
          this.#areWordsPlain()
        ) {
          this.#isEnded = true;
          return;
        }
      }
    } catch (error) {
      // What was computed before stands.
      if (!(error instanceof TooLarge)) throw error;
      this.#isCutShort = true;
    }
  }

  /** Whether nothing but words that were never written is unknown. */
  #areWordsPlain(): boolean {
    return this.#memories.every((words) => [...words.values()].every((word) => typeof word === 'bigint'));
  }

  /** Words whose arguments are what they were stay what they were. */
  #evaluate(order: readonly NodeId[], now: Outside): void {
    const { nodes } = this.#netlist;
    const places = this.#registerPlaces;
    for (const id of order) {
      const node = item(nodes, id);
      const before = this.#values[id];
      let word: Word;
      if (node.op === 'input') word = this.#outsideWord(now.input(node.name), node.width);
      else if (node.op === 'reg') word = item(this.#state, places.get(id) ?? 0);
      else if (node.op === 'memread') {
        const address = this.#values[node.args[0]] ?? 0n;
        word = this.#read(node.memory, address, numberAt(item(this.#widths, id), 0));
      } else {
        if (before !== undefined && !node.args.some((arg) => this.#isNew[arg] === 1)) {
          this.#isNew[id] = 0;
          continue;
        }
        this.#work++;
        word = operate(
          this.#f,
          node,
          node.args.map((arg) => item(this.#values, arg)),
          item(this.#widths, id),
        );
      }
      const isSame = before !== undefined && isEqual(before, word);
      this.#isNew[id] = isSame ? 0 : 1;
      if (!isSame) this.#values[id] = word;
    }
  }

  readonly #placesMade = new Map<NodeId, number>();
  get #registerPlaces(): ReadonlyMap<NodeId, number> {
    if (this.#placesMade.size === 0)
      for (const [i, { node }] of this.#netlist.registers.entries()) this.#placesMade.set(node, i);
    return this.#placesMade;
  }

  /** What nobody knows from outside may be anything at every moment. */
  #outsideWord({ value, unknown }: PartlyKnown, width: number): Word {
    if (unknown === 0n) return value;
    return Array.from({ length: width }, (_, bit) =>
      (unknown >> BigInt(bit)) & 1n ? this.#f.variable(this.#variables++) : Number((value >> BigInt(bit)) & 1n),
    );
  }

  #word(memory: number, index: number): Word {
    const { width, depth, init, writes } = item(this.#netlist.memories, memory);
    if (index >= depth) return 0n;
    if (writes.length === 0) return init[index] ?? 0n;
    const words = item(this.#memories, memory);
    const known = words.get(index);
    if (known !== undefined) return known;
    const made = Array.from({ length: width }, () => this.#f.variable(this.#variables++));
    this.#keep(memory, index, made);
    this.#startWords.set(`${memory} ${index}`, made);
    return made;
  }

  #keep(memory: number, index: number, is: Word): void {
    item(this.#memories, memory).set(index, is);
    this.#words.push({ moment: this.#moment, memory, word: index, is });
  }

  #read(memory: number, address: Word, addressWidth: number): Word {
    const { width } = item(this.#netlist.memories, memory);
    if (typeof address === 'bigint') return this.#word(memory, Number(address));
    const count = this.#wordsUnder(memory, addressWidth);
    let bits: Fn[] = Array.from({ length: width }, () => 0);
    for (let index = 0; index < count; index++) {
      const isThere = this.#equals(address, index);
      if (isThere === 0) continue;
      const word = this.#word(memory, index);
      bits = bits.map((bit, i) => this.#f.choice(isThere, bitOf(word, i), bit));
    }
    return wordOf(bits);
  }

  #wordsUnder(memory: number, addressWidth: number): number {
    const { depth } = item(this.#netlist.memories, memory);
    const count = Math.min(depth, 2 ** Math.min(addressWidth, 30));
    if (count > MOST_WORDS) throw new TooLarge();
    return count;
  }

  #equals(word: readonly Fn[], value: number): Fn {
    return word.reduce((all, bit, i) => this.#f.and(all, (value >>> i) & 1 ? bit : this.#f.not(bit)), 1);
  }

  /** Registers and memories take what stood at the moment before. */
  #edge(edges: Outside['edges']): void {
    const { registers, memories, nodes } = this.#netlist;
    const isDue = ({ clock, edge }: { readonly clock: NodeId; readonly edge: string }): boolean => {
      const node = item(nodes, clock);
      return node.op === 'input' && edges.some((one) => one.clock === node.name && one.edge === edge);
    };
    const next = registers.map((register, i) =>
      this.#isNeeded[i] && isDue(register) ? item(this.#values, register.d) : item(this.#state, i),
    );
    for (const [m, memory] of memories.entries()) if (this.#isRead[m]) this.#write(m, memory, isDue);
    this.#state = next;
  }

  #write(memory: number, { writes, depth, width }: Memory, isDue: (of: Memory['writes'][number]) => boolean): void {
    for (const write of writes) {
      if (!isDue(write)) continue;
      const enable = bitOf(item(this.#values, write.enable), 0);
      if (enable === 0) continue;
      const [address, data] = [item(this.#values, write.address), item(this.#values, write.data)];
      const put = (index: number, when: Fn) => {
        if (when === 0 || index >= depth) return;
        const old = when === 1 ? 0n : this.#word(memory, index);
        const bits = Array.from({ length: width }, (_, i) => this.#f.choice(when, bitOf(data, i), bitOf(old, i)));
        this.#keep(memory, index, wordOf(bits));
      };
      if (typeof address === 'bigint') put(Number(address), enable);
      else {
        const count = this.#wordsUnder(memory, item(this.#netlist.nodes, write.address).width);
        for (let index = 0; index < count; index++) put(index, this.#f.and(enable, this.#equals(address, index)));
      }
    }
  }

  /** What was recorded leaves fewer starts possible. */
  #observe(now: Outside, outputs: readonly Word[]): void {
    for (const [i, { name, width }] of this.#ports.entries()) {
      const word = item(outputs, i);
      if (typeof word === 'bigint') continue;
      const seen = now.observed(name);
      if (seen === null) continue;
      for (let bit = 0; bit < width; bit++) {
        if ((seen.unknown >> BigInt(bit)) & 1n) continue;
        const is = bitOf(word, bit);
        // One that is too much to keep in mind is left out: then more stays possible than is.
        const left = this.#f.within(MOST_FOR_A_BIT, () =>
          this.#f.and(this.#possible, (seen.value >> BigInt(bit)) & 1n ? is : this.#f.not(is)),
        );
        if (left === null) this.#hasLeftOut = true;
        else if (left !== 0) this.#possible = left;
      }
    }
  }

  beginning(): Beginning {
    return {
      count: this.count,
      isCutShort: this.#isCutShort,
      explains: this.#isEnded && !this.#hasLeftOut,
      work: this.#work,
      changeAt: (output, moment) => {
        const place = this.#outputPlaces.get(output) ?? 0;
        const word = item(item(this.#outputs, moment), place);
        return moment > 0 && this.#outputs[moment - 1]?.[place] === word ? null : this.#known(word);
      },
      first: this.#starts.map((word, i) => this.#knownOf(word, i)),
      last: this.#lastState.map((word, i) => this.#knownOf(word, i)),
      words: this.#words.flatMap(({ is, ...at }) => (at.moment < this.count ? [{ ...at, is: this.#known(is) }] : [])),
      filled: (fill) => this.#filledOutput(fill),
      startWord: (fill) => this.#startWord(fill),
    };
  }

  #knownOf(word: Word, register: number): PartlyKnown {
    if (this.#isNeeded[register]) return this.#known(word);
    const { node } = item(this.#netlist.registers, register);
    return { value: 0n, unknown: (1n << BigInt(item(this.#netlist.nodes, node).width)) - 1n };
  }

  #known(word: Word): PartlyKnown {
    if (typeof word === 'bigint') return { value: word, unknown: 0n };
    let [value, unknown] = [0n, 0n];
    for (let i = word.length - 1; i >= 0; i--) {
      const sure = this.#sureOf(numberAt(word, i));
      value = (value << 1n) | (sure === 1 ? 1n : 0n);
      unknown = (unknown << 1n) | (sure === null ? 1n : 0n);
    }
    return { value, unknown };
  }

  /** What a bit is for all starts that are left; null where they differ. */
  #sureOf(f: Fn): 0 | 1 | null {
    if (f <= 1) return f === 1 ? 1 : 0;
    const known = this.#sure.get(f);
    if (known !== undefined) return known;
    let sure: 0 | 1 | null = null;
    try {
      if (this.#f.and(this.#possible, f) === 0) sure = 0;
      else if (this.#f.and(this.#possible, this.#f.not(f)) === 0) sure = 1;
    } catch (error) {
      if (!(error instanceof TooLarge)) throw error;
    }
    this.#sure.set(f, sure);
    return sure;
  }

  #filledOutput(fill: Fill): (output: string, moment: number) => bigint {
    const value = this.#filled(fill);
    return (output, moment) => value(item(item(this.#outputs, moment), this.#outputPlaces.get(output) ?? 0));
  }

  #startWord(fill: Fill | 'x'): (memory: number, word: number) => PartlyKnown | null {
    const value = fill === 'x' ? null : this.#filled(fill);
    return (memory, index) => {
      const word = this.#startWords.get(`${memory} ${index}`);
      if (word === undefined) return null;
      return value ? { value: value(word), unknown: 0n } : this.#known(word);
    };
  }

  /** Words with all their unknown bits filled in, so that everything comes as it was recorded. */
  #filled(fill: Fill): (word: Word) => bigint {
    const wish = wishOf(fill);
    const chosen = this.#f.example(this.#possible, wish) ?? new Map<number, 0 | 1>();
    const value = (variable: number): 0 | 1 => chosen.get(variable) ?? wish(variable);
    return (word) => {
      if (typeof word === 'bigint') return word;
      let made = 0n;
      for (let i = word.length - 1; i >= 0; i--)
        made = (made << 1n) | BigInt(this.#f.valueOf(numberAt(word, i), value));
      return made;
    };
  }
}

const isEqual = (a: Word, b: Word): boolean =>
  typeof a === 'bigint' || typeof b === 'bigint' ? a === b : a === b || a.every((bit, i) => bit === b[i]);

/** Reproducible bits of a seed, by the number of the variable. */
function wishOf(fill: Fill): (variable: number) => 0 | 1 {
  if (fill === 'zeros') return () => 0;
  if (fill === 'ones') return () => 1;
  return (variable) => {
    let mixed = Math.imul((variable + 1) ^ Math.imul(fill.seed | 0, 0x9e3779b1), 0x85ebca6b);
    mixed = Math.imul(mixed ^ (mixed >>> 13), 0xc2b2ae35);
    return ((mixed ^ (mixed >>> 16)) & 1) === 1 ? 1 : 0;
  };
}

/** What some outputs depend on, through registers and memories. */
interface Needed {
  /** Arguments before what they are arguments of. */
  readonly nodes: readonly NodeId[];
  readonly has: (node: NodeId) => boolean;
  readonly memories: ReadonlySet<number>;
}

/** 1 for each node that outputs depend on without a register in between. */
function madeOf({ nodes }: Netlist, outputs: readonly { readonly node: NodeId }[]): Uint8Array {
  const made = new Uint8Array(nodes.length);
  const open: NodeId[] = outputs.map(({ node }) => node);
  for (let id = open.pop(); id !== undefined; id = open.pop()) {
    if (made[id] === 1) continue;
    made[id] = 1;
    for (const arg of item(nodes, id).args) open.push(arg);
  }
  return made;
}

export function neededFor(netlist: Netlist, outputs: readonly { readonly node: NodeId }[]): Needed {
  const { nodes, registers, memories } = netlist;
  const registerOf = new Map(registers.map((register) => [register.node, register]));
  const needed = new Uint8Array(nodes.length);
  const read = new Set<number>();
  const open: NodeId[] = outputs.map(({ node }) => node);
  for (let id = open.pop(); id !== undefined; id = open.pop()) {
    if (needed[id] === 1) continue;
    needed[id] = 1;
    const node = item(nodes, id);
    for (const arg of node.args) open.push(arg);
    const register = node.op === 'reg' ? registerOf.get(id) : undefined;
    if (register) open.push(register.d);
    if (node.op !== 'memread' || read.has(node.memory)) continue;
    read.add(node.memory);
    for (const { enable, address, data } of item(memories, node.memory).writes) open.push(enable, address, data);
  }
  return {
    nodes: nodes.flatMap((_, id) => (needed[id] === 1 ? [id] : [])),
    has: (node) => needed[node] === 1,
    memories: read,
  };
}
