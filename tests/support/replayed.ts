// Designs run in the fabric with every name traced, and records of some of the names, to replay the rest from.
import { elaborate } from '../../core/hdl/index.ts';
import type { Netlist } from '../../core/netlist/index.ts';
import { optimise } from '../../core/netlist/index.ts';
import { Simulator } from '../../core/sim/fabric/index.ts';
import { letThroughName } from '../../core/probes/index.ts';
import { type Recording, type Trace, TraceWriter } from '../../core/wave/index.ts';
import type { Chance } from '../fuzz/index.ts';

/** Values of every declared name, sample by sample, each just before an edge of the clock. */
export interface Traced {
  /** Whether the edge behind each sample was let through. */
  readonly lets: readonly boolean[];
  readonly netlist: Netlist;
  readonly samples: number;
  readonly values: ReadonlyMap<string, readonly bigint[]>;
}

export function netlistOf(text: string, top: string): Netlist {
  const { netlist, messages } = elaborate([{ name: `${top}.v`, text }], { top });
  if (!netlist) throw new Error(messages.list.map(({ line, message }) => `${line}: ${message}`).join('\n'));
  return netlist;
}

/**
 * `stimulus` gives each input's value at a sample; edges are those of the input `clk`, without those behind samples that
 * `isLet` says no of.
 */
export function traced(
  netlist: Netlist,
  samples: number,
  stimulus: (input: string, width: number, sample: number) => bigint,
  isLet: (sample: number) => boolean = () => true,
): Traced {
  const lets = Array.from({ length: samples }, (_, k) => isLet(k));
  const outputs = netlist.signals.map(({ name, node, width }) => ({ name, node, width }));
  const sim = new Simulator(optimise({ ...netlist, outputs }).netlist, 'wasm', null);
  const clock = sim.domain('clk');
  const values = new Map<string, bigint[]>(outputs.map(({ name }) => [name, []]));
  for (let k = 0; k < samples; k++) {
    if (lets[k - 1]) sim.step(clock);
    for (const { name, width } of netlist.inputs) if (name !== 'clk') sim.setInput(name, stimulus(name, width, k));
    for (const { name } of outputs) values.get(name)?.push(sim.getOutput(name));
  }
  return { netlist, samples, values, lets };
}

/** Random values that hold for some samples. */
export function randomStimulus(chance: Chance, hold = 3): (input: string, width: number, sample: number) => bigint {
  const now = new Map<string, bigint>();
  return (input, width) => {
    const value = now.get(input);
    if (value !== undefined && chance.below(hold) !== 0) return value;
    let next = 0n;
    for (let i = 0; i < width; i += 16) next = (next << 16n) | BigInt(chance.below(1 << 16));
    next = BigInt.asUintN(width, next);
    now.set(input, next);
    return next;
  };
}

/** A record of some names: whole signals, or parts as `name[3:0]`. */
export function recordOf({ samples, values }: Traced, names: readonly string[], from = 0): Recording {
  const traces = names.map((name) => {
    const [, whole = name, high, low = high] = values.has(name) ? [] : (/^(.*)\[(\d+)(?::(\d+))?\]$/.exec(name) ?? []);
    const of = values.get(whole);
    if (!of) throw new Error(`no signal ${name}`);
    const [lo, width] = high === undefined ? [0, widthOf(of, name)] : [Number(low), Number(high) - Number(low) + 1];
    return { name, lo, width, of };
  });
  return {
    ...{
      title: 'traced',
      tickSeconds: 1e-6,
      length: samples - from,
      triggers: [],
      gaps: [],
      stored: null,
      sampled: true,
    },
    traces: traces.map(({ name, lo, width, of }) => {
      const writer = new TraceWriter(width);
      for (let k = from; k < samples; k++) writer.add(k - from, wordsIn((of[k] ?? 0n) >> BigInt(lo), width), null);
      return writer.finish({ name, width, signed: false, domain: 'clk' });
    }),
  };
}

const widths = new WeakMap<readonly bigint[], number>();

/** What a stepper let through, as a recorder beside it has it. */
export function letThroughOf({ samples, lets }: Traced, clock: string, from = 0): Trace {
  const writer = new TraceWriter(1);
  for (let k = from; k < samples; k++) writer.add(k - from, [lets[k] ? 1 : 0], null);
  return writer.finish({ name: letThroughName(clock), width: 1, signed: false, domain: clock });
}

/** Widths of traced names, which their values do not tell. */
export function knowWidths({ netlist, values }: Traced): void {
  for (const { name, width } of netlist.signals) {
    const of = values.get(name);
    if (of) widths.set(of, width);
  }
}

const widthOf = (of: readonly bigint[], name: string): number => {
  const width = widths.get(of);
  if (width === undefined) throw new Error(`no width of ${name}`);
  return width;
};

const wordsIn = (value: bigint, width: number): number[] =>
  Array.from({ length: (width + 31) >>> 5 }, (_, i) =>
    Number(BigInt.asUintN(Math.min(32, width - 32 * i), value >> BigInt(32 * i))),
  );
