import { fail, ok, problem, type Result } from '../result.ts';
import { type Recording, zeroOf } from './recording.ts';
import type { Trace } from './trace.ts';

const PICOSECOND = 1e-12;

/**
 * Puts recordings of several recorders on one axis of picoseconds. `offsets` gives the seconds from the first trigger of the first recording to that of each;
 * they are all 0 when the triggers are one event.
 */
export function joinRecordings(parts: readonly Recording[], offsets: readonly number[]): Result<Recording> {
  const [first] = parts;
  if (!first) return fail(problem('join-nothing', 'There is nothing to lay on one axis.', 'Choose captures.'));
  if (parts.some(({ gaps }) => gaps.length > 0)) return fail(problem('join-gaps', 'A record with gaps cannot share an axis.', 'Draw its gaps as long as they were, or take whole captures.'));
  const starts = parts.map((part, i) => Math.round(((offsets[i] ?? 0) - zeroOf(part) * part.tickSeconds) / PICOSECOND));
  const origin = Math.min(...starts);
  const tick = (part: number, at: number) => Math.round((starts[part] as number) - origin + (at * (parts[part] as Recording).tickSeconds) / PICOSECOND);
  const traces = parts.flatMap((part, i) => part.traces.map((trace) => moved(trace, (at) => tick(i, at), tick(i, part.length), parts.length > 1 && isDouble(parts, trace.name) ? part.title : null)));
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

const isDouble = (parts: readonly Recording[], name: string): boolean => parts.filter(({ traces }) => traces.some((trace) => trace.name === name)).length > 1;

/** Outside its own record a signal is unknown. */
function moved(trace: Trace, place: (at: number) => number, end: number, title: string | null): Trace {
  const count = trace.at.length + 1;
  const at = new Float64Array(count);
  for (let i = 0; i < trace.at.length; i++) at[i] = place(trace.at[i] as number);
  at[count - 1] = end;
  const bits = new Uint32Array(count * trace.words);
  bits.set(trace.bits);
  const unknown = new Uint32Array(count * trace.words);
  if (trace.unknown) unknown.set(trace.unknown);
  for (let i = 0; i < trace.words; i++) unknown[(count - 1) * trace.words + i] = i === trace.words - 1 && trace.width % 32 !== 0 ? 2 ** (trace.width % 32) - 1 : 0xffffffff;
  return { ...trace, name: title === null ? trace.name : `${title}: ${trace.name}`, at, bits, unknown };
}
