// What it would mean that a record is not what the design makes of the rest.
import { CONSTANT, type Vertex } from './bit-graph.ts';
import type { Replay } from './replay.ts';
import type { Region } from './region.ts';
import type { Disagreement } from './agreement.ts';

/**
 * `another-build`: nearly everything disagrees from the beginning; `crossing`: bits of another clock feed it, and were
 * taken at another moment than the record says; `outside`: it follows from a pin, which may move between two samples;
 * `lever`: something may have been driven by hand; `logic`: nothing of that, so that the hardware did what the design
 * does not say, as it does where it is too slow for its clock.
 */
export type Meaning = 'another-build' | 'crossing' | 'outside' | 'lever' | 'logic';

/** In samples: what disagrees this early does so from the beginning. */
const EARLY = 16;

/** The likeliest for each disagreement, in their order. */
export function meaningsOf({ prepared, disagreements, detail }: Replay): Meaning[] {
  const { region } = prepared;
  const early = disagreements.filter(({ sample }) => sample < EARLY).length;
  const all = detail.own.filter((one) => one !== null).length;
  const isOther = all > 2 && early * 2 > all;
  return disagreements.map((one) => (isOther ? 'another-build' : meaningOf(region, one)));
}

function meaningOf(region: Region, { signal: name }: Disagreement): Meaning {
  const { graph, design } = region;
  const signal =
    design.signals.find((one) => one.name === name) ?? design.signals.find((one) => name.startsWith(`${one.name}[`));
  const found = new Set<Meaning>();
  const seen = new Set<Vertex>();
  const open = signal ? graph.bitsOf(signal.node).filter((vertex) => vertex !== CONSTANT) : [];
  // Back to the registers before the last one, no further: what is beyond was looked at on its own.
  const steps = new Map<Vertex, number>(open.map((vertex) => [vertex, 0]));
  for (let v = open.pop(); v !== undefined; v = open.pop()) {
    if (seen.has(v)) continue;
    seen.add(v);
    const reason = region.reasonOf(v);
    if (reason?.kind === 'clock' || reason?.kind === 'edge') found.add('crossing');
    else if (reason?.kind === 'lever' || reason?.kind === 'free') found.add('lever');
    else if (reason?.kind === 'input') found.add('outside');
    const step = steps.get(v) ?? 0;
    graph.feeds(v, (from, delay) => {
      if (step + delay > 1 || steps.has(from)) return;
      steps.set(from, step + delay);
      open.push(from);
    });
  }
  return (['lever', 'crossing', 'outside'] as const).find((one) => found.has(one)) ?? 'logic';
}
