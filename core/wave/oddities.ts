import { own } from '../lists.ts';
import type { Driver } from '../checks/index.ts';
import type { Capture } from './capture.ts';
import type { Recording } from './recording.ts';
import { digitsOf, numberOf, type Trace } from './trace.ts';
import { radixFor, writeValue } from './radix.ts';

/** What is known of a signal from elsewhere, that may explain why it does not move. */
export interface Hint {
  /** A lever that holds it now. */
  readonly lever?: { readonly name: string; readonly value: string | null; readonly overrides: boolean };
  /** What gives it its value, as the build found it. */
  readonly driver?: Driver;
  /** The clock it belongs to, by the name of its port; empty or absent where that is not known. */
  readonly domain?: string;
  /** The register or pin it is another name of. */
  readonly net?: string;
}

/** By the name of the signal; those that were not recorded may explain those that were. */
type Hints = Readonly<Record<string, Hint>>;

/** What a build says of its signals, and what levers stood at. */
export function withLevers(hints: Hints, { levers, held = [] }: Pick<Capture, 'levers' | 'held'>): Hints {
  const known = levers ?? held.map((signal) => ({ signal, value: null, overrides: true }));
  return {
    ...hints,
    ...Object.fromEntries(
      known.map(({ signal, value, overrides }) => [
        signal,
        { ...own(hints, signal), lever: { name: short(signal.slice(signal.lastIndexOf('.'))), value, overrides } },
      ]),
    ),
  };
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
    const hint = own(hints, trace.name) ?? {};
    return trace.at.length === 0 || /^[xz]+$/.test(digitsOf(trace, 0))
      ? [unknown(trace)]
      : [constant(recording, trace, hint, hints)];
  });
}

function unknown(trace: Trace): Oddity {
  const floats = trace.at.length > 0 && digitsOf(trace, 0).startsWith('z');
  return {
    signal: trace.name,
    kind: 'unknown',
    message: floats ? 'nothing drives it in the whole record' : 'never known in the whole record',
    cause: floats
      ? 'Its driver is switched off, or there is none.'
      : 'It is never reset and never written, or what it is computed from is unknown; look at that first.',
  };
}

function constant(recording: Recording, trace: Trace, hint: Hint, hints: Hints): Oddity {
  return {
    signal: trace.name,
    kind: 'constant',
    message: `${shownValue(trace)} in the whole record`,
    cause: causeOf(recording, trace, hint, hints),
  };
}

const isConstant = (trace: Trace): boolean => trace.at.length <= 1;
const shownValue = (trace: Trace): string => writeValue(trace, 0, radixFor(trace));
const short = (name: string): string => name.slice(name.indexOf('.') + 1);

function causeOf(recording: Recording, trace: Trace, { lever, driver, domain }: Hint, hints: Hints): string {
  if (lever) return `The lever ${lever.name} holds it; ${advice(lever)}.`;
  const holders = holdersOf(recording, trace, driver, hints);
  const [byLever, enables, resets] = [
    holders.filter(({ lever }) => lever),
    holders.filter(({ lever, keeps }) => !lever && keeps),
    holders.filter(({ lever, keeps }) => !lever && !keeps),
  ];
  if (byLever.length > 0) return said(byLever);
  if (enables.length > 0) return said(enables);
  const stopped = domain ? stoppedClock(recording, trace, domain, hints) : null;
  if (stopped) return stopped;
  if (resets.length > 0) return said(resets);
  switch (driver?.kind) {
    case 'nothing':
      return 'Nothing in the design drives it; a lever can, under Probe.';
    case 'constant':
      return `The build found it to be ${driver.value} for ever: nothing that could change it is left.`;
    case 'pin':
      return `It comes from the pins of ${driver.port}, where nothing moved in this time.`;
    case 'cell':
      return `${driver.port} gives it, a port of a cell of the part, which did not move in this time.`;
    case 'register':
    case 'logic':
    case 'memory':
      return decided(recording, driver.from, driver.holds !== undefined, hints);
    default:
      return recording.sampled
        ? 'What enables it did not happen in this time: record that signal too, trigger on its change, or store ' +
            'only its changes.'
        : 'What enables it did not happen in this time.';
  }
}

const advice = ({ overrides }: NonNullable<Hint['lever']>): string =>
  overrides ? 'release it, or set it, under Drive' : 'set it under Drive';

/** What by itself held a signal all the time. */
interface Holder {
  readonly name: string;
  readonly value: string;
  /** It kept what was there, as an enable does; otherwise it gave the value, as a reset does. */
  readonly keeps: boolean;
  readonly lever: Hint['lever'] | null;
}

/** Signals whose value in this record, or under a lever, is one that holds the other by itself. */
function holdersOf({ traces }: Recording, trace: Trace, driver: Driver | undefined, hints: Hints): Holder[] {
  if (driver?.kind !== 'register' && driver?.kind !== 'logic' && driver?.kind !== 'memory') return [];
  const value = String(numberOf(trace, 0));
  return (driver.holds ?? []).flatMap((hold): Holder[] => {
    if (hold.at !== null && hold.at !== value) return [];
    const named = Object.entries(hints).filter(([name, hint]) => name === hold.name || hint.net === hold.name);
    const lever = named.find(([, hint]) => hint.lever)?.[1].lever ?? null;
    const recorded = traces.filter((one) => one.name === hold.name || own(hints, one.name)?.net === hold.name);
    const still = recorded.find(isConstant);
    // What was recorded counts before what a lever is said to stand at.
    const now = recorded.length > 0 ? (still ? String(numberOf(still, 0)) : null) : (lever?.value ?? null);
    return now === hold.value ? [{ name: still?.name ?? hold.name, value: now, keeps: hold.at === null, lever }] : [];
  });
}

/** In words; several of one kind together. */
function said(holders: readonly Holder[]): string {
  const [first] = holders as [Holder];
  const same = holders.filter(({ keeps, lever }) => keeps === first.keeps && Boolean(lever) === Boolean(first.lever));
  const what = list(same.map(({ name, value }) => `${short(name)} was ${value}`));
  const holds = first.keeps ? 'which keeps it as it is' : 'which holds it at this value';
  const { lever } = first;
  return (
    `${what.charAt(0)}${what.slice(1)} all the time, ` +
    `${holds}${lever ? `: the lever ${lever.name} stands there; ${advice(lever)}` : ''}.`
  );
}

/** All recorded signals of another clock than the recorder's stand still together. */
function stoppedClock({ traces }: Recording, trace: Trace, domain: string, hints: Hints): string | null {
  if (trace.domain === domain || trace.domain.endsWith(`.${domain}`)) return null;
  const same = traces.filter(({ name }) => own(hints, name)?.domain === domain);
  return same.length > 0 && same.every(isConstant)
    ? `It belongs to the clock ${domain}, of which nothing moved in this record: that clock may stand still, or ` +
        'the time was too short.'
    : null;
}

const MOST_NAMED = 4;

/**
 * What decides it, and which of that was seen standing still. `tried`: each was asked whether it holds it by itself,
 * and none did.
 */
function decided({ traces }: Recording, from: readonly string[], tried: boolean, hints: Hints): string {
  if (from.length === 0) return 'It changes by itself; this time was too short to see that.';
  const named = `It is decided by ${list(from.map(short))}`;
  const tracesOf = (name: string) =>
    traces.filter((trace) => trace.name === name || own(hints, trace.name)?.net === name);
  const recorded = from.filter((name) => tracesOf(name).length > 0);
  const still = from.flatMap((name) => tracesOf(name).slice(0, 1)).filter(isConstant);
  if (still.length > 0 && !tried)
    return (
      `${named}, of which ${list(still.map((trace) => `${short(trace.name)} was ${shownValue(trace)}`))} all the ` +
      'time.'
    );
  const missing = from.filter((name) => tracesOf(name).length === 0);
  if (missing.length > 0) return `${named}. Record ${list(missing.map(short))} too, or trigger on its change.`;
  if (still.length === recorded.length) return `${named}, none of which moved in this time.`;
  return `${named}, which moved, but not so that it changes: trigger on its change.`;
}

const list = (names: readonly string[]): string => {
  const shown =
    names.length > MOST_NAMED ? [...names.slice(0, MOST_NAMED - 1), `${names.length - MOST_NAMED + 1} more`] : names;
  return shown.length > 1 ? `${shown.slice(0, -1).join(', ')} and ${shown.at(-1)}` : (shown[0] ?? '');
};
