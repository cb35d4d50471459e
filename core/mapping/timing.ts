import { entry } from '../lists.ts';
import { LINK, nameOf, type NodeId } from '../netlist/index.ts';

import type { Delays } from '../families/index.ts';
import type { Mapped } from './map.ts';
import { type Literal, nodeOf, TRUE } from './gates/index.ts';
import { Arrivals, type TimingPath } from './arrivals.ts';

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
}

const MOST_PATHS = 20;
const BINS = 14;

interface Endpoint {
  readonly name: string;
  readonly clock: NodeId;
  readonly edge: 'posedge' | 'negedge';
  readonly literal: Literal;
  readonly setup: number;
}

/**
 * Static timing of a mapped design: for each clock the longest way between its registers. An estimate: tables are
 * counted, wires are not laid. `wanted` gives hertz by clock name.
 */
export function time(mapped: Mapped, delays: Delays, wanted: ReadonlyMap<string, number>): TimingReport {
  const names = new ClockNames(mapped);
  const arrivals = new Arrivals(mapped, delays, (clock) => names.of(clock));
  const byClock = new Map<string, { path: () => TimingPath; delay: number; slack: number | null }[]>();
  const crossings = new Map<
    string,
    { from: string; to: string; count: number; longest: { delay: number; path: () => TimingPath } }
  >();
  for (const endpoint of endpointsOf(mapped, delays, arrivals)) {
    const to = names.of(endpoint.clock);
    const period = wanted.has(to) ? 1e9 / entry(wanted, to) : null;
    for (const launch of arrivals.launches) {
      const at = arrivals.at(nodeOf(endpoint.literal), launch);
      if (at === null) continue;
      const delay = at + arrivals.route(nodeOf(endpoint.literal)) + endpoint.setup;
      if (launch.clock !== to) {
        const key = `${launch.clock} ${to}`;
        const path = () => arrivals.path(endpoint, launch, delay, null);
        const known = crossings.get(key);
        if (!known) crossings.set(key, { from: launch.clock, to, count: 1, longest: { delay, path } });
        else {
          known.count++;
          if (delay > known.longest.delay) known.longest = { delay, path };
        }
        continue;
      }
      // From one edge to the other there is half a period only.
      const share = launch.edge === endpoint.edge ? 1 : 0.5;
      const slack = period === null ? null : period * share - delay;
      const list = byClock.get(to) ?? [];
      list.push({ delay: delay / share, slack, path: () => arrivals.path(endpoint, launch, delay, slack) });
      byClock.set(to, list);
    }
  }
  const clocks = names.all().map((clock) => clockTiming(clock, wanted.get(clock) ?? null, byClock.get(clock) ?? []));
  return {
    clocks,
    crossings: [...crossings.values()].map(({ from, to, count, longest }) => ({
      from,
      to,
      count,
      longest: longest.path(),
    })),
  };
}

function clockTiming(
  clock: string,
  wanted: number | null,
  ends: { path: () => TimingPath; delay: number; slack: number | null }[],
): ClockTiming {
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

/** Where signals end: what flip-flops and memories take at their clock edge. */
function endpointsOf({ design }: Mapped, delays: Delays, arrivals: Arrivals): Endpoint[] {
  const ends: Endpoint[] = [];
  const put = (name: string, clock: NodeId, edge: Endpoint['edge'], setup: number, literals: readonly Literal[]) => {
    for (const [i, literal] of literals.entries())
      if (literal > TRUE)
        ends.push({ name: literals.length > 1 ? `${name}[${i}]` : name, clock, edge, literal, setup });
  };
  for (const ff of design.flipFlops) {
    const { clock, edge, node } = ff.register;
    const name = arrivals.nameOfWord(node);
    put(name, clock, edge, delays.setup, ff.data);
    put(`${name} (enable)`, clock, edge, delays.setup, ff.enable === null ? [] : [ff.enable]);
    put(`${name} (reset)`, clock, edge, delays.setup, ff.syncReset === null ? [] : [ff.syncReset]);
  }
  for (const port of design.memoryPorts) {
    if (port.kind !== 'write' || port.clock === null) continue;
    const name = design.source.memories[port.memory]?.name ?? 'memory';
    put(`${name} (address)`, port.clock, 'posedge', delays.memorySetup, port.address);
    put(`${name} (data)`, port.clock, 'posedge', delays.memorySetup, port.data);
    put(`${name} (write)`, port.clock, 'posedge', delays.memorySetup, [port.enable]);
  }
  return ends;
}

/** Names of clocks: a port's own, else that of the signal that carries it. */
class ClockNames {
  readonly #names = new Map<NodeId, string>();

  constructor({ design: { source } }: Mapped) {
    for (const { clock } of [...source.registers, ...source.memories.flatMap((memory) => memory.writes)]) {
      if (this.#names.has(clock)) continue;
      const node = source.nodes[clock];
      const signal = source.signals.find((s) => s.node === clock);
      this.#names.set(
        clock,
        nameOf(node) === LINK.tck
          ? 'TCK (debug link)'
          : ((node?.op === 'input' ? node.name : undefined) ?? signal?.name ?? `logic ${clock}`),
      );
    }
  }

  of(clock: NodeId): string {
    return this.#names.get(clock) ?? '?';
  }

  all(): string[] {
    return [...new Set(this.#names.values())].sort();
  }
}
