import type { Driver } from '../checks/index.ts';
import type { Recording } from './recording.ts';
import { digitsOf, type Trace } from './trace.ts';
import { radixFor, writeValue } from './radix.ts';

/** What is known of a signal from elsewhere, that may explain why it does not move. */
export interface Hint {
  /** A lever that holds it now. */
  readonly heldBy?: string;
  /** What gives it its value, as the build found it. */
  readonly driver?: Driver;
  /** The clock it belongs to, by the name of its port; empty or absent where that is not known. */
  readonly domain?: string;
}

/** Something about a signal that deserves a word. */
export interface Oddity {
  readonly signal: string;
  readonly kind: 'constant' | 'unknown';
  readonly message: string;
  readonly cause: string;
}

/** Signals that never move or are never known, each with its likely cause. */
export function odditiesOf(recording: Recording, hints: Hints = {}): readonly Oddity[] {
  return recording.traces.flatMap((trace) => {
    if (trace.at.length > 1) return [];
    const hint = hints[trace.name] ?? {};
    return trace.at.length === 0 || /^[xz]+$/.test(digitsOf(trace, 0)) ? [unknown(trace)] : [constant(recording, trace, hint, hints)];
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

function constant(recording: Recording, trace: Trace, hint: Hint, hints: Hints): Oddity {
  return { signal: trace.name, kind: 'constant', message: `${shownValue(trace)} in the whole record`, cause: causeOf(recording, trace, hint, hints) };
}

type Hints = Readonly<Record<string, Hint>>;

const isConstant = (trace: Trace): boolean => trace.at.length <= 1;
const shownValue = (trace: Trace): string => writeValue(trace, 0, radixFor(trace));
const short = (name: string): string => name.slice(name.indexOf('.') + 1);

function causeOf(recording: Recording, trace: Trace, { heldBy, driver, domain }: Hint, hints: Hints): string {
  if (heldBy) return `The lever ${heldBy} holds it; release it under Drive.`;
  const stopped = domain ? stoppedClock(recording, trace, domain, hints) : null;
  if (stopped) return stopped;
  switch (driver?.kind) {
    case 'nothing':
      return 'Nothing in the design drives it; a lever can, under Probe.';
    case 'constant':
      return `The build found it to be ${driver.value} for ever: nothing that could change it is left.`;
    case 'pin':
      return `It comes from the pins of ${driver.port}, where nothing moved in this time.`;
    case 'register':
    case 'logic':
    case 'memory':
      return decided(recording, driver.from);
    default:
      return recording.sampled ? 'What enables it did not happen in this time: record that signal too, trigger on its change, or store only its changes.' : 'What enables it did not happen in this time.';
  }
}

/** All recorded signals of another clock than the recorder's stand still together. */
function stoppedClock({ traces }: Recording, trace: Trace, domain: string, hints: Hints): string | null {
  if (trace.domain === domain || trace.domain.endsWith(`.${domain}`)) return null;
  const same = traces.filter(({ name }) => hints[name]?.domain === domain);
  return same.every(isConstant) ? `It belongs to the clock ${domain}, of which nothing moved in this record: that clock may stand still, or the time was too short.` : null;
}

const MOST_NAMED = 4;

/** What decides it, and which of that was seen standing still. */
function decided({ traces }: Recording, from: readonly string[]): string {
  if (from.length === 0) return 'It changes by itself; this time was too short to see that.';
  const named = `It is decided by ${list(from.map(short))}`;
  const recorded = from.flatMap((name) => traces.filter((trace) => trace.name === name));
  const still = recorded.filter(isConstant);
  if (still.length > 0) return `${named}, of which ${list(still.map((trace) => `${short(trace.name)} was ${shownValue(trace)}`))} all the time.`;
  if (recorded.length === from.length) return `${named}, which moved, but not so that it changes: trigger on its change.`;
  const missing = from.filter((name) => traces.every((trace) => trace.name !== name));
  return `${named}. Record ${list(missing.map(short))} too, or trigger on its change.`;
}

const list = (names: readonly string[]): string => {
  const shown = names.length > MOST_NAMED ? [...names.slice(0, MOST_NAMED - 1), `${names.length - MOST_NAMED + 1} more`] : names;
  return shown.length > 1 ? `${shown.slice(0, -1).join(', ')} and ${shown.at(-1)}` : (shown[0] ?? '');
};
