import type { PortRule } from '../../constraints/index.ts';
import type { Delays } from '../../families/index.ts';
import { isInnerPort } from '../../netlist/index.ts';
import { type Literal, nodeOf, TRUE } from '../gates/index.ts';
import type { Mapped } from '../map.ts';
import type { Arrivals, Settled } from './arrivals.ts';
import type { TimingPath } from './path.ts';
import type { Endpoint } from './ends.ts';
import type { ClockNames } from './names.ts';

/**
 * The slowest way of a port to or from the registers of one clock, or through the part. Times in nanoseconds, against
 * the clock's edge at its own pin.
 */
export interface PortTiming {
  readonly port: string;
  readonly direction: 'in' | 'out' | 'through';
  /** Null for a way through the part without a register. */
  readonly clock: string | null;
  /** Into the part: how long before the edge it has to be there. Out of it: how long after the edge it is there. */
  readonly inside: number;
  /** What the board takes, where the timing table says so. */
  readonly board: number | null;
  /** Time to spare of a cycle; null where the board or the clock is not known. */
  readonly slack: number | null;
  /** Line of the timing table that says what the board takes. */
  readonly line: number | null;
  readonly path: TimingPath;
}

interface Timed {
  readonly arrivals: Arrivals;
  /** Where signals end that a clock takes. */
  readonly ends: readonly Endpoint[];
  readonly clocks: ClockNames;
}

/** A way of a port as long as it is only compared. */
interface Found {
  readonly inside: number;
  readonly path: (slack: number | null) => TimingPath;
}

/** Ways in and out through the pins of the design, inputs first, each in the order of the ports. */
export function portTimings(
  mapped: Mapped,
  delays: Delays,
  timed: Timed,
  wanted: ReadonlyMap<string, number>,
  rules: readonly PortRule[],
): PortTiming[] {
  const { inputs } = mapped.design;
  const outputs = mapped.design.outputs.filter((port) => !isInnerPort(port));
  const into = inputs
    .filter((port) => !isInnerPort(port))
    .flatMap(({ name, bits }) => {
      const settled = timed.arrivals.from([{ nodes: bits.map(nodeOf), own: delays.padIn }]);
      return [
        ...inwards(delays, timed, settled).map((one) => ({ ...one, port: name, direction: 'in' as const })),
        ...through(outputs, delays, timed.arrivals, settled).map((one) => ({
          ...one,
          port: name,
          direction: 'through' as const,
        })),
      ];
    });
  const out = outputs.flatMap(({ name, bits }) =>
    outwards(name, bits, delays, timed.arrivals).map((one) => ({ ...one, port: name, direction: 'out' as const })),
  );
  return [...into, ...out].map(({ port, direction, clock, inside, path }) => {
    const kind = direction === 'in' ? 'input delay' : 'output delay';
    const rule = rules.findLast((one) => one.kind === kind && portOf(one.port, port) && one.clock === clock);
    const board = rule?.delay ?? null;
    const hertz = clock === null ? undefined : wanted.get(clock);
    const slack = board === null || hertz === undefined ? null : 1e9 / hertz - board - inside;
    return { port, direction, clock, inside, board, slack, line: rule?.line ?? null, path: path(slack) };
  });
}

/** A rule names a port without its bits; an enable is its port's. */
const portOf = (named: string, port: string): boolean => named === port || `${named} (enable)` === port;

type Clocked = Found & { readonly clock: string | null };

/** The longest of the ways to each clock. */
function longest(ways: readonly Clocked[]): Clocked[] {
  const best = new Map<string | null, Clocked>();
  for (const way of ways) {
    const known = best.get(way.clock);
    if (!known || way.inside > known.inside) best.set(way.clock, way);
  }
  return [...best.values()];
}

function inwards(delays: Delays, { arrivals, ends, clocks }: Timed, settled: Settled): Clocked[] {
  return longest(
    ends.flatMap((end) => {
      const until = arrivals.until(end.literal, settled);
      if (until === null) return [];
      const inside = until + end.setup - delays.clockIn;
      const path = (slack: number | null) => arrivals.path(end, settled, { slack, clockIn: -delays.clockIn });
      return [{ clock: clocks.of(end.clock), inside, path }];
    }),
  );
}

function outwards(name: string, bits: readonly Literal[], delays: Delays, arrivals: Arrivals): Clocked[] {
  return longest(
    arrivals.launches.flatMap(({ clock, settled }) =>
      endsOf(name, bits, delays).flatMap((end) => {
        const until = arrivals.until(end.literal, settled);
        if (until === null) return [];
        const path = (slack: number | null) => arrivals.path(end, settled, { slack, clockIn: delays.clockIn });
        return [{ clock, inside: delays.clockIn + until + end.setup, path }];
      }),
    ),
  );
}

/** From one pin to another, no register between. */
function through(
  outputs: readonly { readonly name: string; readonly bits: readonly Literal[] }[],
  delays: Delays,
  arrivals: Arrivals,
  settled: Settled,
): Clocked[] {
  return longest(
    outputs.flatMap(({ name, bits }) =>
      endsOf(name, bits, delays).flatMap((end) => {
        const until = arrivals.until(end.literal, settled);
        const path = () => arrivals.path(end, settled, { slack: null });
        return until === null ? [] : [{ clock: null, inside: until + end.setup, path }];
      }),
    ),
  );
}

const endsOf = (name: string, bits: readonly Literal[], { padOut }: Delays) =>
  bits.flatMap((literal, i) =>
    literal > TRUE ? [{ name: bits.length > 1 ? `${name}[${i}]` : name, literal, setup: padOut, isPin: true }] : [],
  );
