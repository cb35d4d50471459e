import { item } from '../lists.ts';
import { fail, ok, type Result, problem as plainProblem } from '../result.ts';
import { problem } from './problems.ts';
import { allOpen, knownTrace } from './known.ts';
import { type Recording, zeroOf } from './recording.ts';
import { sameValue, type Trace, TraceWriter } from './trace.ts';

const PICOSECOND = 1e-12;

/**
 * How a second recording is laid beside a first one: trigger upon trigger, by the edges of signals that both hold, or
 * its trigger so many seconds after the first's.
 */
export type Laid = 'trigger' | 'shared' | { readonly seconds: number };

/**
 * Puts recordings of several recorders on one axis of picoseconds. `offsets` gives the seconds from the first trigger
 * of the first recording to that of each; they are all 0 when the triggers are one event. Where a recorder stored
 * nothing its signals are unknown.
 */
export function joinRecordings(parts: readonly Recording[], offsets: readonly number[]): Result<Recording> {
  const [first] = parts;
  if (!first) return fail(problem('join-nothing'));
  const unclear = parts.find(({ gaps }) => gaps.some(({ from, to, ticks }) => ticks !== to - from));
  if (unclear) return fail(problem('join-gaps', { title: unclear.title }));
  const starts = parts.map((part, i) => Math.round(((offsets[i] ?? 0) - zeroOf(part) * part.tickSeconds) / PICOSECOND));
  const origin = Math.min(...starts);
  const tick = (part: number, at: number) =>
    Math.round(item(starts, part) - origin + (at * item(parts, part).tickSeconds) / PICOSECOND);
  const traces = parts.flatMap((part, i) =>
    part.traces.map((trace) =>
      moved(part, trace, (at) => tick(i, at), parts.length > 1 && isDouble(parts, trace.name) ? part.title : null),
    ),
  );
  return ok({
    title: parts.map(({ title }) => title).join(', '),
    tickSeconds: PICOSECOND,
    length: Math.max(...parts.map((part, i) => tick(i, part.length))),
    triggers: parts.flatMap((part, i) => part.triggers.map((at) => tick(i, at))).sort((a, b) => a - b),
    traces,
    gaps: [],
    stored: null,
    sampled: false,
  });
}

const MOST_EDGES = 400;

/**
 * Seconds from the first trigger of the first recording to that of the second, as most edges of signals that both hold
 * say it.
 */
export function sharedOffset(first: Recording, second: Recording): Result<number> {
  const pairs = first.traces.flatMap((a) => {
    const b = second.traces.find(({ name, width }) => name === a.name && width === a.width);
    return b && a.at.length > 1 && b.at.length > 1 ? [{ a, b }] : [];
  });
  const hint =
    'Let both recorders hold a signal that moves, such as the one that crosses between their clocks; the slower ' +
    'one through a synchroniser.';
  if (pairs.length === 0)
    return fail(
      plainProblem(
        'join-shared',
        'The two records hold no signal in common that moves.',
        hint,
        'Lay them trigger upon trigger, or by a time.',
      ),
    );
  // An edge may be seen up to a tick of the slower clock late.
  const grain = Math.max(first.tickSeconds, second.tickSeconds);
  const votes = new Map<number, number[]>();
  for (const { a, b } of pairs)
    for (let i = 1; i < Math.min(a.at.length, MOST_EDGES); i++)
      for (let j = 1; j < Math.min(b.at.length, MOST_EDGES); j++) {
        if (!sameValue(a, i, b, j)) continue;
        const apart = item(a.at, i) * first.tickSeconds - item(b.at, j) * second.tickSeconds;
        const bin = Math.round(apart / grain);
        const known = votes.get(bin);
        if (known) known.push(apart);
        else votes.set(bin, [apart]);
      }
  const around = (bin: number) => [bin - 1, bin, bin + 1].flatMap((one) => votes.get(one) ?? []);
  const best = [...votes.keys()].map(around).sort((a, b) => b.length - a.length)[0];
  if (!best) return fail(plainProblem('join-shared', 'No edge of a signal in common is in both records.', hint));
  const apart = best.reduce((sum, one) => sum + one, 0) / best.length;
  return ok(apart + zeroOf(second) * second.tickSeconds - zeroOf(first) * first.tickSeconds);
}

const isDouble = (parts: readonly Recording[], name: string): boolean =>
  parts.filter(({ traces }) => traces.some((trace) => trace.name === name)).length > 1;

/** Outside its own record, and where nothing was stored, a signal is unknown. */
function moved(part: Recording, trace: Trace, place: (at: number) => number, title: string | null): Trace {
  const known = knownTrace(part, trace);
  const writer = new TraceWriter(trace.width);
  for (let i = 0; i < known.at.length; i++) {
    const word = (of: Uint32Array) => of.subarray(i * trace.words, (i + 1) * trace.words);
    writer.add(place(item(known.at, i)), word(known.bits), known.unknown ? word(known.unknown) : null);
  }
  writer.add(place(part.length), new Uint32Array(trace.words), allOpen(trace));
  return writer.finish({
    name: title === null ? trace.name : `${title}: ${trace.name}`,
    width: trace.width,
    signed: trace.signed,
    domain: trace.domain,
    names: trace.names,
  });
}
