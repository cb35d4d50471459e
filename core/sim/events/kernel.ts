import { byteAt, intAt, item, numberAt } from '../../lists.ts';

// In what runs at every event lists are read in place and not through `item`: one function that all kinds of lists go
// through is several times slower.

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

/** What is told of a change: a process that is queued by it, or something of its own that `wake` does. */
export interface Watcher {
  readonly edge: Edge;
  readonly target: Runnable | null;
  readonly wake: () => void;
}

const nothing = () => {};

/** Both kinds are made alike, so that the loop over them stays fast. */
export const queueing = (edge: Edge, target: Runnable): Watcher => ({ edge, target, wake: nothing });
export const waking = (edge: Edge, wake: () => void): Watcher => ({ edge, target: null, wake });

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

const FIRST_ROOM = 256;

/**
 * Values on their way, in the order in which they will be carried out: whole narrow objects by number, in lists of
 * plain integers, and among them, as negative numbers, the places of all others in a list of their own.
 */
class Updates {
  length = 0;
  #ids = new Int32Array(FIRST_ROOM);
  #v = new Int32Array(FIRST_ROOM);
  #x = new Int32Array(FIRST_ROOM);
  #others = 0;
  readonly #puts: Put[] = [];
  readonly #otherV: unknown[] = [];
  readonly #otherX: unknown[] = [];
  readonly #index: number[] = [];

  next(id: number, v: number, x: number): void {
    const at = this.length++;
    if (at === this.#ids.length) this.#grow();
    this.#ids[at] = id;
    this.#v[at] = v;
    this.#x[at] = x;
  }

  add(put: Put, v: unknown, x: unknown, index: number): void {
    const at = this.#others++;
    this.#puts[at] = put;
    this.#otherV[at] = v;
    this.#otherX[at] = x;
    this.#index[at] = index;
    this.next(~at, 0, 0);
  }

  #grow(): void {
    const grown = (list: Int32Array): Int32Array<ArrayBuffer> => {
      const made = new Int32Array(list.length * 2);
      made.set(list);
      return made;
    };
    this.#ids = grown(this.#ids);
    this.#v = grown(this.#v);
    this.#x = grown(this.#x);
  }

  /** Carries all out; those that come meanwhile stand in another list. */
  run(kernel: Kernel): void {
    const { length } = this;
    this.length = 0;
    this.#others = 0;
    const { V, X } = kernel;
    for (let i = 0; i < length; i++) {
      const id = intAt(this.#ids, i);
      if (id < 0) {
        const at = ~id;
        this.#puts[at]?.(this.#otherV[at] as never, this.#otherX[at] as never, numberAt(this.#index, at));
        continue;
      }
      const v = intAt(this.#v, i);
      const x = intAt(this.#x, i);
      const before = intAt(V, id);
      const marks = intAt(X, id);
      if (before === v && marks === x) continue;
      V[id] = v;
      X[id] = x;
      kernel.notify(id, before, marks);
    }
  }
}

/** What is to happen at one later time. */
class Moment {
  time = 0;
  /** What runs then; beyond `waiting` the list holds what it held before, so that it need not be cut. */
  readonly active: Runnable[] = [];
  waiting = 0;
  updates: Updates | null = null;
}

/** Moments that are over and kept for later ones. */
const MOMENTS_KEPT = 64;

const WATCHED = 1;
const TRACED = 2;
const READ = 4;
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
  /** By number of a process that may idle: 1 where something that it reads has changed since it ran. */
  readonly isAwake: number[] = [];
  /** By number of the object: such processes that read it. */
  readonly #readers: (number[] | undefined)[];
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
  readonly #over: Moment[] = [];
  /** What waits beside them, for a time at which there is no moment. */
  #next: Runnable | null = null;
  #nextTime = 0;
  readonly #postponed: (() => void)[] = [];
  /** Number of the updates that are being collected, and by object the last ones it was among. */
  #batch = 1;
  readonly #asked: Int32Array;
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
    this.#asked = new Int32Array(objects);
    this.watchers = Array.from({ length: objects }, () => undefined);
    this.#readers = Array.from({ length: objects }, () => undefined);
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

  /** A process that need not run while none of these has changed; gives its number among those. */
  idles(reads: readonly number[]): number {
    const number = this.isAwake.push(1) - 1;
    for (const id of reads) {
      const list = this.#readers[id];
      if (list) list.push(number);
      else this.#readers[id] = [number];
      this.flags[id] = (this.flags[id] ?? 0) | READ;
    }
    return number;
  }

  #rouse(id: number): void {
    const list = this.#readers[id];
    if (list === undefined) return;
    for (let i = 0; i < list.length; i++) {
      const number = list[i];
      if (number !== undefined) this.isAwake[number] = 1;
    }
  }

  trace(id: number): void {
    this.flags[id] = (this.flags[id] ?? 0) | TRACED;
  }

  /** A narrow object has changed from these lowest bits. */
  notify(id: number, v: number, x: number): void {
    const flags = byteAt(this.flags, id);
    if (flags === 0) return;
    if ((flags & TRACED) !== 0) this.#mark(id);
    if ((flags & READ) !== 0) this.#rouse(id);
    const list = this.watchers[id];
    if (list !== undefined) this.#wake(list, edgeOf(v & 1, x & 1, intAt(this.V, id) & 1, intAt(this.X, id) & 1));
  }

  /** Another object has changed; its lowest bits before and after decide about edges. */
  notifyBits(id: number, v: number, x: number, newV: number, newX: number): void {
    const flags = byteAt(this.flags, id);
    if (flags === 0) return;
    if ((flags & TRACED) !== 0) this.#mark(id);
    if ((flags & READ) !== 0) this.#rouse(id);
    const list = this.watchers[id];
    if (list !== undefined) this.#wake(list, edgeOf(v, x, newV, newX));
  }

  #wake(list: readonly Watcher[], edge: Edge): void {
    for (let i = 0; i < list.length; i++) {
      const watcher = list[i];
      if (watcher === undefined) return;
      const wants = watcher.edge;
      if (wants !== ANY && wants !== edge && (wants !== BOTH || edge === ANY)) continue;
      if (watcher.target === null) watcher.wake();
      else this.queue(watcher.target);
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
    else {
      const moment = this.#momentAt(this.time + ticks);
      moment.active[moment.waiting++] = one;
    }
  }

  /**
   * The same, for what comes again and again such as a clock: as long as it is the very next to happen, it waits beside
   * the moments and not in one, which costs less. Who was asked first still runs first.
   */
  soon(one: Runnable, ticks: number): void {
    const time = this.time + ticks;
    const first = this.#moments.at(-1);
    const isNext = this.#next === null && (first === undefined || first.time > time);
    if (ticks === 0 || !isNext || !Number.isSafeInteger(time)) return this.later(one, ticks);
    one.queued = true;
    this.#next = one;
    this.#nextTime = time;
  }

  /** A non-blocking update of this moment, of a whole narrow object. */
  next(id: number, v: number, x: number): void {
    this.#updates.next(id, v, x);
  }

  /**
   * The same of an object that nothing else writes: what holds the value already, with no other on its way, is left
   * alone. Not when time begins, where a process may still give it its first value.
   */
  calm(id: number, v: number, x: number): void {
    if (this.V[id] === v && this.X[id] === x && this.#asked[id] !== this.#batch && this.time > 0) return;
    this.#asked[id] = this.#batch;
    this.#updates.next(id, v, x);
  }

  /** A non-blocking update of this moment, of anything. */
  update(put: Put, v: unknown, x: unknown, index: number): void {
    this.#updates.add(put, v, x, index);
  }

  /** The same after some ticks. */
  updateLater(ticks: number, put: Put, v: unknown, x: unknown, index: number): void {
    if (ticks === 0) this.update(put, v, x, index);
    else {
      const moment = this.#momentAt(this.time + ticks);
      moment.updates ??= new Updates();
      moment.updates.add(put, v, x, index);
    }
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
    const made = this.#over.pop() ?? new Moment();
    made.time = time;
    if (this.#next !== null && this.#nextTime === time) {
      made.active[made.waiting++] = this.#next;
      this.#next = null;
    }
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
      if (this.#next !== null && (next === undefined || this.#nextTime < next.time)) {
        if (this.#nextTime > limits.until) {
          this.time = limits.until;
          return 'limit';
        }
        this.time = this.#nextTime;
        this.#turns = 0;
        this.#active[this.#waiting++] = this.#next;
        this.#next = null;
        if (--this.fuel < 0) this.refuel('');
        continue;
      }
      if (next === undefined) return 'idle';
      if (next.time > limits.until) {
        this.time = limits.until;
        return 'limit';
      }
      this.#moments.pop();
      this.time = next.time;
      this.#turns = 0;
      for (let i = 0; i < next.waiting; i++) {
        const one = next.active[i];
        if (one !== undefined) this.#active[this.#waiting++] = one;
      }
      if (next.updates) this.#updates = next.updates;
      next.waiting = 0;
      next.updates = null;
      if (this.#over.length < MOMENTS_KEPT) this.#over.push(next);
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
        this.events += waiting;
        this.fuel -= waiting;
        if (this.fuel < 0) this.refuel(now[0]?.name ?? '');
        for (let i = 0; i < waiting; i++) {
          const one = now[i];
          if (one === undefined) continue;
          one.queued = false;
          this.current = one;
          one.run();
        }
      } else if (this.#inactive.length > 0) {
        for (const one of this.#inactive.splice(0)) this.#active[this.#waiting++] = one;
      } else if (this.#updates.length > 0) {
        const updates = this.#updates;
        this.#batch++;
        this.#updates = this.#spareUpdates;
        this.#spareUpdates = updates;
        updates.run(this);
      } else return;
    }
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
