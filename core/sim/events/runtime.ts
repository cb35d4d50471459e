import { bitsOfReal, four, ofReal, memoryEntries, mathFunction, realOfBits, type Word } from '../../hdl/index.ts';
import { item } from '../../lists.ts';
import type { Place } from '../../result.ts';
import { type FileHost, Files } from './files.ts';
import { formatAll, type Radix, type Shown, type TimeFormat, type Where } from './format.ts';
import {
  ANY,
  BOTH,
  type Edge,
  edgeOf,
  Ended,
  Kernel,
  queueing,
  type Runnable,
  waking,
  type Watcher,
} from './kernel.ts';
import { type Bank, type Cell, startOf } from './objects.ts';
import { draw, type Seed } from './random.ts';
import { scanText, type Source, type Store } from './scan.ts';
import { timeText } from './time-text.ts';

/** What happened that counts as a failure, or that a testbench wanted to say aloud. */
export interface Report {
  readonly severity: 'info' | 'warning' | 'error' | 'fatal';
  readonly message: string;
  readonly at: Place;
  /** Instance or block it stands in. */
  readonly path: string;
  /** In ticks of the finest precision. */
  readonly time: number;
  /** The same in words. */
  readonly moment: string;
}

export interface RuntimeOptions extends FileHost {
  /** `+NAME=VALUE` words, without the plus. */
  readonly plusargs: readonly string[];
  /** Power of ten of a second that a tick lasts. */
  readonly precision: number;
  /** Where a data file is read from that a source names. */
  readonly readData: (name: string, from: string) => string | null;
  readonly onReport?: (report: Report) => void;
}

interface Term {
  readonly i: readonly number[];
  readonly e: Edge;
  readonly f?: () => { value: unknown; v: number; x: number; only: boolean };
}

/** Thrown into a process to leave a block that was disabled. */
interface Activation {
  readonly key: number;
  readonly process: Process;
}

interface Held {
  readonly force: boolean;
  readonly low: number;
  readonly width: number;
  /** Where in the value of the whole statement these bits lie. */
  readonly from: number;
  readonly whole: number;
  readonly look: () => Word;
  readonly watcher: Watcher;
  readonly reads: readonly number[];
}

const MOST_PROCESSES = 100_000;

/** A process that may wait: a generator that is resumed. */
class Process implements Runnable {
  queued = false;
  busy = false;
  readonly hearsItself = false;
  readonly name: string;
  readonly children = new Set<Process>();
  readonly parent: Process | null;
  readonly #generator: Generator<void, void, void>;
  ended = false;
  #interrupt: Activation | null = null;
  onEnd: (() => void) | null = null;
  /** Counts waits, so that what wakes a wait that is over is not heard. */
  wait = 0;
  stopWaiting: (() => void) | null = null;

  constructor(name: string, parent: Process | null, make: () => Generator<void, void, void>) {
    this.name = name;
    this.parent = parent;
    parent?.children.add(this);
    this.#generator = make();
  }

  run(): void {
    if (this.ended) return;
    this.busy = true;
    const interrupt = this.#interrupt;
    this.#interrupt = null;
    try {
      const { done } = interrupt ? this.#generator.throw(interrupt) : this.#generator.next();
      if (done) this.end();
    } catch (error) {
      if (error !== interrupt || interrupt === null) throw error;
      this.end();
    } finally {
      this.busy = false;
    }
  }

  interrupt(activation: Activation): void {
    this.stopWaiting?.();
    this.stopWaiting = null;
    this.wait++;
    this.#interrupt = activation;
  }

  end(): void {
    if (this.ended) return;
    this.ended = true;
    this.stopWaiting?.();
    this.parent?.children.delete(this);
    this.onEnd?.();
  }

  /** Ends it and all it has begun. */
  kill(): void {
    for (const child of [...this.children]) child.kill();
    this.onEnd = null;
    this.end();
  }
}

/** What the generated code calls. Its names are short where it calls them all the time: `Q` is the kernel. */
export class Runtime {
  readonly kernel: Kernel;
  readonly wideV: unknown[];
  readonly wideX: unknown[];
  readonly banks: (Bank | null)[];
  readonly files: Files;
  readonly reports: Report[] = [];
  errors = 0;
  depth = 0;
  readonly #cells: readonly Cell[];
  readonly #options: RuntimeOptions;
  readonly #seed: Seed = { value: 0 };
  readonly #unsigned: Seed = { value: 1 };
  #time: TimeFormat;
  readonly #activations = new Set<Activation>();
  readonly #holds = new Map<number, { base: Word; list: Held[] }>();
  #monitor: { watcher: Watcher; ids: readonly number[]; text: () => string; on: boolean } | null = null;
  #processes = 0;
  /** `$dumpvars` and its like; null where nothing is written. */
  onDump: ((what: 'vars' | 'on' | 'off' | 'all', scopes: readonly string[], levels: number) => void) | null = null;
  dumpFile: string | null = null;

  constructor(cells: readonly Cell[], options: RuntimeOptions) {
    this.#cells = cells;
    this.#options = options;
    this.kernel = new Kernel(cells.length);
    this.files = new Files(options);
    this.wideV = [];
    this.wideX = [];
    this.banks = [];
    this.#time = { unit: options.precision, digits: 0, suffix: '', least: 20 };
    for (const cell of cells) this.#begin(cell);
  }

  #begin(cell: Cell): void {
    const { id, kind, depth, dimensions } = cell;
    if (dimensions.length > 0) {
      this.banks[id] = this.bank(id);
      return;
    }
    const start = startOf(cell);
    this.banks[id] = depth > 1 ? this.bank(id) : null;
    if (kind === 'narrow') {
      this.kernel.V[id] = Number(BigInt.asIntN(32, start.v));
      this.kernel.X[id] = Number(BigInt.asIntN(32, start.x));
    } else if (kind === 'wide') {
      this.wideV[id] = start.v;
      this.wideX[id] = start.x;
    } else this.wideV[id] = kind === 'text' ? '' : 0;
  }

  /** The words of an array, all as they start. */
  bank(id: number): Bank {
    const cell = item(this.#cells, id);
    const { kind, depth } = cell;
    if (kind === 'real') return { v: Array<number>(depth).fill(0), x: [] };
    if (kind === 'text') return { v: Array<string>(depth).fill(''), x: [] };
    const start = startOf(cell);
    if (kind === 'wide') return { v: Array<bigint>(depth).fill(start.v), x: Array<bigint>(depth).fill(start.x) };
    const [v, x] = [Number(BigInt.asIntN(32, start.v)), Number(BigInt.asIntN(32, start.x))];
    return { v: new Int32Array(depth).fill(v), x: new Int32Array(depth).fill(x) };
  }

  /** What a cell holds now. */
  wordOf(id: number): Word {
    const { kind } = item(this.#cells, id);
    const { V, X } = this.kernel;
    if (kind === 'narrow') return { v: BigInt(item(V, id) >>> 0), x: BigInt(item(X, id) >>> 0) };
    if (kind === 'wide') return { v: this.wideV[id] as bigint, x: this.wideX[id] as bigint };
    return four.known(0n);
  }

  valueOf(id: number): unknown {
    return this.wideV[id];
  }

  /** Writes a whole cell without asking who holds it. */
  setWord(id: number, { v, x }: Word): void {
    const { kind } = item(this.#cells, id);
    const { V, X } = this.kernel;
    const before = this.wordOf(id);
    if (before.v === v && before.x === x) return;
    if (kind === 'narrow') {
      V[id] = Number(BigInt.asIntN(32, v));
      X[id] = Number(BigInt.asIntN(32, x));
    } else {
      this.wideV[id] = v;
      this.wideX[id] = x;
    }
    this.kernel.notifyBits(id, Number(before.v & 1n), Number(before.x & 1n), Number(v & 1n), Number(x & 1n));
  }

  // Words of any width, where the code does not do it by itself.
  readonly slice = (a: Word, have: number, low: number, width: number): Word =>
    Number.isNaN(low) ? four.allUnknown(width) : four.slice(a, have, low, width);
  readonly splice = (a: Word, have: number, low: number, value: Word, width: number): Word =>
    Number.isNaN(low) ? a : four.splice(a, have, low, value, width);
  readonly shift = four.shift;
  readonly power = four.power;
  readonly ofReal = (real: number, width: number): Word => ofReal(real, width);
  readonly bitsOfReal = (real: number): Word => four.known(bitsOfReal(real));
  readonly realOfBits = ({ v }: Word): number => realOfBits(v);
  readonly ones = ({ v, x }: Word): number => four.ones(v & ~x);
  readonly parity = (v: bigint): number => four.ones(v) & 1;

  repeat(part: Word, width: number, count: number): Word {
    return four.concat(Array.from({ length: count }, () => [part, width] as const));
  }

  stream(word: Word, width: number, slice: number): Word {
    const parts: (readonly [Word, number])[] = [];
    for (let low = 0; low < width; low += slice) {
      const size = Math.min(slice, width - low);
      parts.push([four.slice(word, width, low, size), size]);
    }
    return four.concat(parts);
  }

  math(name: string, ...values: number[]): number {
    return mathFunction(name, values) ?? 0;
  }

  textWord(text: string, width: number): Word {
    return four.resize(four.ofText(text), Math.max(8, text.length * 8), width, false);
  }

  wordText(word: Word): string {
    return four.textOf(word, Math.max(8, word.v.toString(2).length + 7));
  }

  /** Methods of a text. @source IEEE 1800, string methods */
  textMethod(name: string, text: string, a?: string | number, b?: string | number): string | number {
    const number = (radix: number) => Number.parseInt(text.replaceAll('_', ''), radix) || 0;
    switch (name) {
      case 'len':
        return text.length;
      case 'getc':
        return text.charCodeAt(Number(a)) || 0;
      case 'toupper':
        return text.toUpperCase();
      case 'tolower':
        return text.toLowerCase();
      case 'substr':
        return text.slice(Number(a), Number(b) + 1);
      case 'compare':
        return text < String(a) ? -1 : text > String(a) ? 1 : 0;
      case 'icompare':
        return text.toLowerCase().localeCompare(String(a).toLowerCase());
      case 'atohex':
        return number(16);
      case 'atooct':
        return number(8);
      case 'atobin':
        return number(2);
      default:
        return number(10);
    }
  }

  /** Methods of an enum, by the table of its values. @source IEEE 1800, enumerated type methods */
  enumMethod(name: string, table: readonly (readonly [bigint, string])[], now: Word, steps: number): Word | string {
    const at = table.findIndex(([value]) => now.x === 0n && value === now.v);
    if (name === 'name') return table[at]?.[1] ?? '';
    if (name === 'num') return four.known(BigInt(table.length));
    const { length } = table;
    const to =
      name === 'first'
        ? 0
        : name === 'last'
          ? length - 1
          : at < 0
            ? 0
            : (((at + (name === 'next' ? steps : -steps)) % length) + length) % length;
    return four.known(table[to]?.[0] ?? 0n);
  }

  /** `v` and `x` of some bits of a word of an array that a routine has for itself. */
  putLocal(bank: Bank, address: number, [low, width, have]: readonly number[], v: unknown, x: unknown): void {
    if (!(address >= 0) || low === undefined || width === undefined || have === undefined) return;
    const isNarrow = bank.v instanceof Int32Array;
    const big = (one: unknown) => (typeof one === 'bigint' ? one : BigInt((one as number) >>> 0));
    const [vs, xs] = [bank.v as unknown[], bank.x as unknown[]];
    const now = { v: big(vs[address]), x: big(xs[address]) };
    const next =
      width === have ? { v: big(v), x: big(x) } : four.splice(now, have, low, { v: big(v), x: big(x) }, width);
    vs[address] = isNarrow ? Number(BigInt.asIntN(32, next.v)) : next.v;
    xs[address] = isNarrow ? Number(BigInt.asIntN(32, next.x)) : next.x;
  }

  copyArray(from: number, to: number, turned: boolean): void {
    const [source, target] = [this.banks[from], this.banks[to]];
    if (!source || !target) return;
    const { length } = target.v;
    const [sv, sx] = [source.v, source.x] as [unknown[], unknown[]];
    const [tv, tx] = [target.v, target.x] as [unknown[], unknown[]];
    for (let i = 0; i < length; i++) {
      const j = turned ? length - 1 - i : i;
      tv[i] = sv[j];
      tx[i] = sx[j];
    }
    this.kernel.notifyBits(to, 0, 0, 0, 0);
  }

  // Time.
  /** Ticks of a delay, rounded to the module's precision. @source IEEE 1364-2005, clause 19.8 */
  ticks(value: number, unit: number, precision: number): number {
    if (!(value > 0)) return 0;
    const steps = Math.round(value * 10 ** (unit - precision));
    return steps * 10 ** (precision - this.#options.precision);
  }

  timeWord(unit: number): Word {
    const scaled = this.kernel.time / 10 ** (unit - this.#options.precision);
    return four.known(BigInt(Math.round(scaled)));
  }

  realTime(unit: number): number {
    return this.kernel.time / 10 ** (unit - this.#options.precision);
  }

  // Processes.
  /** Begins a process at the present moment. */
  begin(name: string, make: () => Generator<void, void, void>, parent: Process | null = null): Process {
    if (++this.#processes > MOST_PROCESSES && this.#live > MOST_PROCESSES)
      throw new Ended(
        'fault',
        `More than ${MOST_PROCESSES} processes run at once; a fork in a loop is never waited for.`,
      );
    const made = new Process(name, parent, make);
    this.#live++;
    made.onEnd = () => this.#live--;
    this.kernel.queue(made);
    return made;
  }

  #live = 0;

  /** The process that runs now waits for one of several events. */
  await(terms: readonly Term[]): void {
    const process = this.kernel.current as Process;
    const wait = ++process.wait;
    const watching: [number, Watcher][] = [];
    const stop = () => {
      for (const [id, watcher] of watching) this.kernel.unwatch(id, watcher);
    };
    const wake = () => {
      if (process.ended || process.wait !== wait) return;
      process.wait++;
      process.stopWaiting = null;
      stop();
      this.kernel.queue(process);
    };
    for (const { i, e, f } of terms) {
      const watcher = f ? this.#watching(f, e, wake) : waking(e, wake);
      for (const id of i) {
        watching.push([id, watcher]);
        this.kernel.watch(id, watcher);
      }
    }
    process.stopWaiting = stop;
  }

  /** Hears of any change of what an expression reads, and wakes where its value has changed as wanted. */
  #watching(look: NonNullable<Term['f']>, edge: Edge, wake: () => void): Watcher {
    let last = look();
    return waking(ANY, () => {
      const now = look();
      const changed = edgeOf(last.v, last.x, now.v, now.x);
      const fits = edge === ANY ? now.value !== last.value : edge === BOTH ? changed !== ANY : changed === edge;
      last = now;
      if (fits && now.only) wake();
    });
  }

  /** Watches for a process that always waits for the same. */
  watchAlways(process: Runnable, terms: readonly Term[]): void {
    for (const { i, e, f } of terms) {
      const watcher = f ? this.#watching(f, e, () => this.kernel.queue(process)) : queueing(e, process);
      for (const id of i) this.kernel.watch(id, watcher);
    }
  }

  trigger(id: number): void {
    this.kernel.notifyBits(id, 0, 0, 0, 0);
  }

  /** True where the process that runs now has to wait for its children. */
  fork(makers: readonly (() => Generator<void, void, void>)[], join: 'join' | 'join_any' | 'join_none'): boolean {
    const parent = this.kernel.current as Process;
    let left = join === 'join' ? makers.length : join === 'join_any' ? Math.min(1, makers.length) : 0;
    const mustWait = left > 0;
    const wait = mustWait ? ++parent.wait : parent.wait;
    for (const make of makers) {
      const child = this.begin(parent.name, make, parent);
      const counted = child.onEnd;
      child.onEnd = () => {
        counted?.();
        if (--left === 0 && mustWait && parent.wait === wait) this.kernel.queue(parent);
      };
    }
    return mustWait;
  }

  /** `wait fork`: for all that this process has begun. */
  waitFork(): boolean {
    const parent = this.kernel.current as Process;
    if (parent.children.size === 0) return false;
    let left = parent.children.size;
    const wait = ++parent.wait;
    for (const child of parent.children) {
      const before = child.onEnd;
      child.onEnd = () => {
        before?.();
        if (--left === 0 && parent.wait === wait) this.kernel.queue(parent);
      };
    }
    return true;
  }

  disableFork(): void {
    for (const child of [...(this.kernel.current as Process).children]) child.kill();
  }

  enter(key: number): Activation {
    const activation = { key, process: this.kernel.current as Process };
    this.#activations.add(activation);
    return activation;
  }

  leave(activation: Activation): void {
    this.#activations.delete(activation);
  }

  /** Ends a block or task wherever it is under way. @source IEEE 1364-2005, clause 10.3 */
  disable(key: number): void {
    const { current } = this.kernel;
    let own: Activation | null = null;
    for (const activation of [...this.#activations]) {
      if (activation.key !== key) continue;
      const { process } = activation;
      for (const child of [...process.children]) if (child !== current) child.kill();
      if (process === current) own = activation;
      else if (!process.ended) {
        process.interrupt(activation);
        this.kernel.queue(process);
      }
    }
    if (own) throw own;
  }

  tooDeep(name: string): never {
    throw new Ended('fault', `"${name}" calls itself without an end.`);
  }

  // What `force` and `assign` hold.
  baseOf(id: number): Word {
    return this.#holds.get(id)?.base ?? this.wordOf(id);
  }

  putHeld(id: number, v: unknown, x: unknown): void {
    const big = (one: unknown) => (typeof one === 'bigint' ? one : BigInt((one as number) >>> 0));
    const word = { v: big(v), x: big(x) };
    const held = this.#holds.get(id);
    if (!held) return this.setWord(id, word);
    held.base = word;
    this.#show(id);
  }

  hold(
    force: boolean,
    places: readonly { readonly id: number; readonly low: number; readonly width: number }[],
    whole: number,
    reads: readonly number[],
    look: () => Word,
  ): void {
    let from = whole;
    for (const { id, low, width } of places) {
      from -= width;
      this.#letGo(id, force, low, width);
      const held = this.#holds.get(id) ?? { base: this.wordOf(id), list: [] };
      this.#holds.set(id, held);
      const watcher = waking(ANY, () => this.#show(id));
      for (const read of reads) if (read !== id) this.kernel.watch(read, watcher);
      held.list.push({ force, low, width, from, whole, look, watcher, reads });
      this.#show(id);
    }
  }

  /** The value as it is with all that is held; what `force` holds comes last. */
  #show(id: number): void {
    const held = this.#holds.get(id);
    if (!held) return;
    const { width } = item(this.#cells, id);
    let word = held.base;
    for (const force of [false, true])
      for (const one of held.list)
        if (one.force === force) {
          const value = four.slice(one.look(), one.whole, one.from, one.width);
          word = four.splice(word, width, one.low, value, one.width);
        }
    this.setWord(id, word);
  }

  release(id: number, force: boolean, low: number, width: number): void {
    const held = this.#holds.get(id);
    if (!held) return;
    const { isNet } = item(this.#cells, id);
    // A variable keeps what it was held at until it is assigned anew. @source IEEE 1364-2005, clause 9.3.2
    if (!isNet) held.base = this.wordOf(id);
    this.#letGo(id, force, low, width);
    this.#show(id);
    if (held.list.length === 0) this.#holds.delete(id);
  }

  #letGo(id: number, force: boolean, low: number, width: number): void {
    const held = this.#holds.get(id);
    if (!held) return;
    const gone = (one: Held) => one.force === force && one.low >= low && one.low + one.width <= low + width;
    for (const one of held.list.filter(gone)) for (const read of one.reads) this.kernel.unwatch(read, one.watcher);
    held.list = held.list.filter((one) => !gone(one));
  }

  // Text out.
  format(where: Where, values: readonly Shown[]): string {
    return formatAll(where, values, 'd', this.#time);
  }

  print(text: string): void {
    this.#options.print(text);
  }

  display(where: Where, values: readonly Shown[], radix: Radix, end: string): void {
    this.#options.print(formatAll(where, values, radix, this.#time) + end);
  }

  displayTo(file: number, where: Where, values: readonly Shown[], radix: Radix, end: string): void {
    this.files.write(file, formatAll(where, values, radix, this.#time) + end);
  }

  /** Prints at the end of the moment. */
  strobe(file: number, where: Where, values: () => readonly Shown[], radix: Radix): void {
    this.kernel.postpone(() => this.files.write(file, `${formatAll(where, values(), radix, this.#time)}\n`));
  }

  /** Prints at the end of each moment in which one of the values has changed; the last one called is the only one. */
  monitor(file: number, where: Where, values: () => readonly Shown[], radix: Radix, ids: readonly number[]): void {
    const before = this.#monitor;
    if (before) for (const id of before.ids) this.kernel.unwatch(id, before.watcher);
    let waits = false;
    const text = () => `${formatAll(where, values(), radix, this.#time)}\n`;
    const say = () => {
      waits = false;
      if (this.#monitor?.on) this.files.write(file, text());
    };
    const watcher = waking(ANY, () => {
      if (waits) return;
      waits = true;
      this.kernel.postpone(say);
    });
    for (const id of ids) this.kernel.watch(id, watcher);
    this.#monitor = { watcher, ids, text, on: before?.on ?? true };
    watcher.wake();
  }

  monitorOn(on: boolean): void {
    if (!this.#monitor) return;
    this.#monitor.on = on;
    if (on) this.#monitor.watcher.wake();
  }

  timeFormat(unit: number, digits: number, suffix: string, least: number): void {
    this.#time = { unit, digits, suffix, least };
  }

  // Complaints.
  report(severity: Report['severity'], message: string, { at, path }: Pick<Report, 'at' | 'path'>): void {
    if (severity === 'error' || severity === 'fatal') this.errors++;
    const { time } = this.kernel;
    const moment = timeText(time, this.#options.precision);
    const report: Report = { severity, message, at, path, time, moment };
    this.reports.push(report);
    this.#options.onReport?.(report);
    if (severity === 'fatal') throw new Ended('fatal', message);
  }

  assertion(where: Pick<Report, 'at' | 'path'>, isAnswered: boolean): void {
    // With an `else` of its own it is that which says what is wrong, and how bad it is.
    if (!isAnswered) this.report('error', 'An assertion failed.', where);
  }

  setDumpFile(name: string): void {
    this.dumpFile = name;
  }

  dump(what: 'vars' | 'on' | 'off' | 'all', scopes: readonly string[], levels: number): void {
    this.onDump?.(what, scopes, levels);
  }

  finish(): never {
    throw new Ended('finish');
  }

  stop(): never {
    throw new Ended('stop');
  }

  // Random numbers, arguments of the call, files.
  random(name: string, seed: number | null, store: Store | null, values: readonly number[]): number {
    if (seed === null || store === null) return draw(name, this.#seed, values);
    const own: Seed = { value: seed | 0 };
    const drawn = draw(name, own, values);
    this.#put(store, four.known(BigInt.asUintN(32, BigInt(own.value))), 32, true);
    return drawn;
  }

  urandom(): number {
    return draw('$random', this.#unsigned, []);
  }

  urandomRange(most: number, least = 0): number {
    const [low, high] = most < least ? [most, least] : [least, most];
    return low + ((this.urandom() >>> 0) % (high - low + 1));
  }

  #put(store: Store, word: Word, width: number, signed: boolean): void {
    const sized = four.resize(word, width, store.width, signed);
    if (store.kind === 'wide') store.put(sized.v, sized.x);
    else if (store.kind === 'real') store.put(Number(BigInt.asIntN(width, word.v)), 0);
    else if (store.kind === 'text') store.put(this.wordText(word), 0);
    else store.put(Number(BigInt.asIntN(32, sized.v)), Number(BigInt.asIntN(32, sized.x)));
  }

  plusarg(name: string): number {
    return this.#options.plusargs.some((one) => one.startsWith(name)) ? 1 : 0;
  }

  plusargValue(pattern: string, store: Store): number {
    const [, name = '', format = ''] = /^(.*?)(%.*)$/.exec(pattern) ?? [];
    const found = this.#options.plusargs.find((one) => one.startsWith(name) && one !== name);
    if (found === undefined) return 0;
    return this.scan(this.textSource(found.slice(name.length)), format, [store]);
  }

  getLine(file: number, width: number, store: Store): number {
    const most = store.kind === 'text' ? 1 << 20 : Math.max(1, Math.floor(width / 8));
    const line = this.files.getLine(file, most);
    if (line === '') return 0;
    if (store.kind === 'text') store.put(line, 0);
    else this.#put(store, four.ofText(line), Math.max(8, line.length * 8), false);
    return line.length;
  }

  fileSource(file: number): Source {
    return { next: () => this.files.getCharacter(file), back: (one) => this.files.putBack(one, file) };
  }

  textSource(text: string): Source {
    let at = 0;
    return {
      next: () => (at < text.length ? text.charCodeAt(at++) : -1),
      back: () => {
        at--;
      },
    };
  }

  scan(source: Source, format: string, stores: readonly Store[]): number {
    return scanText(source, format, stores, (store, word, width, signed) => this.#put(store, word, width, signed));
  }

  /** Fills an array, or words of it between two indexes. @source IEEE 1364-2005, clause 17.2.9 */
  readMemory(name: string, id: number, base: 2 | 16, from: number | null, to: number | null, at: Place): void {
    const text = this.files.whole(name) ?? this.#options.readData(name, at.file);
    if (text === null) {
      this.report('error', `The data file "${name}" is not among the project's files.`, { at, path: '' });
      return;
    }
    const { dimensions, width } = item(this.#cells, id);
    const bank = this.banks[id];
    const [range] = dimensions;
    if (!bank || !range) return;
    const lowest = Math.min(range.left, range.right);
    const down = from !== null && to !== null && to < from;
    let address = from ?? lowest;
    for (const { word, jump } of memoryEntries(text, base, at)) {
      if (jump !== null) address = jump;
      else {
        const place = address - lowest;
        if (place >= 0 && place < bank.v.length && this.#isBetween(address, from, to))
          this.#fill(bank, place, word, width);
        address += down ? -1 : 1;
      }
    }
    this.kernel.notifyBits(id, 0, 0, 0, 0);
  }

  #isBetween(address: number, from: number | null, to: number | null): boolean {
    if (from === null || to === null) return from === null || address >= from;
    return address >= Math.min(from, to) && address <= Math.max(from, to);
  }

  #fill({ v, x }: Bank, place: number, word: Word, width: number): void {
    const cut = { v: word.v & four.mask(width), x: word.x & four.mask(width) };
    if (v instanceof Int32Array && x instanceof Int32Array) {
      v[place] = Number(BigInt.asIntN(32, cut.v));
      x[place] = Number(BigInt.asIntN(32, cut.x));
    } else {
      (v as bigint[])[place] = cut.v;
      (x as bigint[])[place] = cut.x;
    }
  }

  writeMemory(name: string, id: number, base: 2 | 16): void {
    const { width } = item(this.#cells, id);
    const bank = this.banks[id];
    const file = this.files.open(name, 'w');
    if (!bank || file === 0) return;
    const digits = Math.ceil(width / (base === 16 ? 4 : 1));
    for (let i = 0; i < bank.v.length; i++) {
      const one = bank.v[i];
      const value = typeof one === 'bigint' ? one : BigInt((one as number) >>> 0);
      this.files.write(file, `${value.toString(base).padStart(digits, '0')}\n`);
    }
    this.files.close(file);
  }

  /** A driver of several, or the state of a primitive, as a word. */
  readonly either = four.either;
}
