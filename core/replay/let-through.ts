// In a record what a stepper did with the clock: at which samples the design stood.
import { letThroughName } from '../probes/index.ts';
import type { Recording, Trace } from '../wave/index.ts';
import type { Region } from './region.ts';

/** The record's trace of whether the edge behind each sample was let through, whatever name the clock has in it. */
export function letThroughIn({ design, graph, clock }: Region, { traces }: Recording): Trace | null {
  const own = design.signals.find(({ name }) => name === clock.name);
  if (!own) return null;
  const bit = graph.bit(own.node, 0);
  const names = new Set(
    design.signals.flatMap(({ name, node, width }) =>
      width === 1 && graph.bit(node, 0) === bit ? [letThroughName(name)] : [],
    ),
  );
  return traces.find(({ name, width }) => width === 1 && names.has(name)) ?? null;
}
