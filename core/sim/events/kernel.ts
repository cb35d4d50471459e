import { byteAt, intAt, item, numberAt } from '../../lists.ts';

/** Time, events and what waits for them. @source IEEE 1364-2005, clause 11 */

/** Something that runs: a process, an assignment, a gate. */
export interface Runnable {
  /** Already in a queue. */
  queued: boolean;
  /** Runs now: what it changes itself does not wake it. */
  busy: boolean;
  /** Hears what it changes itself: a continuous assignment. */
  readonly hearsItself: boolean;
  readonly name: string;
  run(): void;
}

export type Edge = 0 | 1 | 2 | 3;
export const ANY: Edge = 0;
const POSITIVE: Edge = 1;
const NEGATIVE: Edge = 2;
export const BOTH: Edge = 3;

/** What is told of a change. Returns whether it still wants to be told of the next. */
export interface Watcher {
  readonly edge: Edge;
  wake(): void;
}

/** Why a simulation ended. */
export type Ending = 'finish' | 'stop' | 'idle' | 'limit' | 'loop' | 'oscillation' | 'cancelled' | 'fatal' | 'fault';

/** Thrown to end a simulation from wherever it stands. */
export class Ended extends Error {
  readonly ending: Ending;
  readonly told: string;

  constructor(ending: Ending, told = '') {
    super(told);
    this.ending = ending;
    this.told = told;
  }
}

/** Writes a value that was on its way; what `v`, `x` and `index` are is its own affair. */
type Put = (v: never, x: never, index: number) => void;

/** Values on their way, in the order in which they will be carried out. One list for each part, so that none is made. */
class Updates {
  readonly puts: Put[] = [];
  readonly v: unknown[] = [];
  readonly x: unknown[] = [];
  readonly index: number[] = [];
  length = 0;

  add(put: Put, v: unknown, x: unknown, index: number): void {
    const at = this.length++;
    this.puts[at] = put;
    this.v[at] = v;
    this.x[at] = x;
    this.index[at] = index;
  }

  /** Carries all out; those that come meanwhile stand in another list. */
  run(): void {
    const { length } = this;
    this.length = 0;
    for (let i = 0; i < length; i++)
      item(this.puts, i)(this.v[i] as never, this.x[i] as never, numberAt(this.index, i));
  }
}

/** What is to happen at one later time. */
class Moment {
  readonly time: number;
  readonly active: Runnable[] = [];
  readonly updates = new Updates();

  constructor(time: number) {
    this.time = time;
  }
}

const WATCHED = 1;
const TRACED = 2;
/** Rounds of one moment after which something is said to go round in circles. */
const MOST_ROUNDS = 100_000;
/** Turns of loops that take no time. */
const MOST_TURNS = 20_000_000;
const LOOK_EVERY = 1 << 20;
const NAMES_KEPT = 64;

export interface Limits {
  /** Last moment that is still simulated, in ticks. */
  readonly until: number;
  /** Turns of loops and processes at one moment. */
  readonly turns?: number;
  /** Events after which the run pauses between two moments, so that others get their turn; it can be gone on with. */
  readonly slice?: number;
}

/** The queues of one simulation, and the narrow values that its processes share. */
export class Kernel {
  /** Values of 32 bits and less by number of the object, filled up with 0; `x` marks unknown and floating bits. */
  readonly V: Int32Array;
  readonly X: Int32Array;
  readonly flags: Uint8Array;
  readonly watchers: (Watcher[] | undefined)[];
  time = 0;
  /** Turns of loops left until somebody looks at the clock. */
  fuel = LOOK_EVERY;
  /** Rounds and events so far, for the figures. */
  events = 0;
  /** What runs now; beyond `#waiting` the list holds what ran before, so that it need not be cut. */
  #active: Runnable[] = [];
  #waiting = 0;
  #inactive: Runnable[] = [];
  #spare: Runnable[] = [];
  #updates = new Updates();
  #spareUpdates = new Updates();
  /** The latest first: the next one is at the end. */
  readonly #moments: Moment[] = [];
  readonly #postponed: (() => void)[] = [];
  #turns = 0;
  #limits: Limits = { until: Number.POSITIVE_INFINITY };
  /** Objects that changed in this moment and are traced. */
  readonly changed: number[] = [];
  readonly #marked: Uint8Array;
  /** At the end of a moment, when nothing changes any more. */
  onSettled: (() => void) | null = null;
  current: Runnable | null = null;

  constructor(objects: number) {
    this.V = new Int32Array(objects);
    this.X = new Int32Array(objects);
    this.flags = new Uint8Array(objects);
    this.#marked = new Uint8Array(objects);
    this.watchers = Array.from({ length: objects }, () => undefined);
  }

  watch(id: number, watcher: Watcher): void {
    const list = this.watchers[id];
    if (list) list.push(watcher);
    else this.watchers[id] = [watcher];
    this.flags[id] = (this.flags[id] ?? 0) | WATCHED;
  }

  unwatch(id: number, watcher: Watcher): void {
    const list = this.watchers[id];
    const at = list ? list.indexOf(watcher) : -1;
    if (list && at >= 0) this.watchers[id] = [...list.slice(0, at), ...list.slice(at + 1)];
  }

  trace(id: number): void {
    this.flags[id] = (this.flags[id] ?? 0) | TRACED;
  }

  /** A narrow object has changed from these lowest bits. */
  notify(id: number, v: number, x: number): void {
    const flags = byteAt(this.flags, id);
    if (flags === 0) return;
    if ((flags & TRACED) !== 0) this.#mark(id);
    const list = this.watchers[id];
    if (list !== undefined) this.#wake(list, edgeOf(v & 1, x & 1, intAt(this.V, id) & 1, intAt(this.X, id) & 1));
  }

  /** Another object has changed; its lowest bits before and after decide about edges. */
  notifyBits(id: number, v: number, x: number, newV: number, newX: number): void {
    const flags = byteAt(this.flags, id);
    if (flags === 0) return;
    if ((flags & TRACED) !== 0) this.#mark(id);
    const list = this.watchers[id];
    if (list !== undefined) this.#wake(list, edgeOf(v, x, newV, newX));
  }

  #wake(list: readonly Watcher[], edge: Edge): void {
    for (let i = 0; i < list.length; i++) {
      const watcher = item(list, i);
      const wants = watcher.edge;
      if (wants === ANY || wants === edge || (wants === BOTH && edge !== ANY)) watcher.wake();
    }
  }

  #mark(id: number): void {
    if (this.#marked[id] === 1) return;
    this.#marked[id] = 1;
    this.changed.push(id);
  }

  /** The traced objects that have changed since this was last asked. */
  takeChanged(): number[] {
    const taken = this.changed.splice(0);
    for (const id of taken) this.#marked[id] = 0;
    return taken;
  }

  /** Into the queue of what runs now, unless it is there or must not hear itself. */
  queue(one: Runnable): void {
    if (one.queued || (one.busy && !one.hearsItself)) return;
    one.queued = true;
    this.#active[this.#waiting++] = one;
  }

  /** Runs after `ticks`; with none, after all else that is active. */
  later(one: Runnable, ticks: number): void {
    one.queued = true;
    if (ticks === 0) this.#inactive.push(one);
    else this.#momentAt(this.time + ticks).active.push(one);
  }

  /** A non-blocking update of this moment. */
  update(put: Put, v: unknown, x: unknown, index: number): void {
    this.#updates.add(put, v, x, index);
  }

  /** The same after some ticks. */
  updateLater(ticks: number, put: Put, v: unknown, x: unknown, index: number): void {
    if (ticks === 0) this.update(put, v, x, index);
    else this.#momentAt(this.time + ticks).updates.add(put, v, x, index);
  }

  /** At the end of this moment. */
  postpone(work: () => void): void {
    this.#postponed.push(work);
  }

  #momentAt(time: number): Moment {
    const moments = this.#moments;
    let low = 0;
    let high = moments.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (item(moments, middle).time > time) low = middle + 1;
      else high = middle;
    }
    const known = moments[low];
    if (known !== undefined && known.time === time) return known;
    if (!Number.isSafeInteger(time))
      throw new Ended('fault', 'The delays run past what time can be counted to; take a coarser precision.');
    const made = new Moment(time);
    if (low === moments.length) moments.push(made);
    else moments.splice(low, 0, made);
    return made;
  }

  /** Called where loops take no time, once the fuel is used up. */
  refuel(where: string): void {
    const most = this.#limits.turns ?? MOST_TURNS;
    this.fuel = Math.min(LOOK_EVERY, most);
    this.#turns += this.fuel;
    if (this.#turns > most)
      throw new Ended('loop', `A loop takes no time and does not end${where === '' ? '' : ` (${where})`}.`);
  }

  /** Runs until there is nothing left, or something ends it by throwing `Ended`. */
  run(limits: Limits): Ending | 'paused' {
    this.#limits = limits;
    this.fuel = Math.min(this.fuel, limits.turns ?? MOST_TURNS);
    const pauseAt = this.events + (limits.slice ?? Number.POSITIVE_INFINITY);
    for (;;) {
      this.#settle();
      if (this.events > pauseAt) return 'paused';
      const next = this.#moments.at(-1);
      if (next === undefined) return 'idle';
      if (next.time > limits.until) {
        this.time = limits.until;
        return 'limit';
      }
      this.#moments.pop();
      this.time = next.time;
      this.#turns = 0;
      for (const one of next.active) this.#active[this.#waiting++] = one;
      if (next.updates.length > 0) this.#updates = next.updates;
      if (--this.fuel < 0) this.refuel('');
    }
  }

  /** All events of one moment: active, then inactive, then non-blocking updates, again and again; then monitors. */
  #settle(): void {
    for (;;) {
      this.#rounds();
      this.onSettled?.();
      if (this.#postponed.length === 0) return;
      for (const work of this.#postponed.splice(0)) work();
      if (this.#waiting === 0 && this.#inactive.length === 0 && this.#updates.length === 0) return;
    }
  }

  #rounds(): void {
    for (let round = 0; ; round++) {
      if (round > MOST_ROUNDS - NAMES_KEPT) this.#circle(round);
      const now = this.#active;
      const waiting = this.#waiting;
      if (waiting > 0) {
        // What wakes while these run stands in the other list.
        this.#active = this.#spare;
        this.#spare = now;
        this.#waiting = 0;
        for (let i = 0; i < waiting; i++) this.#one(item(now, i));
      } else if (this.#inactive.length > 0) {
        for (const one of this.#inactive.splice(0)) this.#active[this.#waiting++] = one;
      } else if (this.#updates.length > 0) {
        const updates = this.#updates;
        this.#updates = this.#spareUpdates;
        this.#spareUpdates = updates;
        updates.run();
      } else return;
    }
  }

  #one(one: Runnable): void {
    one.queued = false;
    this.events++;
    if (--this.fuel < 0) this.refuel(one.name);
    this.current = one;
    one.run();
  }

  readonly #circling = new Set<string>();

  /** Nothing comes to rest: the last rounds tell who goes round. */
  #circle(round: number): void {
    for (const one of this.#active.slice(0, this.#waiting)) this.#circling.add(one.name);
    if (round > MOST_ROUNDS)
      throw new Ended(
        'oscillation',
        `At this moment nothing comes to rest: ${[...this.#circling].slice(0, 8).join(', ')} go${this.#circling.size === 1 ? 'es' : ''} round in a circle without a delay.`,
      );
  }
}

/** Edges by IEEE 1364-2005, clause 9.7.2, table 9-1: from or towards unknown counts as well. */
export function edgeOf(v: number, x: number, newV: number, newX: number): Edge {
  const from = x !== 0 ? 2 : v;
  const to = newX !== 0 ? 2 : newV;
  if (from === to) return ANY;
  if (from === 0 || to === 1) return POSITIVE;
  return NEGATIVE;
}
