import type { Delays } from '../../families/index.ts';
import { NO_TIMING_RULES, type TimingRules } from '../../constraints/index.ts';
import type { Mapped } from '../map.ts';
import { ClockFamilies, type MadeClock } from '../../clocking/index.ts';
import { Arrivals } from './arrivals.ts';
import type { TimingPath } from './path.ts';
import { endpointsOf } from './ends.ts';
import { ClockNames, WordNames } from './names.ts';
import { type PortTiming, portTimings } from './ports.ts';
import { Rules, type RuleUse } from './rules.ts';

/** The way of one signal from a register to the next. Times in nanoseconds. */
export interface ClockTiming {
  readonly clock: string;
  /** Hertz asked for; null where nothing is. */
  readonly wanted: number | null;
  /** Highest frequency in hertz; null where no register feeds another. */
  readonly highest: number | null;
  readonly worstSlack: number | null;
  readonly endpoints: number;
  readonly failing: number;
  /** Endpoints by slack, or by delay where there is no constraint; bounds in nanoseconds. */
  readonly histogram: readonly { readonly from: number; readonly to: number; readonly count: number }[];
  /** The worst ones, worst first. */
  readonly paths: readonly TimingPath[];
  /** The clock that a generator makes it of, and how many of its cycles fit into how many of that. */
  readonly made?: { readonly source: string; readonly times: number; readonly over: number };
}

/** Ways from one clock's registers to another's: no frequency follows from them. */
interface Crossing {
  readonly from: string;
  readonly to: string;
  readonly count: number;
  readonly longest: TimingPath;
}

export interface TimingReport {
  readonly clocks: readonly ClockTiming[];
  readonly crossings: readonly Crossing[];
  /** What the timing table's rules about ways were found to mean; missing in builds of an older release. */
  readonly rules?: readonly RuleUse[];
  /** Ways in and out through pins; missing in builds of an older release. */
  readonly ports?: readonly PortTiming[];
}

const MOST_PATHS = 20;
const BINS = 14;

/** A way that counts: its delay as if it had one whole cycle, and how to describe it. */
interface Way {
  readonly path: () => TimingPath;
  readonly delay: number;
  readonly slack: number | null;
}

/**
 * Static timing of a mapped design: for each clock the longest way between its registers. An estimate: tables are
 * counted, wires are not laid. `wanted` gives hertz by clock name; `rules` what the timing table says; `made` the
 * clocks that come of other ones: what goes from one to another of them has the time between their nearest edges.
 */
export function time(
  mapped: Mapped,
  delays: Delays,
  wanted: ReadonlyMap<string, number>,
  rules: TimingRules = NO_TIMING_RULES,
  made: readonly MadeClock[] = [],
): TimingReport {
  const families = new ClockFamilies(made);
  const { source } = mapped.design;
  const clocks = new ClockNames(source);
  const words = new WordNames(source);
  const ways = new Rules(rules.ways);
  const arrivals = new Arrivals(mapped, delays, { words, clocks }, ways);
  const byClock = new Map<string, Way[]>();
  const crossings = new Crossings();
  const ends = endpointsOf(mapped, delays, words);
  for (const endpoint of ends) {
    const to = clocks.of(endpoint.clock);
    const period = periodOf(to, wanted);
    const ended = ways.to([...endpoint.names, to]);
    for (const { clock, edge, rules: begun, settled } of arrivals.launches) {
      const until = arrivals.until(endpoint.literal, settled);
      if (until === null) continue;
      const delay = until + endpoint.setup;
      const rule = ways.take(begun, ended, delay);
      if (rule?.kind === 'false path') continue;
      // From one edge to the other there is half a cycle less.
      const least = families.cyclesBetween(clock, edge, to, endpoint.edge);
      if (least === null) {
        crossings.add(clock, to, delay, () => arrivals.path(endpoint, settled, { slack: null }));
        continue;
      }
      const cycles = rule?.cycles ?? 1;
      const periods = cycles - 1 + least;
      const slack = period === null ? null : period * periods - delay;
      const list = byClock.get(to) ?? [];
      const crosses = clock === to ? {} : { between: { from: clock, time: period === null ? null : period * periods } };
      const path = () => ({ ...arrivals.path(endpoint, settled, { slack, cycles }), ...crosses });
      list.push({ delay: delay / periods, slack, path });
      byClock.set(to, list);
    }
  }
  return {
    clocks: clocks.all().map((clock) => {
      const own = made.find(({ name }) => name === clock);
      return {
        ...clockTiming(clock, wanted.get(clock) ?? null, byClock.get(clock) ?? []),
        ...(own ? { made: { source: own.source, ...own.ratio } } : {}),
      };
    }),
    crossings: crossings.all(),
    rules: ways.uses(),
    ports: portTimings(mapped, delays, { arrivals, ends, clocks }, wanted, rules.ports),
  };
}

/** Nanoseconds of a clock's cycle; null where it is not known. */
function periodOf(clock: string, wanted: ReadonlyMap<string, number>): number | null {
  const hertz = wanted.get(clock);
  return hertz === undefined ? null : 1e9 / hertz;
}

/** Ways between clocks, the longest of each pair. */
class Crossings {
  readonly #pairs = new Map<string, Omit<Crossing, 'longest'> & { delay: number; path: () => TimingPath }>();

  add(from: string, to: string, delay: number, path: () => TimingPath): void {
    const key = `${from} ${to}`;
    const known = this.#pairs.get(key);
    const isLonger = !known || delay > known.delay;
    this.#pairs.set(key, {
      ...{ from, to, count: (known?.count ?? 0) + 1 },
      ...(isLonger ? { delay, path } : { delay: known.delay, path: known.path }),
    });
  }

  all(): Crossing[] {
    return [...this.#pairs.values()].map(({ from, to, count, path }) => ({ from, to, count, longest: path() }));
  }
}

function clockTiming(clock: string, wanted: number | null, ends: readonly Way[]): ClockTiming {
  const sorted = [...ends].sort((a, b) => b.delay - a.delay);
  const [worst] = sorted;
  const slacks = ends.map((end) => end.slack).filter((slack) => slack !== null);
  const measured = wanted === null ? ends.map((end) => end.delay) : slacks;
  return {
    clock,
    wanted,
    highest: worst ? 1e9 / worst.delay : null,
    worstSlack: slacks.length > 0 ? slacks.reduce((a, b) => Math.min(a, b)) : null,
    endpoints: ends.length,
    failing: slacks.filter((slack) => slack < 0).length,
    histogram: histogram(measured),
    paths: sorted.slice(0, MOST_PATHS).map((end) => end.path()),
  };
}

function histogram(values: readonly number[]): ClockTiming['histogram'] {
  if (values.length === 0) return [];
  const low = values.reduce((a, b) => Math.min(a, b));
  const high = values.reduce((a, b) => Math.max(a, b));
  const width = Math.max(0.01, (high - low) / BINS);
  const bins = Array.from({ length: BINS }, (_, i) => ({ from: low + i * width, to: low + (i + 1) * width, count: 0 }));
  for (const value of values) {
    const bin = bins[Math.min(BINS - 1, Math.floor((value - low) / width))];
    if (bin) bin.count++;
  }
  return bins;
}
