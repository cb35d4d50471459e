import { floatAt } from '../lists.ts';
import type { Gap, Recording } from './recording.ts';
import { type Trace, TraceWriter } from './trace.ts';

/** Whether a signal is known to keep its value all through a gap. */
export const keepsIn = ({ why }: Gap, trace: Trace): boolean =>
  why === 'still' || (why === undefined && trace.holds === true);

const made = new WeakMap<Trace, Trace>();

/**
 * The signal as far as it is known: open where nothing was stored, unless the qualifier would have stored its change.
 * What is measured, decoded and searched.
 */
export function knownTrace({ gaps }: Pick<Recording, 'gaps'>, trace: Trace): Trace {
  const open = gaps.filter((gap) => !keepsIn(gap, trace));
  if (open.length === 0) return trace;
  const known = made.get(trace) ?? opened(trace, open);
  made.set(trace, known);
  return known;
}

/** All bits of a value not known. */
export const allOpen = ({ words, width }: Pick<Trace, 'words' | 'width'>): Uint32Array =>
  Uint32Array.from({ length: words }, (_, i) =>
    i === words - 1 && width % 32 !== 0 ? 2 ** (width % 32) - 1 : 0xffffffff,
  );

function opened(trace: Trace, gaps: readonly Gap[]): Trace {
  const { words, at } = trace;
  const writer = new TraceWriter(trace.width);
  const [none, open] = [new Uint32Array(words), allOpen(trace)];
  const put = (index: number, tick: number) => {
    const word = (of: Uint32Array) => of.subarray(index * words, (index + 1) * words);
    writer.add(tick, word(trace.bits), trace.unknown ? word(trace.unknown) : null);
  };
  let index = 0;
  for (const { from, to } of gaps) {
    for (; index < at.length && floatAt(at, index) < from; index++) put(index, floatAt(at, index));
    writer.add(from, none, open);
    while (index < at.length && floatAt(at, index) <= to) index++;
    if (index > 0) put(index - 1, to);
  }
  for (; index < at.length; index++) put(index, floatAt(at, index));
  const { at: _, bits: _bits, unknown: _unknown, words: _words, ...about } = trace;
  return writer.finish(about);
}
