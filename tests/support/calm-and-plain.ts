// A design twice: with its calm edges run by code of their own, and with every edge in full.
import { expect } from 'vitest';
import { elaborate } from '../../core/hdl/index.ts';
import { type Netlist, optimise } from '../../core/netlist/index.ts';
import { compile } from '../../core/sim/fabric/compile.ts';
import { Simulator } from '../../core/sim/fabric/index.ts';

/** So early that little is known yet, and much of it wrong. */
const HASTY = { from: 40, again: 300, window: 1500, edges: 48, bursts: 6, firstPause: 8, pausesGrow: 1.3 };

export function netlistOf(text: string, top = 'm'): Netlist {
  const { netlist, messages } = elaborate([{ name: 't.v', text }], { top });
  if (!netlist) throw new Error(JSON.stringify(messages.list));
  return optimise(netlist).netlist;
}

/** The same design twice: watched, and as it is. */
export class Both {
  readonly watched: Simulator;
  readonly plain: Simulator;
  readonly #words: number;
  readonly #netlist: Netlist;
  /** Runs in which some clock was looked at closer. */
  calm = 0;
  runs = 0;

  constructor(netlist: Netlist) {
    this.#netlist = netlist;
    this.watched = new Simulator(netlist, 'wasm', HASTY);
    this.plain = new Simulator(netlist, 'javascript');
    this.#words = compile(netlist).layout.remembered.from;
  }

  set(name: string, value: bigint): void {
    for (const sim of [this.watched, this.plain]) sim.setInput(name, value);
  }

  step(clock: string, times: number): void {
    for (const sim of [this.watched, this.plain]) sim.step(sim.domain(clock), times);
    this.#compare();
  }

  /** Two clocks by turns, their periods in the ratio of two numbers. */
  interleave(a: string, b: string, counts: readonly [number, number], steps: readonly [number, number]): void {
    for (const sim of [this.watched, this.plain])
      sim.interleave(
        { domain: sim.domain(a), count: counts[0], next: steps[0], step: steps[0] },
        { domain: sim.domain(b), count: counts[1], next: steps[1], step: steps[1] },
      );
    this.#compare();
  }

  /** All registers, memories, inputs and outputs. */
  #compare(): void {
    this.runs++;
    if (this.watched.calmDomains.length > 0) this.calm++;
    for (const sim of [this.watched, this.plain]) sim.settle();
    const [a, b] = [this.watched, this.plain].map((sim) => sim.words.subarray(0, this.#words));
    const at = a?.findIndex((word, i) => word !== b?.[i]) ?? -1;
    if (at < 0) return;
    const { registers } = compile(this.#netlist).layout;
    const [name] = [...registers].findLast(([, place]) => place <= at) ?? [];
    expect.fail(`run ${this.runs}: word ${at} (register ${name}) is ${a?.[at]}, not ${b?.[at]}`);
  }
}
