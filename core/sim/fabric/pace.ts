// Decides how edges are run: as they are, watched one by one, or by code for edges at which little changes.
import { intAt, item } from '../../lists.ts';
import { Activity, type Watching } from './activity.ts';
import { calmModule, pairsOf } from './calm.ts';
import { planCalm, roomFor } from './calm-plan.ts';
import { FIRST_DOMAIN, type Program, ROUND } from './compile.ts';
import type { Emitter } from './emitter.ts';
import { emitWasm } from './wasm.ts';

/** Rising edges that are due of one clock: how many, when the next, and how far apart, in one unit for all. */
export interface EdgeTrain {
  readonly domain: number;
  readonly count: number;
  readonly next: number;
  readonly step: number;
}

type Body = (times: number) => void;
export type Turns = (
  countA: number,
  countB: number,
  nextA: number,
  stepA: number,
  nextB: number,
  stepB: number,
) => void;

/** Where fewer edges come in one go a design is not watched. */
const LEAST_WATCHED = 24;

/** When a design is watched, and how long what was found out is kept. */
export interface Pacing extends Watching {
  /** Edges before a design is watched, and between two times, which grow as long as nothing comes of it. */
  readonly from: number;
  readonly again: number;
  /** Of so many edges no more than some may be full ones. */
  readonly window: number;
}

const PACING: Pacing = {
  from: 20_000,
  again: 100_000,
  window: 200_000,
  edges: 384,
  bursts: 120,
  firstPause: 16,
  pausesGrow: 1.06,
};
const LATEST_AGAIN = 25_600_000;
const MOST_FULL = 0.3;

interface Calm {
  readonly run: ReadonlyMap<number, Body>;
  readonly turns: readonly { readonly a: number; readonly b: number; readonly run: Turns }[];
  readonly states: readonly number[];
  readonly fullEdges: number;
}

export class Pace {
  readonly #program: Program;
  readonly #memory: WebAssembly.Memory;
  readonly #words: Int32Array;
  readonly #bodies: readonly Body[];
  #activity: Activity | null = null;
  #calm: Calm | null = null;
  #edges = 0;
  readonly #pacing: Pacing;
  #watchAt: number;
  #pause: number;
  #windowFrom = 0;

  /** `bodies` as the program has them; the memory has `roomFor` it. */
  constructor(program: Program, memory: WebAssembly.Memory, bodies: readonly Body[], pacing: Pacing = PACING) {
    this.#pacing = pacing;
    this.#watchAt = pacing.from;
    this.#pause = pacing.again;
    this.#program = program;
    this.#memory = memory;
    this.#words = new Int32Array(memory.buffer);
    this.#bodies = bodies;
  }

  /** Clocks whose edges are looked at closer. */
  get calmDomains(): readonly number[] {
    return [...(this.#calm?.run.keys() ?? [])];
  }

  /** Somebody else has changed registers or memories. */
  disturb(): void {
    for (const state of this.#calm?.states ?? []) this.#words[state] = 0;
  }

  step(domain: number, times: number): void {
    const rest = this.#watched(domain, times);
    if (rest === 0) return;
    const run = this.#calm?.run.get(domain);
    if (run) {
      run(rest);
      this.#account(rest);
    } else {
      this.#plain(domain, rest);
      this.#edges += rest;
    }
  }

  /** False where these two are to be run by turns as they are. */
  interleave(a: EdgeTrain, b: EdgeTrain): boolean {
    const edges = a.count + b.count;
    this.#mayWatch(edges);
    let [first, second] = [a, b];
    if (this.#activity !== null) this.#activity.pause -= Math.min(edges, this.#activity.pause);
    while (this.#activity?.pause === 0 && first.count > 0 && second.count > 0) {
      const isFirst = first.next <= second.next;
      const one = isFirst ? first : second;
      this.#watched(one.domain, 1);
      const rest = { ...one, count: one.count - 1, next: one.next + one.step };
      if (isFirst) first = rest;
      else second = rest;
    }
    const turns = this.#turnsOf(a.domain, b.domain);
    if (turns !== null) {
      turns(first.count, second.count, first.next, first.step, second.next, second.step);
      this.#account(edges);
      return true;
    }
    this.disturb();
    this.#edges += edges;
    if (first === a && second === b) return false;
    for (const { domain, count } of byTurns(first, second)) this.#plain(domain, count);
    return true;
  }

  #turnsOf(a: number, b: number): Turns | null {
    for (const pair of this.#calm?.turns ?? []) if (pair.a === a && pair.b === b) return pair.run;
    return null;
  }

  #plain(domain: number, times: number): void {
    this.disturb();
    this.#bodyOf(domain)(times);
  }

  /** Edges of a clock in full; where logic makes clocks, with what they set off. */
  #bodyOf(domain: number): Body {
    const { layout, domains } = this.#program;
    const offset = layout.derived.size === 0 ? 0 : domains.length;
    return item(this.#bodies, FIRST_DOMAIN + offset + domain);
  }

  #mayWatch(edges: number): void {
    if (this.#activity !== null || this.#calm !== null || edges < LEAST_WATCHED || this.#edges < this.#watchAt) return;
    const scratch = this.#program.layout.words;
    const probe = (body: (emitter: Emitter) => void) => {
      const [run] = this.#instance(emitWasm([body]), ['f0']);
      return () => run?.(1);
    };
    this.#activity = new Activity(this.#program, this.#words, scratch, probe, this.#pacing);
  }

  /** Watches edges as long as there is something to find out; gives how many are left to run. */
  #watched(domain: number, times: number): number {
    this.#mayWatch(times);
    let left = times;
    while (left > 0 && this.#activity !== null) {
      const rest = Math.min(left, this.#activity.pause);
      if (rest > 0) {
        this.#activity.pause -= rest;
        this.#plain(domain, rest);
        left -= rest;
        continue;
      }
      this.#activity.edge(domain, () => this.#plain(domain, 1));
      left--;
      if (this.#activity.isDone) this.#conclude(this.#activity);
    }
    return left;
  }

  #conclude(activity: Activity): void {
    this.#activity = null;
    const stillness = activity.result();
    const { words } = this.#program.layout;
    const plan = stillness && planCalm(this.#program, stillness, words);
    if (plan === null) return this.#later();
    this.#words.fill(0, words);
    const [clocks, pairs] = [plan.clocks.map(({ domain }) => domain), pairsOf(plan)];
    const names = [
      ...clocks.map((domain) => `run${domain}`),
      ...pairs.map(({ a, b }) => `turns${a.domain} ${b.domain}`),
    ];
    const edges = clocks.map((domain) => [`edge${domain}`, this.#bodyOf(domain)] as const);
    const given = { ...Object.fromEntries(edges), round: item(this.#bodies, ROUND) };
    const functions = this.#instance(calmModule(this.#program, plan), names, given);
    this.#calm = {
      run: new Map(clocks.map((domain, i) => [domain, item(functions, i)])),
      turns: pairs.map(({ a, b }, i) => ({
        ...{ a: a.domain, b: b.domain },
        run: item(functions, clocks.length + i) as Turns,
      })),
      states: [plan.copied, ...plan.clocks.map(({ state }) => state)],
      fullEdges: plan.fullEdges,
    };
    this.#windowFrom = this.#edges;
  }

  #instance(module: Uint8Array<ArrayBuffer>, names: readonly string[], given: Record<string, Body> = {}): Body[] {
    const env = { memory: this.#memory, ...given };
    const { exports } = new WebAssembly.Instance(new WebAssembly.Module(module), { env });
    return names.map((name) => exports[name] as Body);
  }

  #account(edges: number): void {
    this.#edges += edges;
    const ran = this.#edges - this.#windowFrom;
    if (this.#calm === null || ran < this.#pacing.window) return;
    const { fullEdges } = this.#calm;
    const full = intAt(this.#words, fullEdges);
    this.#words[fullEdges] = 0;
    this.#windowFrom = this.#edges;
    if (full <= ran * MOST_FULL) this.#pause = this.#pacing.again;
    else {
      this.#calm = null;
      this.#later();
    }
  }

  #later(): void {
    this.#watchAt = this.#edges + this.#pause;
    this.#pause = Math.min(4 * this.#pause, LATEST_AGAIN);
  }
}

/** Words of memory that a program needs with what is found out about it. */
export const wordsFor = (program: Program): number => program.layout.words + roomFor(program);

/** The rising edges of two clocks in the order in which they come; of two that are due together the first one's first. */
export function* byTurns(a: EdgeTrain, b: EdgeTrain): Generator<{ readonly domain: number; readonly count: number }> {
  let [leftA, leftB, dueA, dueB] = [a.count, b.count, a.next, b.next];
  while (leftA > 0 && leftB > 0) {
    if (dueA <= dueB) {
      yield { domain: a.domain, count: 1 };
      dueA += a.step;
      leftA--;
    } else {
      yield { domain: b.domain, count: 1 };
      dueB += b.step;
      leftB--;
    }
  }
  if (leftA > 0) yield { domain: a.domain, count: leftA };
  if (leftB > 0) yield { domain: b.domain, count: leftB };
}
