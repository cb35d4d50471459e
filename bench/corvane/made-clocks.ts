import { item, numberAt } from '../../core/lists.ts';
import { MOST_TRAINS, type Simulator } from '../../core/sim/fabric/index.ts';
import type { Timing } from './edge-log.ts';
import type { GeneratorFrames } from './frames.ts';

/** Cycles of what a generator compares until it locks. docs/silicon.md, section 10 */
const LOCK_CYCLES = 64;
const OUTPUTS = ['clock_a', 'clock_b', 'clock_c'] as const;
/** Ticks are counted anew long before they are too many for a number. */
const MOST_TICKS = 2 ** 24;
/** Edges that are laid out as one row until all clocks come round; more are made one by one. */
const MOST_IN_ROW = 4096;
const NONE: readonly Generator[] = [];
/** Of a cycle: a time that is computed may be short of an edge by so much. */
const ROUNDING = 1e-6;

/** Edges that come again and again. Times in ticks. */
interface Train {
  readonly domain: number;
  readonly step: number;
  next: number;
}

interface Generator {
  readonly frames: GeneratorFrames;
  /** Where the fabric reads its lock; -1 where nobody does. */
  readonly locked: number;
  /** When it locks; null where it has. */
  lockAt: number | null;
}

/** Edges between `start` and `start + length`, and whenever that comes again. */
interface Row {
  readonly length: number;
  readonly run: (times: number) => void;
  /** Trains whose edges come at once, each such moment that occurs. */
  readonly moments: readonly (readonly number[])[];
  /** Any moment at which it may begin. */
  start: number;
}

/** Edges of this and of other oscillators; `key` tells of which. */
interface Beside {
  readonly key: string;
  readonly run: (next: number[], step: readonly number[], until: number) => void;
}

/** Edges of another oscillator: when the next one is due and how far they are apart, in microseconds. */
interface Other {
  readonly domain: number;
  readonly next: number;
  readonly step: number;
  /** So many have been made. */
  readonly made: (edges: number) => void;
}

interface Source {
  readonly hz: number;
  readonly posedge: number;
  readonly negedge: number;
}

const greatestDivisor = (x: number, y: number): number => (y === 0 ? x : greatestDivisor(y, x % y));

/**
 * An oscillator and the clocks that generators make of it, edge by edge. Ticks divide its cycle so that every edge lies
 * at a whole number of them: what coincides does so exactly, for ever, and registers of all clocks that rise together
 * take what stood before.
 */
export class MadeClocks {
  readonly #sim: Simulator;
  readonly #hz: number;
  readonly #ticks: number;
  readonly #generators: readonly Generator[];
  readonly #own: readonly { readonly domain: number; readonly phase: number }[];
  #trains: Train[] = [];
  /** When the oscillator would have begun, in microseconds, had it never stood still. */
  #startedAt: number;
  /** The oscillator's cycle that ticks are counted from. */
  #origin = 0;
  /** The time that has been reached. */
  #done = 0;
  #stands = false;
  /** All edges from a moment on until all clocks come round; null where that is not known, or too long. */
  #row: Row | null = null;
  /** The same beside other oscillators, whose edges come at any time. */
  #beside: Beside | null = null;
  #isRowSought = false;
  /** Some generator has not locked yet. */
  #isLocking = true;
  /** Edges that come at once, by which of the trains they are. */
  readonly #steps = new Map<number, () => void>();

  /** `now` is in microseconds: the oscillator rises a cycle later. */
  constructor(sim: Simulator, { hz, posedge, negedge }: Source, generators: readonly GeneratorFrames[], now: number) {
    this.#sim = sim;
    this.#hz = hz;
    this.#startedAt = now;
    const fine = generators.reduce((all, { multiply }) => (all / greatestDivisor(all, multiply)) * multiply, 1);
    this.#ticks = 2 * fine;
    this.#generators = generators.map((frames) => ({
      frames,
      locked: sim.inputAddress(`$${frames.name}.locked`),
      lockAt: null,
    }));
    this.#own = [
      { domain: posedge, phase: 0 },
      { domain: negedge, phase: fine },
    ].filter(({ domain }) => domain >= 0);
    this.#begin(1);
  }

  /** From a cycle of the oscillator on: it runs, and its generators look for it. */
  #begin(cycle: number): void {
    this.#row = null;
    this.#beside = null;
    this.#isRowSought = false;
    this.#isLocking = this.#generators.length > 0;
    this.#steps.clear();
    this.#trains = this.#own.map(({ domain, phase }) => ({
      domain,
      step: this.#ticks,
      next: (cycle - this.#origin) * this.#ticks + phase,
    }));
    for (const generator of this.#generators)
      generator.lockAt = (cycle + LOCK_CYCLES * generator.frames.divide - this.#origin) * this.#ticks;
  }

  /** The oscillator stands: its generators lose their lock, and what they make rests at 0. */
  stand(now: number): void {
    const cycles = Math.floor(this.#origin + this.#done / this.#ticks);
    this.#startedAt = now - (cycles * 1e6) / this.#hz;
    if (this.#stands) return;
    this.#stands = true;
    for (const generator of this.#generators) this.#setLock(generator, false);
    this.#begin(cycles + 1);
  }

  /** When something happens next, in microseconds. */
  get nextAt(): number {
    const next = this.#next();
    return this.#startedAt + ((this.#origin + next / this.#ticks) * 1e6) / this.#hz;
  }

  /** When the edges of a clock that it makes are due; null while it makes none. In microseconds. */
  timingOf(domain: number): Timing | null {
    const train = this.#trains.find((one) => one.domain === domain);
    if (!train) return null;
    const cycle = 1e6 / this.#hz;
    const next = this.#startedAt + (this.#origin + train.next / this.#ticks) * cycle;
    return { next, step: (train.step / this.#ticks) * cycle };
  }

  #next(): number {
    let next = Number.POSITIVE_INFINITY;
    for (const train of this.#trains) if (train.next < next) next = train.next;
    if (this.#isLocking) for (const { lockAt } of this.#generators) if (lockAt !== null && lockAt < next) next = lockAt;
    return next;
  }

  /** What happens next, alone. */
  runNext(): void {
    this.#stands = false;
    const at = this.#next();
    this.#runAt(at, at);
  }

  runUntil(now: number): void {
    this.#stands = false;
    const cycles = ((now - this.#startedAt) * this.#hz) / 1e6 + ROUNDING - this.#origin;
    const end = Math.floor(cycles * this.#ticks);
    // Of one clock alone many edges are made at once anyway.
    const row = this.#trains.length > 1 ? this.#rowFrom() : null;
    if (row) {
      // One by one to where the row may begin, then as often as there is time for, then one by one again.
      const begin = row.start + Math.ceil((this.#done - row.start) / row.length) * row.length;
      const times = Math.floor((end - begin) / row.length);
      if (times > 0) {
        this.#oneByOne(begin);
        row.run(times);
        const ticks = times * row.length;
        for (const train of this.#trains) train.next += ticks;
        this.#done = begin + ticks;
        row.start = this.#done;
      }
    }
    this.#oneByOne(end);
    if (end > this.#done) this.#done = end;
    if (this.#done > MOST_TICKS) this.#countAnew();
  }

  #oneByOne(end: number): void {
    for (let at = this.#next(); at <= end; at = this.#next()) this.#runAt(at, end);
  }

  /** The row from here on, once all generators have locked. */
  #rowFrom(): Row | null {
    if (this.#isRowSought || this.#isLocking) return this.#row;
    this.#isRowSought = true;
    const trains = this.#trains.map((train) => ({ ...train }));
    const length = trains.reduce((all, { step }) => (all / greatestDivisor(all, step)) * step, this.#ticks);
    if (trains.length === 0 || trains.reduce((sum, { step }) => sum + length / step, 0) > MOST_IN_ROW) return null;
    const start = this.#done;
    const steps: { trains: readonly number[]; times: number }[] = [];
    for (;;) {
      const at = trains.reduce((least, { next }) => Math.min(least, next), Number.POSITIVE_INFINITY);
      if (at > start + length) break;
      const due = [...trains.keys()].filter((i) => item(trains, i).next === at);
      for (const i of due) item(trains, i).next += item(trains, i).step;
      const last = steps.at(-1);
      if (last && last.trains.join() === due.join()) last.times++;
      else steps.push({ trains: due, times: 1 });
    }
    const domainsOf = (due: readonly number[]) => due.map((i) => item(trains, i).domain);
    const run = this.#sim.row(steps.map(({ trains: due, times }) => ({ domains: domainsOf(due), times })));
    const moments = [...new Map(steps.map(({ trains: due }) => [due.join(), due])).values()];
    this.#row = { start, length, run, moments };
    return this.#row;
  }

  /**
   * All edges up to now, and those of other oscillators between them, which are told what they have made; false where
   * something else than edges comes up to then, or too much at once.
   */
  runBeside(others: readonly Other[], now: number): boolean {
    this.#stands = false;
    const row = this.#rowFrom();
    const trains = [...this.#trains, ...others];
    if (row === null || trains.length > MOST_TRAINS) return false;
    const domains = trains.map(({ domain }) => domain);
    if (this.#beside?.key !== domains.join()) {
      const alone = others.map((_, i) => this.#trains.length + i);
      this.#beside = { key: domains.join(), run: this.#sim.rounds(domains, row.moments, alone) };
    }
    const ticksAt = (time: number) => (((time - this.#startedAt) * this.#hz) / 1e6 - this.#origin) * this.#ticks;
    const next = [...this.#trains.map((train) => train.next), ...others.map((one) => ticksAt(one.next))];
    const ticksPer = (this.#hz * this.#ticks) / 1e6;
    const step = [...this.#trains.map((train) => train.step), ...others.map((one) => one.step * ticksPer)];
    const end = ticksAt(now) + ROUNDING * this.#ticks;
    const before = [...next];
    this.#beside.run(next, step, end);
    for (const [i, train] of this.#trains.entries()) train.next = numberAt(next, i);
    for (const [i, other] of others.entries()) {
      const at = this.#trains.length + i;
      other.made(Math.round((numberAt(next, at) - numberAt(before, at)) / numberAt(step, at)));
    }
    this.#done = Math.max(this.#done, Math.floor(end));
    if (this.#done > MOST_TICKS) this.#countAnew();
    return true;
  }

  /** All edges at one time, or many of one clock up to where another one comes. */
  #runAt(at: number, end: number): void {
    const locking = this.#isLocking ? this.#generators.filter(({ lockAt }) => lockAt === at) : NONE;
    for (const generator of locking) this.#start(generator, at);
    let due = 0;
    let only: Train | null = null;
    let others = end + 1;
    for (const [i, train] of this.#trains.entries())
      if (train.next === at) {
        only = due === 0 ? train : null;
        due |= 1 << i;
      } else if (train.next < others) others = train.next;
    if (this.#isLocking)
      for (const { lockAt } of this.#generators) if (lockAt !== null && lockAt < others) others = lockAt;
    if (only) {
      const times = Math.ceil((others - at) / only.step);
      this.#sim.step(only.domain, times);
      only.next += times * only.step;
    } else if (due !== 0) {
      this.#atOnce(due)();
      for (const [i, train] of this.#trains.entries()) if ((due >>> i) & 1) train.next += train.step;
    }
    for (const generator of locking) this.#setLock(generator, true);
    if (locking.length > 0) this.#isLocking = this.#generators.some(({ lockAt }) => lockAt !== null);
    this.#done = at;
  }

  /** Edges of the trains with a 1 in a number. */
  #atOnce(due: number): () => void {
    let step = this.#steps.get(due);
    if (!step) {
      const domains = this.#trains.flatMap(({ domain }, i) => ((due >>> i) & 1 ? [domain] : []));
      step = this.#sim.together(domains);
      this.#steps.set(due, step);
    }
    return step;
  }

  /** The outputs rise for the first time with the edge at which it locks. */
  #start(generator: Generator, at: number): void {
    generator.lockAt = null;
    this.#steps.clear();
    const { name, multiply, divide, dividers } = generator.frames;
    for (const [i, divider] of dividers.entries()) {
      if (divider === 0) continue;
      const half = (divide * divider * this.#ticks) / (2 * multiply);
      for (const [edge, phase] of [['posedge', 0] as const, ['negedge', half] as const]) {
        const domain = this.#sim.domain(`$${name}.${OUTPUTS[i]}`, edge);
        if (domain >= 0) this.#trains.push({ domain, step: 2 * half, next: at + phase });
      }
    }
  }

  #setLock({ locked }: Generator, on: boolean): void {
    if (locked < 0) return;
    this.#sim.words[locked] = on ? 1 : 0;
    this.#sim.touched();
  }

  #countAnew(): void {
    const cycles = Math.floor(this.#done / this.#ticks);
    const ticks = cycles * this.#ticks;
    this.#origin += cycles;
    this.#done -= ticks;
    if (this.#row) this.#row.start -= ticks;
    for (const train of this.#trains) train.next -= ticks;
    for (const generator of this.#generators) if (generator.lockAt !== null) generator.lockAt -= ticks;
  }
}
