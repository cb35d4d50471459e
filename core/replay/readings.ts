// What signals were read to be at one sample, other than by being recorded: which of it can be relied on.
import { partOf } from '../probes/index.ts';
import type { ReadAt } from '../wave/index.ts';
import { CONSTANT, type Vertex } from './bit-graph.ts';
import type { PartlyKnown } from './exact.ts';
import type { NamedSignal } from './design.ts';
import type { KnownClock, Region } from './region.ts';

/** What a signal was seen to be at one moment, such as was read while the design stood. */
export interface Reading {
  readonly moment: number;
  /** Full name of a signal that is computed. */
  readonly signal: string;
  readonly is: PartlyKnown;
}

/**
 * Readings of whole signals and of parts, `name[7:4]`. Bits that nothing in the design decides are left out. Of what a
 * panel read while the clock stood only registers count that no asynchronous reset can have changed since: a pin may
 * have moved before the first sample, and what follows from it with it.
 */
export function readingsOf(region: Region, clocks: readonly KnownClock[], read: readonly ReadAt[]): Reading[] {
  const { graph, design } = region;
  const byName = new Map(design.signals.map((signal) => [signal.name, signal]));
  const isSure = (vertex: Vertex, how: ReadAt['how']): boolean =>
    vertex !== CONSTANT &&
    region.reasonOf(vertex, clocks) === null &&
    (how === 'trigger' || graph.registerOf(vertex)?.reset === null);
  const whole = new Map<string, Reading>();
  for (const { sample, how, values } of read)
    for (const [name, text] of Object.entries(values)) {
      const part = partOf((one) => byName.get(one), name);
      if (!part) continue;
      const known = maskOf(part, (bit) => isSure(graph.bit(part.of.node, bit), how));
      if (known === 0n) continue;
      const key = `${sample} ${part.of.name}`;
      const { value, unknown } = whole.get(key)?.is ?? { value: 0n, unknown: allOnes(part.of.width) };
      const is = { value: value | ((BigInt(text) << BigInt(part.lo)) & known), unknown: unknown & ~known };
      whole.set(key, { moment: sample, signal: part.of.name, is });
    }
  return [...whole.values()];
}

/** Whether a recorder that reads something once did so at no sample of its record. */
export const isReadBehindTheEnd = (atTrigger: readonly string[], read: readonly ReadAt[]): boolean =>
  atTrigger.length > 0 && !read.some(({ how }) => how === 'trigger');

interface Part {
  readonly of: NamedSignal;
  readonly lo: number;
  readonly width: number;
}

function maskOf({ lo, width }: Part, isSure: (bit: number) => boolean): bigint {
  let mask = 0n;
  for (let bit = lo; bit < lo + width; bit++) if (isSure(bit)) mask |= 1n << BigInt(bit);
  return mask;
}

const allOnes = (width: number): bigint => (1n << BigInt(width)) - 1n;
