import { ProblemError } from '../../result.ts';
import { four, type Primitive, type Word } from '../../hdl/index.ts';
import { item } from '../../lists.ts';
import type { Built } from './build.ts';
import { floating, resolve, type Resolution, type Strength } from './drivers.ts';
import { ANY, Ended, type Ending, type Limits, type Runnable } from './kernel.ts';
import { Table } from './primitive.ts';
import { Runtime, type RuntimeOptions } from './runtime.ts';

/** A net of several drivers. */
interface Net {
  readonly id: number;
  readonly width: number;
  readonly resolution: Resolution;
  readonly drivers: Map<number, { word: Word; readonly strength: Strength }>;
}

type Body = () => void;
type Make = () => Generator<void, void, void>;
type Terms = Parameters<Runtime['watchAlways']>[1];

/** A process that never waits inside. */
class Plain implements Runnable {
  queued = false;
  busy = false;
  readonly name: string;
  readonly hearsItself: boolean;
  readonly #body: Body;

  constructor(name: string, hearsItself: boolean, body: Body) {
    this.name = name;
    this.hearsItself = hearsItself;
    this.#body = body;
  }

  run(): void {
    this.busy = true;
    this.#body();
    this.busy = false;
  }
}

/** All processes that wait for the same edges, such as those of one clock and one reset: they run one after another. */
class Together implements Runnable {
  queued = false;
  busy = false;
  readonly name: string;
  readonly hearsItself = false;
  readonly bodies: Body[] = [];
  /** By place in `bodies`: the number of a process that may idle, or -1. */
  readonly numbers: number[] = [];
  readonly #isAwake: number[];

  constructor(name: string, isAwake: number[]) {
    this.name = name;
    this.#isAwake = isAwake;
  }

  run(): void {
    this.busy = true;
    const { bodies, numbers } = this;
    const isAwake = this.#isAwake;
    for (let i = 0; i < bodies.length; i++) {
      const number = numbers[i] ?? -1;
      if (number >= 0) {
        if (isAwake[number] === 0) continue;
        isAwake[number] = 0;
      }
      bodies[i]?.();
    }
    this.busy = false;
  }
}

/** Bits with an odd number of ones. */
function parity(bits: number): number {
  let odd = bits ^ (bits >>> 16);
  odd ^= odd >>> 8;
  odd ^= odd >>> 4;
  odd ^= odd >>> 2;
  return (odd ^ (odd >>> 1)) & 1;
}

/** A built design with its queues, ready to run. */
export class Machine {
  readonly runtime: Runtime;
  readonly #nets: Net[] = [];
  readonly #finals: Body[] = [];
  readonly #begin: { readonly rank: number; readonly start: () => void }[] = [];
  #isStarted = false;

  constructor(built: Built, options: Omit<RuntimeOptions, 'precision'>) {
    this.runtime = new Runtime(built.objects.cells, { ...options, precision: built.precision });
    const { kernel, wideV, wideX, banks } = this.runtime;
    const code = new Function('K', 'Q', 'V', 'X', 'BV', 'BX', 'A', 'C', 'R', 'parity', built.text);
    const result = { x: 0 };
    code(this.#hooks(), kernel, kernel.V, kernel.X, wideV, wideX, banks, built.constants, result, parity);
  }

  /** What the code calls: the runtime, and the making of processes and nets. */
  #hooks(): object {
    const own = {
      always: (name: string, hears: boolean, rank: number, body: Body, terms: Terms, reads: number[] | null = null) => {
        if (rank < 0 && terms.length > 0 && terms.every(({ e, f }) => e !== ANY && !f))
          return this.#together(name, body, terms, reads);
        const process = new Plain(name, hears, body);
        this.runtime.watchAlways(process, terms);
        if (rank >= 0) this.#begin.push({ rank, start: () => this.runtime.kernel.queue(process) });
      },
      start: (name: string, make: Make, rank: number) => {
        this.#begin.push({ rank, start: () => this.runtime.begin(name, make) });
      },
      repeating: (name: string, ticks: () => number, body: Body) => this.#repeating(name, ticks, body),
      finally: (body: Body) => this.#finals.push(body),
      net: (number: number, id: number, width: number, resolution: Resolution) => {
        this.#nets[number] = { id, width, resolution, drivers: new Map() };
        this.#begin.push({ rank: 0, start: () => this.#resolve(number) });
      },
      driver: (number: number, place: number, zero: number, one: number) => {
        const net = item(this.#nets, number);
        net.drivers.set(place, { word: floating(net.width), strength: { zero, one } });
      },
      drive: (number: number, place: number, low: number, width: number, word: Word) => {
        const net = item(this.#nets, number);
        const driver = net.drivers.get(place);
        if (!driver) return;
        driver.word = four.splice(driver.word, net.width, low, word, width);
        this.#resolve(number);
      },
      putBits: (id: number, low: number, width: number, word: Word) => {
        const have = this.runtime.baseOf(id);
        const next = four.splice(have, low + width, low, word, width);
        this.runtime.putHeld(id, next.v, next.x);
      },
      delayed: (put: (word: Word) => void) => this.#delayed(put),
      table: (primitive: Primitive) => new Table(primitive),
      gate: (name: string, words: readonly Word[], width: number) => gateOf(name, words, width),
    };
    return { ...bound(this.runtime), ...own };
  }

  readonly #groups = new Map<string, Together>();

  #together(name: string, body: Body, terms: Terms, reads: readonly number[] | null): void {
    const { kernel } = this.runtime;
    const number = reads === null ? -1 : kernel.idles(reads);
    const key = terms.map(({ i, e }) => `${i.join(',')}:${e}`).join(' ');
    const known = this.#groups.get(key);
    if (known) {
      known.bodies.push(body);
      known.numbers.push(number);
      return;
    }
    const made = new Together(name, kernel.isAwake);
    made.bodies.push(body);
    made.numbers.push(number);
    this.#groups.set(key, made);
    this.runtime.watchAlways(made, terms);
  }

  /** A process that does the same again and again after a delay, such as one that makes a clock. */
  #repeating(name: string, ticks: () => number, body: Body): void {
    const { kernel } = this.runtime;
    let isFirst = true;
    const process = new Plain(name, false, () => {
      if (!isFirst) body();
      isFirst = false;
      kernel.soon(process, ticks());
    });
    this.#begin.push({ rank: 1, start: () => kernel.queue(process) });
  }

  #resolve(number: number): void {
    const { id, width, resolution, drivers } = item(this.#nets, number);
    const word = resolve([...drivers.values()], width, resolution, this.runtime.baseOf(id));
    this.runtime.putHeld(id, word.v, word.x);
  }

  /**
   * A driver with delays: what it was about to become is forgotten when it changes its mind.
   *
   * @source IEEE 1364-2005, clauses 6.1.3 and 7.14, inertial delays of rise, fall and turn-off
   */
  #delayed(put: (word: Word) => void): (word: Word, width: number, delays: readonly number[]) => void {
    let last = 0;
    const { kernel } = this.runtime;
    return (word, width, delays) => {
      const mine = ++last;
      if (delays.length === 0) return put(word);
      const ticks = delayFor(word, width, delays);
      kernel.updateLater(ticks, (() => mine === last && put(word)) as never, 0, 0, 0);
    };
  }

  /** Runs on until the limit or an end. */
  run(limits: Limits): { ending: Ending | 'paused'; told: string } {
    const ended = this.#guarded(() => {
      if (!this.#isStarted) {
        this.#isStarted = true;
        for (const { start } of [...this.#begin].sort((a, b) => a.rank - b.rank)) start();
      }
      return this.runtime.kernel.run(limits);
    });
    if (ended.ending !== 'limit' && ended.ending !== 'paused')
      for (const body of this.#finals) {
        const final = this.#guarded(() => {
          body();
          return ended.ending;
        });
        if (final.ending === 'fault') return final;
      }
    return ended;
  }

  #guarded(work: () => Ending | 'paused'): { ending: Ending | 'paused'; told: string } {
    try {
      return { ending: work(), told: '' };
    } catch (error) {
      if (error instanceof Ended) return { ending: error.ending, told: error.told };
      if (error instanceof ProblemError) throw error;
      if (error instanceof RangeError)
        return { ending: 'fault', told: `Something in this design goes too deep or grows too large: ${error.message}` };
      throw error;
    }
  }
}

/** The methods of the runtime as plain functions, so that the code calls them without a look-up in between. */
function bound(runtime: Runtime): object {
  const found: Record<string, unknown> = {};
  for (const name of Object.getOwnPropertyNames(Runtime.prototype)) {
    const method: unknown = Reflect.get(runtime, name, runtime);
    if (typeof method === 'function' && name !== 'constructor') found[name] = method.bind(runtime);
  }
  for (const name of Object.keys(runtime)) found[name] = Reflect.get(runtime, name, runtime);
  return found;
}

function delayFor({ v, x }: Word, width: number, delays: readonly number[]): number {
  const [rise = 0, fall = rise, off = Math.min(rise, fall)] = delays;
  if (x === 0n) return v === 0n ? fall : rise;
  const all = four.mask(width);
  if ((x & ~v) === all) return off;
  return Math.min(rise, fall, off);
}

/** @source IEEE 1364-2005, clauses 7.2 to 7.7 */
function gateOf(name: string, words: readonly Word[], width: number): Word {
  const solid = ({ v, x }: Word): Word => ({ v: v | x, x });
  const [first = four.FALSE, ...rest] = words.map(solid);
  const invert = /^n(and|or|ot)$|^xnor$/.test(name);
  const finished = (word: Word) => (invert ? four.not(word, width) : word);
  if (/^n?and$/.test(name)) return finished(rest.reduce(four.and, first));
  if (/^n?or$/.test(name)) return finished(rest.reduce(four.or, first));
  if (/^xn?or$/.test(name)) return finished(rest.reduce(four.xor, first));
  if (name === 'buf' || name === 'not') return finished(words.length > 0 ? solid(words.at(-1) as Word) : first);
  return switched(name, words, width);
}

/** A driver or a switch that is on, off or perhaps on. */
function switched(name: string, words: readonly Word[], width: number): Word {
  const [data = four.FALSE, control = four.FALSE, second] = words;
  let v = 0n;
  let x = 0n;
  const onHigh = /1$/.test(name) || /^r?n?mos$/.test(name) || /^r?nmos$/.test(name);
  for (let bit = 0; bit < width; bit++) {
    const at = BigInt(bit);
    const get = (word: Word) => [(word.v >> at) & 1n, (word.x >> at) & 1n] as const;
    const [dv, dx] = get(data);
    const [cv, cx] = get(control);
    let isOn = cx === 0n ? (cv === 1n) === onHigh : null;
    if (second && /cmos$/.test(name)) {
      // A pair: on where the n side is high or the p side low.
      const [pv, px] = get(second);
      const n = cx === 0n ? cv === 1n : null;
      const p = px === 0n ? pv === 0n : null;
      isOn = n === true || p === true ? true : n === false && p === false ? false : null;
    }
    if (isOn === false) x |= 1n << at;
    else if (isOn === null || dx === 1n) {
      const passesZ = /mos$/.test(name) && dx === 1n && dv === 0n;
      x |= 1n << at;
      if (!passesZ) v |= 1n << at;
    } else v |= (name.startsWith('not') ? 1n - dv : dv) << at;
  }
  return { v, x };
}
