// Words of memories over a record, as far as it is known what was written.
import { intAt, item } from '../lists.ts';
import { type Memory, wordName } from '../netlist/index.ts';
import type { Simulator } from '../sim/fabric/index.ts';
import { type Trace, TraceWriter } from '../wave/index.ts';
import type { Dual } from './dual.ts';
import type { PartlyKnown } from './exact.ts';
import type { ReplayProgram } from './program.ts';

/** Words of which a trace is made, in all memories together; of larger ones those that are written. */
const MOST_WORDS = 1 << 16;

interface Port {
  readonly enable: readonly [value: number, unknown: number];
  readonly address: readonly [value: number, unknown: number];
}

interface Followed {
  /** Among the memories of the program's netlist. */
  readonly place: number;
  readonly source: Memory;
  readonly width: number;
  readonly depth: number;
  readonly words: number;
  readonly value: number;
  readonly unknown: number;
  readonly marks: number;
  /** Address of the mark of now. */
  readonly now: number;
  readonly ports: readonly Port[];
  readonly writers: Map<number, TraceWriter>;
  /** Words that the next edge may write; -1 among them for all. */
  readonly due: number[];
}

/** Reads the words that each edge has written. */
export class MemoryWords {
  readonly #sim: Simulator;
  readonly #memories: readonly Followed[];
  #first = 0;

  constructor(program: ReplayProgram, dual: Dual, sim: Simulator) {
    this.#sim = sim;
    const addresses = (name: string): readonly [number, number] => {
      const halves = dual.outputs.get(name);
      return [sim.outputAddress(halves?.value ?? ''), sim.outputAddress(halves?.unknown ?? '')];
    };
    this.#memories = program.netlist.memories.flatMap((source, i): Followed[] => {
      const { name, width, depth, writes } = source;
      const ports = program.writes.filter(({ memory }) => memory === name);
      const places = item(dual.memories, i);
      if (ports.length === 0 || writes.length === 0 || places.now < 0) return [];
      return [
        {
          ...{ place: i, source, width, depth, words: (width + 31) >>> 5 },
          value: sim.memoryAddress(places.value),
          unknown: sim.memoryAddress(places.unknown),
          marks: sim.memoryAddress(places.marks),
          now: sim.registerAddress(item(dual.netlist.registers, places.now).node),
          ports: ports.map((port) => ({ enable: addresses(port.enable), address: addresses(port.address) })),
          writers: new Map(),
          due: [],
        },
      ];
    });
  }

  /** What the next edge may write. */
  look(): void {
    const { words } = this.#sim;
    for (const { ports, due } of this.#memories) {
      due.length = 0;
      for (const { enable, address } of ports) {
        if ((intAt(words, enable[0]) | intAt(words, enable[1])) === 0) continue;
        due.push(intAt(words, address[1]) !== 0 ? -1 : intAt(words, address[0]) >>> 0);
      }
    }
  }

  /** An edge has been. */
  changed(tick: number): void {
    for (const memory of this.#memories) {
      if (memory.due.length === 0) continue;
      if (memory.due.includes(-1)) for (const word of memory.writers.keys()) this.#note(memory, word, tick);
      for (const word of memory.due) if (word >= 0 && word < memory.depth) this.#note(memory, word, tick);
    }
  }

  /** Words that all values take up so far. */
  get kept(): number {
    let sum = 0;
    for (const { writers, words } of this.#memories)
      for (const { count } of writers.values()) sum += count * (2 + words);
    return sum;
  }

  /** Nothing is known of any word, from here on or for good. */
  begin(tick: number, isEnd = false): void {
    this.#first = Math.min(this.#first, tick);
    for (const memory of this.#memories)
      for (const [word, writer] of memory.writers)
        if (isEnd) writer.add(tick, new Uint32Array(memory.words), ones(memory.width));
        else this.#note(memory, word, tick);
  }

  /** What a word, by the memory's place in the netlist, is known to be from a place of the axis on. */
  learn(place: number, word: number, tick: number, { value, unknown }: PartlyKnown): void {
    const memory = this.#memories.find((one) => one.place === place);
    if (!memory || word >= memory.depth) return;
    const limbs = (of: bigint) =>
      Uint32Array.from({ length: memory.words }, (_, k) => Number(BigInt.asUintN(32, of >> BigInt(32 * k))));
    this.#writerOf(memory, word, tick)?.add(tick, limbs(value), unknown === 0n ? null : limbs(unknown));
    const all = this.#sim.words;
    all.set(limbs(value), memory.value + word * memory.words);
    all.set(limbs(unknown), memory.unknown + word * memory.words);
    all[memory.marks + word] = intAt(all, memory.now);
  }

  /** A word, by the memory's place in the netlist, was written with what is known. */
  wrote(place: number, word: number, tick: number, value: Uint32Array): void {
    const memory = this.#memories.find((one) => one.place === place);
    if (memory && word < memory.depth) this.#writerOf(memory, word, tick)?.add(tick, value, null);
  }

  #writerOf(memory: Followed, word: number, tick: number): TraceWriter | null {
    const { words, writers, width } = memory;
    let writer = writers.get(word);
    if (!writer) {
      if (writers.size >= MOST_WORDS) return null;
      writer = new TraceWriter(width);
      writers.set(word, writer);
      if (tick > this.#first) writer.add(this.#first, new Uint32Array(words), ones(width));
    }
    return writer;
  }

  #note(memory: Followed, word: number, tick: number): void {
    const { words, width } = memory;
    const writer = this.#writerOf(memory, word, tick);
    if (!writer) return;
    const all = this.#sim.words;
    const isOld = intAt(all, memory.marks + word) !== intAt(all, memory.now);
    const value = Uint32Array.from({ length: words }, (_, k) => intAt(all, memory.value + word * words + k));
    const open = isOld
      ? ones(width)
      : Uint32Array.from({ length: words }, (_, k) => intAt(all, memory.unknown + word * words + k));
    writer.add(tick, isOld ? new Uint32Array(words) : value, open.some((one) => one !== 0) ? open : null);
  }

  /** A trace for each word that was written, lowest addresses first. */
  done(): Trace[] {
    return this.#memories.flatMap(({ source, width, writers }) =>
      [...writers]
        .sort(([a], [b]) => a - b)
        .map(([word, writer]) => writer.finish({ name: wordName(source, word), width, signed: false, domain: '' })),
    );
  }
}

const ones = (width: number): Uint32Array =>
  Uint32Array.from({ length: (width + 31) >>> 5 }, (_, k) =>
    32 * (k + 1) <= width ? 0xffffffff : 2 ** (width % 32) - 1,
  );
