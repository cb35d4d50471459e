// From one look a sample to stretches: once everything is known that can be, logic of two values goes on with it, and
// logic of three with the rest.
import { item } from '../lists.ts';
import type { Trace, TraceWriter } from '../wave/index.ts';
import { dualOf } from './dual.ts';
import { lostNodes, type Part, partFor, type Standing } from './known-part.ts';
import type { Moments } from './moments.ts';
import type { ReplayProgram } from './program.ts';
import { type InputTrace, type Sink, Stretch } from './stretch.ts';

/** What stretches are made of. */
interface Whole {
  readonly program: ReplayProgram;
  readonly records: readonly (Trace | null)[];
  readonly moments: Moments;
  readonly clock: string;
  /** Inputs that are always known. */
  readonly known: ReadonlySet<string>;
  /** Outputs that are written down. */
  readonly writers: ReadonlyMap<string, TraceWriter>;
  readonly wrote: Sink['wrote'];
}

/** Whether it can ever be done: one clock, and no memory that is followed and written from two sides. */
export function canTakeOver({ program, moments }: Pick<Whole, 'program' | 'moments'>): boolean {
  const { writes } = program;
  return moments.edges.length === 1 && new Set(writes.map(({ memory }) => memory)).size === writes.length;
}

/**
 * Stretches that have everything between them, begun behind a moment, at which everything was computed with three
 * values; `isLate`: whatever is unknown still. Null while more may come to be known, and where words of memories would
 * be lost.
 */
export function takeOver(whole: Whole, at: Standing, moment: number, isLate: boolean): readonly Stretch[] | null {
  const { program, known, writers } = whole;
  const { netlist } = program;
  const isOpen = (input: string) => !known.has(input) && input !== whole.clock;
  const lost = lostNodes(netlist, at, isOpen);
  const forEver = lostForEver(whole, isOpen);
  if (!isLate && lost.some((one, node) => one === 1 && forEver[node] === 0)) return null;
  const portOutputs = new Set(program.writes.flatMap(({ enable, address, data }) => [enable, address, data]));
  if (netlist.outputs.some(({ name, node }) => portOutputs.has(name) && lost[node] === 1)) return null;
  const [surely, maybe] = [
    partFor(netlist, ({ node }) => lost[node] === 0),
    partFor(netlist, ({ name, node }) => lost[node] === 1 && writers.has(name)),
  ];
  const stretches = [
    ...(surely.netlist.outputs.length > 0 ? [twoValued(whole, surely, at)] : []),
    ...(maybe.netlist.outputs.length > 0 ? [threeValued(whole, maybe, at)] : []),
  ];
  if (!stretches.every((one) => one !== null)) return null;
  for (const one of stretches) one.begin(moment);
  return stretches;
}

const found = new WeakMap<Whole, Uint8Array>();

/** What nothing in the record can ever tell; it is asked for again and again. */
function lostForEver(whole: Whole, isOpen: (input: string) => boolean): Uint8Array {
  const known = found.get(whole);
  if (known) return known;
  const lost = lostNodes(whole.program.netlist, null, isOpen);
  found.set(whole, lost);
  return lost;
}

/** Records that a part reads. */
function recordsFor({ program, records }: Whole, part: Part): { readonly name: string; readonly trace: Trace }[] {
  const nodes = new Map(program.netlist.inputs.map(({ name, node }) => [name, node]));
  return program.inputs.flatMap((name, i) => {
    const [trace, node] = [records[i], nodes.get(name)];
    return trace && node !== undefined && part.needs(node) ? [{ name, trace }] : [];
  });
}

const copied = (to: Int32Array, place: number, from: Int32Array, at: number, count: number) =>
  to.set(from.subarray(at, at + count), place);

const wordsIn = (width: number): number => (width + 31) >>> 5;

function twoValued(whole: Whole, part: Part, { dual, sim: from }: Standing): Stretch | null {
  const { program, moments, clock, writers, wrote } = whole;
  const { netlist } = part;
  const stretch = Stretch.of(netlist, moments, {
    ...{ clock, wrote },
    inputs: recordsFor(whole, part).map(({ name, trace }): InputTrace => ({ trace, value: name, unknown: null })),
    writers: netlist.outputs.flatMap(({ name }) => {
      const writer = writers.get(name);
      return writer ? [{ output: name, writer, half: 'value' as const }] : [];
    }),
    ports: program.writes.map((port) => ({
      ...port,
      memory: program.netlist.memories.findIndex(({ name }) => name === port.memory),
    })),
  });
  if (!stretch) return null;
  const { words } = stretch.sim;
  for (const [i, { node }] of netlist.registers.entries()) {
    const { value, width } = item(dual.registers, item(part.registers, i));
    const half = item(dual.netlist.registers, value).node;
    copied(words, stretch.sim.registerAddress(node), from.words, from.registerAddress(half), wordsIn(width));
  }
  for (const [i, { width, depth, writes }] of netlist.memories.entries())
    if (writes.length > 0) {
      const at = from.memoryAddress(item(dual.memories, i).value);
      copied(words, stretch.sim.memoryAddress(i), from.words, at, depth * wordsIn(width));
    }
  return stretch;
}

function threeValued(whole: Whole, part: Part, { dual: all, sim: from }: Standing): Stretch | null {
  const { moments, clock, known, writers, wrote } = whole;
  const dual = dualOf(part.netlist, new Set([...known, clock]));
  const records = recordsFor(whole, part);
  const stretch = Stretch.of(dual.netlist, moments, {
    ...{ clock, wrote, ports: [] },
    inputs: records.map(({ name, trace }): InputTrace => {
      const { value, unknown } = dual.inputs.get(name) ?? { value: name, unknown: null };
      return { trace, value, unknown };
    }),
    writers: part.netlist.outputs.flatMap(({ name }) => {
      const [writer, halves] = [writers.get(name), dual.outputs.get(name)];
      if (!writer || !halves) return [];
      return (['value', 'unknown'] as const).map((half) => ({ output: halves[half], writer, half }));
    }),
  });
  if (!stretch) return null;
  const { sim } = stretch;
  for (const [i, halves] of dual.registers.entries()) {
    const old = item(all.registers, item(part.registers, i));
    for (const half of ['value', 'unknown'] as const) {
      const [to, at] = [item(dual.netlist.registers, halves[half]), item(all.netlist.registers, old[half])];
      copied(sim.words, sim.registerAddress(to.node), from.words, from.registerAddress(at.node), wordsIn(old.width));
    }
  }
  for (const [i, { width, depth, writes }] of part.netlist.memories.entries()) {
    if (writes.length === 0) continue;
    const [to, at] = [item(dual.memories, i), item(all.memories, i)];
    const words = { value: wordsIn(width), unknown: wordsIn(width), marks: 1 };
    for (const half of ['value', 'unknown', 'marks'] as const) {
      const [place, old] = [sim.memoryAddress(to[half]), from.memoryAddress(at[half])];
      copied(sim.words, place, from.words, old, depth * words[half]);
    }
    const [now, was] = [item(dual.netlist.registers, to.now), item(all.netlist.registers, at.now)];
    copied(sim.words, sim.registerAddress(now.node), from.words, from.registerAddress(was.node), 1);
  }
  const fed = new Set(records.map(({ name }) => name));
  for (const { name, width } of part.netlist.inputs) {
    const unknown = fed.has(name) ? null : dual.inputs.get(name)?.unknown;
    if (typeof unknown === 'string') sim.setInput(unknown, (1n << BigInt(width)) - 1n);
  }
  return stretch;
}
