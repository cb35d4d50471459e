import type { Recording } from './recording.ts';
import { digitsOf, type Trace } from './trace.ts';
import { radixFor, writeValue } from './radix.ts';

/** What is known of a signal from elsewhere, that may explain why it does not move. */
export interface Hint {
  /** A lever that holds it now. */
  readonly heldBy?: string;
  /** What the build said of it. */
  readonly build?: string;
}

/** Something about a signal that deserves a word. */
export interface Oddity {
  readonly signal: string;
  readonly kind: 'constant' | 'unknown';
  readonly message: string;
  readonly cause: string;
}

/** Signals that never move or are never known, each with its likely cause. */
export function odditiesOf(recording: Recording, hints: Readonly<Record<string, Hint>> = {}): readonly Oddity[] {
  return recording.traces.flatMap((trace) => {
    if (trace.at.length > 1) return [];
    const hint = hints[trace.name] ?? {};
    return trace.at.length === 0 || /^[xz]+$/.test(digitsOf(trace, 0)) ? [unknown(trace)] : [constant(recording, trace, hint)];
  });
}

function unknown(trace: Trace): Oddity {
  const floats = trace.at.length > 0 && digitsOf(trace, 0).startsWith('z');
  return {
    signal: trace.name,
    kind: 'unknown',
    message: floats ? 'nothing drives it in the whole record' : 'never known in the whole record',
    cause: floats ? 'Its driver is switched off, or there is none.' : 'It is never reset and never written, or what it is computed from is unknown; look at that first.',
  };
}

function constant(recording: Recording, trace: Trace, hint: Hint): Oddity {
  const value = writeValue(trace, 0, radixFor(trace));
  const cause = hint.heldBy
    ? `The lever ${hint.heldBy} holds it; release it under Drive.`
    : (hint.build ?? (recording.sampled ? 'What enables it did not happen in this time: record that signal too, trigger on its change, or store only its changes.' : 'What enables it did not happen in this time.'));
  return { signal: trace.name, kind: 'constant', message: `${value} in the whole record`, cause };
}
