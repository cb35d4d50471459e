// A stretch of a record in one go: edges, inputs and what is written down of the outputs without a look in between.
import { floatAt, intAt, item } from '../lists.ts';
import { Simulator, type WrittenRun } from '../sim/fabric/index.ts';
import type { Netlist } from '../netlist/index.ts';
import type { Trace, TraceWriter } from '../wave/index.ts';
import { following, type Moments } from './moments.ts';

/** A record that comes in, at the addresses of its value and of what of it is unknown; -1 where that is left out. */
export interface InputTrace {
  readonly trace: Trace;
  readonly value: string;
  readonly unknown: string | null;
}

/** Where what is computed goes. */
export interface Sink {
  /** Outputs by name: the writer of which they are the value, or the unknown bits. */
  readonly writers: readonly {
    readonly output: string;
    readonly writer: TraceWriter;
    readonly half: 'value' | 'unknown';
  }[];
  /** Outputs of the ports of memories. */
  readonly ports: readonly {
    readonly memory: number;
    readonly enable: string;
    readonly address: string;
    readonly data: string;
  }[];
  /** A word of a memory is another one from a place of the axis on. */
  readonly wrote: (memory: number, word: number, tick: number, value: Uint32Array) => void;
}

interface Fed {
  readonly trace: Trace;
  readonly value: number;
  readonly unknown: number;
  index: number;
}

/** A memory's port as it stands, and since which moment; `isDone`: what it writes has been told. */
interface Port {
  readonly memory: number;
  readonly now: { enable: number; address: number };
  readonly data: Uint32Array;
  since: number;
  isDone: boolean;
}

/** Entries of the lists of a stretch. */
const LISTS = { inputs: 1 << 16, changes: 1 << 16 };
/** Moments whose inputs are listed at a time. */
const MOST_MOMENTS = 1 << 12;

type Tell = (moment: number, word: number) => void;

/** One netlist of one clock, with its records and where its outputs go. */
export class Stretch {
  readonly sim: Simulator;
  readonly #moments: Moments;
  readonly #run: WrittenRun;
  readonly #inputs: readonly Fed[];
  /** By the place among the words of the outputs: who is told of it. */
  readonly #told: (Tell | undefined)[];
  readonly #ports: readonly Port[];
  readonly #portPlaces: readonly number[];
  readonly #wrote: Sink['wrote'];
  readonly #listed = new Listed(MOST_MOMENTS);

  private constructor(
    netlist: Netlist,
    moments: Moments,
    { sim, run }: { readonly sim: Simulator; readonly run: WrittenRun },
    inputs: readonly InputTrace[],
    { writers, ports, wrote }: Sink,
  ) {
    this.sim = sim;
    this.#moments = moments;
    this.#run = run;
    this.#wrote = wrote;
    this.#told = Array.from({ length: run.words });
    const { ticks } = moments;
    const widths = new Map(netlist.outputs.map(({ name, width }) => [name, width]));
    const placesOf = (output: string) =>
      Array.from(
        { length: ((widths.get(output) ?? 0) + 31) >>> 5 },
        (_, word) => sim.outputAddress(output) - run.from + word,
      );
    for (const { output, writer, half } of writers)
      for (const [limb, place] of placesOf(output).entries())
        this.#told[place] =
          half === 'value'
            ? (moment, word) => writer.addWord(floatAt(ticks, moment), limb, word)
            : (moment, word) => writer.addUnknownWord(floatAt(ticks, moment), limb, word);
    this.#ports = ports.map(({ memory, enable, address, data }): Port => {
      const port: Port = {
        ...{ memory, now: { enable: 0, address: 0 }, data: new Uint32Array(placesOf(data).length) },
        ...{ since: 0, isDone: true },
      };
      const set = (output: string, take: (word: number, limb: number) => void) => {
        for (const [limb, place] of placesOf(output).entries())
          this.#told[place] = (moment, word) => {
            this.#tellWrites(moment);
            take(word, limb);
            this.#portsStandSince(moment);
          };
      };
      set(enable, (word) => void (port.now.enable = word));
      set(address, (word, limb) => void (limb === 0 && (port.now.address = word >>> 0)));
      set(data, (word, limb) => void (port.data[limb] = word));
      return port;
    });
    this.#portPlaces = ports.flatMap(({ enable, address, data }) => [enable, address, data].flatMap(placesOf));
    this.#inputs = inputs.map(({ trace, value, unknown }) => ({
      ...{ trace, value: sim.inputAddress(value), index: -1 },
      unknown: unknown === null ? -1 : sim.inputAddress(unknown),
    }));
  }

  /** Null where logic makes clocks. */
  static of(
    netlist: Netlist,
    moments: Moments,
    { clock, inputs, ...sink }: Sink & { readonly clock: string; readonly inputs: readonly InputTrace[] },
  ): Stretch | null {
    const sim = new Simulator(netlist, 'wasm', null);
    const inputWords = inputs.reduce((sum, { trace }) => sum + 2 * trace.words, 0);
    const run = sim.written(sim.domain(clock), { ...LISTS, inputs: Math.max(LISTS.inputs, inputWords) });
    return run ? new Stretch(netlist, moments, { sim, run }, inputs, sink) : null;
  }

  /** Begins behind a moment; registers and memories of `sim` stand as they are at it, inputs that have no record too. */
  begin(moment: number): void {
    const tick = floatAt(this.#moments.ticks, moment);
    const { words } = this.sim;
    for (const input of this.#inputs) {
      input.index = following(input.trace, -1, tick);
      this.#wordsOf(input, input.index, (address, word) => {
        words[address] = word;
        return true;
      });
    }
    this.#run.begin();
    for (const port of this.#ports) port.isDone = true;
    for (const place of this.#portPlaces) this.#told[place]?.(moment, intAt(words, this.#run.from + place));
    this.#portsStandSince(moment);
  }

  /** Computes moments from one on, up to another one that is not computed. There is no break among them. */
  go(first: number, end: number): void {
    const { edgesBefore } = this.#moments;
    for (let at = first; at < end; ) {
      const isStepping = (edgesBefore[at] ?? -1) >= 0;
      let until = at + 1;
      const most = Math.min(end, at + MOST_MOMENTS);
      while (until < most && (edgesBefore[until] ?? -1) >= 0 === isStepping) until++;
      until = this.#giveInputs(at, until);
      while (at < until) at = this.#run.run(at, until, isStepping, this.#tell);
      this.#tellWrites(until);
    }
  }

  readonly #tell = (moment: number, place: number, word: number): void => this.#told[place]?.(moment, word);

  #portsStandSince(moment: number): void {
    for (const port of this.#ports) {
      port.since = moment;
      port.isDone = false;
    }
  }

  /** What ports have written at edges up to a moment, as they stood until then. */
  #tellWrites(moment: number): void {
    const { edgesBefore, ticks } = this.#moments;
    for (const port of this.#ports) {
      if (port.isDone || port.since >= moment) continue;
      let edge = port.since + 1;
      while (edge <= moment && (edgesBefore[edge] ?? -1) < 0) edge++;
      if (edge > moment || edge >= ticks.length) continue;
      port.isDone = true;
      if (port.now.enable === 0) continue;
      this.#wrote(port.memory, port.now.address, floatAt(ticks, edge), port.data);
    }
  }

  /** Words of an input at an index of its trace, with their addresses, as long as `take` says so. */
  #wordsOf({ trace, value, unknown }: Fed, index: number, take: (address: number, word: number) => boolean): boolean {
    for (let k = 0; k < trace.words; k++) {
      const open = trace.unknown?.[index * trace.words + k] ?? 0;
      if (!take(value + k, (trace.bits[index * trace.words + k] ?? 0) & ~open)) return false;
      if (unknown >= 0 && !take(unknown + k, open)) return false;
    }
    return true;
  }

  /** Lists the inputs of a stretch; gives its end, which is nearer where the list is full. */
  #giveInputs(first: number, end: number): number {
    const { ticks } = this.#moments;
    const listed = this.#listed;
    listed.begin(end - first);
    for (const [i, { trace, index: before }] of this.#inputs.entries()) {
      const { at } = trace;
      let moment = first;
      for (let index = before + 1; index < at.length; index++) {
        const tick = floatAt(at, index);
        while (moment < end && floatAt(ticks, moment) < tick) moment++;
        if (moment === end) break;
        listed.add(moment - first, i, index);
      }
    }
    this.#run.noInputs();
    for (let moment = first; moment < end; moment++) {
      const isAll = listed.each(moment - first, (i, index) =>
        this.#wordsOf(item(this.#inputs, i), index, (address, word) => this.#run.addInput(moment, address, word)),
      );
      // All of this moment is given with the next stretch.
      if (!isAll) return moment;
      listed.each(moment - first, (i, index) => {
        item(this.#inputs, i).index = index;
        return true;
      });
    }
    return end;
  }
}

/** Entries in lists, one for each place, in the order in which they were added. */
class Listed {
  readonly #first: Int32Array;
  readonly #last: Int32Array;
  #next = new Int32Array(1 << 10);
  #of = new Int32Array(1 << 10);
  #index = new Int32Array(1 << 10);
  #count = 0;

  constructor(most: number) {
    this.#first = new Int32Array(most);
    this.#last = new Int32Array(most);
  }

  begin(places: number): void {
    this.#first.fill(-1, 0, places);
    this.#count = 0;
  }

  add(place: number, of: number, index: number): void {
    if (this.#count === this.#next.length) this.#grow();
    const at = this.#count++;
    this.#of[at] = of;
    this.#index[at] = index;
    this.#next[at] = -1;
    if (intAt(this.#first, place) < 0) this.#first[place] = at;
    else this.#next[intAt(this.#last, place)] = at;
    this.#last[place] = at;
  }

  /** Goes through the list of a place as long as `take` says so; whether it did to the end. */
  each(place: number, take: (of: number, index: number) => boolean): boolean {
    for (let at = intAt(this.#first, place); at >= 0; at = intAt(this.#next, at))
      if (!take(intAt(this.#of, at), intAt(this.#index, at))) return false;
    return true;
  }

  #grow(): void {
    const twice = (old: Int32Array) => {
      const grown = new Int32Array(2 * old.length);
      grown.set(old);
      return grown;
    };
    [this.#next, this.#of, this.#index] = [twice(this.#next), twice(this.#of), twice(this.#index)];
  }
}
