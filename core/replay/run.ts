// Computes a region over a whole record: three-valued, sample by sample, and what does not agree.
import { floatAt, intAt, item } from '../lists.ts';
import { ProblemError } from '../result.ts';
import { stopIfCancelled, unwatched, type Watch } from '../progress.ts';
import { Simulator } from '../sim/fabric/index.ts';
import { type Trace, TraceWriter } from '../wave/index.ts';
import { digitsOf, type Disagreement, disagreementOf, everKnown, openMoments, partlyKnown } from './agreement.ts';
import { type Dual, dualOf } from './dual.ts';
import { type Beginning, exactBeginning, type Outside, type PartlyKnown } from './exact.ts';
import { following, type Moments } from './moments.ts';
import { problem } from './problems.ts';
import type { ReplayProgram } from './program.ts';
import { MemoryWords } from './memory-words.ts';
import type { Reading } from './readings.ts';
import { Span } from './span.ts';
import type { Stretch } from './stretch.ts';
import { canTakeOver, takeOver } from './take-over.ts';
import { beginningInGoes, exactOutputs, hasOpenInputs } from './starts.ts';

/** What was computed. */
export interface Computed {
  /** One for each of `ReplayProgram.shown`, and words of memories behind them. */
  readonly traces: readonly Trace[];
  /** The first of each signal, earliest first. */
  readonly disagreements: readonly Disagreement[];
  /** For each of `shown`: moments in which some bit of it is not known. */
  readonly unknown: readonly number[];
  /** For each of `shown`: its bits that are known at some moment. */
  readonly ever: readonly Uint32Array[];
  /** From this moment on nothing was computed, for want of room; null where all was. */
  readonly cut: number | null;
  /** For each record that the design says something of, what it says; null for the others. */
  readonly own: readonly (Trace | null)[];
  /** What is known of the registers where the record begins, and behind each gap. */
  readonly beginnings: readonly {
    readonly moment: number;
    readonly exact: Beginning;
    /** What is filled in at its first moment makes everything come as it was recorded, up to the next break. */
    readonly explains: boolean;
  }[];
  /** Readings that told nothing: of what is not computed, or of what no register follows from. */
  readonly unusedReadings: readonly Reading[];
}

/** Moments between two looks at whether to go on. */
const TURN = 1 << 12;
/** Words that values, with when they were taken, may fill: about 200 MB. */
const MOST_KEPT = 1 << 24;

export interface ComputeOptions {
  readonly watch?: Watch;
  readonly readings?: readonly Reading[];
  /** Words of values to keep at most; what comes later is not computed. */
  readonly mostKept?: number;
  /** Moments after which it goes on in stretches, whatever is unknown still. */
  readonly late?: number;
}

/**
 * `records`: a trace for each record of the program; null for one that this record does not have. `clocks`: inputs of
 * the netlist that the moments' clocks are. Signals are unknown where nothing says what they are; none is guessed.
 */
export async function compute(
  program: ReplayProgram,
  records: readonly (Trace | null)[],
  moments: Moments,
  clocks: readonly string[],
  { watch = unwatched, readings = [], mostKept = MOST_KEPT, late = LATE }: ComputeOptions = {},
): Promise<Computed> {
  if (moments.count === 0) throw new ProblemError(problem('no-samples'));
  const run = new Run(program, records, moments, clocks, { readings, late });
  for (let i = 0; i < moments.count; ) {
    if (run.kept > mostKept) {
      run.cutAt(i);
      break;
    }
    i = run.from(i, Math.min(moments.count, i + TURN));
    watch.report({ phase: 'Computing', done: i, total: moments.count, unit: 'samples' });
    // Lets a cancel be heard.
    await new Promise((resolve) => setTimeout(resolve, 0));
    stopIfCancelled(watch, 'Nothing of it was kept.');
  }
  return run.done();
}

/** Where a word is kept, its value and its unknown bits. */
interface Words {
  readonly value: number;
  readonly unknown: number;
  readonly count: number;
}

interface InputWords {
  readonly name: string;
  readonly trace: Trace;
  readonly value: number;
  readonly unknown: number | null;
  index: number;
}

interface Shown {
  readonly output: string;
  readonly width: number;
  readonly words: Words;
  readonly writer: TraceWriter;
  /** While it is computed exactly, what it was last; and up to which moment it is. */
  last: PartlyKnown;
  exactUntil: number;
  /** Room for what it is now. */
  readonly values: Uint32Array;
  readonly open: Uint32Array;
}

/** A reading of an output. */
interface Told {
  readonly reading: Reading;
  readonly is: PartlyKnown;
}

interface Own extends Shown {
  readonly trace: Trace;
  readonly record: number;
}

class Run {
  readonly #program: ReplayProgram;
  readonly #moments: Moments;
  readonly #sim: Simulator;
  readonly #dual: Dual;
  readonly #inputs: InputWords[];
  /** Of inputs that nobody knows, where it says so. */
  readonly #open: readonly { readonly unknown: number; readonly width: number }[];
  readonly #shown: readonly Shown[];
  readonly #own: readonly Own[];
  readonly #steps: readonly (() => void)[];
  readonly #memories: MemoryWords;
  readonly #isBreak: Uint8Array;
  readonly #clocks: readonly string[];
  /** Of outputs by name, at a moment. */
  readonly #readings = new Map<number, Map<string, Told>>();
  readonly #unusedReadings: Reading[] = [];
  /** Readings that are not what was computed. */
  readonly #denied: Disagreement[] = [];
  readonly #beginnings: { moment: number; exact: Beginning; explains: boolean }[] = [];
  /** Whether some input may be unknown at some time. */
  readonly #hasOpen: boolean;
  /** Outputs that are computed exactly at beginnings: what is to be seen, and what records say of that. */
  readonly #exactSets: readonly ReadonlySet<string>[];
  #exactly: ReadonlySet<string> = new Set();
  /** While a beginning is under way, what is known at its end. */
  #known: { readonly exact: Beginning; readonly last: number } | null = null;
  /** What exact beginnings may still take, all together. */
  #work = MOST_WORK;
  /** Words that tell whether anything has changed: state, then what is put out. */
  readonly #state: Span;
  readonly #put: Span;
  /** Outputs in the order of `#put`. */
  readonly #all: readonly Shown[];
  /** Edges since something has changed last. */
  #rest = 0;
  /** The last moment before the next break of which something was read. */
  #lastRead = -1;
  #nextBreak = 0;
  readonly #late: number;
  #cut: number | null = null;
  /** Asked for, it goes on in stretches; null where that is not to be had. */
  readonly #takeOver: ((moment: number, isLate: boolean) => readonly Stretch[] | null) | null;
  /** Under way; none while there is one look a sample. */
  #stretches: readonly Stretch[] = [];

  constructor(
    program: ReplayProgram,
    records: readonly (Trace | null)[],
    moments: Moments,
    clocks: readonly string[],
    { readings, late }: Required<Pick<ComputeOptions, 'readings' | 'late'>>,
  ) {
    this.#late = late;
    this.#clocks = clocks;
    this.#program = program;
    this.#moments = moments;
    const first = floatAt(moments.ticks, 0);
    const always = new Set(clocks);
    for (const [i, name] of program.inputs.entries()) {
      const trace = records[i];
      if (trace && trace.unknown === null && trace.at.length > 0 && floatAt(trace.at, 0) <= first) always.add(name);
    }
    this.#hasOpen = hasOpenInputs(program.netlist, always);
    this.#dual = dualOf(program.netlist, always);
    this.#sim = new Simulator(this.#dual.netlist, 'wasm', null);
    this.#inputs = program.inputs.flatMap((name, i): InputWords[] => {
      const halves = this.#dual.inputs.get(name);
      const trace = records[i];
      if (!halves || !trace) return [];
      const unknown = halves.unknown === null ? null : this.#sim.inputAddress(halves.unknown);
      return [{ name, trace, value: this.#sim.inputAddress(halves.value), unknown, index: -1 }];
    });
    const fed = new Set(this.#inputs.map(({ name }) => name));
    this.#open = program.netlist.inputs.flatMap(({ name, width }) => {
      const half = fed.has(name) ? null : (this.#dual.inputs.get(name)?.unknown ?? null);
      return half === null ? [] : [{ unknown: this.#sim.inputAddress(half), width }];
    });
    this.#shown = program.shown.map(({ signal, output }) => ({ ...this.#output(output, signal.width) }));
    this.#own = program.own.flatMap((output, record): Own[] => {
      const trace = records[record];
      if (output === null || !trace) return [];
      return [{ ...this.#output(output, trace.width), trace, record }];
    });
    this.#exactSets = exactOutputs(program);
    const placed = moments.edges.map((set) =>
      set.map(({ clock, edge }) => this.#sim.domain(item(clocks, clock), edge)).filter((domain) => domain >= 0),
    );
    this.#steps = placed.map((domains) => (domains.length === 0 ? () => {} : this.#sim.together(domains)));
    this.#memories = new MemoryWords(program, this.#dual, this.#sim);
    this.#isBreak = new Uint8Array(moments.count);
    for (const i of moments.breaks) this.#isBreak[i] = 1;
    const outputOf = new Map(program.shown.map(({ signal, output }) => [signal.name, output]));
    for (const reading of readings) {
      const output = outputOf.get(reading.signal);
      const at = this.#readings.get(reading.moment) ?? new Map<string, Told>();
      if (output === undefined) this.#unusedReadings.push(reading);
      else this.#readings.set(reading.moment, at.set(output, { reading, is: reading.is }));
    }
    this.#state = new Span(
      this.#sim.words,
      this.#dual.netlist.registers.map(({ node }) => [
        this.#sim.registerAddress(node),
        limbs(item(this.#dual.netlist.nodes, node).width),
      ]),
    );
    this.#all = [...this.#shown, ...this.#own];
    const [clock] = clocks;
    const whole = {
      ...{ program, records, moments, known: always, clock: clock ?? '' },
      writers: new Map(this.#all.map(({ output, writer }) => [output, writer])),
      wrote: this.#memories.wrote.bind(this.#memories),
    };
    const standing = { dual: this.#dual, sim: this.#sim };
    this.#takeOver =
      clock === undefined || clocks.length > 1 || !canTakeOver(whole)
        ? null
        : (moment, isLate) => takeOver(whole, standing, moment, isLate);
    // Two stretches for each: its value, and what of it is unknown.
    this.#put = new Span(
      this.#sim.words,
      this.#all.flatMap(({ words: { value, unknown, count } }): [number, number][] => [
        [value, count],
        [unknown, count],
      ]),
    );
  }

  #output(name: string, width: number): Shown {
    const halves = this.#dual.outputs.get(name) ?? { value: '', unknown: '' };
    const words = {
      value: this.#sim.outputAddress(halves.value),
      unknown: this.#sim.outputAddress(halves.unknown),
      count: limbs(width),
    };
    return {
      output: name,
      width,
      words,
      writer: new TraceWriter(width),
      values: new Uint32Array(words.count),
      open: new Uint32Array(words.count),
      last: NOTHING,
      exactUntil: 0,
    };
  }

  /** Goes on from a moment up to another one; gives how far it came, which may be further. */
  from(first: number, end: number): number {
    const { ticks, edgesBefore } = this.#moments;
    const sim = this.#sim;
    let lastExact = this.#lastExact();
    let i = first;
    while (i < end) {
      if (this.#stretches.length > 0 && this.#isBreak[i] === 0) {
        i = this.#goOn(i, end);
        continue;
      }
      this.#stretches = [];
      const tick = floatAt(ticks, i);
      const isBreak = this.#isBreak[i] === 1;
      const set = edgesBefore[i] ?? -1;
      if (isBreak) {
        this.#begin(i, tick);
        lastExact = this.#lastExact();
      } else {
        if (set >= 0) {
          this.#steps[set]?.();
          this.#memories.changed(tick);
        }
      }
      const isMoved = this.#feed(tick);
      if (this.#known?.last === i) {
        this.#learn(this.#known.exact.last);
        this.#known = null;
      }
      sim.touched();
      sim.settle();
      if (i > lastExact && this.#readings.has(i)) this.#learnRead(i, tick);
      if (i === lastExact + 1) this.#put.renew();
      const isOther = this.#put.look() || isMoved;
      if (isOther) this.#take(i, tick);
      // The state is looked at where nothing else tells that it has changed.
      if (isOther || this.#state.look()) this.#rest = 0;
      else if (set >= 0) this.#rest++;
      this.#memories.look();
      const isTime = isPowerOfFour(i - lastExact) || i === this.#lastRead;
      if (i > lastExact && i >= this.#lastRead && isTime) this.#tryStretches(i, i - lastExact >= this.#late);
      i++;
      // Twice the same state from the same inputs is the same for ever.
      if (this.#stretches.length === 0 && this.#rest >= 2 && this.#known === null && this.#moments.edges.length === 1)
        i = this.#skip(i);
    }
    return i;
  }

  /** Goes on in stretches where everything is known by now that can be. */
  #tryStretches(i: number, isLate: boolean): void {
    const stretches = this.#takeOver?.(i, isLate) ?? null;
    if (stretches === null) return;
    this.#stretches = stretches;
  }

  /** Up to a moment, or to the next break. */
  #goOn(first: number, end: number): number {
    const until = Math.min(end, this.#nextBreak);
    for (const stretch of this.#stretches) stretch.go(first, until);
    return until;
  }

  /** The last moment that was computed exactly; -1 before there is one. */
  #lastExact(): number {
    const last = this.#beginnings.at(-1);
    return last ? last.moment + last.exact.count - 1 : -1;
  }

  /** The next moment at which something comes from outside. */
  #skip(from: number): number {
    const { ticks, count } = this.#moments;
    let next = Number.POSITIVE_INFINITY;
    for (const { trace, index } of this.#inputs) {
      const at = trace.at[index + 1];
      if (at !== undefined && at < next) next = at;
    }
    let i = from;
    while (i < count && floatAt(ticks, i) < next && this.#isBreak[i] === 0 && !this.#readings.has(i)) i++;
    return i;
  }

  /** Nothing of before counts any more: what is to be seen is computed exactly from here on, for as long as that goes. */
  #begin(first: number, tick: number): void {
    const sim = this.#sim;
    sim.powerUp();
    this.#memories.begin(tick);
    for (const input of this.#inputs) input.index = -2;
    for (const { unknown, width } of this.#open)
      for (let k = 0; k < (width + 31) >>> 5; k++) sim.words[unknown + k] = 32 * (k + 1) <= width ? -1 : topMask(width);
    this.#rest = 0;
    this.#known = null;
    // What stood there last may have been noted by another way since.
    this.#put.renew();
    this.#state.renew();
    this.#nextBreak = this.#moments.breaks.find((one) => one > first) ?? this.#moments.count;
    const before = [...this.#readings.keys()].filter((one) => one < this.#nextBreak);
    this.#lastRead = Math.max(-1, ...before);
    const begun = beginningInGoes({
      netlist: this.#program.netlist,
      outputs: this.#exactSets,
      outside: () => this.#outside(first),
      budget: {
        ...{ moments: MOST_EXACT, nodes: MOST_NODES, goesOn: this.#hasOpen },
        work: Math.min(this.#work, MOST_WORK_EACH),
      },
      read: this.#readBehind(first),
    });
    if (!begun) return;
    const { exact } = begun;
    this.#exactly = begun.outputs;
    const explains = exact.explains && begun.outputs === this.#exactSets[0];
    this.#beginnings.push({ moment: first, exact, explains });
    this.#work -= exact.work;
    const behind = first + exact.count;
    this.#known = { exact, last: behind - 1 };
    for (let i = first; i < behind; i++) this.#takeExact(exact, i, i - first);
    for (const one of [...this.#shown, ...this.#own]) if (this.#exactly.has(one.output)) one.exactUntil = behind;
    for (const { moment, memory, word, is } of exact.words)
      this.#memories.learn(memory, word, floatAt(this.#moments.ticks, first + moment), is);
    this.#learn(exact.first);
  }

  /** Outputs that were read before the next break, each with how far behind it was first. */
  #readBehind(first: number): ReadonlyMap<string, number> {
    const read = new Map<string, number>();
    const next = this.#moments.breaks.find((one) => one > first) ?? this.#moments.count;
    for (const [moment, outputs] of this.#readings)
      if (moment >= first && moment < next)
        for (const output of outputs.keys()) read.set(output, Math.min(read.get(output) ?? next, moment - first));
    return read;
  }

  /** What came to be known of registers in another way. */
  #learn(registers: readonly PartlyKnown[]): void {
    const { words } = this.#sim;
    for (const [register, { value, unknown }] of registers.entries()) {
      const half = item(this.#dual.registers, register);
      const [v, u] = [half.value, half.unknown].map((place) =>
        this.#sim.registerAddress(item(this.#dual.netlist.registers, place).node),
      );
      if (v === undefined || u === undefined) continue;
      for (let k = 0; k < (half.width + 31) >>> 5; k++) {
        const open = Number(BigInt.asIntN(32, unknown >> BigInt(32 * k)));
        words[v + k] = intAt(words, v + k) | Number(BigInt.asIntN(32, value >> BigInt(32 * k)));
        words[u + k] = intAt(words, u + k) & open;
      }
    }
  }

  /** What comes in from a moment on, for those who go moment by moment. */
  #outside(first: number): (step: number) => Outside | null {
    const { ticks, count, edgesBefore, edges } = this.#moments;
    const inputs = new Map(
      this.#program.inputs.flatMap((name) => {
        const input = this.#inputs.find((one) => one.name === name);
        return input ? [[name, { trace: input.trace, index: -1 }] as const] : [];
      }),
    );
    const records = new Map(this.#own.map((one) => [one.output, { trace: one.trace, index: -1 }] as const));
    const valueAt = (of: { readonly trace: Trace; index: number }, tick: number): PartlyKnown | null => {
      of.index = following(of.trace, of.index, tick);
      return of.index < 0 ? null : partlyKnown(of.trace, of.index);
    };
    const widths = new Map(this.#program.netlist.inputs.map(({ name, width }) => [name, width]));
    return (step) => {
      const i = first + step;
      if (i >= count || (step > 0 && this.#isBreak[i] === 1)) return null;
      const tick = floatAt(ticks, i);
      const set = edgesBefore[i] ?? -1;
      return {
        input: (name) => {
          const of = inputs.get(name);
          const value = of ? valueAt(of, tick) : null;
          if (value !== null) return value;
          return this.#clocks.includes(name) ? NOTHING : { value: 0n, unknown: allOnes(widths.get(name) ?? 1) };
        },
        observed: (output) => {
          const read = this.#readings.get(i)?.get(output);
          if (read !== undefined) return read.is;
          const of = records.get(output);
          return of ? valueAt(of, tick) : null;
        },
        edges: (edges[set] ?? []).map(({ clock, edge }) => ({ clock: item(this.#clocks, clock), edge })),
      };
    };
  }

  #takeExact(exact: Beginning, i: number, step: number): void {
    const tick = floatAt(this.#moments.ticks, i);
    for (const one of this.#shown) {
      const is = this.#exactly.has(one.output) ? exact.changeAt(one.output, step) : null;
      if (is) this.#noteWord(one, tick, is);
    }
    for (const one of this.#own) {
      if (!this.#exactly.has(one.output)) continue;
      const is = exact.changeAt(one.output, step);
      if (is) this.#noteWord(one, tick, is);
    }
    const read = this.#readings.get(i);
    if (!read) return;
    for (const one of this.#shown) {
      const told = read.get(one.output);
      if (told && this.#exactly.has(one.output)) this.#deny(told, i, tick, one);
      else if (told) this.#unusedReadings.push(told.reading);
    }
  }

  /** Tells of a reading that is not what the rest says. */
  #deny(
    { reading: { signal }, is }: Told,
    i: number,
    tick: number,
    { last, width }: Pick<Shown, 'last' | 'width'>,
  ): void {
    if (((is.value ^ last.value) & ~(is.unknown | last.unknown)) === 0n) return;
    const [recorded, computed] = [digitsOf(is, width), digitsOf(last, width)];
    this.#denied.push({ signal, sample: i, tick, recorded, computed, samples: 1 });
  }

  /** Behind what is computed exactly a moment that was read is begun with what is known by now. */
  #learnRead(i: number, tick: number): void {
    const read = this.#readings.get(i);
    // What is known of an output already is told by nothing new, and has not told nothing.
    const isKnown = new Set<string>();
    for (const one of this.#shown) {
      const told = read?.get(one.output);
      if (!told) continue;
      const last = this.#wordOf(one.words);
      this.#deny(told, i, tick, { last, width: one.width });
      if ((last.unknown & ~told.is.unknown) === 0n) isKnown.add(one.output);
    }
    const starts = this.#dual.registers.map(({ value, unknown, width }) => {
      const [v, u] = [value, unknown].map((place) =>
        this.#sim.registerAddress(item(this.#dual.netlist.registers, place).node),
      );
      return this.#wordOf({ value: v ?? 0, unknown: u ?? 0, count: limbs(width) });
    });
    for (const [output, told] of read ?? []) {
      const budget = { moments: 1, nodes: MOST_NODES, work: MOST_WORK_EACH, goesOn: true, starts };
      const exact = exactBeginning(this.#program.netlist, new Set([output]), this.#outside(i), budget);
      if (exact) this.#learn(exact.first);
      const isTold = exact?.first.some(({ unknown }, k) => unknown !== item(starts, k).unknown) ?? false;
      if (!isTold && !isKnown.has(output)) this.#unusedReadings.push(told.reading);
    }
    this.#sim.touched();
    this.#sim.settle();
  }

  #noteWord(one: Shown, tick: number, is: PartlyKnown): void {
    const limbs = (of: bigint) =>
      Uint32Array.from({ length: one.words.count }, (_, k) => Number(BigInt.asUintN(32, of >> BigInt(32 * k))));
    one.last = is;
    one.writer.add(tick, limbs(is.value), is.unknown === 0n ? null : limbs(is.unknown));
  }

  /** Sets what was recorded; whether any of it has changed. */
  #feed(tick: number): boolean {
    let isMoved = false;
    const { words } = this.#sim;
    for (const input of this.#inputs) {
      const { trace, value, unknown } = input;
      const next = input.index + 1;
      if (input.index >= -1 && (next >= trace.at.length || floatAt(trace.at, next) > tick)) continue;
      const index = following(trace, Math.max(-1, input.index), tick);
      if (index === input.index) continue;
      input.index = index;
      isMoved = true;
      for (let k = 0; k < trace.words; k++) {
        const open = index < 0 ? -1 : (trace.unknown?.[index * trace.words + k] ?? 0);
        words[value + k] = index < 0 ? 0 : (trace.bits[index * trace.words + k] ?? 0) & ~open;
        if (unknown !== null) words[unknown + k] = k === trace.words - 1 ? open & topMask(trace.width) : open;
      }
    }
    return isMoved;
  }

  #take(i: number, tick: number): void {
    for (const place of this.#put.dirty) {
      const one = item(this.#all, place >> 1);
      if (i >= one.exactUntil) this.#note(one, tick);
    }
  }

  #note(one: Shown, tick: number): void {
    const { value, unknown, count } = one.words;
    const { words } = this.#sim;
    const { values, open } = one;
    let isOpen = false;
    for (let k = 0; k < count; k++) {
      values[k] = intAt(words, value + k);
      open[k] = intAt(words, unknown + k);
      if (open[k] !== 0) isOpen = true;
    }
    one.writer.add(tick, values, isOpen ? open : null);
  }

  #wordOf({ value, unknown, count }: Words): PartlyKnown {
    let [v, u] = [0n, 0n];
    for (let k = count - 1; k >= 0; k--) {
      v = (v << 32n) | BigInt(intAt(this.#sim.words, value + k) >>> 0);
      u = (u << 32n) | BigInt(intAt(this.#sim.words, unknown + k) >>> 0);
    }
    return { value: v, unknown: u };
  }

  /** Words that all values take up so far. */
  get kept(): number {
    const own = this.#all.reduce((sum, { writer, words }) => sum + writer.count * (2 + words.count), 0);
    return own + this.#memories.kept;
  }

  /** From a moment on nothing is known any more. */
  cutAt(moment: number): void {
    this.#cut = moment;
    const tick = floatAt(this.#moments.ticks, moment);
    for (const one of this.#all) {
      one.values.fill(0);
      one.open.fill(-1);
      one.open[one.words.count - 1] = topMask(one.width);
      one.writer.add(tick, one.values, one.open);
    }
    this.#memories.begin(tick, true);
  }

  done(): Computed {
    const traces = this.#program.shown.map(({ signal }, i) =>
      item(this.#shown, i).writer.finish({
        name: signal.name,
        width: signal.width,
        signed: signal.signed,
        domain: '',
        ...(signal.names.length > 0 ? { names: Object.fromEntries(signal.names.map((n) => [n.name, n.value])) } : {}),
      }),
    );
    const disagreements = [...this.#denied];
    const own: (Trace | null)[] = this.#program.own.map(() => null);
    for (const one of this.#own) {
      const { name, width, signed, domain } = one.trace;
      const trace = one.writer.finish({ name, width, signed, domain });
      own[one.record] = trace;
      const found = disagreementOf(trace, one.trace, this.#moments);
      if (found) disagreements.push(found);
    }
    disagreements.sort((a, b) => a.sample - b.sample);
    return {
      ...{ traces: [...traces, ...this.#memories.done()], disagreements, own },
      unknown: traces.map((trace) => openMoments(trace, this.#moments)),
      beginnings: this.#beginnings,
      unusedReadings: this.#unusedReadings,
      ever: traces.map(everKnown),
      cut: this.#cut,
    };
  }
}

/** Moments after which it goes on in stretches whatever is unknown. */
const LATE = 1 << 12;
/** 1, 4, 16 and so on. */
const isPowerOfFour = (n: number): boolean => (n & (n - 1)) === 0 && (n & 0x55555555) !== 0;

const topMask = (width: number): number => (width % 32 === 0 ? -1 : 2 ** (width % 32) - 1);

const limbs = (width: number): number => (width + 31) >>> 5;

const NOTHING: PartlyKnown = { value: 0n, unknown: 0n };
/** Moments at a beginning that are computed exactly, nodes of functions for it, and what it may take altogether. */
const MOST_EXACT = 1 << 12;
const MOST_NODES = 1 << 17;
const MOST_WORK = 12_000_000;
const MOST_WORK_EACH = 3_000_000;

const allOnes = (width: number): bigint => (1n << BigInt(width)) - 1n;
