import { intAt, item, numberAt } from '../../core/lists.ts';
import { LINK, type NodeId } from '../../core/netlist/index.ts';
import { MOST_TRAINS, Simulator } from '../../core/sim/fabric/index.ts';
import type { TckEdge } from '../tap.ts';
import { addEdgeLogs, EdgeLog, type Followed, type Moved, type Timing } from './edge-log.ts';
import type { FramesDesign } from './frames.ts';
import { MadeClocks } from './made-clocks.ts';
import { type Levels, readsAs } from './pads.ts';

interface Oscillator {
  readonly hz: number;
  readonly posedge: number;
  readonly negedge: number;
  /** Edges already made. */
  cycles: number;
  /** When the oscillator would have begun, had it never stood still. */
  startedAt: number;
}

interface Bound {
  readonly word: number;
  readonly mask: number;
}

/** An input whose level lies between both thresholds: what it reads is chance. */
interface Doubtful {
  readonly pin: string;
  seed: number;
}

/** Outputs that follow no clock are looked at this often by parts that follow them. */
const POLL_MICROSECONDS = 1;

/** Chance is rolled again this often. */
const ROLL_MICROSECONDS = 1000;

/** Of a cycle: a time that is computed may be short of an edge by so much. */
const ROUNDING = 1e-6;

const edgesDue = ({ startedAt, hz, cycles }: Oscillator, now: number): number =>
  Math.max(0, Math.floor(((now - startedAt) * hz) / 1e6 + ROUNDING) - cycles);
const nextEdge = ({ startedAt, hz, cycles }: Oscillator): number => startedAt + ((cycles + 1) * 1e6) / hz;

/** Clock generators that take the clock of a port, as it comes from its pin. docs/silicon.md, section 10 */
function generatorsOn({ netlist, generators }: FramesDesign, port: string): FramesDesign['generators'] {
  const node = netlist.inputs.find(({ name }) => name === port)?.node;
  const takes = (name: string) => netlist.outputs.find((output) => output.name === `$${name}.clock_in`)?.node === node;
  return generators.filter(({ name }) => takes(name));
}

/** Clocks of a design that keep time, with their frequencies: of oscillators, and of generators behind them. */
function clocksIn({ netlist, pads, generators }: FramesDesign, oscillators: ReadonlyMap<string, number>) {
  const hertz = new Map<NodeId, number>();
  for (const { port, pin } of pads) {
    const hz = oscillators.get(pin);
    const input = netlist.inputs.find(({ name }) => name === port);
    if (hz === undefined || !input) continue;
    const made = generatorsOn({ netlist, pads, generators }, port);
    if (netlist.registers.some(({ clock }) => clock === input.node)) hertz.set(input.node, hz);
    for (const { name, multiply, divide, dividers } of made)
      for (const [i, divider] of dividers.entries()) {
        const clock = netlist.inputs.find((one) => one.name === `$${name}.clock_${'abc'[i]}`);
        const isUsed = clock && netlist.registers.some((register) => register.clock === clock.node);
        if (isUsed && divider > 0) hertz.set(clock.node, (hz * multiply) / (divide * divider));
      }
  }
  return hertz;
}

/** What the parts of a board want to hear of a design's outputs. */
export interface Ears {
  readonly followed: readonly Followed[];
  readonly moved: Moved;
}

const NO_EARS: Ears = { followed: [], moved: () => {} };

/** The configured part of an FPGA: the design that the frames hold, its pins, and clocks that run while time passes. */
export class Fabric {
  readonly #sim: Simulator;
  readonly #inputs = new Map<string, Bound>();
  readonly #outputs = new Map<string, Bound & { readonly enable: { readonly word: number } | null }>();
  /** Pins without an oscillator that clock registers all the same. */
  readonly #clockPins = new Map<string, { readonly posedge: number; readonly negedge: number }>();
  readonly #oscillators: Oscillator[] = [];
  /** Oscillators that clock generators take. */
  readonly #made: MadeClocks[] = [];
  readonly #standards = new Map<string, Levels>();
  readonly #supplyOf: (pin: string) => number;
  readonly #doubtful = new Map<string, Doubtful>();
  #rolled = 0;
  /** Edges of more than two oscillators. */
  #many: ReturnType<Simulator['rounds']> | null = null;
  readonly #clockNames: ReadonlyMap<NodeId, string>;
  readonly #ears: Ears;
  readonly #logs: readonly EdgeLog[];
  /** Parts whose pins follow no clock that keeps time, with the levels they were told last. */
  readonly #polled = new Map<number, number>();
  #nextPoll = 0;
  /** The time that has been reached, in microseconds. */
  #now: number;
  readonly #link: { domain: number; tdi: number; capture: number; shift: number; update: number; tdo: number } | null;

  /** `oscillators` maps a pin to its frequency, `supplyOf` to the volts of its bank; `now` is in microseconds. */
  constructor(
    design: FramesDesign,
    oscillators: ReadonlyMap<string, number>,
    supplyOf: (pin: string) => number,
    now: number,
    ears: Ears = NO_EARS,
  ) {
    const plan = addEdgeLogs(design, ears.followed, clocksIn(design, oscillators));
    const sim = new Simulator(design.netlist);
    this.#sim = sim;
    this.#supplyOf = supplyOf;
    for (const { port, bit, pin, levels, pull } of design.pads) {
      this.#standards.set(pin, levels);
      const place = (address: number) => ({ word: address + (bit >>> 5), mask: 1 << (bit & 31) });
      const output = sim.outputAddress(port);
      const enable = sim.enableAddress(port);
      if (output >= 0) this.#outputs.set(pin, { ...place(output), enable: enable < 0 ? null : place(enable) });
      if (!sim.hasInput(port)) continue;
      this.#inputs.set(pin, place(sim.inputAddress(port)));
      // Until a part of the board says otherwise; what floats without a pull reads 0.
      if (pull === 'up') this.#write(pin, true);
      const hz = oscillators.get(pin);
      const [posedge, negedge] = [sim.domain(port, 'posedge'), sim.domain(port, 'negedge')];
      const generators = generatorsOn(design, port);
      if (hz !== undefined && generators.length > 0) {
        this.#made.push(new MadeClocks(sim, { hz, posedge, negedge }, generators, now));
        continue;
      }
      if (posedge < 0 && negedge < 0) continue;
      if (hz === undefined) this.#clockPins.set(pin, { posedge, negedge });
      else this.#oscillators.push({ hz, posedge, negedge, cycles: 0, startedAt: now });
    }
    this.#link = sim.hasInput(LINK.tck)
      ? {
          domain: sim.domain(LINK.tck),
          tdi: sim.inputAddress(LINK.tdi),
          capture: sim.inputAddress(LINK.capture),
          shift: sim.inputAddress(LINK.shift),
          update: sim.inputAddress(LINK.update),
          tdo: sim.outputAddress(LINK.tdo),
        }
      : null;
    this.#clockNames = new Map(design.netlist.inputs.map(({ node, name }) => [node, name]));
    this.#ears = ears;
    this.#now = now;
    this.#logs = plan.logs.map((log) => new EdgeLog(sim, log, (part) => this.#levelsOf(part)));
    for (const part of plan.unclocked) this.#polled.set(part, this.#levelsOf(part));
    for (const part of ears.followed.keys()) ears.moved(part, now, this.#levelsOf(part));
  }

  /** What a part of the board sees of the pins it follows; what floats is pulled up. */
  #levelsOf(part: number): number {
    const { moving, carried } = item(this.#ears.followed, part);
    return [...moving, ...carried].reduce((sum, pin, i) => (this.pin(pin) === false ? sum : sum | (1 << i)), 0);
  }

  /** Tells the parts of the board what has become of the outputs they follow. */
  #tell(now: number): void {
    for (const log of this.#logs) {
      if (!log.hasNews) continue;
      const timing = this.#timingOf(log.clock);
      if (timing) log.read(timing, this.#ears.moved);
    }
    this.#now = now;
    if (this.#polled.size === 0 || now < this.#nextPoll) return;
    this.#nextPoll = now + POLL_MICROSECONDS;
    this.#poll();
  }

  /** Looks at outputs that follow no clock. */
  #poll(): void {
    for (const [part, told] of this.#polled) {
      const levels = this.#levelsOf(part);
      if (levels === told) continue;
      this.#polled.set(part, levels);
      this.#ears.moved(part, this.#now, levels);
    }
  }

  #timingOf({ node, edge }: EdgeLog['clock']): Timing | null {
    const domain = this.#sim.domain(this.#clockNames.get(node) ?? '', edge);
    const own = this.#oscillators.find(({ posedge, negedge }) => posedge === domain || negedge === domain);
    if (own) return { next: nextEdge(own), step: 1e6 / own.hz };
    return this.#made.map((made) => made.timingOf(domain)).find((timing) => timing !== null) ?? null;
  }

  /** A part of the board drives a pin, high being the supply of the pin's bank. */
  setPin(pin: string, level: boolean): void {
    const standard = this.#standards.get(pin);
    const supply = this.#supplyOf(pin);
    const read = standard ? readsAs(standard, level ? supply : 0, supply) : level;
    if (read === null) this.#doubtful.set(pin, { pin, seed: this.#doubtful.size + 1 });
    else this.#doubtful.delete(pin);
    this.#write(pin, read ?? false);
    this.#poll();
  }

  #write(pin: string, level: boolean): void {
    const bound = this.#inputs.get(pin);
    if (!bound) return;
    const { words } = this.#sim;
    const before = intAt(words, bound.word);
    const after = level ? before | bound.mask : before & ~bound.mask;
    words[bound.word] = after;
    this.#sim.touched();
    const clock = before === after ? undefined : this.#clockPins.get(pin);
    const domain = clock && (level ? clock.posedge : clock.negedge);
    if (domain !== undefined && domain >= 0) this.#sim.edge(domain);
  }

  /** Level of an output; null for a pin the design does not drive, or leaves floating now. */
  pin(pin: string): boolean | null {
    const bound = this.#outputs.get(pin);
    if (!bound) return null;
    this.#sim.settle();
    if (bound.enable && (intAt(this.#sim.words, bound.enable.word) & bound.mask) === 0) return null;
    return (intAt(this.#sim.words, bound.word) & bound.mask) !== 0;
  }

  /** Runs all clocks up to `now` (microseconds); standing ones go on later from where they stood. */
  runUntil(now: number, clocksRun = true): void {
    this.#run(now, clocksRun);
    this.#tell(now);
  }

  #run(now: number, clocksRun: boolean): void {
    if (!clocksRun) {
      for (const oscillator of this.#oscillators)
        oscillator.startedAt = now - (oscillator.cycles * 1e6) / oscillator.hz;
      for (const made of this.#made) made.stand(now);
      return;
    }
    if (this.#doubtful.size > 0 && now - this.#rolled >= ROLL_MICROSECONDS) this.#roll(now);
    if (this.#made.length > 0) return this.#runMade(now);
    const [only, another] = this.#oscillators;
    if (only && !another) return this.#runOne(only, now);
    if (only && another && this.#oscillators.length === 2 && this.#runTwo(only, another, now)) return;
    if (this.#oscillators.length > 2 && this.#runMany(now)) return;
    for (let next = this.#firstDue(now); next; next = this.#firstDue(now)) this.#cycle(next, 1);
  }

  /** The oscillator that has an edge next, where one has up to then. */
  #firstDue(until: number): Oscillator | null {
    let next: Oscillator | null = null;
    let at = until;
    for (const oscillator of this.#oscillators) {
      const edge = nextEdge(oscillator);
      if (edge <= at) {
        next = oscillator;
        at = edge;
      }
    }
    return next;
  }

  /** With clock generators: each oscillator with what is made of it goes ahead to where another one has an edge. */
  #runMade(now: number): void {
    const [only] = this.#made;
    if (this.#made.length === 1 && this.#oscillators.length === 0) return only?.runUntil(now);
    if (only && this.#made.length === 1 && this.#runBeside(only, now)) return;
    for (;;) {
      const plain = this.#firstDue(now);
      const made = this.#made.reduce((first, one) => (one.nextAt < first.nextAt ? one : first));
      const at = plain ? nextEdge(plain) : Number.POSITIVE_INFINITY;
      if (made.nextAt > now && !plain) break;
      if (plain && at < made.nextAt) this.#cycle(plain, 1);
      else made.runNext();
    }
    for (const made of this.#made) made.runUntil(now);
  }

  /** One of them beside oscillators of which nothing is made; false where its edges are not all that comes up to now. */
  #runBeside(made: MadeClocks, now: number): boolean {
    if (this.#oscillators.some(({ negedge }) => negedge >= 0)) return false;
    return made.runBeside(
      this.#oscillators.map((oscillator) => ({
        domain: oscillator.posedge,
        next: nextEdge(oscillator),
        step: 1e6 / oscillator.hz,
        made: (edges) => {
          oscillator.cycles += edges;
        },
      })),
      now,
    );
  }

  #roll(now: number): void {
    this.#rolled = now;
    for (const doubtful of this.#doubtful.values()) {
      doubtful.seed = (Math.imul(doubtful.seed, 1664525) + 1013904223) >>> 0;
      this.#write(doubtful.pin, doubtful.seed >>> 31 === 1);
    }
  }

  #runOne(oscillator: Oscillator, now: number): void {
    const due = Math.floor(((now - oscillator.startedAt) * oscillator.hz) / 1e6 + ROUNDING) - oscillator.cycles;
    if (due > 0) this.#cycle(oscillator, due);
  }

  /** Two oscillators whose rising edges alone matter, the common case, in one go; false when it is another case. */
  #runTwo(a: Oscillator, b: Oscillator, now: number): boolean {
    if (a.negedge >= 0 || b.negedge >= 0 || a.posedge < 0 || b.posedge < 0) return false;
    const dueA = edgesDue(a, now);
    const dueB = edgesDue(b, now);
    if (dueA + dueB === 0) return true;
    this.#sim.interleave(
      { domain: a.posedge, count: dueA, next: nextEdge(a), step: 1e6 / a.hz },
      { domain: b.posedge, count: dueB, next: nextEdge(b), step: 1e6 / b.hz },
    );
    a.cycles += dueA;
    b.cycles += dueB;
    return true;
  }

  /** More of them, in one go too; false where falling edges matter or there are too many. */
  #runMany(now: number): boolean {
    const all = this.#oscillators;
    if (all.length > MOST_TRAINS || all.some(({ negedge, posedge }) => negedge >= 0 || posedge < 0)) return false;
    this.#many ??= this.#sim.rounds(
      all.map(({ posedge }) => posedge),
      [],
      [...all.keys()],
    );
    const before = all.map(nextEdge);
    const step = all.map(({ hz }) => 1e6 / hz);
    const next = [...before];
    // An edge that rounding puts behind now is due all the same.
    this.#many(next, step, now + ROUNDING * Math.min(...step));
    for (const [i, oscillator] of all.entries())
      oscillator.cycles += Math.round((numberAt(next, i) - numberAt(before, i)) / numberAt(step, i));
    return true;
  }

  #cycle(oscillator: Oscillator, count: number): void {
    oscillator.cycles += count;
    if (oscillator.negedge < 0) return this.#sim.step(oscillator.posedge, count);
    for (let i = 0; i < count; i++) {
      if (oscillator.posedge >= 0) this.#sim.step(oscillator.posedge);
      this.#sim.step(oscillator.negedge);
    }
  }

  /** One rising edge of TCK on the link; returns TDO as it stood before the edge. */
  linkEdge(edge: TckEdge): number {
    const link = this.#link;
    if (!link) return 0;
    this.#sim.settle();
    const { words } = this.#sim;
    const tdo = intAt(words, link.tdo) & 1;
    words[link.tdi] = edge.tdi;
    words[link.capture] = edge.capture ? 1 : 0;
    words[link.shift] = edge.shift ? 1 : 0;
    words[link.update] = edge.update ? 1 : 0;
    this.#sim.step(link.domain);
    return tdo;
  }
}
